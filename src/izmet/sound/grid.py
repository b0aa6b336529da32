"""When exactly does each beat of a train fall?

A train knows its beats to a hundredth of a second. Here each beat hears the attack
beside it. Where one constant tempo explains the attacks of the whole song, the beats
are that grid; where the tempo drifts, each beat follows a curve through its
neighbours' attacks, and takes a strong attack of its own that agrees.

Source: iteratively reweighted least squares with Cauchy weights (P. Huber, Robust
Statistics, 1981); local quadratic regression (W. Cleveland, JASA 74, 1979).
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from izmet.sound.attack import refine
from izmet.sound.onsets import FRAME_RATE, Floats

Doubles = NDArray[np.float64]

REACH_FRAMES = 5
"""How far from a beat its attack is looked for."""
STEADY_SECONDS = 0.012
"""Phase that one constant grid may be off in any window before the tempo counts as drifting."""
WINDOW_SECONDS = 16.0
NEIGHBOURS = 6
"""Beats to either side that shape the curve at a drifting beat."""
AGREES_SECONDS = 0.012
HEARD, STRONG = 0.3, 0.5
"""From where an attack has a say about the tempo, and from where a beat is its own attack."""
SCALE_SECONDS = 0.004
ROUNDS = 12


def place(train: Doubles, active: Doubles, native: Floats, rate: int) -> tuple[Doubles, bool]:
    """Instants in seconds of the beats of a train, and whether they are one constant grid.

    Args:
        train: frames, shape (beats,).
        active: likeness to an onset, frame by frame.
        native: mono samples at the song's own ``rate``.
    """
    attacks, weights = _attacks(train, active, native, rate)
    index = np.arange(len(train), dtype=np.float64)
    line = _fit(index, attacks, weights)
    grid: Doubles = np.polyval(line, index).astype(np.float64)
    if _holds(grid, attacks, weights):
        return np.maximum(grid, 0.0), True
    return np.maximum(_follow(index, attacks, weights), 0.0), False


def _attacks(train: Doubles, active: Doubles, native: Floats, rate: int) -> tuple[Doubles, Doubles]:
    """The attack beside each beat in seconds, and how much it is to be trusted, 0..1."""
    reach = np.arange(-REACH_FRAMES, REACH_FRAMES + 1)
    near = np.clip(np.round(train).astype(int)[:, None] + reach, 0, len(active) - 1)
    heard = active[near] * np.exp(-0.5 * (reach / REACH_FRAMES) ** 2)
    best = heard.argmax(axis=1)
    frames = np.clip(np.round(train) + reach[best], 0, len(active) - 1)
    times = np.array([refine(native, rate, frame / FRAME_RATE) for frame in frames])
    return times, np.maximum(heard[np.arange(len(train)), best] ** 2, 1e-4)


def _fit(index: Doubles, attacks: Doubles, weights: Doubles) -> Doubles:
    """A line through most of the attacks."""
    trust = weights
    line = np.polyfit(index, attacks, 1, w=np.sqrt(trust))
    scale = 4 * SCALE_SECONDS
    for _ in range(ROUNDS):
        off = attacks - np.polyval(line, index)
        trust = weights / (1 + (off / scale) ** 2)
        line = np.polyfit(index, attacks, 1, w=np.sqrt(trust))
        scale = max(SCALE_SECONDS / 2, scale * 0.8)
    result: Doubles = line
    return result


def _holds(grid: Doubles, attacks: Doubles, weights: Doubles) -> bool:
    """Whether the attacks stay on the grid in every window of the song."""
    for begin in np.arange(grid[0], grid[-1], WINDOW_SECONDS / 2):
        here = (grid >= begin) & (grid < begin + WINDOW_SECONDS) & (weights > HEARD**2)
        if here.sum() >= 4 and abs(np.median(attacks[here] - grid[here])) > STEADY_SECONDS:
            return False
    return True


def _follow(index: Doubles, attacks: Doubles, weights: Doubles) -> Doubles:
    """Each beat on the curve through its neighbours' attacks, or on its own attack where that agrees."""
    size = min(2 * NEIGHBOURS + 1, len(index))
    begin = np.clip(np.arange(len(index)) - NEIGHBOURS, 0, len(index) - size)
    near = begin[:, None] + np.arange(size)
    away = index[near] - index[:, None]
    close = weights[near] * np.exp(-0.5 * (away / (NEIGHBOURS / 2)) ** 2)
    expected = _curves(away, attacks[near], close)
    agrees = (weights >= STRONG**2) & (np.abs(attacks - expected) <= AGREES_SECONDS)
    placed: Doubles = np.maximum.accumulate(np.where(agrees, attacks, expected))
    return placed


def _curves(away: Doubles, attacks: Doubles, weights: Doubles) -> Doubles:
    """Where a parabola through most of the attacks of each row of (rows, neighbours) crosses 0: (rows,)."""
    powers = np.stack([np.ones_like(away), away, away**2], axis=2)
    ridge = 1e-9 * np.eye(3)
    scale, trust = 4 * SCALE_SECONDS, weights
    for _ in range(ROUNDS):
        weighed = powers * trust[:, :, None]
        left = np.einsum("rni,rnj->rij", weighed, powers) + ridge
        right = np.einsum("rni,rn->ri", weighed, attacks)
        curve = np.linalg.solve(left, right[:, :, None])[:, :, 0]
        off = attacks - np.einsum("rni,ri->rn", powers, curve)
        trust = weights / (1 + (off / scale) ** 2)
        scale = max(SCALE_SECONDS / 2, scale * 0.8)
    crossing: Doubles = curve[:, 0]
    return crossing
