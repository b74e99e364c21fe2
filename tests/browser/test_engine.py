"""One cylinder from make safe to closed by two people on two tablets, and a main bearing of the vee engine."""

from __future__ import annotations

import re
from datetime import timedelta
from pathlib import Path
from uuid import uuid4
from zoneinfo import ZoneInfo

import pytest
from playwright.sync_api import Locator, Page, expect

from jorvek.core.overhaul.log.commands import Isolate
from jorvek.core.run.log.cells import Cell, InputType
from jorvek.core.run.rules.engine_effects import moves_crank
from jorvek.core.run.rules.progress import next_call
from jorvek.local.demo import DEMO_PIN, actor
from jorvek.local.drawn import drawn_photo
from jorvek.local.player import Player
from jorvek.work.engine import overhauls, silent_tablets, tools
from jorvek.work.engine.silent_tablets import SILENT_AFTER
from tests.browser.conftest import OpenTablet, Site, choose
from tests.browser.links import Link
from tests.browser.walking import looks_accessible

TARNHOLT = "tarnholt-7l34"
AIR = ("Gas, % of explosive limit", "0")


def sheet_of(page: Page, label: str) -> Locator:
    """Touch a joint in the long section and return the sheet that opens."""
    page.locator(f'[aria-label^="{label}:"]').click()
    sheet = page.get_by_role("dialog", name=f"Work on {label}")
    expect(sheet).to_be_visible()
    return sheet


def shut(sheet: Locator) -> None:
    sheet.get_by_role("button", name="Cancel").click()
    expect(sheet).to_be_hidden()


def begun(site: Site, who: str, joint: str, name: str, engine: str = "unit-4", **options: str) -> Player:
    digest = next(r.hash for r in site.world.workshop.registers.revisions() if (r.id, r.status) == (name, "approved"))
    player = site.world.player(who)
    player.start(engine, joint, digest, options or None, find=False)
    return player


def to_the_end(site: Site, player: Player) -> None:
    chief = actor(site.world.workshop, "Ines Halloran")
    while (asked := next_call(player.play())) is not None:
        assert asked.ask is InputType.SIGNATURE
        player.sign(chief, DEMO_PIN)
    player.close(chief)


def taken_up(site: Site, who: str, joint: str, engine: str = "unit-4") -> Player:
    """The run that was just started on the screen, in steady hands."""
    row = next(r for r in site.world.workshop.registers.runs(engine) if r.joint_key == joint and r.open)
    player = site.world.player(who)
    player.run_id = row.id
    return player


def turns(cell: Cell) -> bool:
    return cell.traits.crank == "turns"


def the_gear_is_freed_for_the_move_and_locked_again(page: Page) -> None:
    """At the joint's own call: a lock that is on refuses it, a name takes it off, and nothing else goes on before."""
    note = page.locator(".gear")
    expect(note).to_contain_text("The turning gear is locked")
    note.get_by_role("button", name="Free the turning gear for this move").click()
    sheet = page.get_by_role("dialog", name="Free the turning gear")
    expect(sheet.get_by_role("button", name="Free the turning gear for this move")).to_be_disabled()
    sheet.get_by_label("Who commands").fill("Bram Okafor")
    looks_accessible(page)
    sheet.get_by_role("button", name="Free the turning gear for this move").click()
    expect(note).to_contain_text("Turning gear free for a move of the crank, commanded by Bram Okafor")
    expect(page.locator(".engine-line")).to_contain_text("turning gear free: Bram Okafor commands")
    board = page.context.new_page()
    board.goto(f"{page.url.split('/bench/')[0]}/engine/unit-4/board")
    expect(board.locator(".panel.hot").first).to_contain_text("Hands out until it is locked again")
    looks_accessible(board)
    board.close()
    note.get_by_role("button", name="Locked again").click()
    expect(note).to_contain_text("The turning gear is locked")


