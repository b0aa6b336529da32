"""Prints how well cuts and flashes are told in footage of the world: any folder of clips.

    python -m scripts.evaluate_footage FOLDER [SEED …]

For each seed 35 takes are made, every size with every coding: stretches of the clips, joined
by hard cuts, with three flashes laid over them. A hit counts on its exact frame only. Leave
out clips that hold cuts or flashes of their own: both would count as false.
"""

from __future__ import annotations

import sys
import tempfile
from fractions import Fraction
from itertools import product
from pathlib import Path

import av
import cv2
import numpy as np

from izmet.media.looking import TakeMeasures
from scripts.evaluate_measures import CODINGS, SIZES, Tally
from tests.picture.clips import Flash, encode, lighten, see

RATE = Fraction(30)
FRAMES, STRETCH = 240, (30, 90)
"""Frames of a take at least, and of each stretch of a clip."""
FLASHES, APART = 3, 14
"""How many flashes a take has, at least so many frames from its cuts and from each other."""


def stretch(clip: Path, size: tuple[int, int], rng: np.random.Generator) -> list[np.ndarray]:
    """Some frames of a clip in a row, luma as uint8; none of a clip that is too short."""
    with av.open(str(clip)) as container:
        frames = [
            cv2.resize(frame.to_ndarray(format="gray"), size, interpolation=cv2.INTER_AREA)
            for frame in container.decode(video=0)
        ]
    if len(frames) < STRETCH[0]:
        return []
    count = int(rng.integers(STRETCH[0], min(STRETCH[1], len(frames)) + 1))
    begin = int(rng.integers(0, len(frames) - count + 1))
    return frames[begin : begin + count]


def flash(at: int, rng: np.random.Generator) -> Flash:
    """A flash over a quarter of the pictures or more, from a quarter of full white up."""
    side = np.sqrt(rng.uniform(0.25, 1))
    top, left = rng.uniform(0, 1 - side, 2)
    level, lasts = float(rng.choice([0.25, 0.5, 1.0])), int(rng.integers(3, 12))
    return Flash(at, level, side**2, lasts, top=top, left=left)


def take(
    clips: list[Path], size: tuple[int, int], rng: np.random.Generator
) -> tuple[list[np.ndarray], dict[str, set[int]]]:
    """The frames of one take, and its truth: the frames of its cuts and flashes."""
    frames: list[np.ndarray] = []
    cuts, last = set[int](), None
    while len(frames) < FRAMES:
        clip = clips[int(rng.integers(len(clips)))]
        if clip != last and (more := stretch(clip, size, rng)):
            cuts |= {len(frames)} - {0}
            frames += more
            last = clip
    flashes: list[Flash] = []
    for at in rng.permutation(np.arange(APART, len(frames) - APART)).tolist():
        near = (abs(at - other) <= APART for other in (*cuts, *(lit.frame for lit in flashes)))
        if len(flashes) < FLASHES and not any(near):
            flashes.append(flash(at, rng))
    lit = [frame.astype(np.float32) for frame in frames]
    for k, frame in enumerate(lit):
        lighten(frame, k, flashes)
    shown = [np.clip(frame, 0, 255).astype(np.uint8) for frame in lit]
    return shown, {"cut": cuts, "flash": {each.frame for each in flashes}}


def evaluate(folder: Path, seed: int, made: Path) -> None:
    """Print the rows of one seed."""
    rng = np.random.default_rng(seed)
    clips, tally = sorted(folder.iterdir()), Tally(f"seed {seed}")
    for size, (coding, (codec, suffix, options)) in product(SIZES, CODINGS.items()):
        frames, truth = take(clips, size, rng)
        path = encode(frames, RATE, made / f"take{suffix}", codec, **options)
        found = TakeMeasures.of(see(path), size[0], None)
        tally.add(found, truth, len(frames) / float(RATE), f"{coding}, {size}")
    tally.print()


if __name__ == "__main__":
    with tempfile.TemporaryDirectory() as name:
        for given in sys.argv[2:] or ["2026"]:
            evaluate(Path(sys.argv[1]), int(given), Path(name))
