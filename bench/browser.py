"""Figures that only a browser can tell: a step of a drag, and how well the preview keeps time."""

from __future__ import annotations

import statistics
import tempfile
from pathlib import Path
from typing import Literal

import numpy as np
from playwright.sync_api import Locator, Page

from bench.core import montage
from bench.figures import RUNS, told
from tests.browser import chromium_open
from tests.e2e.conftest import Server, pulse_on_beats

STEPS = 100
HANDLES = tuple(f'[aria-label="{part}"] svg' for part in ("Ties", "Speed lane"))
TEETH = ('[aria-label="Pulse teeth"]',)
SWEPT = 110
"""So many pixels a slider is swept along."""
FRAMES = 600
CLIPS = 200
ONE_STEP, MANY_STEP, PULSE_STEP = 3.5, 4, 4
"""Bounds of a step, in bare requests: one is asked at each step, the rest is drawing."""
PLAY_SECONDS = 7.0
Way = Literal["x", "y", "sweep"]

BARE = """async () => {
  const times = []
  for (let i = 0; i < 60; i += 1) {
    const start = performance.now()
    await (await fetch('/api/nothing')).arrayBuffer()
    times.push(performance.now() - start)
  }
  return times.sort((a, b) => a - b)[30]
}"""
TAKE_TIME = """(parts) => {
  const times = (window.stepTimes = [])
  let since = null
  window.addEventListener('pointermove', () => (since = performance.now()), { capture: true })
  // What follows from a step reaches the page in one go: when its handles have moved, all canvases are drawn.
  const seen = new MutationObserver(() => {
    if (since === null) return
    document.body.getBoundingClientRect() // lays out what has changed, as the next frame would
    times.push(performance.now() - since)
    since = null
  })
  for (const part of parts)
    seen.observe(document.querySelector(part), { attributes: true, childList: true, subtree: true })
}"""
"""A step's time goes from the pointer's event to the page laid out and drawn; it leaves out the wait for the
screen's next frame, which is the screen's own."""


def browser_figures() -> list[bool]:
    """Whether each bound is met; figures are medians of a few rounds."""
    with (
        tempfile.TemporaryDirectory() as name,
        Server(Path(name) / "izmet", "demo", "--no-token") as server,
        chromium_open("--autoplay-policy=no-user-gesture-required") as browser,
    ):
        page = browser.new_page(viewport={"width": 1280, "height": 800})
        _open(page, f"{server.address}/edits/1")
        _lengthen(page)
        _open(page, page.url)
        bare = page.evaluate(BARE)
        print(f"     a bare question and answer of this browser: {bare:.1f} ms")
        one = _tie(page, "Cue of splash-down")
        bent = _strength(page)
        pulsed, playing = _pulse(page)
        drawn, drift = np.median([_preview(page) for _ in range(RUNS)], axis=0)
        many, many_bent = _many(page, server.address)
    return [
        told("drag step of a tie, drawn, p95, in bare requests", one / bare, ONE_STEP, at_least=False),
        told("drag step of a speed", bent / bare, ONE_STEP, at_least=False),
        told("of a pulse's amount", pulsed / bare, PULSE_STEP, at_least=False),
        told("of it while it plays, median, in frames at 60 fps", playing * 60 / 1000, 2, at_least=False),
        told(f"of a tie in an edit of {CLIPS} clips", many / bare, MANY_STEP, at_least=False),
        told("of a speed in it", many_bent / bare, MANY_STEP, at_least=False),
        told("preview at 60 fps: frames drawn of those due", drawn, 99, " %"),
        told("preview: greatest drift against the audio clock", drift, 1, " frames", at_least=False),
    ]


def _open(page: Page, address: str) -> None:
    page.goto(address)
    page.get_by_role("button", name="Play", exact=True).wait_for()
    page.wait_for_timeout(3000)


def _lengthen(page: Page) -> None:
    """Tie the clip's end to a later cue, so that it covers at least FRAMES output frames."""
    api = page.url.replace("/edits/", "/api/edits/")
    state = page.request.get(api).json()
    end = state["derived"]["clips"][0]["first"] + FRAMES
    cues = zip(state["edit"]["song"]["cues"], state["cue_frames"], strict=True)
    cue = next(cue["id"] for cue, frame in cues if frame >= end)
    clip = state["edit"]["clips"][0]
    command = {"do": "change-tie", "clip": clip["id"], "pin": clip["pins"][-1]["id"], "cue": cue}
    answer = page.request.post(f"{api}/commands", data={"base": state["revision"], "command": command})
    assert answer.ok, answer.text()


