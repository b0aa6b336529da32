"""``make bench``: how fast, as ratios within one run, against the floors that the work cannot go below.

Prints one line a figure with what it should reach, and exits 1 when one is missed.
Nothing here is a test of correctness; the tests are.
"""

from __future__ import annotations

import os
import statistics
import sys
import tempfile
import time
from collections.abc import Callable
from fractions import Fraction
from pathlib import Path

import av
import cv2
import numpy as np

from izmet.core.edit import Clip, Edit, Media, Pin, Steady, Take
from izmet.media.pack import write_pack
from izmet.media.pictures import decode_all
from izmet.media.render import TakeFile, render
from izmet.media.writer import FORMATS

ROOT = Path(__file__).parent.parent
sys.path.insert(0, str(ROOT))
SECONDS, RATE, SIZE = 10, Fraction(60), (1280, 720)
RUNS = 3


def main() -> int:
    from bench.browser import browser_figures
    from bench.listening import listening_figures
    from bench.rail import rail_figures

    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        take = write_game_take(folder / "take.mp4")
        print(f"take: {SECONDS} s of 720p60, {take.stat().st_size * 8 / SECONDS / 1e6:.1f} Mbit/s")
        verdicts = [pack_against_decoding(take, folder), export_against_bare(take, folder)]
    verdicts += listening_figures()
    verdicts += rail_figures()
    verdicts += browser_figures()
    return 0 if all(verdicts) else 1


def told(what: str, value: float, bound: float, unit: str = "", at_least: bool = True) -> bool:
    """Print a figure beside its bound. Returns whether it is met."""
    met = value >= bound if at_least else value <= bound
    sign = "≥" if at_least else "≤"
    print(f"{'ok  ' if met else 'MISS'} {what:<58} {value:8.3f}{unit}  ({sign} {bound:g}{unit})", flush=True)
    return met


def write_game_take(path: Path) -> Path:
    """A take as a game gives it: a textured world that pans and shakes, fine noise, text that stays."""
    rng = np.random.default_rng(0)
    world = cv2.GaussianBlur(rng.integers(0, 255, (900, 2700), np.uint8), (0, 0), 2.2)
    world = cv2.normalize(world, None, 20, 230, cv2.NORM_MINMAX)
    grain = [rng.normal(0, 4, (SIZE[1], SIZE[0])).astype(np.float32) for _ in range(5)]
    with av.open(str(path), "w") as container:
        stream = container.add_stream("libx264", rate=RATE, options={"preset": "medium", "crf": "23"})
        stream.width, stream.height, stream.pix_fmt = *SIZE, "yuv420p"
        for number in range(SECONDS * int(RATE)):
            y, x = 80 + round(60 * np.sin(number / 21)), 2 * number
            view = world[y : y + SIZE[1], x : x + SIZE[0]] + grain[number % 5]
            picture = np.clip(view, 0, 255).astype(np.uint8)
            cv2.putText(picture, f"{number:04}", (40, 80), cv2.FONT_HERSHEY_SIMPLEX, 2, 255, 4)
            frame = av.VideoFrame.from_ndarray(picture, format="gray").reformat(format="yuv420p")
            frame.pts, frame.time_base = number, 1 / RATE
            container.mux(stream.encode(frame))
        container.mux(stream.encode(None))
    return path


def pack_against_decoding(take: Path, folder: Path) -> bool:
    """Speed of making a frame pack, as a part of the speed of decoding alone."""
    bare = median(lambda: sum(1 for _ in decode_all(take, "take")))
    pack = median(
        lambda: write_pack(take, "take", SIZE, folder / "pack", folder / "index", lambda done: None)
    )
    return told("frame pack ÷ bare decoding, 10 s of 720p60", bare / pack, 0.6)


def export_against_bare(take: Path, folder: Path) -> bool:
    """Speed of an export with nearest frames, as a part of decoding and encoding the same frames alone."""
    table = write_pack(take, "take", SIZE, folder / "pack", folder / "index", lambda done: None)
    media = Media(name="take", path="take.mp4")
    whole = Take(
        id="take", media=media, rate=RATE, frames=len(table), distinct=RATE, width=SIZE[0], height=SIZE[1]
    )
    pins = (Pin(id="a", n=0, p=0), Pin(id="b", n=len(table) - 1, p=len(table) - 1))
    clip = Clip(id="clip", take="take", pins=pins, spans=(Steady(),))
    edit = Edit(rate=RATE, width=SIZE[0], height=SIZE[1], takes=(whole,), clips=(clip,))
    file = {"take": TakeFile(take, table)}
    bare, ours = [], []
    for _ in range(RUNS):  # alternating, so that a busy moment of the machine meets both
        bare.append(timed(lambda: bare_transcode(take, folder / "bare.mp4")))
        ours.append(timed(lambda: render(edit, file, None, folder / "ours.mp4", "mp4")))
    return told("export ÷ bare decode and encode, 720p60", min(bare) / min(ours), 0.9)


def bare_transcode(take: Path, out: Path) -> None:
    """The least that an export can do: each frame decoded and encoded with the same settings."""
    chosen = FORMATS["mp4"]
    with av.open(str(out), "w", options=chosen.container_options) as target:
        stream = target.add_stream(chosen.video, rate=RATE, options=chosen.video_options)
        stream.width, stream.height, stream.pix_fmt = *SIZE, "yuv420p"
        stream.codec_context.thread_type = "AUTO"
        for number, frame in enumerate(decode_all(take, "take")):
            frame.pts, frame.time_base, frame.pict_type = number, 1 / RATE, 0
            target.mux(stream.encode(frame))
        target.mux(stream.encode(None))


def timed(work: Callable[[], object]) -> float:
    """Seconds that some work takes."""
    start = time.perf_counter()
    work()
    return time.perf_counter() - start


def median(work: Callable[[], object]) -> float:
    """Median seconds over a few runs."""
    return statistics.median(timed(work) for _ in range(RUNS))


if __name__ == "__main__":
    os.chdir(ROOT)
    sys.exit(main())
