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
    """Arrays by name: of a question ``<question>_<part>``, ``kind_*`` of ``kindnet``."""

    arrays: dict[str, Doubles]

    def score(self, question: str, described: Doubles) -> Doubles:
        """How well each row of (rows, features) answers a question; only differences between rows count.

        A row counts straight, through ``weights``, and as hidden units have ``seen`` and ``said`` it.
        """
        scaled = (described - self._of(question, "mean")) / self._of(question, "scale")
        hidden = np.maximum(scaled @ self._of(question, "seen") + self._of(question, "seen_bias"), 0)
        scores: Doubles = scaled @ self._of(question, "weights") + hidden @ self._of(question, "said")
        return scores

    def _of(self, question: str, part: str) -> Doubles:
        return self.arrays[f"{question}_{part}"]


@cache
def learned() -> Weights:
    """The weights that ship with Izmet."""
    with np.load(FILE) as file:
        return Weights({name: file[name].astype(np.float64) for name in file.files})
