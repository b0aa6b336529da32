"""Measures a finished file: is each moment first seen, and the music heard, where the edit asked?

The file is decoded with code that knows nothing of how it was made. A picture is
recognised by comparing it, scaled down, with the take's pictures around the moment;
the sound's place by the lag at which it best matches the song. What flashes is told of all of its pictures.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from pathlib import Path

import av
import numpy as np
from av.video.reformatter import Colorspace
from numpy.typing import NDArray
from pydantic import BaseModel
from scipy.signal import correlate

from izmet.core.document.edit import Edit
from izmet.core.document.rates import residual_ms, seconds_at
from izmet.core.retime.profile import Floats
from izmet.core.retime.solve import solve
from izmet.core.shown.flashing import Flashing, flashing_in
from izmet.core.shown.framemap import FrameMap
from izmet.core.shown.landing import Landing
from izmet.core.shown.light import luminance
from izmet.media.drawing import finished, frame_of, in_frame, place, planes_of, stacked
from izmet.media.pictures import decode_all, decode_wanted, planes
from izmet.media.sampling import TakeFile
from izmet.media.songfile import read_song
from izmet.media.writer import resampled
from izmet.picture.composing import Planes, colours
from izmet.sound.mixer import Mixer
from izmet.sound.source import Source

AROUND = 2
"""Output frames to each side of a landing that are looked at."""
Picture = NDArray[np.float32]
SMALL = (160, 90)
ALIKE = 0.25
"""Mean square, in levels, by which two pictures may differ that nobody tells apart: half a level all over."""
CELLS = (16, 9)
"""How many across and down a picture is looked at for flashes."""
LISTEN_SECONDS, LAG_SECONDS = 0.4, 0.06
SILENT = 1e-4


class Measured(BaseModel):
    """What one landing came to in the file. ``None`` where it could not be told."""

    clip: str
    pin: str
    measured_frame: int | None
    residual_ms: float | None
    sound_offset_ms: float | None


class Reading(BaseModel):
    """What was measured in a file: its landings, and the output frames on which it flashes so often that it
    may harm."""

    landings: list[Measured]
    flashing: list[Flashing]


class Whole(BaseModel):
    """How many pictures a file holds, and for how many seconds it sounds; None where it has no sound."""

    frames: int
    sound_seconds: float | None


def whole(exported: Path) -> Whole:
    """What a finished file holds in all, told from its packets."""
    frames, sound = 0, None
    with av.open(str(exported)) as container:
        for packet in container.demux():
            if not packet.size or packet.pts is None or packet.time_base is None:
                continue
            if packet.stream.type == "video":
                frames += 1
            else:
                sound = max(sound or 0.0, float((packet.pts + (packet.duration or 0)) * packet.time_base))
    return Whole(frames=frames, sound_seconds=sound)


def measure(
    edit: Edit,
    shown: FrameMap,
    landings: Sequence[Landing],
    takes: Mapping[str, TakeFile],
    mix: Mixer | None,
    exported: Path,
) -> Reading:
    """Measure every landing in an exported file, and how it flashes.

    Args:
        shown: the edit's frame map; the file's frame 0 is its first.
    """
    pictures, light = _exported_pictures(exported, shown.first, landings)
    heard = read_song(exported, exported.name, exported.parent) if mix is not None else None
    return Reading(
        landings=[_measure(edit, shown, landing, takes, pictures, mix, heard) for landing in landings],
        flashing=flashing_in(light, shown.first, float(edit.rate)),
    )


def _measure(
    edit: Edit,
    shown: FrameMap,
    landing: Landing,
    takes: Mapping[str, TakeFile],
    pictures: Mapping[int, Picture],
    mix: Mixer | None,
    heard: Source | None,
) -> Measured:
    frame = _first_seen(edit, shown, landing, takes, pictures)
    offset = None
    if mix is not None and heard is not None:
        offset = sound_offset(mix, heard, seconds_at(shown.first, edit.rate), landing.cue_time)
    return Measured(
        clip=landing.clip,
        pin=landing.pin,
        measured_frame=frame,
        residual_ms=None if frame is None else residual_ms(frame, landing.cue_time, edit.rate),
        sound_offset_ms=None if offset is None else offset * 1000,
    )


def _exported_pictures(
    exported: Path, first: int, landings: Sequence[Landing]
) -> tuple[dict[int, Picture], Floats]:
    """The file's pictures near the landings, by output frame; and the light of all, shape (count, cells)."""
    near = {landing.wanted_frame + d for landing in landings for d in range(-AROUND, AROUND + 1)}
    pictures, light = {}, []
    for n, frame in enumerate(decode_all(exported, exported.name), start=first):
        light.append(_light(frame))
        if n in near:
            pictures[n] = _small(frame)
    return pictures, np.array(light).reshape(len(light), CELLS[0] * CELLS[1])


def _light(frame: av.VideoFrame) -> Floats:
    """The relative luminance of each of the cells of a picture."""
    wide, high = CELLS
    dots = Planes(*planes(frame, (2 * wide, 2 * high), "yuv420p", Colorspace.ITU709, full_range=False))
    light = luminance(colours(dots).astype(np.float64)).reshape(high, 2, wide, 2)
    cells: Floats = light.mean(axis=(1, 3)).ravel()
    return cells


