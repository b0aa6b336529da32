"""At which sample does a hit begin?

An onset found in a spectrum is known to some 10 ms only. The attack is the most
likely instant at which the variance of the differenced signal rises: with ``a`` and
``b`` the samples before and after a split, the split that maximises the Gaussian
log-likelihood ``−(|a| log var(a) + |b| log var(b))``.

Source: a textbook change point of variance (Inclán & Tiao 1994 treat the same
question); differencing weighs the fast rise of an attack over the bass beneath it.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

REACH_SECONDS = 0.022
SHORTEST = 24
QUIET = 1e-6
"""Power, as part of the loudest, that counts as silence: what a resampler rings before an attack is below."""


def refine(mono: NDArray[np.float32], rate: int, time: float) -> float:
    """The attack nearest to a rough onset time, in seconds, searched ±22 ms around it.

    Returns ``time`` itself where the signal does not get louder there.
    """
    reach = round(REACH_SECONDS * rate)
    centre = round(time * rate)
    begin, end = max(0, centre - reach), min(len(mono), centre + reach)
    if end - begin < 4 * SHORTEST:
        return time
    power = np.square(np.diff(mono[begin:end].astype(np.float64)))
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
    return float(begin + split[best] + 1) / rate
