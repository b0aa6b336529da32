"""The own sound of a take: wind and a motor, and what a hit sounds like, at its instant."""

from __future__ import annotations

from collections.abc import Iterable

import numpy as np
from numpy.typing import NDArray
from scipy.signal import butter, sosfilt

RATE = 48_000
WIND, MOTOR, HIT = 0.02, 0.03, 0.5
MOTOR_HERTZ = 62.0
FADE_SECONDS = 0.35


def take_sound(seconds: float, hits: Iterable[float], seed: int) -> NDArray[np.float32]:
    """Samples of shape (count,): each hit in ``hits`` (seconds) begins with its own sample."""
    random = np.random.default_rng(seed)
    count = round(seconds * RATE)
    time = np.arange(count) / RATE
    wind = sosfilt(butter(2, 900, fs=RATE, output="sos"), random.standard_normal(count))
    out = WIND * wind + MOTOR * np.sin(2 * np.pi * MOTOR_HERTZ * time) * (1 + 0.3 * np.sin(7 * time))
    for hit in hits:
        begin = round(hit * RATE)
        since = np.arange(count - begin) / RATE
        splash = random.standard_normal(count - begin) * np.exp(-since / FADE_SECONDS)
        out[begin:] += HIT * 0.5 * splash + HIT * np.sin(2 * np.pi * 90 * since) * np.exp(-since / 0.08)
    return np.clip(out, -1, 1).astype(np.float32)
