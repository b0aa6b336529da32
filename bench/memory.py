"""``python -m bench.memory``: most memory in MB that a process needs to hear ten minutes and nothing else."""

from __future__ import annotations

import resource

import numpy as np

from izmet.sound.cues import find_cues
from tests.sound.machine import RATE, play


def main() -> None:
    minute = play(120, bars=30).samples
    find_cues(np.tile(minute, (10, 1))[: 600 * RATE], RATE)
    print(resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024)


if __name__ == "__main__":
    main()
