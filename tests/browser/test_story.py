"""Head 4 of Unit 2, from the first click to a signed record, on two tablets."""

from __future__ import annotations

import csv
import io
import json
import re

from playwright.sync_api import Page, expect
from pypdf import PdfReader

from jorvek.core.run.log.events import FeelerAnswer
from jorvek.local.demo import DEMO_PIN
from jorvek.store.verify import verify
from tests.browser.conftest import OpenTablet, Site, choose, sign_in
from tests.browser.walking import looks_accessible

DOUBLE_PRESS_MS = 750


class Bench:
    """What a mechanic sees and does on the Bench."""

    def __init__(self, page: Page) -> None:
        self.page = page
        page.clock.install()

    def head(self, text: str) -> None:
        expect(self.page.locator(".call h1")).to_have_text(text)

    def at(self, cell: str, count: str) -> None:
        expect(self.page.locator(".row.current .title")).to_have_text(cell)
        expect(self.page.locator(".row.current .count")).to_have_text(count)

    def rest(self) -> None:
        """Two presses within 700 ms are one; hands are not that fast."""
        self.page.clock.run_for(DOUBLE_PRESS_MS)
        expect(self.page.locator("#bar-slot")).not_to_contain_text("storing")

    def press(self, name: str) -> None:
        self.rest()
        self.page.locator(".foot").get_by_role("button", name=name).click()

    def space(self) -> None:
        self.rest()
        self.page.keyboard.press("Space")

    def type(self, value: str) -> None:
        self.rest()
        self.page.keyboard.type(value)
        self.page.keyboard.press("Enter")

    def tap(self, value: str) -> None:
        """Enter a value on the glove keys."""
        self.rest()
        pad = self.page.get_by_role("group", name="Number keys")
        for sign in value:
            pad.get_by_role("button", name="Decimal point" if sign == "." else sign, exact=True).click()
        self.page.get_by_role("button", name="Record").click()

    def last(self, *texts: str) -> None:
        for text in texts:
            expect(self.page.locator(".last")).to_contain_text(text)


