"""Figures that only a browser can tell: a step of a drag, and how well the preview keeps time."""

from __future__ import annotations

import statistics
import tempfile
from pathlib import Path

from playwright.sync_api import Page, sync_playwright

from bench.run import told
from tests.e2e.conftest import CHROMIUM, FLAGS, Server

STEPS = 200
PLAY_SECONDS = 7.0

DRAG_STEPS = """async ({ url, base, clip, steps }) => {
  const times = []
  for (let i = 0; i < steps; i += 1) {
    const shape = { shape: 'dip', strength: 0.2 + 0.6 * (i / steps), reach: 0.4, softness: 1 }
    const command = { do: 'shape-span', clip, span: 0, shape }
    const start = performance.now()
    const answer = await fetch(url, {
      method: 'POST',
      headers: { 'Content-Type': 'application/json' },
      body: JSON.stringify({ base, command }),
    })
    const derived = await answer.json()
    if (!derived.clips) throw new Error(JSON.stringify(derived))
    times.push(performance.now() - start)
  }
  return times
}"""


def browser_figures() -> list[bool]:
    """Whether each bound is met, on the demo edit."""
    with tempfile.TemporaryDirectory() as name, sync_playwright() as playwright:
        server = Server(Path(name) / "izmet", "demo")
        flags = [*FLAGS, "--autoplay-policy=no-user-gesture-required"]
        browser = playwright.chromium.launch(executable_path=CHROMIUM, args=flags)
        page = browser.new_page(viewport={"width": 1280, "height": 800})
        page.goto(f"{server.address}/edits/1")
        page.get_by_role("button", name="Play").wait_for()
        page.wait_for_timeout(2000)
        verdicts = [_drag(page), *_preview(page)]
        browser.close()
        server.stop()
    return verdicts


def _drag(page: Page) -> bool:
    state = page.request.get(page.url.replace("/edits/", "/api/edits/")).json()
    frames = len(state["derived"]["clips"][0]["source"])
    asked = {
        "url": f"/api/edits/{state['id']}/dry-run",
        "base": state["revision"],
        "clip": state["edit"]["clips"][0]["id"],
        "steps": STEPS,
    }
    times = page.evaluate(DRAG_STEPS, asked)
    p95 = statistics.quantiles(times, n=20)[18]
    return told(f"drag step in the browser, p95, {frames} output frames", p95, 16, " ms", at_least=False)


def _preview(page: Page) -> list[bool]:
    first = page.request.get(page.url.replace("/edits/", "/api/edits/")).json()["derived"]["map"]["first"]
    page.get_by_role("button", name="run-up on downbeat").click()
    assert page.get_by_text(f"frame {first}", exact=True).count() == 1
    page.keyboard.press("Space")
    page.wait_for_timeout(PLAY_SECONDS * 1000)
    page.keyboard.press("Space")
    told_by = page.get_by_test_id("playback")
    drawn, late = (int(told_by.get_attribute(f"data-{name}") or 0) for name in ("drawn", "late"))
    drift = float(told_by.get_attribute("data-drift") or 99)
    print(f"     preview: {drawn} frames drawn, {late} late")
    return [
        told("preview: late frames", 100 * late / max(1, drawn + late), 1, " %", at_least=False),
        told("preview: frames a second", (drawn + late) / PLAY_SECONDS, 0.95 * 60),
        told("preview: greatest drift against the audio clock", drift, 1, " frames", at_least=False),
    ]
