"""A cut cable: the tablet goes on alone, outlives its page, and what does not fit any more waits for a lead hand."""

from __future__ import annotations

from uuid import uuid4

from playwright.sync_api import Page, expect

from jorvek.core.run.log.commands import StrikeReading
from jorvek.core.run.log.events import ValueAnswer
from tests.browser.conftest import OpenTablet, Site
from tests.browser.hands import photograph
from tests.browser.links import Link
from tests.browser.test_story import Bench
from tests.browser.test_turned_and_freed import playing
from tests.browser.walking import looks_accessible

STAGE = "length-before"


def waits(page: Page, n: int) -> None:
    expect(page.get_by_role("status", name=f"{n} on this tablet only")).to_be_visible()


def test_a_stage_goes_on_without_a_link_and_a_lead_hand_settles_what_clashed(site: Site, tablet: OpenTablet) -> None:
    player = site.world.started("Bram Okafor", "head-5")
    state = player.play(lambda cell: cell.key == f"{STAGE}/temperature/1")
    link = Link(site.port)
    lio = tablet("Lio Sandvik", address=link.address, worker=True)
    # What was never shown cannot be kept: the Berth is there before he leaves it.
    lio.locator("main .cell").first.wait_for()
    lio.evaluate("navigator.serviceWorker.ready")
    lio.goto(f"{link.address}/bench/{player.run_id}")
    bench = Bench(lio)
    bench.head("Stud 1")
    expect(lio.locator("#bar-slot")).to_contain_text("live")
    seen = player.state().seq

    # The cable goes. He reads on; the plan and the list say what is only here.
    link.cut()
    bench.type("19.0")
    waits(lio, 1)
    expect(lio.locator("#bar-slot")).to_contain_text("link lost")
    bench.type("612.020")
    bench.head("Stud 2")
    bench.type("19.7")
    waits(lio, 3)
    lio.keyboard.press("Backspace")
    waits(lio, 4)
    bench.head("Stud 2")
    bench.type("19.1")
    bench.type("612.031")
    waits(lio, 6)
    bench.head("Stud 3")
    looks_accessible(lio)
    lio.keyboard.press("t")
    lio.get_by_role("dialog").get_by_role("button", name="Dirt").click()
    expect(lio.get_by_role("alert")).to_contain_text("needs the server")
    assert player.state().seq == seen

    # The page dies, too. The application opens all the same, and everything is still here.
    context = lio.context
    lio.close()
    again = context.new_page()
    again.goto(f"{link.address}/")
    expect(again.get_by_role("status").filter(has_text="No link")).to_be_visible()
    expect(again.locator("header.bar")).to_contain_text("6 waiting")
    looks_accessible(again)
    again.goto(f"{link.address}/bench/{player.run_id}")
    waits(again, 6)
    Bench(again).head("Stud 3")
    again.goto(f"{link.address}/records")
    expect(again.get_by_role("alert")).to_contain_text("This page needs it")

    # Meanwhile Bram, who has a link, has read stud 2 himself.
    for stud in ("1", "2"):
        player.answer(state.definition.by_key[f"{STAGE}/temperature/{stud}"], ValueAnswer(text="18.9", unit="degC"))
        if stud == "1":
            player.send(
                StrikeReading(kind="strike", id=uuid4(), cell=f"{STAGE}/temperature/1", attempt=1, reason="Wrong stud")
            )
    link.mend()
    again.goto(f"{link.address}/bench/{player.run_id}")
    note = again.get_by_role("region", name="From a lost link: 6 to decide")
    expect(note).to_contain_text("A lead hand decides")
    expect(again.locator("header.bar")).not_to_contain_text("waiting")
    assert [claim.by.name for claim in player.state().claims] == ["Lio Sandvik"] * 6

    # The lead hand sees what was read, what stood against it, and what stands there now.
    bram = tablet("Bram Okafor")
    bram.get_by_role("link", name="Head 5 — from a lost link").click()
    note = bram.locator(".note.question").first
    expect(note).to_contain_text("19.0 °C")
    expect(note).to_contain_text("Bram Okafor")
    looks_accessible(bram)
    note.get_by_role("button", name="Take it in").click()
    expect(bram.locator(".note.question").first).to_contain_text("612.020 mm")
    bram.locator(".note.question").first.get_by_role("button", name="Take it in").click()
    third = bram.locator(".note.question").first
    expect(third).to_contain_text("There now: 2 18.9 °C")
    third.get_by_role("button", name="This one instead").click()
    expect(bram.get_by_role("region", name="From a lost link: 3 to decide")).to_contain_text("Wanted to cross it out")
    swapped = player.state().live(f"{STAGE}/temperature/2")
    assert swapped is not None
    assert (swapped.by.name, swapped.number) == ("Lio Sandvik", 2)
    bram.get_by_role("button", name="Take in all 3").click()
    expect(bram.locator(".debts")).to_contain_text("reason for crossing out")
    expect(bram.locator(".note.question")).to_have_count(0)
    last = player.state().live(f"{STAGE}/temperature/2")
    assert last is not None
    assert last.answer == ValueAnswer(text="19.1", unit="degC")
    live = player.state().live(f"{STAGE}/length/1")
    assert live is not None
    assert (live.by.name, live.answer, live.source) == (
        "Lio Sandvik",
        ValueAnswer(text="612.020", unit="mm"),
        "claim",
    )
    bram.goto(f"{site.address}/records/{player.run_id}")
    expect(bram.locator("main")).to_contain_text("taken in by Bram Okafor")
    expect(bram.locator("main")).to_contain_text("sent later")
    looks_accessible(bram)


def test_a_picture_taken_without_a_link_outlives_its_page_and_goes_out_once(site: Site, tablet: OpenTablet) -> None:
    look = "look/decision/1"
    player = playing(site, ("unit-2", "head-5"), "tarnholt-7l34-head-loosen", look)
    link = Link(site.port)
    lio = tablet("Lio Sandvik", address=link.address, worker=True)
    lio.locator("main .cell").first.wait_for()
    lio.evaluate("navigator.serviceWorker.ready")
    lio.goto(f"{link.address}/bench/{player.run_id}")
    Bench(lio).head("Stud 1")
    seen = player.state().seq
    link.cut()
    lio.get_by_role("button", name="reuse").click()
    waits(lio, 1)
    wrong = {"name": "x.jpg", "mimeType": "image/jpeg", "buffer": b"not a picture"}
    # The library wants its own typed dictionary.
    lio.locator("input[type=file]").set_input_files([wrong])  # type: ignore[arg-type]  # the stub wants a TypedDict
    expect(lio.get_by_text("not a photograph")).to_be_visible()
    photograph(lio, 3)
    waits(lio, 2)
    expect(lio.get_by_role("status", name="2 on this tablet only")).to_contain_text("Photograph")
    looks_accessible(lio)
    context = lio.context
    lio.close()
    assert player.state().seq == seen

    link.mend()
    again = context.new_page()
    again.goto(f"{link.address}/bench/{player.run_id}")
    expect(again.locator(".call")).to_contain_text("1 taken")
    expect(again.locator(".debts")).not_to_contain_text("photograph")
    (kept,) = player.state().photos
    decided = player.state().live(look)
    assert decided is not None
    assert (kept.by.name, decided.by.name) == ("Lio Sandvik", "Lio Sandvik")
    assert again.request.get(f"{site.address}/api/photos/{kept.photo}.jpg").ok
