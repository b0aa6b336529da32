"""``python -m bench.memory``: most memory in MB that a process needs to hear ten minutes and nothing else."""

from __future__ import annotations

import re
from pathlib import Path

import numpy as np

from izmet.sound.cues import find_cues
from tests.sound.machine import RATE, play


def main() -> None:
    minute = play(120, bars=30).samples
    find_cues(np.tile(minute, (10, 1))[: 600 * RATE], RATE)
    # getrusage would tell the most of whoever started this process too.
    status = Path("/proc/self/status").read_text()
    print(int(re.search(r"VmHWM:\s+(\d+)", status).group(1)) / 1024)


if __name__ == "__main__":
    main()