def test_one_cylinder_from_make_safe_to_closed_with_every_refusal_on_the_way(site: Site, tablet: OpenTablet) -> None:
    bram, lio = tablet("Bram Okafor"), tablet("Lio Sandvik")
    page = f"{site.address}/engine/unit-4"

    # An engine that nobody has opened: the lead hand opens it as it ran.
    bram.goto(page)
    bram.get_by_role("button", name="Open an overhaul").click()
    sheet = bram.get_by_role("dialog", name="Open an overhaul on Unit 4")
    sheet.get_by_label("What it is called").fill("Cylinder 4")
    sheet.get_by_label("Everything is tight and closed up, as it ran").check()
    sheet.get_by_role("button", name="Open an overhaul").click()
    expect(bram.get_by_role("heading", name="What is next")).to_be_visible()
    looks_accessible(bram)

    # A liner under a tight head: the sheet says what is in the way, and a touch leads there.
    sheet = sheet_of(bram, "Liner 4")
    expect(sheet).to_contain_text("Head 4 is closed up; it would have to be open")
    expect(sheet).to_contain_text("Rod 4 is closed up; it would have to be open")
    expect(sheet.get_by_role("button", name=re.compile("^Start"))).to_have_count(0)
    sheet.get_by_role("button", name=re.compile("^Head 4 is closed up")).click()
    head = bram.get_by_role("dialog", name="Work on Head 4")
    offers = head.locator(".offer")
    expect(offers.first).to_contain_text("loosen")
    expect(head).to_contain_text(re.compile("land.*Later", re.DOTALL))
    head.get_by_role("button", name=re.compile("^Start")).click()
    bram.locator(".call h1").wait_for()
    to_the_end(site, taken_up(site, "Bram Okafor", "head-4"))

    # The rod: its crank waits for whoever is inside, and says who.
    rod = begun(site, "Bram Okafor", "rod-4", f"{TARNHOLT}-rod-loosen", piston="out")
    rod.play(turns)
    lio.goto(f"{page}/board")
    lio.get_by_role("button", name="Go in").click()
    entry = lio.get_by_role("dialog", name="Go in")
    for label, text in (("Permit number", "P-2207"), ("Oxygen, %", "20.9"), AIR):
        entry.get_by_label(label).fill(text)
    choose(lio, "Who stands outside", "Tam Pereira")
    choose(lio, "By which door", "door-4 (cylinder 4)")
    entry.get_by_role("button", name="Go in").click()
    expect(lio.get_by_role("button", name="Lio Sandvik is out")).to_be_visible()
    expect(lio.locator(".person").first).to_contain_text("Crankcase by door-4")
    looks_accessible(lio)
    bram.goto(f"{site.address}/bench/{rod.run_id}")
    expect(bram.locator(".sweep")).to_contain_text("Lio Sandvik is inside")
    expect(bram.locator(".engine-line")).to_contain_text("inside: Lio Sandvik")
    bram.locator(".foot .big").click()
    expect(bram.get_by_role("alert")).to_contain_text("The crank stays where it is: somebody is inside")
    comes_out(lio)
    expect(bram.locator(".sweep")).to_contain_text("The sweep is clear")
    rod.play(lambda cell: moves_crank(rod.state(), cell))
    the_gear_is_freed_for_the_move_and_locked_again(bram)
    to_the_end(site, rod)

    # The liner comes out; a head is neither landed nor tightened over it.
    to_the_end(site, begun(site, "Lio Sandvik", "liner-4", f"{TARNHOLT}-liner-draw"))
    bram.goto(page)
    sheet = sheet_of(bram, "Head 4")
    expect(sheet).to_contain_text("Liner 4 is open; it would have to be landed")
    expect(sheet.get_by_role("button", name=re.compile("^Start"))).to_have_count(0)
    shut(sheet)
    expect(bram.locator('[aria-label^="Head 4: open"]')).to_be_visible()
    expect(bram.locator('[aria-label^="Liner 4: open"]')).to_be_visible()

    # Back: liner, then piston and rod, then the head; what is carried over is paid on the way.
    to_the_end(site, begun(site, "Lio Sandvik", "liner-4", f"{TARNHOLT}-liner-fit"))
    to_the_end(site, begun(site, "Bram Okafor", "rod-4", f"{TARNHOLT}-rod-tighten", piston="in", shell="before"))
    bram.reload()
    owed = bram.locator(".panel").filter(has=bram.get_by_role("heading", name="Still in, on or off the engine"))
    expect(owed).to_contain_text("Two hold-down clamps until the head is on")
    sheet = sheet_of(bram, "Head 4")
    expect(sheet.locator(".offer").first).to_contain_text("land")
    expect(sheet.locator(".offer").first).to_contain_text("puts right")
    sheet.get_by_role("button", name=re.compile("^Start")).click()
    bram.locator(".call h1").wait_for()
    to_the_end(site, taken_up(site, "Bram Okafor", "head-4"))
    for name in ("head-tighten", "head-close"):
        to_the_end(site, begun(site, "Lio Sandvik", "head-4", f"{TARNHOLT}-{name}"))

    # Nothing stands against closing it; the dossier is printed and the engine handed back.
    bram.goto(page)
    expect(owed).to_contain_text("Nothing is left to do")
    bram.get_by_role("button", name="Print the dossier").click()
    taken = bram.get_by_role("link", name="Take the dossier")
    expect(taken).to_be_visible(timeout=120_000)
    answer = bram.request.get(site.address + str(taken.get_attribute("href")))
    assert answer.body().startswith(b"%PDF")
    given_back(bram)
    expect(bram.get_by_text("The chief closes it with a signature")).to_be_visible()
    ines = tablet("Ines Halloran")
    ines.goto(page)
    ines.get_by_role("button", name="Close the overhaul").click()
    signing = ines.get_by_role("dialog", name="Close the overhaul")
    for digit in DEMO_PIN:
        signing.get_by_role("button", name=digit, exact=True).click()
    signing.get_by_role("button", name="Sign").click()
    expect(ines.get_by_text("No overhaul is open on this engine")).to_be_visible()
    assert overhauls.open_on(site.world.workshop, "unit-4") is None

    # It starts for the first time: the running-in is due stop by stop.
    ines.goto(site.address)
    ines.get_by_role("button", name=re.compile("First start, then the stops")).click()
    done = ines.get_by_role("dialog")
    done.get_by_label("What was found, and how").fill("Started, oil pressure at once")
    done.get_by_role("button", name="Done").click()
    expect(ines.get_by_text(re.compile("Running-in: Stopped; mains, big ends"))).to_be_visible()


