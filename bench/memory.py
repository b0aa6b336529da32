"""``python -m bench.memory``: most memory in MB that a process needs to hear an hour and nothing else."""

from __future__ import annotations

import re
from pathlib import Path

import numpy as np

from izmet.sound.cues import listen
from izmet.sound.source import Source
from izmet.sound.track import Samples
from tests.sound.machine import RATE, play

SECONDS = 3600


def main() -> None:
    minute = np.repeat(play(120, bars=30).samples, 2, axis=1)

    def read(start: int, count: int) -> Samples:
        return minute[np.arange(start, start + count) % len(minute)]

    listen(Source(read, RATE, 2, SECONDS * RATE))
    # getrusage would tell the most of whoever started this process too.
    status = Path("/proc/self/status").read_text()
    print(int(re.search(r"VmHWM:\s+(\d+)", status).group(1)) / 1024)


if __name__ == "__main__":
    main()
