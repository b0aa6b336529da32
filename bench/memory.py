"""How much memory a fresh process needs to hear ten minutes; apart, so that it loads nothing else."""

from __future__ import annotations

import resource

import numpy as np


def ten_minutes() -> float:
    """Most memory in MB."""
    from izmet.sound.cues import find_cues
    from tests.sound.machine import RATE, play

    minute = play(120, bars=30).samples
    find_cues(np.tile(minute, (10, 1))[: 600 * RATE], RATE)
    return resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024
