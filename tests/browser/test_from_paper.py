"""A sheet is printed, filled in by pencil and keyed in line by line."""

from __future__ import annotations

import io

from playwright.sync_api import expect
from pypdf import PdfReader

from tests.browser.conftest import OpenTablet, Site, choose
from tests.browser.test_turned_and_freed import playing
from tests.browser.walking import looks_accessible


def test_a_sheet_is_printed_and_keyed_in_by_another_hand(site: Site, tablet: OpenTablet) -> None:
    player = playing(site, ("unit-2", "head-5"), "tarnholt-7l34-head-tighten", "length-before/temperature/1")
    page = tablet("Bram Okafor")
    page.goto(f"{site.address}/records/{player.run_id}")
    printed = page.request.get(f"{site.address}/api/runs/{player.run_id}/sheet.pdf")
    text = "".join(sheet.extract_text() for sheet in PdfReader(io.BytesIO(printed.body())).pages)
    for words in ("Unit 2", "Head 5", "TH-7L34-0219", "Length before", "flywheel end"):
        assert words in text, words
    assert "Draw the tools" not in text, "what is done is not printed again"
    page.get_by_role("link", name="Key in a sheet").click()

    # Type, Enter, next; the one who wrote is another than the one who types.
    expect(page.locator("input.entry")).to_be_focused()
    choose(page, "Written by", "Lio Sandvik")
    page.locator("input.entry").click()
    looks_accessible(page)
    for value in ("19.0", "612.034", "19.1", "612.028"):
        before = page.locator(".line.in").count()
        page.keyboard.type(value)
        page.keyboard.press("Enter")
        expect(page.locator(".line.in")).to_have_count(before + 1)
    read = player.state().live("length-before/length/2")
    assert read is not None
    assert read.paper is not None
    assert (read.paper.by.name, read.by.name, read.source) == ("Lio Sandvik", "Bram Okafor", "paper")

    # Out of band shows at once, what cannot be is refused and stays on the line.
    page.keyboard.type("19.0")
    page.keyboard.press("Enter")
    expect(page.locator(".line.now")).to_contain_text("length")
    page.keyboard.type("621.9")
    page.keyboard.press("Enter")
    expect(page.get_by_role("alert")).to_contain_text("longer than it was")
    page.get_by_role("button", name="It does read 621.9 mm").click()
    expect(page.locator(".line.hatched")).to_contain_text("above the band")
    page.keyboard.type("warm")
    page.keyboard.press("Enter")
    expect(page.get_by_role("alert")).to_contain_text("is not the kind of value")
    expect(page.locator("input.entry")).to_have_value("warm")
    looks_accessible(page)
    page.goto(f"{site.address}/records/{player.run_id}")
    expect(page.locator("main")).to_contain_text("from paper: Lio Sandvik")
