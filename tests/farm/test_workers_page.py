"""One export on two workers, as a person sees it: who is there, what they do, and what comes of it."""

import os
import subprocess
import sys
from pathlib import Path

import pytest
from playwright.sync_api import Browser, expect

from izmet.farm.place import Place
from tests.e2e.conftest import PATIENCE_MS, Server
from tests.e2e.test_demo_screen import faults


@pytest.mark.parametrize("media", ["folder"], indirect=True)
def test_an_export_is_made_by_workers_that_a_page_shows(
    own_demo: Path, chromium: Browser, place: Place, redis_server, monkeypatch, tmp_path: Path
):
    for name, value in place.as_environment().items():
        monkeypatch.setenv(name, value)
    crew = None
    context = chromium.new_context(viewport={"width": 1280, "height": 800})
    context.set_default_timeout(PATIENCE_MS)
    page, other = context.new_page(), context.new_page()
    server = Server(own_demo, "demo", "--no-token")
    try:
        other.goto(f"{server.address}/workers")
        expect(other.get_by_role("alert")).to_contain_text("No workers yet")

        page.goto(f"{server.address}/edits/1")
        page.get_by_role("button", name="Export").click()
        page.get_by_role("button", name="Export MP4").click()
        expect(page.get_by_text("Waiting for a worker…")).to_be_visible()

        command = [sys.executable, "-m", "izmet.cli", "worker", "--count", "2"]
        crew = subprocess.Popen(command, env=os.environ.copy(), stdout=subprocess.DEVNULL)
        expect(other.get_by_role("table", name="Workers").get_by_role("row")).to_have_count(3)
        expect(other.get_by_role("progressbar").first).to_be_visible()
        expect(page.get_by_role("link", name="2 workers")).to_be_visible()
        dialog = page.get_by_role("dialog", name="Export")
        expect(dialog.get_by_text("Everything lands, measured in the file")).to_be_visible()

        made = other.get_by_role("table", name="Workers").get_by_role("cell")
        expect(made.get_by_text("Idle")).to_have_count(2)
        parts = [int(made.nth(index).inner_text()) for index in (2, 6)]
        assert all(parts), "each has made some"

        redis_server.kill()
        expect(other.get_by_role("alert")).to_contain_text("Redis cannot be reached")
        redis_server.start()
        expect(other.get_by_role("table", name="Workers").get_by_role("row")).to_have_count(3)

        shared, aside = Path(place.media), tmp_path / "aside"
        shared.rename(aside)
        shared.write_text("in its way")
        dialog.get_by_role("radio", name="Small file").click()
        page.get_by_role("button", name="Export MP4").click()
        expect(dialog.get_by_text("Waiting for the shared store…")).to_be_visible()
        expect(other.get_by_role("alert")).to_contain_text("The shared store cannot be used")
        shared.unlink()
        aside.rename(shared)
        expect(dialog.get_by_text("Everything lands, measured in the file")).to_be_visible()
        expect(other.get_by_role("alert")).to_have_count(0)
        assert faults(page) == []
    finally:
        if crew is not None:
            crew.terminate()
            crew.wait()
        context.close()
        server.stop()
