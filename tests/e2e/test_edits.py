"""Going from edit to edit: what is shown and changed is the edit of the address."""

from __future__ import annotations

from playwright.sync_api import Page, expect

ROUNDS = 6


def titles(page: Page) -> dict[int, str]:
    listed = page.request.get("/api/edits").json()["edits"]
    return {one["id"]: one["title"] for one in listed}


def retitle(page: Page, title: str) -> None:
    box = page.get_by_label("Title of the edit")
    box.fill(title)
    box.press("Enter")
    expect(page.get_by_text("Saving…")).to_be_hidden()


def begin(page: Page, title: str) -> int:
    before = page.url
    page.get_by_label("Title", exact=True).fill(title)
    page.get_by_role("button", name="Begin").click()
    page.wait_for_url(lambda url: url != before)
    return int(page.url.rpartition("/")[2])


def test_what_is_shown_and_changed_is_the_edit_of_the_address(server, chromium):
    context = chromium.new_context(viewport={"width": 1280, "height": 800}, base_url=server.address)
    page = context.new_page()
    page.goto("/")
    known = {}
    for round in range(ROUNDS):
        id = begin(page, f"Heat {round}")
        expect(page.get_by_label("Title of the edit")).to_have_value(f"Heat {round}")
        # News of what was just begun comes about a quarter of a second later: nothing may open another edit.
        page.wait_for_timeout(600)
        expect(page.get_by_label("Title of the edit")).to_have_value(f"Heat {round}")
        for change in range(2):
            retitle(page, f"Heat {round}, take {change}")
        known[id] = f"Heat {round}, take 1"
        assert titles(page) == known
        page.get_by_role("link", name="Izmet").click()
    context.close()