def given_back(page: Page) -> None:
    """See to one thing after the other until the way back is behind."""
    steps = page.locator(".steps li")
    for at in range(steps.count()):
        step = steps.nth(at)
        if step.locator(".mark").inner_text() == "■":
            continue
        step.get_by_role("button").click()
        sheet = page.get_by_role("dialog")
        amps = sheet.get_by_label("Current of the turning gear, A")
        sheet.get_by_label("What was seen").fill("Seen by torch")
        if amps.count() > 0:
            amps.fill("14,5")
        sheet.get_by_role("button", name="Seen to").click()
        expect(step.locator(".mark")).to_have_text("■")


def test_somebody_goes_in_where_there_is_no_link_and_the_crank_waits(
    site: Site, tablet: OpenTablet, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(silent_tablets, "SILENT_AFTER", SILENT_AFTER)
    site.world.found("unit-4")
    link = Link(site.port)
    lio = tablet("Lio Sandvik", address=link.address, worker=True)
    lio.locator("main .cell").first.wait_for()
    lio.evaluate("navigator.serviceWorker.ready")
    board = f"{link.address}/engine/unit-4/board"
    lio.goto(board)
    expect(lio.get_by_role("button", name="Go in")).to_be_visible()
    opens_door(lio, "door-4 (cylinder 4)")
    link.cut()
    lio.get_by_role("button", name="Go in").click()
    entry = lio.get_by_role("dialog", name="Go in")
    choose(lio, "By which door", "door-4 (cylinder 4)")
    choose(lio, "Who stands outside", "Not on the register")
    outside = ("Name of who stands outside", "Tam Pereira")
    for label, text in (("Permit number", "P-2208"), outside, ("Oxygen, %", "20.9"), AIR):
        entry.get_by_label(label).fill(text)
    entry.get_by_role("button", name="Go in").click()
    expect(lio.get_by_text("Others do not know yet")).to_be_visible()
    looks_accessible(lio)
    assert not inside(site), "nobody has heard of it"

    # The tablet is silent by now, and the crank waits for a word.
    site.world.clock.forward(SILENT_AFTER.total_seconds() + 1)
    bram = tablet("Bram Okafor")
    bram.goto(f"{site.address}/engine/unit-4")
    people = bram.locator(".panel").filter(has=bram.get_by_role("heading", name="Inside"))
    expect(people).to_contain_text("This tablet is silent since")
    expect(bram.locator("main")).to_contain_text("the tablet of Lio Sandvik is silent")
    people.get_by_role("button", name="Answer for it").click()
    answer = bram.get_by_role("dialog", name="Answer for a silent tablet")
    answer.get_by_label("How that is known").fill("Seen at the bench")
    answer.get_by_role("button", name="Answer for it").click()
    expect(people).not_to_contain_text("This tablet is silent since")

    # Its page dies; with the link it is told all the same, and says what spoke against it.
    context = lio.context
    lio.close()
    again = context.new_page()
    again.goto(board)
    expect(again.get_by_text("Others do not know yet")).to_be_visible()
    link.mend()
    expect(again.get_by_text("the turning gear is not locked")).to_be_visible(timeout=30_000)
    assert inside(site) == ["Lio Sandvik"]
    expect(people).to_contain_text("the turning gear is not locked")
    comes_out(again)
    expect(again.get_by_text("Nobody is inside")).to_be_visible()
    assert not inside(site)


def opens_door(page: Page, door: str) -> None:
    """Say on the board that a door was opened."""
    page.get_by_role("button", name="Open a door").click()
    choose(page, "By which door", door)
    page.get_by_role("dialog", name="A door was opened").get_by_role("button", name="Open a door").click()
    expect(page.get_by_role("button", name=f"Shut {door.split(maxsplit=1)[0]}")).to_be_visible()


def comes_out(page: Page) -> None:
    """Lio comes out, by his own PIN."""
    page.get_by_role("button", name="Lio Sandvik is out").click()
    out = page.get_by_role("dialog", name="Lio Sandvik is out")
    out.get_by_label("Your own PIN").fill(DEMO_PIN)
    out.get_by_role("button", name="Out").click()


def inside(site: Site) -> list[str]:
    found = overhauls.open_on(site.world.workshop, "unit-4")
    return [] if found is None else [i.person.name for i in found.inside]


def test_a_main_bearing_of_the_vee_engine_waits_for_its_girdle_and_keeps_its_neighbour_shut(
    site: Site, tablet: OpenTablet
) -> None:
    bram = tablet("Bram Okafor")
    site.world.found("unit-5")
    bram.goto(f"{site.address}/engine/unit-5")
    sheet = sheet_of(bram, "Main 3")
    expect(sheet).to_contain_text("Girdle is closed up; it would have to be loose, open")
    shut(sheet)
    bram.get_by_role("button", name="Say how joints are found").click()
    found = bram.get_by_role("dialog", name="How joints are found")
    found.get_by_label("Joints").fill("Girdle")
    bram.get_by_role("option", name="Girdle").click()
    bram.keyboard.press("Escape")
    found.get_by_label("They are").click(force=True)
    bram.get_by_role("option", name="open", exact=True).click()
    found.get_by_label("What was seen, or why it is so now").fill("Girdle off on paper, sheet 4")
    found.get_by_role("button", name="Say how joints are found").click()
    expect(found).to_be_hidden()
    sheet = sheet_of(bram, "Main 3")
    sheet.get_by_role("button", name=re.compile("^Start")).click()
    bram.locator(".call h1").wait_for()
    bram.goto(f"{site.address}/engine/unit-5")
    sheet = sheet_of(bram, "Main 4")
    expect(sheet).to_contain_text("Work is under way on Main 3")
    shut(sheet)
    to_the_end(site, taken_up(site, "Bram Okafor", "main-3", "unit-5"))
    sheet = sheet_of(bram, "Main 2")
    expect(sheet).to_contain_text("Main 3 is open; it would have to be closed up, tight")
    shut(sheet)
    log = bram.locator(".panel").filter(has=bram.get_by_role("heading", name="The engine's log"))
    log.get_by_role("button", name="Older entries").click()
    expect(log).to_contain_text("Girdle off on paper, sheet 4")
    log.locator("li").filter(has_text="Girdle off").get_by_role("button", name="Cross out").click()
    struck = bram.get_by_role("dialog", name="Cross out this entry")
    struck.get_by_label("What was wrong").fill("It was Unit 3's")
    struck.get_by_role("button", name="Cross out").click()
    expect(log.locator("li").filter(has_text="Girdle off").first).to_contain_text("crossed out")
    sheet = sheet_of(bram, "Main 5")
    expect(sheet).to_contain_text("Girdle is closed up; it would have to be loose, open")


def test_a_day_on_which_a_set_fails(site: Site, tablet: OpenTablet) -> None:
    """Planned for two by name and taken; each sees what is next; one set fails, then the other; planned anew."""
    shop = site.world.workshop
    site.world.found("unit-4", head_4="landed", head_5="landed")
    bram = tablet("Bram Okafor")
    bram.goto(f"{site.address}/engine/unit-4")
    bram.get_by_role("link", name="Plan").click()
    expect(bram.get_by_text("No plan was asked for yet")).to_be_visible()
    bram.locator(".v-select", has=bram.get_by_role("combobox", name="People")).locator(".v-field").click()
    for name in ("Bram Okafor", "Dessa Marlow"):
        bram.get_by_role("option", name=name).click()
    bram.keyboard.press("Escape")
    bram.get_by_role("button", name="Make a plan").click()
    expect(bram.get_by_text("Proven: no plan is earlier").or_(bram.get_by_text("from the earliest"))).to_be_visible()

    # A piece says why it is not sooner, and is kept where it is by a key.
    piece = bram.locator(".lane .bar").filter(has_text="Head 5").first
    piece.focus()
    bram.keyboard.press("Enter")
    sheet = bram.get_by_role("dialog")
    sheet.get_by_role("button", name="Keep it here").click()
    expect(sheet.get_by_text("Kept here")).to_be_visible()
    sheet.get_by_role("button", name="Close").click()
    expect(piece).to_have_class(re.compile("kept"))

    expect(bram.get_by_text("More is looked for")).to_have_count(0)
    expect(bram.get_by_text("One person less")).to_be_visible()
    looks_accessible(bram)
    bram.get_by_role("button", name="Take this plan").click()
    expect(bram.get_by_text("taken by Bram Okafor")).to_be_visible()
    expect(bram.get_by_role("heading", name="Planned and real")).to_be_visible()

    # Whoever is in it sees what is next for them; whoever is not sees nothing.
    dessa, lio = tablet("Dessa Marlow"), tablet("Lio Sandvik")
    expect(dessa.get_by_role("heading", name="Next for you")).to_be_visible()
    expect(dessa.locator(".for-you a").first).to_contain_text("Unit 4")
    expect(lio.get_by_role("heading", name="Next", exact=True)).to_be_visible()
    expect(lio.get_by_role("heading", name="Next for you")).to_have_count(0)

    # One set fails: the forecast follows at once. With the other gone, too, nobody can tell how it goes on.
    lead = actor(shop, "Bram Okafor")
    site.world.clock.forward(600)
    tools.withdraw_tool(shop, lead, "HT-52", "Leaks")
    bram.reload()
    expect(bram.get_by_text("As it goes")).to_be_visible()
    tools.withdraw_tool(shop, lead, "HT-53", "Gauge failed")
    bram.reload()
    expect(bram.get_by_role("alert").first).to_contain_text("takes 1 of tensioner-m52; there are 0")
    site.world.clock.forward(600)
    bram.get_by_role("button", name="Change and plan anew").click()
    bram.get_by_label("Sets of tensioner-m52").fill("1")
    bram.get_by_role("button", name="Plan anew").click()
    expect(bram.get_by_text("Withdrawn: HT-52: Leaks")).to_be_visible()
    expect(bram.get_by_role("heading", name="Against the plan in force")).to_be_visible()
    bram.get_by_role("button", name="Take this plan").click()
    expect(bram.get_by_role("button", name="Take this plan")).to_have_count(0)


def test_the_crank_is_moved_to_where_a_piston_stands_so_many_millimetres_below_its_top(
    site: Site, tablet: OpenTablet
) -> None:
    site.world.found("unit-4")
    bram = tablet("Bram Okafor")
    bram.goto(f"{site.address}/engine/unit-4")
    bram.get_by_role("button", name="Move the crank").click()
    sheet = bram.get_by_role("dialog", name="Move the crank")
    sheet.get_by_role("button", name="4", exact=True).click()
    top = float(sheet.get_by_label("To, degrees after firing dead centre").input_value())
    choose(bram, "Piston", "4")
    sheet.get_by_label("Below top, mm").fill("500")
    sheet.get_by_role("button", name="As angle").click()
    expect(sheet.get_by_role("alert")).to_contain_text("500 mm is not within the stroke of 450 mm")
    sheet.get_by_label("Below top, mm").fill("30,0")
    sheet.get_by_role("button", name="As angle").click()
    to = sheet.get_by_label("To, degrees after firing dead centre")
    expect(to).not_to_have_value(f"{top:.1f}")
    looks_accessible(bram)
    assert 20 < top - float(to.input_value()) < 40, "before the top"
    sheet.get_by_label("Who commands").fill("Bram")
    # Nothing is said to have been looked at before somebody says it.
    expect(sheet.get_by_role("button", name="Moved")).to_be_disabled()
    sheet.get_by_label("Sweep").check()
    sheet.get_by_role("button", name="Moved").click()
    expect(bram.locator(".facts")).to_contain_text("4:\u00a030\u00a0mm")


def test_a_sheet_of_paper_is_keyed_in_as_one_act(site: Site, tablet: OpenTablet, tmp_path: Path) -> None:
    site.world.found("unit-4")
    ines = tablet("Ines Halloran")
    ines.clock.set_fixed_time(site.world.clock.now)
    ines.goto(f"{site.address}/engine/unit-4")
    ines.get_by_role("link", name="Key in lists").click()
    expect(ines.get_by_text("No line of a list has been keyed in.")).to_be_visible()
    choose(ines, "Written by", "Bram Okafor")
    choose(ines, "Point", "Turning gear")
    ines.get_by_label("Lock", exact=True).fill("14")
    add = ines.get_by_role("button", name="Put on the sheet")
    expect(add).to_be_disabled()
    at = ines.get_by_role("group", name="At, as on the list")
    expect(at).to_contain_text("today")
    at.get_by_label("Time").fill(site.world.clock.now.strftime("%H:%M"))
    add.click()
    sheet = ines.locator(".panel").filter(has=ines.get_by_role("heading", name="This sheet"))
    expect(sheet.locator("li")).to_contain_text("Isolated: Turning gear")
    # What a rule would have refused stands there with the rule.
    choose(ines, "The line says", "Crank moved")
    choose(ines, "Written by", "Tam Pereira")
    ines.get_by_label("To, degrees after firing dead centre").fill("90")
    ines.get_by_label("Who commands").fill("Bram")
    ines.get_by_label("Looked at before").fill("sweep")
    add.click()
    expect(sheet.locator("li")).to_have_count(2)
    looks_accessible(ines)
    done = ines.locator(".panel").filter(has=ines.get_by_role("heading", name="Keyed in so far"))
    expect(done.locator("li")).to_have_count(0)
    picture = tmp_path / "sheet.jpg"
    picture.write_bytes(drawn_photo(3))
    sheet.get_by_label("Photograph of the sheet").set_input_files(picture)
    expect(sheet.get_by_role("button", name="Photograph taken")).to_be_visible()
    sheet.get_by_role("button", name="Key in the sheet").click()
    expect(done.locator("li")).to_have_count(2)
    expect(sheet.locator("li")).to_have_count(0)
    expect(done.get_by_role("link", name="the sheet")).to_have_count(2)
    expect(done).to_contain_text("14")
    expect(done).to_contain_text("Done by somebody who may not.")
    expect(done).to_contain_text("In doubt: go and look.")
    # Somebody who did not key it in looks at the thing itself.
    bram = tablet("Bram Okafor")
    bram.goto(f"{site.address}/engine/unit-4/board")
    told = bram.locator(".panel").filter(has=bram.get_by_role("heading", name="Told later"))
    expect(told).to_contain_text("Does not count before somebody else has looked.")
    told.get_by_role("button", name="I have looked").first.click()
    look = bram.get_by_role("dialog", name="I have looked")
    look.get_by_label("What was found").fill("Lock 14 hangs on it")
    look.get_by_label("Your own PIN").fill(DEMO_PIN)
    looks_accessible(bram)
    look.get_by_role("button", name="I have looked").click()
    expect(told).not_to_contain_text("Does not count before")
    expect(told).to_contain_text("In doubt: go and look.")
    looks_accessible(ines)


def test_nobody_goes_in_beside_a_flame_and_the_board_tells_when_its_permit_runs_out(
    site: Site, tablet: OpenTablet
) -> None:
    site.world.found("unit-4")
    found = overhauls.open_on(site.world.workshop, "unit-4")
    assert found is not None
    gear = Isolate(kind="isolate", id=uuid4(), point="turning_gear")
    overhauls.act(site.world.workshop, actor(site.world.workshop, "Bram Okafor"), found.overhaul_id, gear)
    bram = tablet("Bram Okafor")
    bram.clock.install(time=site.world.clock.now)
    bram.goto(f"{site.address}/engine/unit-4/board")
    bram.get_by_role("button", name="Begin hot work").click()
    sheet = bram.get_by_role("dialog", name="Begin hot work")
    begin = sheet.get_by_role("button", name="Begin hot work")
    until = (site.world.clock.now + timedelta(minutes=30)).astimezone(ZoneInfo("UTC"))
    for label, text in (
        ("What is done", "Bracket of the exhaust welded"),
        ("Where", "Exhaust, cylinder 4"),
        ("Fire watch", "Tam Pereira"),
        ("Hot work permit", "HW-7"),
        ("Permit runs until", f"{until:%H:%M}"),
        ("Gas there", "0"),
    ):
        sheet.get_by_label(label).fill(text)
    expect(begin).to_be_disabled()
    sheet.get_by_label("Crankcase shut").fill("Ines: every door on")
    looks_accessible(bram)
    begin.click()
    flame = bram.locator(".panel").filter(has=bram.get_by_role("heading", name="Hot work"))
    expect(flame).to_contain_text("Exhaust, cylinder 4: Bram Okafor")
    bram.get_by_role("button", name="Go in").click()
    entry = bram.get_by_role("dialog", name="Go in")
    expect(entry).to_contain_text("By the log no door of it is open")
    choose(bram, "Who stands outside", "Not on the register")
    outside = ("Name of who stands outside", "Tam Pereira")
    for label, text in (("Permit number", "P-2208"), outside, ("Oxygen, %", "20.9"), AIR):
        entry.get_by_label(label).fill(text)
    entry.get_by_role("button", name="Go in").click()
    expect(bram.get_by_role("alert")).to_contain_text("Bram Okafor works with flame at Exhaust, cylinder 4")
    looks_accessible(bram)
    # Nobody presses anything; the permit runs out all the same, and ends nothing.
    site.world.clock.forward(31 * 60)
    bram.clock.fast_forward("31:00")
    expect(flame).to_contain_text("The permit ran out at")
    flame.get_by_role("button", name="Exhaust, cylinder 4: hot work is over").click()
    over = bram.get_by_role("dialog", name="Hot work is over")
    over.get_by_label("Who saw it cold, and when").fill("Tam Pereira, 15:10")
    over.get_by_role("button", name="Over").click()
    expect(flame).to_contain_text("Nobody works with flame.")
    found = overhauls.open_on(site.world.workshop, "unit-4")
    assert found is not None
    assert not found.hot_work
