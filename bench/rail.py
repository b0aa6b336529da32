"""How smoothly the music rail zooms and pans over ten minutes and some thousands of cues."""

from __future__ import annotations

import statistics
import tempfile
import time
from pathlib import Path

import numpy as np
import soundfile
from playwright.sync_api import APIRequestContext

from bench.figures import told
from tests.browser import chromium_open
from tests.e2e.conftest import Server
from tests.sound.machine import RATE, play

CUES = 3000
FRAMES = 300
ZOOM_AND_PAN = """async (frames) => {
  const rail = document.querySelector('[aria-label="Music rail"]')
  const box = rail.getBoundingClientRect()
  const times = []
  for (let i = 0; i < frames; i += 1) {
    const zooming = i % 3 !== 0
    const deltaY = i % 150 < 75 ? -40 : 40
    rail.dispatchEvent(new WheelEvent('wheel', {
      deltaY, shiftKey: !zooming, bubbles: true, cancelable: true,
      clientX: box.left + box.width * 0.6, clientY: box.top + 90,
    }))
    await new Promise(requestAnimationFrame)
    times.push(performance.now())
  }
  return times
}"""


def rail_figures() -> list[bool]:
    """Whether each bound is met."""
    with (
        tempfile.TemporaryDirectory() as name,
        Server(Path(name) / "izmet") as server,
        chromium_open() as browser,
    ):
        page = browser.new_page(viewport={"width": 1280, "height": 800})
        song = Path(name) / "ten.flac"
        soundfile.write(song, np.tile(play(120, bars=30).samples, (10, 1))[: 600 * RATE], RATE)
        edit, cues = _edit_with(page.request, server.address, song)
        page.goto(f"{server.address}/edits/{edit}")
        page.get_by_role("tab", name="Music").click()
        page.get_by_role("button", name="Fit").click()
        page.wait_for_timeout(2000)
        times = page.evaluate(ZOOM_AND_PAN, FRAMES)
    steps = np.diff(times)
    worst = statistics.quantiles(steps.tolist(), n=20)[18]
    print(f"     rail with {cues} cues: median step {np.median(steps):.1f} ms, p95 {worst:.1f} ms")
    return [told("rail of ten minutes: frames a second", 1000 / float(np.mean(steps)), 57)]


def _edit_with(request: APIRequestContext, address: str, song: Path) -> tuple[int, int]:
    """An edit with a song that has been heard to its end; its number, and how many cues it has."""
    api = f"{address}/api"
    content = song.read_bytes()
    upload = {"kind": "song", "name": song.name, "size": len(content)}
    piece = request.post(f"{api}/assets/uploads", data=upload).json()["piece"]
    for at in range(0, len(content), piece):
        request.put(f"{api}/assets/uploads", params=upload | {"at": at}, data=content[at : at + piece])
    asset = request.post(f"{api}/assets/uploads/finish", data=upload).json()
    while any(job["state"] in ("queued", "running") for job in request.get(f"{api}/jobs").json()["jobs"]):
        time.sleep(0.5)
    state = request.post(f"{api}/edits", data={"rate": "60"}).json()
    body = {"base": state["revision"], "asset": asset["sha256"], "kind": "song"}
    request.post(f"{api}/edits/{state['id']}/use", data=body)
    # The answer to a change holds only what is different: the whole of it is asked for.
    state = request.get(f"{api}/edits/{state['id']}").json()
    cues = [cue["id"] for cue in state["edit"]["song"]["cues"]]
    assert len(cues) > CUES
    gone = [
        id for place, id in enumerate(cues) if place * CUES // len(cues) == (place - 1) * CUES // len(cues)
    ]
    command = {"base": state["revision"], "command": {"do": "remove-cues", "cues": gone}}
    assert request.post(f"{api}/edits/{state['id']}/commands", data=command).ok
    return state["id"], len(cues) - len(gone)
