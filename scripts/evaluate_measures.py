"""Prints how well takes are looked at: the rows of docs/footage.md.

    python -m scripts.evaluate_measures [SEED …]

For each seed 35 takes are made: a textured world, a moving camera, three flashes, two
cuts, one impact; every size with every coding. A hit counts on its exact frame only.
As many again of plain worlds: even ground, boxes, squares, noise, nearly dark; at rest or
moving, a counter lying over some; flashes of one picture and more, round or in a corner.
And 98 captures of fewer distinct pictures than frames, or of as many, twice: the second time
of games whose pictures come late now and then.
"""

from __future__ import annotations

import sys
import tempfile
from collections import Counter, defaultdict
from collections.abc import Callable
from dataclasses import replace
from fractions import Fraction
from itertools import product
from pathlib import Path

import numpy as np

from izmet.media.looking import TakeMeasures
from tests.picture.clips import WORLDS, Clip, Flash, Strike, draw, encode, see

SIZES = ((320, 240), (480, 270), (640, 360), (360, 640), (1280, 720))
RATES = (24, 30, 50, 60, 120)
CODINGS = {
    "x264 crf 18": ("libx264", ".mp4", {"crf": "18"}),
    "x264 crf 28": ("libx264", ".mp4", {"crf": "28", "preset": "veryfast"}),
    "x264 crf 36": ("libx264", ".mp4", {"crf": "36", "preset": "veryfast"}),
    "x265 crf 28": ("libx265", ".mp4", {"crf": "28", "preset": "ultrafast", "x265-params": "log-level=none"}),
    "VP9": ("libvpx-vp9", ".webm", {"crf": "34", "b": "0", "deadline": "realtime", "cpu-used": "8"}),
    "MJPEG": ("mjpeg", ".avi", {"b": "8000000"}),
    "MPEG-4": ("mpeg4", ".avi", {"b": "3000000"}),
}
CAPTURES = (("60", "30"), ("60", "24"), ("50", "25"), ("30", "24"), ("60", "60"), ("120", "60"), ("30", "30"))
"""Frames a second, and distinct pictures in them."""
LATE = 12, 40
"""From one late picture to the next there are so many frames."""
FRAMES = 240
LIT, STRUCK, CUT = (30, 110, 205), 165, (70, 140)
"""Where things happen, before each is moved by up to APART frames."""
APART = 8
NO_WAY = ("flat", "checks")
"""Worlds whose movement has no one direction."""
NEAR = 3
"""Within so many frames a proposal is not false, though it may not be exact; a flash is an impact too."""


def take(rng: np.random.Generator, size: tuple[int, int]) -> Clip:
    """One take: its pan at least a pixel a frame, its flashes from a quarter by a quarter up."""
    angle, far = rng.uniform(0, 2 * np.pi), rng.uniform(1, 4)
    moved = [int(at + rng.integers(-APART, APART + 1)) for at in (*LIT, STRUCK, *CUT)]
    flashes = [
        Flash(at, rng.uniform(0.25, 1), rng.choice([0.25, 0.5, 1.0]), int(rng.integers(3, 12)))
        for at in moved[:3]
    ]
    return Clip(
        seed=int(rng.integers(1 << 16)),
        size=size,
        rate=Fraction(int(rng.choice(RATES))),
        frames=FRAMES,
        pan=(far * np.cos(angle), far * np.sin(angle)),
        flashes=flashes,
        strikes=[Strike(moved[3])],
        cuts=moved[4:],
        noise=float(rng.uniform(0.5, 4)),
    )


def plain(rng: np.random.Generator, size: tuple[int, int]) -> Clip:
    """One take of a world that is no photograph; even ground has no cuts, which would be changes of light."""
    textured = take(rng, size)
    world = str(rng.choice([each for each in WORLDS if each != "texture"]))
    return replace(
        textured,
        world=world,
        pan=textured.pan if rng.random() < 0.5 else (0.0, 0.0),
        counter=bool(rng.random() < 0.3),
        flashes=[
            replace(lit, lasts=int(rng.choice([1, 2, 4, 10])), round=bool(rng.random() < 0.5))
            for lit in textured.flashes
        ],
        strikes=[],
        cuts=[] if world == "flat" else textured.cuts,
        things=int(rng.integers(3)),
    )


def off_course(clip: Clip, found: TakeMeasures) -> np.ndarray:
    """By how many degrees the movement is off where nothing else happens, a value a frame."""
    happens = [0, *(lit.frame for lit in clip.flashes), *(hit.frame for hit in clip.strikes), *clip.cuts]
    calm = [k for k in range(1, clip.frames) if all(not -3 < k - at < 20 for at in happens)]
    turned = np.arctan2(found.dy[calm], found.dx[calm]) - np.arctan2(clip.pan[1], clip.pan[0])
    return np.abs(np.degrees(np.angle(np.exp(1j * turned))))


