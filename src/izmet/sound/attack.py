"""At which sample does a hit begin?

An onset found in a spectrum is known to some 10 ms only. What sounded before it
predicts what sounds on; what begins is what that does not predict. The attack is the
most likely instant at which the variance of the prediction's error rises: with ``a``
and ``b`` the errors before and after a split, the split that maximises the Gaussian
log-likelihood ``−(|a| log var(a) + |b| log var(b))``. So a soft note is found beneath
a loud one that rings on.

Source: linear prediction by autocorrelation, J. Makhoul, "Linear prediction: a tutorial
review", Proc. IEEE 63, 1975; a textbook change point of variance (Inclán & Tiao 1994
treat the same question).
"""

from __future__ import annotations

from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from izmet.sound.track import Floats, Signal, held

Doubles = NDArray[np.float64]

REACH_SECONDS = 0.022
SHORTEST = 24
QUIET = 1e-6
"""Power, as part of the loudest, that counts as silence: what a resampler rings before an attack is below."""
ORDER = 16
"""Samples that predict the next one."""
PAST_SECONDS = 0.03
"""How long what sounded before is listened to."""
UNCERTAIN = 1e-6
"""Part of the power taken as noise that nothing predicts: keeps the prediction of pure tones in bounds."""
LAGS = np.abs(np.subtract.outer(np.arange(ORDER), np.arange(ORDER)))
"""How far each of those samples lies from each other one."""
BLOCK_SECONDS, LOUD = 0.005, 0.01
"""Of what stretches the power is taken, and the part of the greatest that is loud."""
SILENT = 1e-20
"""Energy of the past below which nothing sounded, so that nothing can be learned from it."""
STEP = np.array([1.0, -1.0])
"""The error of the simplest prediction, that nothing changes."""


def refine(mono: Signal, rate: int, time: float) -> float:
    """The attack nearest to a rough onset time, in seconds, searched ±22 ms around it.

    Returns ``time`` itself where the signal does not get louder there.
    """
    reach = round(REACH_SECONDS * rate)
    centre = round(time * rate)
    begin, end = max(0, centre - reach), min(len(mono), centre + reach)
    if end - begin < 4 * SHORTEST:
        return time
    power = np.square(_unforeseen(mono, begin, end, rate))
    if power.max() == 0:
        return time
    power += QUIET * power.max()
    total = np.cumsum(power)
    split = np.arange(SHORTEST, len(power) - SHORTEST)
    before = total[split - 1] / split
    after = (total[-1] - total[split - 1]) / (len(power) - split)
    likelihood = -(split * np.log(before) + (len(power) - split) * np.log(after))
    likelihood[after <= before] = -np.inf
    best = int(np.argmax(likelihood))
    if not np.isfinite(likelihood[best]):
        return time
    return float(begin + split[best]) / rate


def felt(samples: Floats, rate: int) -> float:
    """The instant at which a sound by itself is felt to begin, in seconds from its first sample.

    That is the attack nearest to where it first comes within 20 dB of its loudest 5 ms (common practice, no
    source).

    Args:
        samples: of one channel, shape (count,).
    """
    block = max(1, round(BLOCK_SECONDS * rate))
    whole = np.pad(samples.astype(np.float64), (0, -len(samples) % block))
    power = np.square(whole).reshape(-1, block).mean(axis=1)
    if power.max() == 0:
        return 0.0
    loud = int(np.argmax(power >= LOUD * power.max()))
    # What sounds at once begins after silence too.
    before = round(REACH_SECONDS * rate) + ORDER
    led = np.concatenate([np.zeros(before, np.float32), samples])
    found = refine(led, rate, (before + loud * block + block / 2) / rate) - before / rate
    return max(0.0, found)


def _unforeseen(mono: Signal, begin: int, end: int, rate: int) -> Doubles:
    """What is left of the samples from ``begin`` to ``end`` when what the past predicts is taken off."""
    past = mono[max(0, begin - round(PAST_SECONDS * rate)) : begin].astype(np.float64)
    error = _error_filter(past)
    heard = held(mono, begin - ORDER, end).astype(np.float64)
    return np.convolve(heard, error)[ORDER : len(heard)]


def _error_filter(past: Doubles) -> Doubles:
    """The filter that leaves of a signal like ``past`` what the last ``ORDER`` samples do not predict."""
    if len(past) < 2 * ORDER:
        return STEP
    faded = past * _fade(len(past))
    alike = np.array([faded[: len(faded) - lag] @ faded[lag:] for lag in range(ORDER + 1)])
    if alike[0] < SILENT:
        return STEP
    alike /= alike[0]
    alike[0] += UNCERTAIN
    return np.concatenate([[1.0], -np.linalg.solve(alike[LAGS], alike[1:])])


@lru_cache(maxsize=4)
def _fade(count: int) -> Doubles:
    return np.hanning(count)
