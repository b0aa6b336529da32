"""What was learned from practice songs: weights for readings of the beat and for kinds of hits.

``learned.npz`` is written by ``python -m scripts.learning.learn`` and is all that
Izmet knows from listening; everything else is rules.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import cache
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

Doubles = NDArray[np.float64]

FILE = Path(__file__).with_name("learned.npz")


@dataclass(frozen=True)
class Weights:
    """Arrays by name: ``<question>_mean``, ``_scale``, ``_weights``, of shape (features,)."""

    arrays: dict[str, Doubles]

    def score(self, question: str, features: Doubles) -> Doubles:
        """How well each row of (rows, features) answers a question; only differences between rows count."""
        mean, scale = self.arrays[f"{question}_mean"], self.arrays[f"{question}_scale"]
        scores: Doubles = ((features - mean) / scale) @ self.arrays[f"{question}_weights"]
        return scores


@cache
def learned() -> Weights:
    """The weights that ship with Izmet."""
    with np.load(FILE) as file:
        return Weights({name: file[name].astype(np.float64) for name in file.files})
