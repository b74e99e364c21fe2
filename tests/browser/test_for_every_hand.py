"""A head is landed on a phone in Spanish, from sign-in to the record; each screen says once what it is for."""

from __future__ import annotations

import contextlib
import io
import re

from playwright.sync_api import Browser, Page, TimeoutError, expect
from pypdf import PdfReader

from jorvek.local.demo import DEMO_PIN
from jorvek.work.people.accounts import person_by_name
from tests.browser.conftest import A_LOOK_MS, OpenTablet, Site, browser_context, sign_in
from tests.browser.hands import BETWEEN_PRESSES_MS
from tests.browser.test_story import download
from tests.browser.walking import looks_accessible


def seq(page: Page) -> int:
    return int(page.locator("main.bench").get_attribute("data-seq") or 0)


def answer(page: Page) -> None:
    """Answer the call that stands there as if all were well, and see it stored."""
    before = seq(page)
    choices = page.locator(".choices button")
    words = page.locator(".foot").get_by_role("textbox")
    if choices.count():
        choices.first.click()
    else:
        if words.count():
            words.fill("JT-7L34, lote 12")
        page.locator(".foot .big").click()
    expect(page.locator("main.bench")).to_have_attribute("data-seq", str(before + 1))
    page.clock.run_for(BETWEEN_PRESSES_MS)


def test_a_head_is_landed_on_a_phone_in_spanish(site: Site, browser: Browser) -> None:
    site.world.found("unit-2", head_4="open")
    context = browser_context(browser, width=390, height=844)
    page = context.new_page()
    page.goto(site.address)
    sign_in(page, "Bram Okafor")

    # The language is the person's: it is there on any tablet from now on.
    page.get_by_role("button", name="Go to").click()
    settings = page.get_by_role("button", name="Settings", exact=True)
    # A menu may still move under the finger while it opens.
    while page.get_by_role("button", name="Español").count() == 0:
        with contextlib.suppress(TimeoutError):
            settings.click(timeout=A_LOOK_MS)
            page.get_by_role("button", name="Español").wait_for(timeout=A_LOOK_MS)
    page.get_by_role("button", name="Español").click()
    expect(page.get_by_role("dialog", name="Ajustes")).to_be_visible()
    looks_accessible(page)
    page.get_by_role("button", name="Cerrar", exact=True).click()
    assert person_by_name(site.world.workshop, "Bram Okafor").language == "es"
    expect(page.locator("html")).to_have_attribute("lang", "es")

    page.get_by_role("button", name=re.compile("^Head 4: abierto")).click()
    page.get_by_role("button", name="Empezar: Tarnholt 7L34 — cylinder head — land").click()
    page.locator(".call h1").wait_for()
    looks_accessible(page)
    page.clock.install()
    page.reload()
    page.locator(".call h1").wait_for()
    while page.get_by_role("heading", name="Todas las indicaciones hechas").count() == 0:
        answer(page)
    page.get_by_role("button", name="Cerrar la ejecución").click()
    expect(page.get_by_role("heading", name="Cerrada")).to_be_visible()
    page.get_by_role("link", name="Abrir el acta").click()
    expect(page.locator("main")).to_contain_text("Ninguna excepción")
    paper = "\n".join(one.extract_text() for one in PdfReader(io.BytesIO(download(page, "PDF"))).pages)
    assert "Escanea para abrir" in paper
    assert "Scan to open" not in paper

    # What is refused is said in the same language, by the server, too.
    page.evaluate("fetch('/api/session', {method: 'DELETE'})")
    said = page.evaluate("fetch('/api/berth').then((answer) => answer.json())")
    assert said["detail"].startswith("Nadie ha iniciado sesión")
    context.close()


def test_a_screen_says_once_what_it_is_for_and_help_and_search_are_a_touch_away(site: Site, browser: Browser) -> None:
    site.world.started().play(lambda cell: cell.fastener == "2")
    context = browser_context(browser)
    context.add_init_script("localStorage.setItem('jorvek.hints', 'on')")
    page = context.new_page()
    page.goto(site.address)
    sign_in(page, "Lio Sandvik")
    hint = page.get_by_role("complementary", name="Help")
    expect(hint).to_contain_text("All engines at a glance")
    looks_accessible(page)
    hint.get_by_role("button", name="Understood").click()
    expect(hint).to_have_count(0)
    page.goto(f"{site.address}/tools")
    expect(hint).to_contain_text("Every tool")
    page.goto(site.address)
    page.locator(".engine").first.wait_for()
    expect(hint).to_have_count(0)

    page.keyboard.press("?")
    expect(page.get_by_role("dialog", name="Help")).to_contain_text("Hold point")
    looks_accessible(page)
    page.keyboard.press("Escape")
    page.keyboard.press("/")
    page.get_by_role("searchbox").fill("head 4")
    found = page.get_by_role("dialog", name="Search")
    expect(found.get_by_role("listitem").filter(has_text="record")).to_contain_text("Unit 2 · Head 4")
    looks_accessible(page)
    page.get_by_role("searchbox").fill("unit 2 head 4 3")
    found.get_by_role("listitem").filter(has_text="stud").get_by_role("button").click()
    expect(page.locator("main.record")).to_contain_text("Nothing is recorded of stud 3 yet.")
    page.goto(f"{page.url.partition('?')[0]}?stud=1")
    marked = page.locator("[aria-current=true]").first
    expect(marked).to_be_in_viewport()
    assert marked.locator("b, th").first.inner_text() == "1"
    page.keyboard.press("/")
    page.get_by_role("searchbox").fill("PG-12")
    expect(found.get_by_role("listitem")).to_have_count(1)
    page.keyboard.press("Enter")
    page.wait_for_url("**/tools")
    context.close()


