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
from izmet.sound.onsets import FRAME_RATE
from izmet.sound.track import Signal

Doubles = NDArray[np.float64]

REACH_FRAMES = 5
"""How far from a beat its attack is looked for."""
STEADY_SECONDS = 0.012
"""Phase that one constant grid may be off in any window before the tempo counts as drifting."""
WINDOW_SECONDS = 16.0
MOST = 0.5
"""The part of attacks that lie on a constant grid, at least."""
NEIGHBOURS = 6
"""Beats to either side that shape the curve at a drifting beat."""
AGREES_SECONDS = 0.012
HEARD, STRONG = 0.3, 0.5
"""From where an attack has a say about the tempo, and from where a beat is its own attack."""
SCALE_SECONDS = 0.004
ROUNDS = 12


def place(train: Doubles, active: Doubles, native: Signal, rate: int) -> tuple[Doubles, bool]:
    """Instants in seconds of the beats of a train, and whether they are one constant grid.

    Args:
        train: frames, shape (beats,).
        active: likeness to an onset, frame by frame.
        native: mono samples at the song's own ``rate``.
    """
    attacks, weights = _attacks(train, active, native, rate)
    index = np.arange(len(train), dtype=np.float64)
    middle = index.mean()
    ((at_middle, beat),) = _curves(index[None] - middle, attacks[None], weights[None], degree=1)
    grid = at_middle + beat * (index - middle)
    if _holds(grid, attacks, weights):
        return np.maximum(grid, 0.0), True
    return np.maximum(_follow(index, attacks, weights), 0.0), False


def _attacks(train: Doubles, active: Doubles, native: Signal, rate: int) -> tuple[Doubles, Doubles]:
    """The attack beside each beat in seconds, and how much it is to be trusted, 0..1."""
    reach = np.arange(-REACH_FRAMES, REACH_FRAMES + 1)
    near = np.clip(np.round(train).astype(int)[:, None] + reach, 0, len(active) - 1)
    heard = active[near] * np.exp(-0.5 * (reach / REACH_FRAMES) ** 2)
    best = heard.argmax(axis=1)
    frames = np.clip(np.round(train) + reach[best], 0, len(active) - 1)
    times = np.array([refine(native, rate, frame / FRAME_RATE) for frame in frames])
    return times, np.maximum(heard[np.arange(len(train)), best] ** 2, 1e-4)


def _holds(grid: Doubles, attacks: Doubles, weights: Doubles) -> bool:
    """Whether most attacks lie on the grid, and stay there in every window of the song.

    A tempo that sways is off and on in one window, so that its median says nothing.
    """
    off, heard = attacks - grid, weights > HEARD**2
    if heard.any() and np.mean(np.abs(off[heard]) <= STEADY_SECONDS) < MOST:
        return False
    for begin in np.arange(grid[0], grid[-1], WINDOW_SECONDS / 2):
        here = (grid >= begin) & (grid < begin + WINDOW_SECONDS) & heard
        if here.sum() >= 4 and abs(np.median(off[here])) > STEADY_SECONDS:
            return False
    return True


def _follow(index: Doubles, attacks: Doubles, weights: Doubles) -> Doubles:
    """Each beat on the curve through its neighbours' attacks, or on its own attack where that agrees."""
    size = min(2 * NEIGHBOURS + 1, len(index))
    begin = np.clip(np.arange(len(index)) - NEIGHBOURS, 0, len(index) - size)
    near = begin[:, None] + np.arange(size)
    away = index[near] - index[:, None]
    close = weights[near] * np.exp(-0.5 * (away / (NEIGHBOURS / 2)) ** 2)
    expected = _curves(away, attacks[near], close, degree=2)[:, 0]
    agrees = (weights >= STRONG**2) & (np.abs(attacks - expected) <= AGREES_SECONDS)
    placed: Doubles = np.maximum.accumulate(np.where(agrees, attacks, expected))
    return placed


def _curves(x: Doubles, y: Doubles, weights: Doubles, degree: int) -> Doubles:
    """For each row of (rows, points), the polynomial through most of the points.

    Returns:
        Coefficients from the constant up, shape (rows, degree + 1).
    """
    powers = x[:, :, None] ** np.arange(degree + 1)
    ridge = 1e-9 * np.eye(degree + 1)
    middle = y.mean(axis=1, keepdims=True)  # the ridge would draw what is far from zero
    y = y - middle
    scale, trust = 4 * SCALE_SECONDS, weights
    for _ in range(ROUNDS):
        weighed = powers * trust[:, :, None]
        left = np.einsum("rni,rnj->rij", weighed, powers) + ridge
        right = np.einsum("rni,rn->ri", weighed, y)
        curves: Doubles = np.linalg.solve(left, right[:, :, None])[:, :, 0]
        off = y - np.einsum("rni,ri->rn", powers, curves)
        trust = weights / (1 + (off / scale) ** 2)
        scale = max(SCALE_SECONDS / 2, scale * 0.8)
    curves[:, :1] += middle
    return curves