class Tally:
    """How many of what is there is told on its exact frame, and what else is told, kind by kind."""

    def __init__(self, name: str) -> None:
        self.name = name
        self.right, self.false, self.count = Counter[str](), Counter[str](), Counter[str]()
        self.seconds = 0.0

    def add(self, found: TakeMeasures, truth: dict[str, set[int]], seconds: float, what: str) -> None:
        """Count one take, and print what was missed in it."""
        for kind, frames in truth.items():
            told = {each.frame for each in found.proposals if each.kind == kind}
            self.right[kind] += len(told & frames)
            self.count[kind] += len(frames)
            happened = frames | (truth["flash"] if kind == "impact" else set())
            self.false[kind] += sum(all(abs(frame - at) > NEAR for at in happened) for frame in told)
            if missed := frames - told:
                print(f"{self.name}: {kind} missed at {missed} of {sorted(told)}: {what}")
        self.seconds += seconds

    def print(self) -> None:
        """Print the rows of all takes."""
        for kind, right in self.right.items():
            print(f"{self.name}: {kind:6} {right:3} of {self.count[kind]}, {self.false[kind]} besides")
        print(f"{self.name}: {self.seconds:.0f} s of takes")


def evaluate(seed: int, folder: Path, made: Callable[[np.random.Generator, tuple[int, int]], Clip]) -> None:
    """Print the rows of one seed and one kind of takes."""
    rng = np.random.default_rng(seed)
    tally = Tally(f"seed {seed}, {made.__name__}")
    angles = defaultdict[str, list[np.ndarray]](list)
    for size, (coding, (codec, suffix, options)) in product(SIZES, CODINGS.items()):
        clip = made(rng, size)
        path = encode(draw(clip), clip.rate, folder / f"take{suffix}", codec, **options)
        found = TakeMeasures.of(see(path), size[0], None)
        truth = {
            "flash": {lit.frame for lit in clip.flashes},
            "cut": set(clip.cuts),
            "impact": {hit.frame for hit in clip.strikes},
        }
        tally.add(found, truth, clip.frames / float(clip.rate), f"{coding}, {clip}")
        if any(clip.pan) and clip.world not in NO_WAY:
            angles[coding].append(off_course(clip, found))
    tally.print()
    for coding, off in (*angles.items(), ("all together", [one for each in angles.values() for one in each])):
        print(f"{tally.name}: direction, {coding}: {np.percentile(np.concatenate(off), 95):.1f}° at the 95th")


def capture(rng: np.random.Generator, size: tuple[int, int], rate: Fraction, distinct: Fraction) -> Clip:
    """A take that holds so many distinct pictures a second, half of them with a cut."""
    angle, far = rng.uniform(0, 2 * np.pi), rng.uniform(0.4, 4)
    return Clip(
        seed=int(rng.integers(1 << 16)),
        size=size,
        rate=rate,
        frames=FRAMES * 3 // 4,
        pan=(far * np.cos(angle), far * np.sin(angle)),
        part=distinct / rate,
        noise=float(rng.uniform(0.3, 4)),
        cuts=[int(rng.integers(60, 120))] if rng.random() < 0.5 else [],
    )


def late(rng: np.random.Generator, size: tuple[int, int], rate: Fraction, distinct: Fraction) -> Clip:
    """The same of a game whose pictures come late, now and then."""
    clip = capture(rng, size, rate, distinct)
    return replace(clip, late=np.cumsum(rng.integers(*LATE, clip.frames // LATE[0])).tolist())


def evaluate_rates(
    seed: int, folder: Path, made: Callable[[np.random.Generator, tuple[int, int], Fraction, Fraction], Clip]
) -> None:
    """Print how many captures of one seed and one kind are told their distinct rate."""
    rng = np.random.default_rng(seed)
    name = f"seed {seed}, {made.__name__}"
    wrong, count = Counter[str](), 0
    for (rate, distinct), (coding, (codec, suffix, options)) in product(CAPTURES, CODINGS.items()):
        for size in (SIZES[0], SIZES[2]):
            clip = made(rng, size, Fraction(rate), Fraction(distinct))
            path = encode(draw(clip), clip.rate, folder / f"capture{suffix}", codec, **options)
            count += 1
            if (told := see(path).table.distinct) != Fraction(distinct):
                wrong[coding] += 1
                print(f"{name}: {distinct} in {rate} told as {told}: {coding}, {clip}")
    print(f"{name}: distinct rate, {count - wrong.total()} of {count} right; wrong: {dict(wrong)}")


if __name__ == "__main__":
    with tempfile.TemporaryDirectory() as name:
        for given in sys.argv[1:] or ["2026"]:
            for made in (take, plain):
                evaluate(int(given), Path(name), made)
            for captured in (capture, late):
                evaluate_rates(int(given), Path(name), captured)