def _many(page: Page, address: str) -> tuple[float, float]:
    """Both kinds of step in an edit of many clips over thousands of cues, with a take of the demo."""
    sha256, frames = longest_take(page, address)
    document = montage(CLIPS, sha256=sha256, frames=frames).model_dump(mode="json")
    made = page.request.post(f"{address}/api/edits/import", data=document).json()
    _open(page, f"{address}/edits/{made['id']}")
    return _tie(page, "Cue of impact at frame 100"), _strength(page)


def longest_take(page: Page, address: str) -> tuple[str, int]:
    """The longest take there is, by its hash, and how many frames it has."""
    assets = page.request.get(f"{address}/api/assets").json()["assets"]
    takes = [asset for asset in assets if asset["kind"] == "take" and asset["state"] == "ready"]
    longest = max(takes, key=lambda asset: asset["facts"]["frames"])
    return longest["sha256"], longest["facts"]["frames"]


def _tie(page: Page, name: str) -> float:
    page.keyboard.press("Escape")
    return statistics.median(_drag(page, page.get_by_role("slider", name=name), "x") for _ in range(RUNS))


def _strength(page: Page) -> float:
    lane = page.get_by_role("group", name="Speed lane")
    rounds = []
    for _ in range(RUNS):
        lane.click(position={"x": 500, "y": 60})
        rounds.append(_drag(page, lane.get_by_role("slider").first, "y"))
    return statistics.median(rounds)


def _pulse(page: Page) -> tuple[float, float]:
    """The same of the amount of a pulse on every beat, and the median of a step while it plays, in ms."""
    page.keyboard.press("Escape")
    spans = page.get_by_role("region", name="Spans of the clip")
    pulse_on_beats(page, "Knock")
    amount = spans.get_by_role("slider", name="Amount, slider")
    amount.wait_for()
    amount.scroll_into_view_if_needed()
    page.wait_for_timeout(1000)
    p95 = statistics.median(_p95(_dragged(page, amount, "sweep", TEETH)) for _ in range(RUNS))
    page.get_by_role("button", name="Play", exact=True).click()
    playing = statistics.median(_dragged(page, amount, "sweep", TEETH, STEPS // 3))
    page.get_by_role("button", name="Pause", exact=True).click()
    page.get_by_role("button", name="Undo").click()
    return p95, playing


def _drag(page: Page, knob: Locator, way: Way) -> float:
    """The 95th percentile of a drag step's time, in ms."""
    return _p95(_dragged(page, knob, way, HANDLES))


def _p95(times: list[float]) -> float:
    p95 = statistics.quantiles(times, n=20)[18]
    print(f"     drag: {len(times)} steps drawn, median {statistics.median(times):.1f} ms, p95 {p95:.1f} ms")
    return p95


def _dragged(page: Page, knob: Locator, way: Way, parts: tuple[str, ...], steps: int = STEPS) -> list[float]:
    """The times of a drag's steps, in ms: a handle is pulled with the mouse; ``parts`` follow from it.

    A tie (along x) comes to few cues, again and again; a speed (along y) is another one at every step; a
    slider is swept along, as a hand does.
    """
    page.evaluate(TAKE_TIME, list(parts))
    box = knob.bounding_box()
    assert box is not None
    x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
    page.mouse.move(x, y)
    page.mouse.down()
    for step in range(steps):
        if way == "x":
            page.mouse.move(x + 20 + 60 * (step % 2) + step % 7, y)
        elif way == "sweep":
            page.mouse.move(x + 1 + step * SWEPT / STEPS, y)
        else:
            page.mouse.move(x + 4, y + step * 7 % 101 * 0.4 - 20)
        page.wait_for_timeout(30)
    page.keyboard.press("Escape")
    times: list[float] = page.evaluate("window.stepTimes")
    page.mouse.move(x, y)
    page.wait_for_timeout(100)
    page.mouse.up()
    page.wait_for_timeout(300)
    assert len(times) > steps / 3
    return times


def _preview(page: Page) -> tuple[float, float]:
    """Frames drawn of those due in percent, and the greatest drift in frames, of one play through."""
    page.keyboard.press("Escape")
    page.get_by_role("button", name="run-up on downbeat").click()
    page.keyboard.press("Escape")
    page.keyboard.press("Space")
    page.wait_for_timeout(PLAY_SECONDS * 1000)
    page.keyboard.press("Space")
    drawn, late = frames_told(page)
    drift = float(page.get_by_test_id("playback").get_attribute("data-drift") or 99)
    print(f"     preview: {drawn} frames drawn, {late} late, drift {drift} frames")
    return 100 * drawn / max(1, drawn + late), drift


def frames_told(page: Page) -> tuple[int, int]:
    """Frames that the last play drew, and those that came late."""
    told_by = page.get_by_test_id("playback")
    drawn, late = (int(told_by.get_attribute(f"data-{name}") or 0) for name in ("drawn", "late"))
    return drawn, late
