"""Which single hits are there, when exactly, of what kind, and how strong?

Candidates are local peaks of spectral flux in all, in low, in middle and in high
bands. A small net that learned from practice songs (``kindnet``) looks at the bands
around each and tells whether it is a hit and of which kinds: a kick and a hat may fall
together. The instant is the attack on the waveform.

Source: candidates as in ``onsets``.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal, get_args

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import gaussian_filter1d, maximum_filter1d

from izmet.sound.attack import refine
from izmet.sound.bands import FRAME_RATE, Pictures, band_levels
from izmet.sound.kindnet import chances
from izmet.sound.learned import Weights
from izmet.sound.track import Floats, Signal

HitKind = Literal["kick", "snare", "hat", "bass", "note"]
KINDS: tuple[HitKind, ...] = get_args(HitKind)
Doubles = NDArray[np.float64]

LOW_BANDS, HIGH_BANDS = 10, 9
"""How many bands are low ones, and high ones, when their flux is looked at."""
LAG = 2
"""Frames between which levels are compared."""
BLOCK = 8192
"""Frames that are looked at together."""
APART_SECONDS = 0.025
LOCAL_SECONDS = 0.5
ABOVE_LOCAL = 1.25
LEAST_PART = 0.04
"""Flux, as part of the song's strong hits, from which a peak is considered."""
SURE: dict[HitKind, float] = {"kick": 0.4, "snare": 0.45, "hat": 0.3, "bass": 0.35, "note": 0.5}
SURE_HIT = 0.65
"""From which likelihood a hit is of a kind, and is a hit at all; set on practice songs not learned from."""
NAMED = 4
"""The first of the kinds, all but note: one of these that is sure is a hit too."""


@dataclass(frozen=True)
class Hit:
    """A hit: its attack in seconds, its kinds, likeliest first, and its strength, 1 for a strong one.

    ``chances`` tells how likely it is of each of ``KINDS``.
    """

    time: float
    kinds: tuple[HitKind, ...]
    strength: float
    chances: tuple[float, ...] = (0.0,) * len(KINDS)


def find_hits(mono: Signal, sides: Signal, native: Signal, rate: int, weights: Weights) -> list[Hit]:
    """All hits in order of time.

    Args:
        mono: mono samples at ``RATE``.
        sides: what is at the sides of the same music, at ``RATE``.
        native: the same music at its own ``rate``: resampling rings before an attack,
            so the attack is looked for here.
    """
    logs = band_levels(mono, sides)
    frames, strengths = candidates(logs)
    if len(frames) == 0:
        return []
    hits: list[Hit] = []
    told = chances(Pictures(logs, frames), frames / FRAME_RATE, weights.arrays)
    heard = are_hits(told)
    for frame, strength, chance in zip(frames[heard], strengths[heard], told[heard], strict=True):
        time = refine(native, rate, frame / FRAME_RATE)
        if hits and time - hits[-1].time < APART_SECONDS / 2:
            continue
        hits.append(Hit(time, _kinds(chance), float(strength), tuple(chance[: len(KINDS)].tolist())))
    return hits


def are_hits(told: Doubles) -> NDArray[np.bool_]:
    """Which candidates are hits at all, shape (hits,), from (hits, kinds + 1)."""
    sure: NDArray[np.bool_] = np.maximum(told[:, -1], told[:, :NAMED].max(axis=1)) >= SURE_HIT
    return sure


def _kinds(chance: Doubles) -> tuple[HitKind, ...]:
    """The kinds that are likely enough, the likeliest first; at least one."""
    order = [KINDS[index] for index in np.argsort(-chance[: len(KINDS)], kind="stable")]
    named = dict(zip(KINDS, chance, strict=False))
    return tuple(kind for kind in order if named[kind] >= SURE[kind]) or (order[0],)


def candidates(logs: Floats) -> tuple[NDArray[np.intp], Doubles]:
    """Frames at which something may begin in the middle, and its strength, 1 for the song's strong hits."""
    fluxes = _fluxes(logs)
    found: list[tuple[float, int]] = []
    for flux in fluxes:
        local = gaussian_filter1d(flux, LOCAL_SECONDS / 2 * FRAME_RATE)
        peaks = (flux == maximum_filter1d(flux, 7)) & (flux > ABOVE_LOCAL * local)
        top = float(np.percentile(flux[peaks], 95)) if peaks.any() else 0.0
        chosen = np.flatnonzero(peaks & (flux > max(LEAST_PART * top, 1e-3)))
        found += [(float(flux[frame]) / top, int(frame)) for frame in chosen]
    kept = np.zeros(len(logs) + 2, bool)
    reach = round(APART_SECONDS * FRAME_RATE)
    for _, frame in sorted(found, key=lambda pair: (-pair[0], pair[1])):
        if not kept[max(0, frame - reach) : frame + reach + 1].any():
            kept[frame] = True
    frames = np.flatnonzero(kept)
    total = maximum_filter1d(fluxes[0], 5)[frames].astype(np.float64)
    strong = float(np.percentile(total, 95)) if len(total) else 1.0
    return frames, np.minimum(total / max(strong, 1e-9), 1.0)


def _fluxes(logs: Floats) -> Floats:
    """How much more there is at each frame than two before it: in all bands, in low, middle, high ones."""
    parts = (
        slice(None),
        slice(LOW_BANDS),
        slice(LOW_BANDS, -HIGH_BANDS),
        slice(-HIGH_BANDS, None),
    )
    fluxes = np.empty((len(parts), len(logs)), np.float32)
    for begin in range(0, len(logs), BLOCK):
        ahead = min(begin, LAG)
        here = logs[begin - ahead : begin + BLOCK, :, 0]
        before = np.pad(maximum_filter1d(here, 3, axis=1), ((LAG - ahead, 0), (0, 0)))[: len(here) - ahead]
        rise = np.maximum(here[ahead:] - before, 0)
        for flux, part in zip(fluxes, parts, strict=True):
            flux[begin : begin + BLOCK] = rise[:, part].sum(axis=1)
    return fluxes
