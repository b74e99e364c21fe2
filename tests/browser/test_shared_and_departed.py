"""Two tablets on one head, a night in between, a bolt out of turn, a stud that goes for good, a fault on a sister."""

from __future__ import annotations

import re

from playwright.sync_api import Page, expect

from jorvek.local.demo import DEMO_PIN
from jorvek.local.drawn import drawn_photo
from tests.browser.conftest import OpenTablet, Site
from tests.browser.hands import photograph
from tests.browser.test_story import Bench
from tests.browser.test_turned_and_freed import on_bench, playing
from tests.browser.walking import looks_accessible

V10 = "corvane-v10-head-tighten"


def with_pin_of(page: Page, name: str) -> None:
    """Somebody else comes over and does this one act with their own PIN."""
    page.get_by_role("button", name=name).last.click()
    expect(page.get_by_role("dialog")).to_contain_text(name)
    eight, zero = (
        page.get_by_role("dialog").get_by_role("button", name=digit, exact=True).bounding_box() for digit in "80"
    )
    assert eight is not None
    assert zero is not None
    assert (zero["x"], zero["y"] > eight["y"]) == (eight["x"], True), "0 stands under 8"
    page.keyboard.type(DEMO_PIN)
    page.keyboard.press("Enter")
    expect(page.get_by_role("dialog")).to_have_count(0)


def test_the_chief_signs_and_closes_on_the_mechanics_tablet(site: Site, tablet: OpenTablet) -> None:
    player = playing(site, ("unit-2", "head-4"), "tarnholt-7l34-head-tighten", "tools/oil-gauge")
    lio = tablet("Lio Sandvik")
    on_bench(site, lio, player)

    # A tool says in its row why it will not do, and whose word an expired one wants.
    short = lio.get_by_role("button", name="PG-04")
    expect(short).to_be_disabled()
    expect(short).to_contain_text("at least 1100 bar is wanted")
    expect(lio.get_by_role("button", name="PG-07")).to_contain_text("lead hand")
    looks_accessible(lio)

    # A PIN is for the call over which it was asked, and for no other that stands there by then.
    short_of_it = lio.get_by_role("button", name="PG-07")
    short_of_it.click()
    lio.get_by_label("Reason").fill("No other gauge here")
    lio.get_by_role("button", name="Confirm").click()
    lio.get_by_role("button", name="Bram Okafor").last.click()
    player.play(lambda cell: cell.key == "tools/depth-gauge")
    expect(lio.locator("main.bench")).to_have_attribute("data-seq", str(player.state().seq))
    lio.keyboard.type(DEMO_PIN)
    lio.keyboard.press("Enter")
    expect(lio.get_by_role("status").filter(has_text="The work has gone on meanwhile")).to_be_visible()
    assert player.state().live("tools/depth-gauge") is None

    player.play()
    lio.reload()
    other = lio.get_by_role("region", name="For somebody else")
    expect(other).to_contain_text("This wants the chief")
    expect(other.get_by_role("button")).to_have_count(1)
    looks_accessible(lio)
    with_pin_of(lio, "Ines Halloran")
    done = lio.get_by_role("button", name="Close the run")
    expect(done).to_contain_text("lead hand")
    done.click()
    with_pin_of(lio, "Bram Okafor")
    expect(lio.get_by_role("heading", name="Closed")).to_be_visible()
    assert [s.event.author.name for s in site.world.workshop.log.stored(player.run_id)[-2:]] == [
        "Ines Halloran",
        "Bram Okafor",
    ]
    expect(lio.locator("header.bar")).to_contain_text("Lio Sandvik")


