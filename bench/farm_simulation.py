"""A farm of one to 500 workers with a queue of 10,000 parts, reckoned event by event: what limits it, where?

Part times are as measured on this machine, with stragglers and workers that die. A worker's time for a part
is that of drawing, of putting it into the store, and of what it asks Redis. Redis answers one question after
another; the store takes so many bytes a second from all, and gives as many; the server fetches parts one
after another, and copies them into the film when all are there.

What is not measured here is said in ``ASSUMED``.
"""

from __future__ import annotations

import heapq
from dataclasses import dataclass

import numpy as np

PARTS, WORKERS = 10_000, (1, 2, 5, 10, 20, 50, 100, 200, 350, 500)
STRAGGLERS, SLOWER = 0.03, 6.0
"""So many parts of a hundred take so many times as long."""
DEATHS_AN_HOUR, LEASE_SECONDS, BACK_SECONDS = 0.2, 8.0, 20.0
"""How often a worker dies, after what its part is asked for again, when it is back."""
SPREAD = 0.25
"""Of part times, as the deviation of their logarithm."""
SECONDS_OF_FILM = 4.0
ASSUMED = {"Redis answers a second": 60_000.0, "store, bytes a second": 1.25e9, "bytes a frame": 25_000.0}
"""From memory: one Redis on one core without pipelines, a network of ten gigabits, 1080p in H.264."""
ASKS_A_PART, ASKS_A_SECOND, ASKS_A_LOOK = 12, 3, 13
"""Questions to Redis: for each part (to ask, pop, lease, tell), of each worker every second (to renew, tell),
and of the server at each look, of each worker and its two parts (to want them, to know how they stand)."""
LOOK_SECONDS = 0.2


@dataclass(frozen=True)
class Measured:
    """Seconds that one worker takes for a part of so many frames; frames a second that the server joins."""

    part_seconds: float
    frames: int
    join_frames: float


@dataclass(frozen=True)
class Outcome:
    """Of a run: seconds until all is joined, and how busy each thing was meanwhile that there is once."""

    seconds: float
    busy: dict[str, float]


class _Line:
    """The parts that nobody has begun, and those that were let go, from when on they are asked for again."""

    def __init__(self) -> None:
        self._left = list(range(PARTS))[::-1]
        self._again: list[tuple[float, int]] = []

    def let_go(self, part: int, at: float) -> None:
        heapq.heappush(self._again, (at, part))

    def next(self, now: float) -> tuple[float, int] | None:
        """When a worker that is free now begins with which part; None where there is none."""
        if self._again and (self._again[0][0] <= now or not self._left):
            ready, part = heapq.heappop(self._again)
            return max(now, ready), part
        return (now, self._left.pop()) if self._left else None


def run(measured: Measured, workers: int, seed: int = 1) -> Outcome:
    """Reckon one run: what ends next is the next event."""
    rng = np.random.default_rng(seed)
    frames = round(SECONDS_OF_FILM * 60)
    times = measured.part_seconds * frames / measured.frames * rng.lognormal(-(SPREAD**2) / 2, SPREAD, PARTS)
    times[rng.random(PARTS) < STRAGGLERS] *= SLOWER
    times += ASKS_A_PART / ASSUMED["Redis answers a second"]
    moved = frames * ASSUMED["bytes a frame"] / ASSUMED["store, bytes a second"]
    join = frames / measured.join_frames
    line = _Line()
    ends: list[tuple[float, int, bool]] = []
    idle = 0

    def begin(now: float) -> bool:
        found = line.next(now)
        if found is not None:
            at, part = found
            dies = bool(rng.random() < times[part] * DEATHS_AN_HOUR / 3600)
            drawn = times[part] * (rng.random() if dies else 1.0)
            heapq.heappush(ends, (at + drawn, part, dies))
        return found is not None

    for _ in range(workers):
        begin(0.0)
    store = fetched = 0.0
    while ends:
        now, part, dies = heapq.heappop(ends)
        if dies:
            line.let_go(part, now + LEASE_SECONDS)
            idle -= begin(now) if idle else 0
            now += BACK_SECONDS
        else:
            now = store = max(store, now) + moved
            fetched = max(fetched, store + LOOK_SECONDS / 2) + moved
        idle += not begin(now)
    seconds = fetched + PARTS * join
    asks = PARTS * ASKS_A_PART + fetched * workers * (ASKS_A_SECOND + ASKS_A_LOOK / LOOK_SECONDS)
    return Outcome(
        seconds,
        {
            "Redis": asks / ASSUMED["Redis answers a second"] / fetched,
            "the store": PARTS * moved / fetched,
            "the join": PARTS * join / seconds,
        },
    )


def simulated(measured: Measured) -> list[str]:
    """What comes of it, a line for each number of workers, and what limits it first."""
    lines = [f"simulated: {PARTS} parts of {SECONDS_OF_FILM:g} s; assumed: {ASSUMED}"]
    one = run(measured, 1).seconds
    limit = None
    for count in WORKERS:
        found = run(measured, count)
        gain = one / found.seconds
        worst = max(found.busy, key=lambda name: found.busy[name])
        if limit is None and gain < 0.8 * count:
            limit = f"from {count} workers on {worst} limits it ({found.busy[worst]:.0%} busy)"
        told = ", ".join(f"{name} {part:.0%}" for name, part in found.busy.items())
        lines.append(f"{count:4} workers: {found.seconds / 60:7.1f} min, {gain:5.1f} times as quick; {told}")
    return [*lines, limit or "nothing limits it up to there"]
