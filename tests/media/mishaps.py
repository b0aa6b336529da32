"""Work that goes wrong in each way that there is, for ``izmet.media.warm``."""

from __future__ import annotations

import os
import time

from izmet.media.warm import Limits, serve


def mishap(what: str) -> str:
    """What goes wrong: too much memory, work or time, an end in the middle; or nothing does."""
    if what == "memory":
        return str(len(bytes(8 << 30)))
    while what == "work":
        pass
    if what == "time":
        time.sleep(60)
    if what == "end":
        os.abort()
    return f"{what}, {os.getpid()}"


if __name__ == "__main__":
    serve(mishap, Limits(memory=4 << 30, work=1, wait=4))
