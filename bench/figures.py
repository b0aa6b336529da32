"""How figures are taken and told: each beside its bound, medians of several rounds."""

from __future__ import annotations

import statistics
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path

import numpy as np

RUNS = 3
STOLEN = 7
"""Place of stolen time in /proc/stat: what a shared machine gave to others."""


def told(what: str, value: float, bound: float, unit: str = "", at_least: bool = True) -> bool:
    """Print a figure beside its bound. Returns whether it is met."""
    met = value >= bound if at_least else value <= bound
    sign = "≥" if at_least else "≤"
    print(f"{'ok  ' if met else 'MISS'} {what:<58} {value:8.3f}{unit}  ({sign} {bound:g}{unit})", flush=True)
    return met


@contextmanager
def stolen_told(what: str) -> Iterator[None]:
    """Print what part of the processors' time the machine gave to others meanwhile."""
    before = _processor_time()
    yield
    taken = _processor_time() - before
    print(
        f"     {what}: the machine gave {taken[STOLEN] / taken.sum():.0%} of its time to others", flush=True
    )


def _processor_time() -> np.ndarray:
    """What the kernel counts of all processors' time, by kind."""
    return np.array(Path("/proc/stat").read_text().splitlines()[0].split()[1:9], dtype=float)


def timed(work: Callable[[], object]) -> float:
    """Seconds that some work takes."""
    start = time.perf_counter()
    work()
    return time.perf_counter() - start


def median(work: Callable[[], object], runs: int = RUNS) -> float:
    """Median seconds over a few runs."""
    return statistics.median(timed(work) for _ in range(runs))


def ratio(floor: Callable[[], object], ours: Callable[[], object]) -> float:
    """Median of the ratios of two works, done in turn so that a busy moment of the machine meets both."""
    return statistics.median(timed(floor) / timed(ours) for _ in range(RUNS))
