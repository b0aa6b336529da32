"""Reading and exporting, beside decoding and encoding the same pictures and nothing else."""

from __future__ import annotations

import tempfile
from fractions import Fraction
from functools import partial
from pathlib import Path
from typing import cast

import av
import cv2
import numpy as np
import soxr

from bench.figures import median, ratio, told
from izmet.core.document.accents import Accent, Drain, Flash, OnFrame, Shake
from izmet.core.document.edit import Clip, Dip, Edit, Motion, Steady, Take
from izmet.core.document.framing import Framing, FramingKey
from izmet.core.document.limits import LONGEST_EFFECT
from izmet.core.document.places import Pin
from izmet.core.document.values import Media
from izmet.core.shown.mix import SONG, Plain, Voice, voices
from izmet.core.shown.stack import frames_shown
from izmet.media.formats import FORMATS, Format, options_of
from izmet.media.looking import TakeMeasures
from izmet.media.pack import Looked, look_at, write_pack
from izmet.media.pictures import decode_all
from izmet.media.render import render
from izmet.media.sampling import TakeFile
from izmet.media.threads import take_turns
from izmet.sound.mixer import Mixer
from izmet.sound.source import Source

SECONDS, RATE, SIZE, LARGER = 10, Fraction(60), (1280, 720), (1920, 1080)
USUAL, USUAL_LARGER = 6_000_000, 12_000_000
"""Bits a second of captures at these sizes: common practice, no source."""
SMALLER = (960, 540)
SOUND_RATE = 48_000
AS_IT_IS = Motion()


def media_figures() -> list[bool]:
    """Whether each bound is met."""
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        take = write_game_take(folder / "take.mp4", SIZE, USUAL)
        larger = write_game_take(folder / "larger.mp4", LARGER, USUAL_LARGER)
        light = write_game_take(folder / "light.mp4", SIZE, None)
        return [
            *reading_against_decoding(take, SIZE, folder),
            *reading_against_decoding(larger, LARGER, folder),
            *reading_against_decoding(light, SIZE, folder),
            *exports_against_bare(take, folder),
            *codecs_against_bare(take, folder),
            sound_along_a_curve(),
        ]


def write_game_take(path: Path, size: tuple[int, int], bits: int | None) -> Path:
    """A take as a game gives it: a textured world that pans and shakes, fine noise, text that stays.

    Args:
        bits: a second, as a recorder is set to; None for as few as the picture needs.
    """
    rng = np.random.default_rng(0)
    wide, high = size
    world = cv2.GaussianBlur(rng.integers(0, 255, (high + 180, wide + 1420, 3), np.uint8), (0, 0), 2.2)
    world = cv2.normalize(world, None, 20, 230, cv2.NORM_MINMAX)
    grain = [rng.normal(0, 4, (high, wide, 1)).astype(np.float32) for _ in range(5)]
    recorded = {"preset": "medium", "crf": "23"} if bits is None else {"preset": "veryfast", "b": str(bits)}
    with av.open(str(path), "w") as container:
        stream = container.add_stream("libx264", rate=RATE, options=recorded)
        stream.width, stream.height, stream.pix_fmt = wide, high, "yuv420p"
        for number in range(SECONDS * int(RATE)):
            y, x = 80 + round(60 * np.sin(number / 21)), 2 * number
            view = world[y : y + high, x : x + wide] + grain[number % 5]
            picture = np.clip(view, 0, 255).astype(np.uint8)
            cv2.putText(picture, f"{number:04}", (40, 80), cv2.FONT_HERSHEY_SIMPLEX, 2, (255, 255, 255), 4)
            frame = av.VideoFrame.from_ndarray(picture, format="bgr24").reformat(format="yuv420p")
            frame.pts, frame.time_base = number, 1 / RATE
            container.mux(stream.encode(frame))
        container.mux(stream.encode(None))
    return path