def test_head_4_is_tightened_handed_over_signed_closed_and_taken_away(site: Site, tablet: OpenTablet) -> None:
    clock = site.world.clock
    site.world.found("unit-2", head_4="landed")
    page = tablet("Bram Okafor")
    looks_accessible(page)
    unit_2 = page.locator(".engine").filter(has=page.get_by_role("heading", name="Unit 2"))
    unit_2.get_by_role("button", name=re.compile("^Head 4")).click()
    page.get_by_role("button", name="Start: Tarnholt 7L34 — cylinder head — tighten").click()
    bench = Bench(page)

    # Preparations, one by one; a second press right after the first is not a second capture.
    bench.head("Confirm")
    page.keyboard.press("Space")
    page.keyboard.press("Space")
    bench.at("Before the tools", "1/4")
    for _ in range(3):
        bench.space()
    bench.head("Take the tool")
    looks_accessible(page)
    bench.press("PG-07")
    expect(page.get_by_role("dialog", name="Calibration has run out")).to_be_visible()
    looks_accessible(page)
    page.get_by_role("button", name="Cancel").click()
    for tool in ("PG-12", "HT-52", "DP-01", "SG-03", "CT-01"):
        bench.press(tool)

    # Lengths and temperatures; one is mistyped, judged at once, struck and taken again.
    bench.head("Stud 1")
    bench.type("19.0")
    bench.tap("612.034")
    bench.last("612.034 mm", "in band", "Bram Okafor")
    bench.type("19.0")
    bench.type("621.028")
    question = page.get_by_role("alert")
    # Two digits exchanged: what was meant is offered, what was typed stays in the field, nothing is stored yet.
    expect(question).to_contain_text("Was 612.028 mm meant?")
    expect(page.get_by_role("button", name="Take 612.028 mm", exact=False)).to_be_visible()
    looks_accessible(page)
    page.get_by_role("button", name="It does read 621.028 mm").click()
    expect(question).to_contain_text("above the band")
    looks_accessible(page)
    page.get_by_role("button", name="Cross out last").click()
    # What is struck, and whose it is, is read before it goes; a second thought lets it stand.
    sheet = page.get_by_role("dialog", name="Cross out this reading?")
    expect(sheet).to_contain_text("621.028 mm, by Bram Okafor")
    sheet.get_by_role("button", name="Keep it").click()
    expect(question).to_contain_text("above the band")
    page.keyboard.press("Backspace")
    sheet.get_by_role("button", name="Mistyped").click()
    expect(question).to_have_count(0)
    bench.head("Stud 2")
    bench.type("612,028")
    bench.last("612,028 mm", "in band")

    # The plan turns to where he stands, and stays so; he takes stud 4 before stud 3.
    page.keyboard.press("r")
    expect(page.locator(".edge.top")).to_have_text("flywheel end")
    page.get_by_role("button", name="Stud 4", exact=False).click()
    bench.head("Stud 4")
    bench.type("19.1")
    page.get_by_role("button", name="Stud 4", exact=False).click()
    bench.type("612.019")
    page.get_by_role("button", name="Turn view").click()
    page.get_by_role("button", name="Mirror").click()
    for value in ("19.1", "612.041"):
        bench.type(value)

    # Grease by its name and batch, face by face; then each nut down by hand.
    bench.head("What is at hand")
    bench.rest()
    page.locator(".choices button").first.click()
    bench.head("Batch")
    bench.rest()
    page.locator(".foot").get_by_role("textbox").fill("KM-7")
    page.keyboard.press("Enter")
    bench.at("Grease", "2/5")
    for _ in range(3):
        bench.space()
    bench.head("Run down")
    bench.rest()
    page.locator(".choices button").first.click()
    bench.at("Nuts down by hand", "1/5")
    for _ in range(4):
        bench.space()
    for _ in range(4):
        bench.type("72")

    # Tools on: pistons home, no backing off. The ceiling is a deliberate act, never the space bar.
    expect(page.locator(".call")).to_contain_text("pistons home")
    for _ in range(4):
        bench.space()
    expect(page.locator(".debts")).to_contain_text("tools on 1, 2, 3, 4")
    bench.head("Ceiling")
    page.keyboard.type("1045")
    bench.space()
    bench.head("Ceiling")
    page.keyboard.press("Enter")
    for _ in range(5):
        bench.space()

    # First pressure.
    bench.head("Before pressure")
    bench.space()
    bench.head("Before pressure")
    bench.press("Everybody is clear")
    expect(page.locator(".call .band").first).to_contain_text("600 … 610")
    bench.type("605")
    bench.head("Hold")
    bench.space()
    expect(question).to_contain_text("not stood long enough")
    clock.forward(21)
    bench.space()
    for nut in "1234":
        bench.head(f"Nut {nut}")
        bench.space()
    bench.type("600")

    # Second pressure; he is called away between two nuts.
    bench.press("Everybody is clear")
    bench.type("1005")
    bench.last("1005 bar", "in band")
    clock.forward(31)
    bench.space()
    bench.space()
    bench.head("Nut 2")
    looks_accessible(page)
    page.keyboard.press("n")
    expect(page.get_by_role("textbox", name="Note on this run")).to_be_focused()
    page.keyboard.type("Stroke mark at 7 mm")
    expect(page.get_by_role("textbox", name="Note on this run")).to_have_value("Stroke mark at 7 mm")
    page.get_by_role("button", name="Confirm").click()
    page.keyboard.press("h")
    page.get_by_role("dialog").get_by_role("button", name="Pause here").click()
    expect(page.get_by_role("heading", name="Paused")).to_be_visible()

    # Lio takes over on a second tablet exactly where it stands: two touches from the Berth.
    second = tablet("Lio Sandvik")
    second.get_by_role("link", name="Bram Okafor — Unit 2 · Head 4").click()
    second.get_by_role("button", name="Take over").click()
    lio = Bench(second)
    lio.head("Nut 2")
    bench.head("Nut 2")
    for nut in "234":
        lio.head(f"Nut {nut}")
        lio.space()
    expect(page.locator(".call h1")).to_have_text("All tools")
    lio.type("1000")
    for _ in range(4):
        lio.press("Does not enter")
    lio.head("Relieve")
    lio.type("0")
    for _ in range(4):
        lio.space()
    for value in ("613.180", "613.175", "613.190", "613.165"):
        lio.type("20.0")
        lio.type(value)
        lio.last("in band")
    lio.head("All studs")
    expect(second.locator(".call p.big")).to_have_text("0.004mm")
    lio.space()

    # Whoever did the work cannot sign; the chief looks, and signs with her PIN.
    lio.head("Hold point")
    expect(second.get_by_role("region", name="For somebody else")).to_contain_text("This wants the chief")
    third = tablet("Ines Halloran")
    looks_accessible(third)
    third.get_by_role("link", name="Unit 2 · Head 4 — hold point").click()
    ines = Bench(third)
    ines.press("Sign")
    sign(third)
    third.get_by_role("button", name="Close the run").click()
    expect(third.get_by_role("heading", name="Closed")).to_be_visible()
    expect(second.get_by_role("heading", name="Closed")).to_be_visible()

    # The record leaves.
    third.get_by_role("link", name="Open the record").click()
    expect(third.locator("s").first).to_have_text("621.028 mm")
    looks_accessible(third)
    files = {kind: download(third, kind) for kind in ("PDF", "CSV", "JSON")}
    text = "\n".join(p.extract_text() for p in PdfReader(io.BytesIO(files["PDF"])).pages)
    assert "621.028 mm" in text
    assert "signed by Ines Halloran, chief" in text
    rows = list(csv.DictReader(io.StringIO(files["CSV"].decode())))
    assert {row["by"] for row in rows} == {"Bram Okafor", "Lio Sandvik", "Ines Halloran"}
    assert json.loads(files["JSON"])["record"]["status"] == "closed"
    third.goto(f"{site.address}/records")
    expect(third.get_by_role("row", name="Unit 2 · Head 4")).to_contain_text("closed")
    third.get_by_role("searchbox").fill("bram head 5")
    expect(third.get_by_role("status").filter(has_text="No run is like that")).to_be_visible()
    third.get_by_role("searchbox").fill("BRAM head 4 tighten")
    choose(third, "State", "with exceptions")
    expect(third.get_by_role("row")).to_have_count(2)
    choose(third, "State", "closed")
    expect(third.get_by_role("row")).to_have_count(2)
    looks_accessible(third)
    assert verify(site.world.workshop.database).alterations == ()


