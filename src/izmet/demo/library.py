"""Writes the demo's files into a folder, once; a finished folder is left alone."""

from __future__ import annotations

import shutil
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

from izmet.demo.songs import SONGS, write_song
from izmet.demo.takes import TAKES, write_take

VERSION = "2"
"""Changes when the same plan would give other files."""
PAINTERS = 2

Progress = Callable[[str, int, int], None]


def write_library(folder: Path, progress: Progress) -> None:
    """Make sure that the folder holds all songs and takes, with their truth.

    Args:
        progress: called with what is being made, steps done and steps in all.
    """
    mark = folder / "version"
    if mark.exists() and mark.read_text() == VERSION:
        return
    shutil.rmtree(folder, ignore_errors=True)
    folder.mkdir(parents=True)
    for done, song in enumerate(SONGS):
        progress("songs", done, len(SONGS))
        write_song(song, folder)
    total, drawn = sum(take.frames for take in TAKES), 0

    def step() -> None:
        nonlocal drawn
        drawn += 1
        progress("takes", drawn, total)

    with ThreadPoolExecutor(PAINTERS) as pool:
        for work in [pool.submit(write_take, take, folder, step) for take in TAKES]:
            work.result()
    mark.write_text(VERSION)