def reading_against_decoding(take: Path, size: tuple[int, int], folder: Path) -> list[bool]:
    """What looking at a take costs beside its length, and making its frame pack beside decoding."""

    def decode() -> int:
        return sum(1 for _ in decode_all(take, "take"))

    def look() -> TakeMeasures:
        return TakeMeasures.of(look_at(take, "take", size, lambda done: None), size[0], None)

    def pack() -> Looked:
        return write_pack(take, "take", size, folder / "pack", folder / "index", lambda done: None)

    bits = f"{take.stat().st_size * 8 / SECONDS / 1e6:.0f} Mbit/s"
    what = f"{size[1]}p60 at {bits}"
    figures = [told(f"frame pack ÷ bare decoding, {what}", ratio(decode, pack), 0.6)]
    if size == LARGER:
        figures += [
            told(f"looking at a take ÷ its length, {what}", median(look) / SECONDS, 0.2, at_least=False)
        ]
    return figures


def exports_against_bare(take: Path, folder: Path) -> list[bool]:
    """Speed of an export with nearest frames, as a part of decoding and encoding the same frames alone."""
    table = write_pack(take, "take", SIZE, folder / "pack", folder / "index", lambda done: None).table
    file = {"take": TakeFile(take, "take", table)}
    noise = (0.1 * np.random.default_rng(1).standard_normal((SOUND_RATE * SECONDS, 2))).astype(np.float32)
    voice = Voice(SONG, Plain(0), 0, SECONDS, 1)
    mix = Mixer.of([voice], {SONG: Source.of(noise, SOUND_RATE)})

    def share(
        size: tuple[int, int],
        heard: Mixer | None,
        speed: float = 1,
        motion: Motion = AS_IT_IS,
        accents: tuple[Accent, ...] = (),
        framing: Framing | None = None,
    ) -> float:
        edit = whole_take(len(table), size, speed, motion).model_copy(update={"accents": accents})
        edit = edit.model_copy(update={"clips": (edit.clips[0].model_copy(update={"framing": framing}),)})
        samples = noise if heard is not None else None
        shown = frames_shown(edit).picture
        return ratio(
            lambda: bare_transcode(take, folder / "bare.mp4", FORMATS["mp4"], size, shown, samples),
            lambda: render(edit, file, heard, folder / "ours.mp4", "mp4"),
        )

    everywhere = OnFrame(n=0)
    felt = tuple(
        Accent(id=what.kind, at=everywhere, what=what, hold=LONGEST_EFFECT)
        for what in (Flash(light=20), Shake(), Drain())
    )
    turning = tuple(
        FramingKey(id=f"key-{turn}", at=Pin(id="at", n=n), turn=turn)
        for n, turn in ((0, 0), (len(table), 20))
    )
    blended, blurred, flowing = Motion(between="blended"), Motion(shutter=360), Motion(between="draft")
    return [
        told("export ÷ bare decode and encode, 720p60", share(SIZE, None), 0.9),
        told("export, resized to 540p and with sound ÷ bare", share(SMALLER, mix), 0.85),
        told("export, three accents on all frames ÷ bare", share(SIZE, None, accents=felt), 0.6),
        told("export, turned and grown ÷ bare", share(SIZE, None, framing=Framing(keys=turning)), 0.6),
        told("export, all frames blended ÷ bare", share(SIZE, None, 0.97, blended), 0.85),
        told("export, all frames of a draft flow ÷ bare", share(SIZE, None, 0.97, flowing), 0.6),
        told("export, eight pictures in each frame ÷ bare", share(SIZE, None, 8, blurred), 0.8),
    ]


