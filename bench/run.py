"""``make bench``: how fast, as ratios within one run, against the floors that the work cannot go below.

Prints one line a figure with what it should reach, and exits 1 when one is missed.
Nothing here is a test of correctness; the tests are. ``make bench PART=core`` takes the
figures of one part: core, media, listening, rail, browser, sheet, idle, farm.
"""

from __future__ import annotations

import os
import sys
import traceback
from pathlib import Path

from bench.browser import browser_figures
from bench.core import core_figures
from bench.farm import farm_figures
from bench.figures import stolen_told
from bench.idle import idle_figures
from bench.listening import listening_figures
from bench.media import media_figures
from bench.rail import rail_figures
from bench.sheet import sheet_figures

PARTS = {
    "core": core_figures,
    "media": media_figures,
    "listening": listening_figures,
    "rail": rail_figures,
    "browser": browser_figures,
    "sheet": sheet_figures,
    "idle": idle_figures,
    "farm": farm_figures,
}


def main(wanted: list[str]) -> int:
    verdicts = [met for name in PARTS if not wanted or name in wanted for met in _taken(name)]
    return 0 if all(verdicts) else 1


def _taken(name: str) -> list[bool]:
    """A part's verdicts. One that fails is told, and the others are taken all the same."""
    try:
        with stolen_told(name):
            return PARTS[name]()
    except Exception:
        traceback.print_exc()
        print(f"MISS {name}: its figures could not be taken", flush=True)
        return [False]


if __name__ == "__main__":
    os.chdir(Path(__file__).parent.parent)
    sys.exit(main(sys.argv[1:]))
