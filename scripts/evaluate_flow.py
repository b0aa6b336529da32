"""Prints how well every other picture of real clips is rebuilt from those beside it: any clips.

    python -m scripts.evaluate_flow CLIP …

Luma PSNR in dB, the mean over a clip's pictures, and milliseconds a picture on one core. Peers
are libavfilter's ``minterpolate`` (mci, aobmc, bidir) and ``framerate``, which are handed every
other picture and give what lies between.
"""

from __future__ import annotations

import sys
import time
from collections.abc import Callable, Iterator
from fractions import Fraction
from itertools import islice
from pathlib import Path

import av
import av.filter
import cv2
import numpy as np
from numpy.typing import NDArray

from izmet.core.document.edit import Flowing
from izmet.picture.composing import Planes
from izmet.picture.flow import between, flow_of

MOST = 120
"""Pictures of a clip that are looked at."""
PEERS = {
    "minterpolate": ("minterpolate", "fps=50:mi_mode=mci:mc_mode=aobmc:me_mode=bidir"),
    "framerate": ("framerate", "fps=50:interp_start=0:interp_end=255:scene=100"),
}
Luma = NDArray[np.uint8]
Rebuilt = Iterator[tuple[int, Luma]]
"""The numbers of pictures, and what was made in their place."""


def ours(quality: Flowing) -> Callable[[list[Luma]], Rebuilt]:
    """Flow, as a draft or fine."""

    def rebuilt(frames: list[Luma]) -> Rebuilt:
        half = np.zeros((frames[0].shape[0] // 2, frames[0].shape[1] // 2), np.uint8)
        for k in range(1, len(frames) - 1, 2):
            first, second = (Planes(frames[at], half, half) for at in (k - 1, k + 1))
            yield k, between(first, second, flow_of(first.y, second.y, quality), 0.5).y

    return rebuilt


def nearest(frames: list[Luma]) -> Rebuilt:
    """The picture before."""
    for k in range(1, len(frames) - 1, 2):
        yield k, frames[k - 1]


def blend(frames: list[Luma]) -> Rebuilt:
    """Half of each."""
    for k in range(1, len(frames) - 1, 2):
        yield k, np.asarray(cv2.addWeighted(frames[k - 1], 0.5, frames[k + 1], 0.5, 0), np.uint8)


def peer(name: str) -> Callable[[list[Luma]], Rebuilt]:
    """A filter of libavfilter that doubles the rate."""

    def rebuilt(frames: list[Luma]) -> Rebuilt:
        high, wide = frames[0].shape
        graph = av.filter.Graph()
        source = graph.add_buffer(width=wide, height=high, format="yuv420p", time_base=Fraction(1, 25))
        kind, options = PEERS[name]
        made, sink = graph.add(kind, options), graph.add("buffersink")
        source.link_to(made)
        made.link_to(sink)
        graph.configure()
        for at, luma in enumerate(frames[::2]):
            grey = np.full((high // 2, wide), 128, np.uint8)
            frame = av.VideoFrame.from_ndarray(np.concatenate([luma, grey]), format="yuv420p")
            frame.pts, frame.time_base = at, Fraction(1, 25)
            graph.push(frame)
            yield from _pulled(graph)

    return rebuilt


def luma_of(frame: av.VideoFrame) -> Luma:
    """The light of a picture, as it is coded."""
    return np.ascontiguousarray(frame.to_ndarray(format="yuv420p")[: frame.height], np.uint8)


def _pulled(graph: av.filter.Graph) -> Rebuilt:
    while True:
        try:
            frame = graph.pull()
        except (BlockingIOError, EOFError):
            return
        assert isinstance(frame, av.VideoFrame)
        if frame.time is not None and round(frame.time * 50) % 2 == 1:
            yield round(frame.time * 50), luma_of(frame)


WAYS: dict[str, Callable[[list[Luma]], Rebuilt]] = {
    "nearest": nearest, "blend": blend, "draft": ours("draft"), "fine": ours("fine"),
    **{name: peer(name) for name in PEERS},
}  # fmt: skip


def main() -> None:
    cv2.setNumThreads(1)
    means: dict[str, list[float]] = {name: [] for name in WAYS}
    for path in map(Path, sys.argv[1:]):
        with av.open(str(path)) as container:
            frames = [luma_of(frame) for frame in islice(container.decode(video=0), MOST)]
        told = []
        for name, rebuild in WAYS.items():
            began = time.perf_counter()
            made = [(k, picture) for k, picture in rebuild(frames) if 0 < k < len(frames) - 1]
            taken = (time.perf_counter() - began) / max(1, len(made))
            found = [min(60.0, cv2.PSNR(frames[k], picture)) for k, picture in made]
            means[name].append(float(np.mean(found)))
            told.append(f"{name} {means[name][-1]:.2f} ({1000 * taken:.0f} ms)")
        print(f"{path.name} {frames[0].shape[1]}x{frames[0].shape[0]}: {', '.join(told)}", flush=True)
    print("mean: " + ", ".join(f"{name} {np.mean(found):.2f}" for name, found in means.items()))


if __name__ == "__main__":
    main()