def test_two_share_a_head_and_a_night_lies_between(site: Site, tablet: OpenTablet) -> None:
    player = playing(site, ("unit-5", "head-b"), V10, "run-down/contact/9", tool="bar")
    bram, lio = tablet("Bram Okafor"), tablet("Lio Sandvik")
    for page in (bram, lio):
        on_bench(site, page, player)

    # Each takes a part; the other's heads carry initials, and the calls go to whoever has them.
    bram.keyboard.press("h")
    expect(bram.get_by_role("dialog")).to_contain_text("Run down")
    looks_accessible(bram)
    bram.get_by_role("button", name="Share the work").click()
    for name in ("9", "15"):
        bram.get_by_role("dialog").get_by_role("button", name=name, exact=True).click()
    looks_accessible(bram)
    bram.get_by_role("button", name="Take these").click()
    expect(lio.get_by_role("heading", name="Your part is done for now")).to_be_visible()
    expect(lio.locator(".plan .holder")).to_have_text(["BO", "BO"])
    Bench(bram).head("Bolt 9")

    # A bolt out of its turn is a lead hand's word, given on whichever tablet is at hand.
    lio.locator(".head").filter(has_text=re.compile(r"^\s*10\s*$")).click()
    lio.get_by_label("Reason").fill("Bracket in the way of 9")
    lio.get_by_role("button", name="Confirm").click()
    looks_accessible(lio)
    with_pin_of(lio, "Bram Okafor")
    Bench(lio).head("Bolt 10")
    assert site.world.workshop.log.stored(player.run_id)[-1].event.author.name == "Bram Okafor"
    Bench(lio).space()

    # The oil does not outlast the night.
    site.world.clock.forward(11 * 3600)
    bram.reload()
    expect(bram.locator(".aged")).to_contain_text("11 h")
    looks_accessible(bram)
    bram.get_by_role("button", name="Looked: still good").click()
    Bench(bram).head("Bolt 9")

    # Own units stand beside the author's.
    bram.locator("header.bar").get_by_role("button", name="Bram Okafor").click()
    bram.get_by_role("button", name="lbf·ft").click()
    looks_accessible(bram)
    bram.get_by_role("button", name="Close").click()
    player.play(lambda cell: cell.key == "snug/setting")
    bram.reload()
    expect(bram.locator(".call")).to_contain_text("55")
    expect(bram.locator(".call .own")).to_contain_text("40.6 lbf·ft")

    # A call is left out only by name, and the record says so.
    player.play(lambda cell: cell.key == "snug/pull/9")
    bram.reload()
    Bench(bram).head("Bolt 9")
    bram.keyboard.press("t")
    bram.get_by_role("button", name="Leave this call out").click()
    bram.get_by_label("Reason").fill("Taken at the second torque")
    bram.get_by_role("button", name="Confirm").click()
    Bench(bram).head("Bolt 15")
    bram.goto(f"{site.address}/records/{player.run_id}")
    for text in ("left out", "Taken at the second torque", "Bracket in the way of 9", "Looked at again"):
        expect(bram.locator("main")).to_contain_text(text)
    looks_accessible(bram)


def test_a_stud_goes_for_good_with_its_picture_and_a_fault_is_looked_for_on_the_sister(
    site: Site, tablet: OpenTablet
) -> None:
    name = "tarnholt-7l34-head-loosen"
    done = playing(site, ("unit-2", "head-6"), name, "nothing")
    done.photograph("look/decision/1")
    player = playing(site, ("unit-2", "head-5"), name, "look/decision/1")
    page = tablet("Bram Okafor")
    on_bench(site, page, player)
    bench = Bench(page)
    page.get_by_role("button", name="replace").click()
    page.get_by_label("Why, where").fill("Thread torn")
    expect(page.locator(".choices").get_by_role("button", name="Confirm")).to_be_disabled()
    page.get_by_label("Mark on the piece").fill("U2-H5-1")
    looks_accessible(page)
    page.locator(".choices").get_by_role("button", name="Confirm").click()
    expect(page.locator(".debts")).to_contain_text("photograph")

    # What is no photograph is refused and changes nothing; a picture is kept upright and without the camera's notes.
    before = player.state().seq
    wrong = {"name": "x.jpg", "mimeType": "image/jpeg", "buffer": b"not a picture"}
    # The library wants its own typed dictionary.
    page.locator("input[type=file]").set_input_files([wrong])  # type: ignore[arg-type]  # the stub wants a TypedDict
    expect(page.get_by_text("not a photograph")).to_be_visible()
    assert player.state().seq == before
    photograph(page, 3)
    expect(page.locator(".debts")).not_to_contain_text("photograph")
    (kept,) = player.state().photos
    picture = page.request.get(f"{site.address}/api/photos/{kept.photo}.jpg")
    assert picture.ok
    assert b"Exif" not in picture.body()
    assert picture.body() != drawn_photo(3), "it is drawn anew"

    # A dark track on the face here is looked for on the sister, whose look was over.
    player.play(lambda cell: cell.key == "faces/head")
    page.reload()
    bench.head("Look, listen, feel")
    page.get_by_role("button", name="wrong").click()
    page.get_by_label("Why, where").fill("Dark track, flywheel side")
    page.locator(".choices").get_by_role("button", name="Confirm").click()
    page.get_by_role("button", name="On sisters too").click()
    page.get_by_label("What was found").fill("Gas track across the face")
    looks_accessible(page)
    page.get_by_role("button", name="Confirm").click()
    expect(page.get_by_role("dialog")).to_have_count(0)
    lio = tablet("Lio Sandvik")
    lio.get_by_role("link", name=re.compile("Unit 2 · Head 6 — look again")).click()
    expect(lio.locator(".note")).to_contain_text("Gas track across the face")
    expect(lio.locator(".note")).to_contain_text("Make the check again first")
    lio.get_by_role("button", name="right").click()
    lio.get_by_role("button", name="Sound here").click()
    lio.get_by_label("What was seen").fill("Even grey all round")
    looks_accessible(lio)
    lio.get_by_role("button", name="Confirm").click()
    expect(lio.locator(".note")).to_have_count(0)
