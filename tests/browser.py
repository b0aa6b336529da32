"""Debian's chromium, driven by Playwright: for the tests, the pictures of the screen and the measurements."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from playwright.sync_api import Browser, sync_playwright

CHROMIUM = Path(__file__).parent.parent / "scripts" / "chromium"
FLAGS = [
    "--no-sandbox",
    "--disable-gpu",
    "--disable-quic",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
]


@contextmanager
def chromium_open(*flags: str) -> Iterator[Browser]:
    """A browser for the length of a ``with``. A process has one at a time: Playwright's loop is its own."""
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path=CHROMIUM, args=[*FLAGS, *flags])
        yield browser
        browser.close()
