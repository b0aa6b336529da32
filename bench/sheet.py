"""The montage desk at scale: opening it, dragging a cut, scrolling, watching thirty cuts in 15 seconds."""

from __future__ import annotations

import statistics
import tempfile
import time
from pathlib import Path
from typing import Any

from playwright.sync_api import Page

from bench.browser import CLIPS, STEPS, TAKE_TIME, frames_told, longest_take
from bench.core import montage
from bench.figures import RUNS, told
from tests.browser import chromium_open
from tests.e2e.conftest import Server

CUTS, CUT_SECONDS = 30, 0.5
MANY_CLIPS = 1000
SHEET = '[role="group"][aria-label="Sheet"]'
CUTS_SEEN = """async () => {
  while (!document.querySelector('[role="slider"][aria-label^="Cut to"]'))
    await new Promise(requestAnimationFrame)
}"""
SCROLL = """async () => {
  const sheet = document.querySelector('[role="group"][aria-label="Sheet"]')
  const gaps = []
  let last = await new Promise(requestAnimationFrame)
  for (let i = 0; i < 120; i += 1) {
    sheet.scrollTop += 17
    const now = await new Promise(requestAnimationFrame)
    gaps.push(now - last)
    last = now
  }
  return gaps
}"""


def sheet_figures() -> list[bool]:
    """Whether each bound is met; figures are medians of a few rounds."""
    with (
        tempfile.TemporaryDirectory() as name,
        Server(Path(name) / "izmet", "demo", "--no-token") as server,
        chromium_open("--autoplay-policy=no-user-gesture-required") as browser,
    ):
        page = browser.new_page(viewport={"width": 1280, "height": 800})
        sha256, frames = longest_take(page, server.address)
        opened, moved = {}, {}
        for clips in (MANY_CLIPS, CLIPS):
            whole = montage(clips, cues=15 * clips, sha256=sha256, frames=frames).model_dump(mode="json")
            _open(page, _import(page, server.address, whole))
            opened[clips] = statistics.median(_opening(page) for _ in range(RUNS))
            moved[clips] = statistics.median(_drag(page) for _ in range(RUNS))
        gaps = [gap for _ in range(RUNS) for gap in _scroll(page)]
        late = statistics.median(_watch(page, server.address, sha256, frames) for _ in range(RUNS))
    return [
        told(f"montage desk: opening {CLIPS} clips, 3,000 cues", opened[CLIPS], 0.8, " s", at_least=False),
        told(
            f"montage desk: opening {MANY_CLIPS} clips, 15,000 cues",
            opened[MANY_CLIPS],
            2,
            " s",
            at_least=False,
        ),
        told("montage desk: drag step of a cut, drawn, p95", moved[CLIPS], 25, " ms", at_least=False),
        told(f"the same among {MANY_CLIPS} clips", moved[MANY_CLIPS], 16, " ms", at_least=False),
        told("montage desk: scrolling, a frame, p95", statistics.quantiles(gaps, n=20)[18], 17, " ms", False),
        told(f"late frames through {CUTS} cuts in 15 s", late, 1, " %", at_least=False),
    ]


def _import(page: Page, address: str, document: dict[str, Any]) -> str:
    made = page.request.post(f"{address}/api/edits/import", data=document)
    assert made.ok, made.text()
    return f"{address}/edits/{made.json()['id']}"


def _open(page: Page, address: str) -> None:
    page.goto(address)
    page.get_by_role("tab", name="Montage").click()
    page.get_by_role("slider", name="Cut to").first.wait_for()
    page.wait_for_timeout(1500)


def _opening(page: Page) -> float:
    """Seconds from a reload to the frame of the screen on which the sheet has its cuts."""
    began = time.perf_counter()
    page.reload(wait_until="commit")
    page.evaluate(CUTS_SEEN)
    taken = time.perf_counter() - began
    page.wait_for_timeout(1500)
    return taken


def _drag(page: Page) -> float:
    """The 95th percentile of a step, in ms: a cut is pulled to and fro between cues."""
    page.evaluate(TAKE_TIME, [SHEET])
    box = page.get_by_role("slider", name="Cut to").nth(2).bounding_box()
    assert box is not None
    x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
    page.mouse.move(x, y)
    page.mouse.down()
    for step in range(STEPS):
        page.mouse.move(x + 10 + 9 * (step % 5), y)
        page.wait_for_timeout(30)
    times = page.evaluate("window.stepTimes")
    page.mouse.move(x, y)
    page.mouse.up()
    page.wait_for_timeout(500)
    p95 = statistics.quantiles(times, n=20)[18]
    print(f"     cut: {len(times)} steps drawn, median {statistics.median(times):.1f} ms, p95 {p95:.1f} ms")
    assert len(times) > STEPS / 3
    return p95


def _scroll(page: Page) -> list[float]:
    """Milliseconds between the screen's frames while the sheet goes by for the first time."""
    gaps: list[float] = page.evaluate(SCROLL)
    missed = sum(round(gap * 60 / 1000) - 1 for gap in gaps)
    print(f"     scrolling: {len(gaps)} frames shown, {missed} missed")
    return gaps


def _watch(page: Page, address: str, sha256: str, there: int) -> float:
    """The part of the frames that came late, in percent, of a play through many short clips."""
    document = montage(1, cues=200, sha256=sha256, frames=there).model_dump(mode="json")
    clip = document["clips"][0]
    frames = round(CUT_SECONDS * 60)
    apart = (there - frames - 1) // CUTS
    document["clips"] = [
        clip
        | {
            "id": f"clip-{i}",
            "spans": [{"shape": "steady"}],
            "pins": [
                {"id": "a", "n": i * frames, "p": apart * i},
                {"id": "b", "n": (i + 1) * frames - 1, "p": apart * i + frames},
            ],
        }
        for i in range(CUTS)
    ]
    page.goto(_import(page, address, document))
    page.get_by_role("button", name="Play", exact=True).wait_for()
    page.wait_for_timeout(1500)
    page.keyboard.press("Space")
    page.wait_for_timeout(CUTS * CUT_SECONDS * 1000)
    page.keyboard.press("Space")
    drawn, late = frames_told(page)
    print(f"     through cuts: {drawn} frames drawn, {late} late")
    return 100 * late / max(1, drawn + late)
