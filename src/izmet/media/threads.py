"""The order of threads: nothing that is encoded goes before all else on the machine."""

from __future__ import annotations

import os
from contextlib import suppress
from pathlib import Path

OWN = Path("/proc/self/task")
"""All threads of this process, where the system tells of them."""


def take_turns() -> None:
    """Have every thread of this process take its turn.

    Run as root, the encoder of AV1 gives all of its threads, and the one that opens it with all it begins
    later, the first place in real time: on a machine of few cores nothing else is left to run.
    """
    for thread in OWN.iterdir() if OWN.exists() else ():
        with suppress(ProcessLookupError):
            os.sched_setscheduler(int(thread.name), os.SCHED_OTHER, os.sched_param(0))