def _first_seen(
    edit: Edit,
    shown: FrameMap,
    landing: Landing,
    takes: Mapping[str, TakeFile],
    pictures: Mapping[int, Picture],
) -> int | None:
    """The first output frame near the landing that looks like the moment's picture or one beyond it."""
    clip = edit.clip(landing.clip)
    file, index = takes[clip.take], shown.index_of[clip.id]
    moment = landing.source_frame
    around = range(landing.wanted_frame - AROUND, landing.wanted_frame + AROUND + 1)
    guarded = next(pin.guarded for pin in clip.pins if pin.id == landing.pin)
    seen, picture = shown.seen_of(index, around, farthest=guarded)
    near = np.flatnonzero(seen)
    if len(near) == 0:
        return None
    source = np.append(picture[near], moment)
    candidates = np.arange(max(0, source.min() - AROUND), min(len(file.table), source.max() + AROUND + 1))
    wanted = np.unique(file.table.picture[candidates])
    decoded = decode_wanted(file.path, file.name, file.table, wanted.tolist())
    framing = shown.framings.get(index)
    placed = {int(at): place(edit, clip, frame, framing) for at, frame in zip(wanted, decoded, strict=True)}
    plain = {at: _small(frame) for at, frame in placed.items()}
    curve = solve(edit, clip)
    way = int(curve.way[landing.wanted_frame - curve.first])
    for n in (around.start + int(at) for at in near):
        stack = shown.between(range(n, n + 1))
        mixed = index in shown.mixes
        stands_alone = not (stack.layers or stack.looks or stack.placings or stack.titles or mixed or framing)
        row = None if framing is None else framing.values[n - framing.first]
        there = {at: in_frame(edit, clip, frame, row) for at, frame in placed.items()}
        smalls = plain if stands_alone else _stacked(edit, stack, takes, index, there)
        looks = [smalls[int(file.table.picture[p])] for p in candidates]
        errors = np.array([_error(pictures[n], look) for look in looks])
        best = looks[int(np.argmin(errors))]
        # Of frames that nobody tells apart it is the one that is meant to be seen there: what a codec made of
        # the file may be nearer to either.
        alike = candidates[[_error(look, best) <= ALIKE for look in looks]]
        meant = picture[n - around.start]
        as_meant = mixed and _error(pictures[n], _meant(edit, stack, takes)) <= min(errors)
        found = np.array([meant]) if as_meant or meant in alike else alike
        if ((found - moment) * way >= 0).any():
            return n
    return None


def _stacked(
    edit: Edit, stack: FrameMap, takes: Mapping[str, TakeFile], clip: int, placed: Mapping[int, av.VideoFrame]
) -> dict[int, Picture]:
    """What an output frame would look like with each of some pictures in place of a clip's own there.

    The same stack lies around them: neither a flash nor a clip that is seen beside it makes a difference.
    """
    own = [int(stack.clip[0]), *(layer.clip for layer in stack.layers)].index(clip)
    others = [planes_of(frame) for frame in next(stacked(edit, takes, stack))]
    return {
        at: _small(
            frame_of(finished(stack, stack.first, [*others[:own], planes_of(picture), *others[own + 1 :]]))
        )
        for at, picture in placed.items()
    }


def _meant(edit: Edit, stack: FrameMap, takes: Mapping[str, TakeFile]) -> Picture:
    """What an output frame should look like."""
    pictures = [planes_of(frame) for frame in next(stacked(edit, takes, stack))]
    return _small(frame_of(finished(stack, stack.first, pictures)))


def _error(found: Picture, reference: Picture) -> float:
    return float(np.square(found - reference).mean())


def _small(frame: av.VideoFrame) -> Picture:
    return planes(frame, SMALL, "yuv420p", Colorspace.ITU709, full_range=False)[0].astype(np.float32)


def sound_offset(mix: Mixer, heard: Source, start: float, at: float) -> float | None:
    """How much later than in the mix the sound around an instant is heard in the file, in seconds.

    Args:
        start: the instant of the edit that is the file's beginning, in seconds.
        at: the instant of the edit to listen around, in seconds.

    Returns:
        The lag of the greatest cross-correlation, None where the mix is silent.
    """
    rate = heard.rate
    begin = max(start, at - LISTEN_SECONDS / 2)
    reference = mix.block(round(begin * mix.rate), round(LISTEN_SECONDS * mix.rate)).mean(axis=1)
    reference = resampled(reference[:, None], mix.rate, rate)[:, 0] if mix.rate != rate else reference
    margin = round(LAG_SECONDS * rate)
    place = round((begin - start) * rate)
    window = heard.stretch(place - margin, len(reference) + 2 * margin).mean(axis=1)
    if len(reference) == 0 or np.abs(reference).max() < SILENT or np.abs(window).max() < SILENT:
        return None
    return (int(np.argmax(correlate(window, reference, mode="valid"))) - margin) / rate
