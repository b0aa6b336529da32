"""Waiting for other processes and threads: a machine may be busy, but nothing is waited for forever."""

from __future__ import annotations

import time
from collections.abc import Callable

PATIENCE_SECONDS = 120
LOOK_SECONDS = 0.05


def until(holds: Callable[[], object], what: str) -> None:
    """Wait until something holds.

    Raises:
        AssertionError: it does not within ``PATIENCE_SECONDS``; says what.
    """
    end = time.monotonic() + PATIENCE_SECONDS
    while not holds():
        assert time.monotonic() < end, f"not within {PATIENCE_SECONDS} s: {what}"
        time.sleep(LOOK_SECONDS)
