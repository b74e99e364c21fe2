"""A tablet that has seen more of the record than the server has now says so, until somebody says why."""

from __future__ import annotations

import json
import time
from pathlib import Path

from playwright.sync_api import Page, expect

from jorvek.local.backup import back_up, restore
from tests.browser.conftest import PATIENCE_MS, OpenTablet, Site, sign_in
from tests.browser.walking import looks_accessible


def remembered(page: Page) -> int:
    """How many entries the site log had when this tablet saw it last, once it has."""
    until = time.monotonic() + PATIENCE_MS / 1000
    while (text := page.evaluate("localStorage.getItem('jorvek.seal')")) is None:
        assert time.monotonic() < until, "the tablet remembers nothing"
        page.wait_for_timeout(100)
    return int(json.loads(text)["size"])


def test_a_tablet_speaks_up_when_the_tables_of_the_day_before_are_brought_back(
    site: Site, tablet: OpenTablet, tmp_path: Path
) -> None:
    shop = site.world.workshop
    assert shop.site_log is not None
    back_up(shop, tmp_path / "monday.zip")
    site.world.found("unit-4")
    root = shop.site_log.take_in(site.world.clock.now)
    ines = tablet("Ines Halloran")
    assert remembered(ines) >= root.size
    restore(shop, tmp_path / "monday.zip", tmp_path, over=True)
    # Sessions end with that: everybody signs in anew, and the tablet has not forgotten.
    ines.goto(site.address)
    sign_in(ines, "Ines Halloran")
    note = ines.get_by_role("alert").filter(has_text="The record here is not the one this tablet knows")
    expect(note).to_contain_text(f"It has seen entry {root.size} of the site log")
    looks_accessible(ines)
    note.get_by_role("button", name="The reason is known").click()
    expect(note).to_be_hidden()
