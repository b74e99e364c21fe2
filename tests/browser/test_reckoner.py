"""Bram does his sums away from a run: one page, live, by keyboard, in his own units."""

from __future__ import annotations

import re

from playwright.sync_api import Page, expect

from tests.browser.conftest import OpenTablet, Site, choose
from tests.browser.test_story import UNTRANSLATED
from tests.browser.walking import looks_accessible


def fill(page: Page, label: str, value: str) -> None:
    page.get_by_label(label, exact=True).fill(value)


def test_a_sum_follows_the_typing_and_says_why(site: Site, tablet: OpenTablet) -> None:
    page = tablet("Bram Okafor")
    page.keyboard.press("g")
    page.keyboard.press("k")
    expect(page.get_by_role("heading", level=1)).to_have_text("Which pressure leaves the load I want?")
    answer = page.locator(".first")
    expect(answer).to_contain_text("1000")
    expect(page.get_by_text("A sum, not a target.")).to_be_visible()
    expect(page.locator(".preset")).to_contain_text("Tarnholt 7L34 · Head stud M52×3")
    looks_accessible(page)

    # The load of the first stage, typed with a comma, gives the first pressure; the why carries the numbers.
    fill(page, "Load to be left", "520,6")
    expect(answer).to_contain_text("600")
    expect(answer).to_contain_text("± 11")
    expect(page.locator(".why math").nth(1)).to_contain_text("520")

    # His gauge is in psi; the figure turns over with a tap until it is there, and stays so.
    unit = page.get_by_role("button", name=re.compile("Unit of Pressure at the tool"))
    for _ in range(2):
        unit.click()
    expect(answer).to_contain_text("psi")
    expect(answer).to_contain_text("8703")
    page.reload()
    expect(answer).to_contain_text("8703")
    expect(page.get_by_label("Load to be left", exact=True)).to_have_value("520,6")

    # Wrong input is said at its field, with what is allowed; nothing is repaired.
    fill(page, "Hole", "80")
    expect(page.locator(".trouble")).to_have_text(
        "hole (80) and face of the nut (78) contradict each other: such a part cannot exist."
    )
    expect(page.locator(".preset")).to_contain_text("own numbers")
    choose(page, "Numbers of", "Tarnholt 7L34 · Head stud M52×3")
    expect(page.locator(".trouble")).to_have_count(0)
    fill(page, "Load to be left", "")
    expect(page.locator(".gap")).to_have_text("Fill in: Load to be left")

    # Torque by keyboard alone: 2 chooses it, Tab reaches the fields.
    page.locator("h1").click()
    page.keyboard.press("2")
    expect(page.get_by_role("heading", level=1)).to_have_text("What torque with this lubricant?")
    expect(answer).to_contain_text("240.1")
    page.get_by_label("What is known").focus()
    page.keyboard.press("Tab")
    expect(page.get_by_label("Load", exact=True)).to_be_focused()
    page.keyboard.press("Tab")
    page.keyboard.press("Tab")
    expect(page.get_by_label("Friction, lowest")).to_be_focused()
    page.keyboard.type("12")
    expect(page.locator(".trouble")).to_have_text("lowest friction is 12; allowed is 0 to 1.")
    fill(page, "Friction, lowest", "0.08")
    fill(page, "Friction, highest", "0.10")
    expect(answer).to_contain_text("185")


def test_every_question_has_its_drawing_and_is_readable_by_everybody(site: Site, tablet: OpenTablet) -> None:
    page = tablet("Dessa Marlow", language="pseudo")
    left: dict[str, list[str]] = {}
    for name in (
        "pressure",
        "torque",
        "angle",
        "extension",
        "stretch",
        "back_off",
        "units",
        "strip",
        "friction",
        "working",
        "hold",
    ):
        page.goto(f"{site.address}/reckoner/{name}")
        expect(page.locator(".picture svg")).to_be_visible()
        expect(page.locator(".first .number .figure")).not_to_be_empty()
        looks_accessible(page)
        if texts := page.evaluate(UNTRANSLATED):
            left[name] = texts
    assert left == {}
