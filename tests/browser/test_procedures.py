"""Anneke brings in a new revision, Ines looks at what changed and approves it; the bad draft shows its faults."""

from __future__ import annotations

from pathlib import Path

from playwright.sync_api import expect

from tests.api.test_procedures import NEXT
from tests.api.test_procedures import packed as packed_documents
from tests.browser.conftest import OpenTablet, Site, choose
from tests.browser.test_story import UNTRANSLATED
from tests.browser.walking import looks_accessible


def test_a_revision_is_brought_in_compared_and_approved_by_another(
    site: Site, tablet: OpenTablet, tmp_path: Path
) -> None:
    anneke = tablet("Anneke Ruhl")
    anneke.keyboard.press("g")
    anneke.keyboard.press("o")
    anneke.get_by_role("button", name="Bring in").click()
    document = tmp_path / "next.yaml"
    document.write_text(NEXT.replace("ceiling: 1050 bar", "ceiling: 1050 barn"), encoding="utf-8")
    anneke.get_by_label("Document").set_input_files(document)
    anneke.get_by_role("button", name="Take in").click()
    expect(anneke.locator(".lines li").first).to_contain_text("barn")
    looks_accessible(anneke)
    document.write_text(NEXT, encoding="utf-8")
    anneke.get_by_label("Document").set_input_files(document)
    anneke.get_by_role("button", name="Take in").click()
    expect(anneke.locator(".entry.here")).to_contain_text("rev F")
    expect(anneke.locator(".entry.here")).to_contain_text("draft")
    expect(anneke.get_by_role("button", name="Approve")).to_have_count(0)

    ines = tablet("Ines Halloran")
    ines.goto(f"{site.address}/procedures")
    ines.get_by_label("Find").fill("tighten draft")
    choose(ines, "Joint", "head")
    ines.locator(".entry").click()
    expect(ines.locator("h1")).to_have_text("Tarnholt 7L34 — cylinder head — tighten")
    expect(ines.locator(".verdict")).to_have_text("The procedure check finds nothing.")
    expect(ines.locator("rect.held")).to_have_count(2)
    expect(ines.locator(".stairs svg")).to_contain_text("860")
    choose(ines, "Compare with", "rev E")
    first = ines.locator(".changes tr").first
    expect(first).to_contain_text("steps.second.hold")
    expect(first.locator("del")).to_have_text("30 s")
    expect(first.locator("ins")).to_have_text("45 s")
    looks_accessible(ines)
    ines.get_by_role("button", name="Approve").click()
    expect(ines.locator("article .small").first).to_contain_text("approved")
    expect(ines.get_by_role("button", name="Approve")).to_have_count(0)
    with ines.expect_download() as taken:
        ines.get_by_role("link", name="Download as YAML").click()
    assert taken.value.suggested_filename == "tarnholt-7l34-head-tighten-F.yaml"

    # The draft that is wrong on purpose: each fault beside the step it stands in, and no way to approve it.
    choose(ines, "Joint", "any joint")
    ines.get_by_label("Find").fill("bad")
    ines.locator(".entry").click()
    expect(ines.locator(".verdict")).to_have_text("To be cured: 23. To be looked at: 11.")
    ceiling = ines.locator(".step", has_text="Set and prove the ceiling")
    expect(ceiling).to_contain_text("The ceiling of 1600 bar is above the tool's rating of 1500 bar.")
    expect(ines.get_by_role("button", name="Approve")).to_be_disabled()
    looks_accessible(ines)


def test_options_orders_and_two_groups_are_shown_and_a_zip_comes_in(
    site: Site, tablet: OpenTablet, tmp_path: Path
) -> None:
    page = tablet("Anneke Ruhl")
    page.goto(f"{site.address}/procedures")
    choose(page, "Engine", "Ulvane 5X46")
    page.get_by_label("Find").fill("cover tighten")
    page.locator(".entry").click()
    expect(page.locator(".stairs svg")).to_contain_text("450 bar")
    before = page.locator(".step").count()
    choose(page, "Choose", "Four tools, two groups of four")
    expect(page.locator(".stairs svg")).to_contain_text("775 bar")
    expect(page.locator(".stairs")).to_contain_text("after its neighbours")
    assert page.locator(".step").count() > before
    sheet = page.get_by_role("link", name="Work sheet").get_attribute("href")
    assert sheet is not None
    assert sheet.endswith("?choose=tools:four")
    choose(page, "Orders", "even")
    expect(page.locator(".spot .turn")).to_have_count(4)
    page.get_by_role("button", name="Play the order").click()
    expect(page.locator(".spot.now")).to_have_count(1)
    page.get_by_role("button", name="Stop").click()
    expect(page.locator(".spot.now")).to_have_count(0)

    # Two groups of bolts have a staircase each; bolts that are turned show their friction range.
    choose(page, "Engine", "Corvane V10-16")
    page.get_by_label("Find").fill("head tighten")
    page.locator(".entry").click()
    expect(page.locator(".stairs")).to_have_count(2)
    expect(page.locator(".stairs").first).to_contain_text("+105°")
    expect(page.locator(".stairs").first).to_contain_text("yields at 191")
    looks_accessible(page)

    packed = tmp_path / "both.zip"
    packed.write_bytes(packed_documents(a=NEXT, b=NEXT.replace("revision: F", "revision: G")))
    page.get_by_role("button", name="Bring in").click()
    page.get_by_label("Document").set_input_files(packed)
    page.get_by_role("button", name="Take in").click()
    expect(page.get_by_role("status")).to_have_text("Taken in: 2. Known already: 0.")
    page.get_by_label("Document").set_input_files(packed)
    page.get_by_role("button", name="Take in").click()
    expect(page.get_by_role("status")).to_have_text("Taken in: 0. Known already: 2.")

    # Whoever approves a document in three languages reads all of them, whichever is their own.
    first = "Before the tools"
    also = f"\nother_words: {{es: {{{first}: Antes de las herramientas}}, de: {{{first}: Vor den Werkzeugen}}}}\n"
    spanish = tmp_path / "spanish.yaml"
    spanish.write_text(NEXT.replace("revision: F", "revision: H") + also, encoding="utf-8")
    page.get_by_label("Document").set_input_files(spanish)
    page.get_by_role("button", name="Take in").click()
    expect(page.locator("article .small").first).to_contain_text("Also in German and Spanish")
    expect(page.locator(".step").first.locator("[lang=es]")).to_have_text("Antes de las herramientas")
    expect(page.locator(".step").first.locator("[lang=de]")).to_have_text("Vor den Werkzeugen")


def test_the_library_is_in_the_readers_language(site: Site, tablet: OpenTablet) -> None:
    page = tablet("Ines Halloran", language="pseudo")
    page.goto(f"{site.address}/procedures")
    page.locator(".step").first.wait_for()
    page.wait_for_timeout(250)
    assert page.evaluate(UNTRANSLATED) == []