def sign(page: Page) -> None:
    sheet = page.get_by_role("dialog", name="Sign the hold point")
    sheet.wait_for()
    for digit in DEMO_PIN:
        sheet.get_by_role("button", name=digit, exact=True).click()
    sheet.get_by_role("button", name="Sign").click()


def download(page: Page, kind: str) -> bytes:
    with page.expect_download() as waiting:
        page.get_by_role("link", name=kind, exact=True).click()
    return waiting.value.path().read_bytes()


UNTRANSLATED = """
() => {
  const found = [];
  const walker = document.createTreeWalker(document.body, NodeFilter.SHOW_TEXT);
  while (walker.nextNode()) {
    const node = walker.currentNode, parent = node.parentElement;
    if (!parent || parent.closest('[translate=no], script, style, noscript')) continue;
    const text = node.textContent.replace(/⟦[^⟦⟧]*⟧/g, '');
    if (/\\p{L}{2,}/u.test(text.replace(/⟦|⟧/g, '')) && !/⟦/.test(whole(node))) found.push(text.trim());
  }
  for (const element of document.querySelectorAll('[aria-label], [title], [placeholder]')) {
    for (const name of ['aria-label', 'title', 'placeholder']) {
      const text = element.getAttribute(name);
      if (text && /\\p{L}{3,}/u.test(text) && !text.includes('⟦') && !element.closest('[translate=no]')) {
        found.push(`${name}: ${text}`);
      }
    }
  }
  return found;
  function whole(node) {
    let element = node.parentElement;
    for (let i = 0; i < 3 && element; i++, element = element.parentElement) {
      if (element.textContent.includes('⟦')) return element.textContent;
    }
    return node.textContent;
  }
}
"""


def test_in_a_made_up_language_no_text_is_left_untranslated(site: Site, tablet: OpenTablet) -> None:
    player = site.world.started("Bram Okafor", "head-3")
    state = player.play(lambda cell: cell.key == "second/feeler/2")
    page = tablet("Ines Halloran", language="pseudo")
    left: dict[str, list[str]] = {}

    def look(where: str) -> None:
        page.wait_for_timeout(250)
        assert page.get_by_text("⟦").count() > 3
        if texts := page.evaluate(UNTRANSLATED):
            left[where] = texts

    look("berth")
    page.locator(".cell.under_way").click()
    page.get_by_role("dialog").wait_for()
    look("joint")
    looks_accessible(page)
    page.goto(f"{site.address}/bench")
    look("bench list")
    looks_accessible(page)
    page.goto(f"{site.address}/bench/{player.run_id}")
    page.locator(".call").wait_for()
    look("bench")
    page.keyboard.press("?")
    look("keys")
    looks_accessible(page)
    page.keyboard.press("Escape")
    player.answer(state.definition.by_key["second/feeler/2"], FeelerAnswer(enters=True))
    page.locator(".question").wait_for()
    look("question")
    player.play()
    page.goto(f"{site.address}/records")
    page.locator("table").wait_for()
    look("records")
    page.goto(f"{site.address}/records/{player.run_id}")
    page.locator(".record").wait_for()
    look("record")
    page.get_by_role("button", name="⟦Sígñ óút⟧").click()
    page.locator(".person").first.wait_for()
    look("sign-in")
    assert left == {}


def test_signing_in_with_a_wrong_pin_says_so(site: Site, tablet: OpenTablet) -> None:
    page = tablet("Tam Pereira")
    page.get_by_role("button", name="Sign out").click()
    looks_accessible(page)
    page.get_by_role("button", name="Tam Pereira").click()
    for digit in "999999":
        page.keyboard.press(digit)
    expect(page.get_by_role("alert")).to_contain_text("That PIN is not right")
    looks_accessible(page)
    page.get_by_role("button", name="Somebody else").click()
    sign_in(page, "Tam Pereira")