def test_dark_light_large_and_aloud_are_the_tablets(site: Site, tablet: OpenTablet) -> None:
    page = tablet("Lio Sandvik")
    page.evaluate("""() => {
        window.said = [];
        window.speechSynthesis.speak = (one) => window.said.push(`${one.lang} ${one.text}`);
    }""")
    expect(page.locator(".v-application")).to_have_class(re.compile("v-theme--paper"))
    page.locator("header.bar").get_by_role("button", name="Lio Sandvik").click()
    for key in ("Dark", "Large figures", "Read calls aloud"):
        page.get_by_role("button", name=key, exact=True).click()
        expect(page.get_by_role("button", name=key, exact=True)).to_have_attribute("aria-pressed", "true")
    expect(page.locator(".v-application")).to_have_class(re.compile("v-theme--bench"))
    expect(page.locator("html")).to_have_class(re.compile("large"))
    looks_accessible(page)
    page.get_by_role("button", name="Close", exact=True).click()
    looks_accessible(page)
    site.world.started("Lio Sandvik")
    page.keyboard.press("g")
    page.keyboard.press("e")
    page.get_by_role("link", name=re.compile("Head 4")).click()
    page.locator(".call h1").wait_for()
    page.wait_for_function("window.said.length > 0")
    assert page.evaluate("window.said[0]").startswith("en-GB ")
    page.keyboard.press("l")
    page.wait_for_function("window.said.length > 1")
    page.reload()
    expect(page.locator("html")).to_have_class(re.compile("large"))


def test_an_address_that_leads_nowhere_says_so(site: Site, tablet: OpenTablet) -> None:
    page, nobody = tablet("Lio Sandvik"), "00000000-0000-4000-8000-000000000000"
    for path in (f"bench/{nobody}", f"records/{nobody}", f"sheet/{nobody}", "engine/none", "engine/none/board"):
        page.goto(f"{site.address}/{path}")
        expect(page.get_by_role("heading", name="There is nothing to show here")).to_be_visible()
        expect(page.locator("#content")).to_contain_text("There is no")
        looks_accessible(page)
    page.get_by_role("link", name="To the Berth").click()
    page.locator(".engine").first.wait_for()


def test_what_waits_for_a_chief_stands_in_the_bar_wherever_they_are(site: Site, tablet: OpenTablet) -> None:
    player = site.world.started("Bram Okafor", "head-4")
    ines = tablet("Ines Halloran")
    ines.goto(f"{site.address}/gates")
    expect(ines.get_by_role("heading", name="Gates")).to_be_attached()
    expect(ines.get_by_text("for you")).to_have_count(0)
    player.play(lambda cell: cell.key == "chief-sees/sign")
    ines.get_by_role("button", name="1 for you").click()
    waiting = ines.get_by_role("link", name=re.compile("Unit 2 · Head 4 — hold point"))
    looks_accessible(ines)
    waiting.click()
    expect(ines).to_have_url(f"{site.address}/bench/{player.run_id}")
    ines.locator(".foot .big").click()
    ines.get_by_role("dialog", name="Sign the hold point").wait_for()
    ines.keyboard.type(DEMO_PIN)
    ines.keyboard.press("Enter")
    expect(ines.get_by_role("heading", name="All calls done")).to_be_visible()
    # Signed, it waits no more; that the run is closed does.
    ines.get_by_role("button", name="1 for you").click()
    expect(ines.get_by_role("link", name=re.compile("Unit 2 · Head 4 — "))).to_be_visible()
    expect(waiting).to_have_count(0)


def test_the_call_is_two_stops_from_the_top_of_the_page(site: Site, tablet: OpenTablet) -> None:
    """Whoever goes by the keyboard skips the bar, and stands at the call."""
    player = site.world.started("Bram Okafor", "head-4")
    player.play(lambda cell: cell.ask == "tool")
    bram = tablet("Bram Okafor")
    bram.goto(f"{site.address}/bench/{player.run_id}")
    bram.locator(".call .tool").first.wait_for()
    bram.keyboard.press("Tab")
    bram.keyboard.press("Enter")
    bram.keyboard.press("Tab")
    expect(bram.locator(".call :focus")).to_have_count(1)