def codecs_against_bare(take: Path, folder: Path) -> list[bool]:
    """Speed of an export through each codec, as a part of coding the same frames alone with that codec."""
    table = write_pack(take, "take", SIZE, folder / "pack", folder / "index", lambda done: None).table
    file = {"take": TakeFile(take, "take", table)}
    edit = whole_take(len(table), SIZE)
    shown = frames_shown(edit).picture
    return [
        told(
            f"export, {chosen.video.codec} ÷ bare decode and encode",
            ratio(
                partial(bare_transcode, take, folder / f"bare.{chosen.ending}", chosen, SIZE, shown, None),
                partial(render, edit, file, None, folder / f"ours.{chosen.ending}", name),
            ),
            0.9,
        )
        for name, chosen in FORMATS.items()
        if chosen.video is not None and name != "mp4"
    ]


def sound_along_a_curve() -> bool:
    """Speed of a take's own sound heard as its clip bends, as a part of resampling it at one speed."""
    noise = (0.1 * np.random.default_rng(1).standard_normal((SOUND_RATE * SECONDS, 2))).astype(np.float32)
    edit = whole_take(SECONDS * int(RATE), SIZE)
    bent = edit.clips[0].model_copy(update={"spans": (Dip(strength=0.8),), "level": 1.0})
    found = voices(edit.model_copy(update={"clips": (bent,)}))
    mix = Mixer.of(found, {"take": Source.of(noise, SOUND_RATE)})
    part = ratio(
        lambda: soxr.resample(noise, 44_100, SOUND_RATE, quality="VHQ"), lambda: mix.block(0, len(noise))
    )
    return told("own sound along a curve ÷ soxr at one speed", part, 0.05)


def whole_take(frames: int, size: tuple[int, int], speed: float = 1, motion: Motion = AS_IT_IS) -> Edit:
    """An edit that shows a whole take, at one speed."""
    media = Media(name="take", path="take.mp4")
    take = Take(
        id="take", media=media, rate=RATE, frames=frames, distinct=RATE, width=SIZE[0], height=SIZE[1]
    )
    pins = (Pin(id="a", n=0, p=0), Pin(id="b", n=round((frames - 1) / speed), p=frames - 1))
    clip = Clip(id="clip", take="take", pins=pins, spans=(Steady(),), motion=motion)
    return Edit(rate=RATE, width=size[0], height=size[1], takes=(take,), clips=(clip,))


def bare_transcode(
    take: Path,
    out: Path,
    chosen: Format,
    size: tuple[int, int],
    shown: np.ndarray,
    samples: np.ndarray | None,
) -> None:
    """The least that an export can do: each frame decoded, scaled and encoded with the same settings.

    Args:
        shown: the take's frame that each frame of the file shows, rising.
    """
    times = np.bincount(shown)
    assert chosen.video is not None
    pixels = chosen.video.pixels
    with av.open(str(out), "w", options=chosen.container_options) as target:
        coded = options_of(chosen.video, "good")
        stream = cast(av.VideoStream, target.add_stream(chosen.video.codec, rate=RATE, options=coded))
        stream.width, stream.height, stream.pix_fmt = *size, pixels
        stream.codec_context.thread_type = "AUTO"
        stream.codec_context.open()
        take_turns()
        sound = None
        if samples is not None:
            sound = target.add_stream(chosen.sound, rate=SOUND_RATE, layout="stereo", format="fltp")
        number = 0
        for frame, count in zip(decode_all(take, "take"), times, strict=False):
            if count and (size != SIZE or frame.format.name != pixels):
                frame = frame.reformat(*size, format=pixels)
            for _ in range(count):
                frame.pts, frame.time_base, frame.pict_type = number, 1 / RATE, 0
                target.mux(stream.encode(frame))
                number += 1
        target.mux(stream.encode(None))
        if sound is not None and samples is not None:
            for begin in range(0, len(samples), 1024):
                block = np.ascontiguousarray(samples[begin : begin + 1024].T)
                heard = av.AudioFrame.from_ndarray(block, format="fltp", layout="stereo")
                heard.sample_rate, heard.pts = SOUND_RATE, begin
                target.mux(sound.encode(heard))
            target.mux(sound.encode(None))
