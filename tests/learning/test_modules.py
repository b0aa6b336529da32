"""Tracker modules: how many rows make a beat is told by where notes are and by the tempo."""

import numpy as np
import pytest

from scripts.learning.modules import FASTEST, SLOWEST, Played, _rows_of_a_beat


def played(rows_a_second: float, every: int) -> Played:
    """Sixty seconds of rows, with notes on each so many of them and now and then on another."""
    count = round(60 * rows_a_second)
    rows = np.arange(count) % 48
    notes = np.where(rows % every == 0, 2, rows % 5 == 1).astype(np.int64)
    return Played(np.zeros((1, 2), np.float32), np.arange(count) / rows_a_second, rows, notes)


@pytest.mark.parametrize(
    ("rows_a_second", "every", "a_beat"),
    [(8, 4, 4), (6.2, 4, 4), (16, 4, 8), (4, 4, 2), (6, 3, 3), (12, 3, 6)],
)
def test_a_beat_has_the_usual_rows_at_a_usual_tempo(rows_a_second, every, a_beat):
    found = _rows_of_a_beat(played(rows_a_second, every))
    assert found == a_beat
    assert SLOWEST <= 60 * rows_a_second / found <= FASTEST
