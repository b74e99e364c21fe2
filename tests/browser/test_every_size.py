"""Every screen at every size: whole, nothing sideways, cut off or overlapping, nothing too small for a finger."""

from __future__ import annotations

import pytest
from playwright.sync_api import Browser, Page

from tests.browser.conftest import Site, browser_context, sign_in
from tests.browser.walking import (
    GLOVES_PX,
    SIZES,
    TOUCH_PX,
    Size,
    faults,
    faults_in_other_words,
    seen_by_axe,
    settled,
)
from tests.conftest import World


@pytest.fixture
def world(morning: World) -> World:
    """The first morning of the demo world: something to see on every screen."""
    return morning


def places(world: World) -> dict[str, str]:
    """Every view, and the Bench once for every way in which a call is answered."""
    found = {
        "berth": "/",
        "runs": "/bench",
        "engine, Unit 2": "/engine/unit-2",
        "engine, Unit 4": "/engine/unit-4",
        "board": "/engine/unit-2/board",
        "plan": "/engine/unit-2/plan",
        "lists": "/engine/unit-2/lists",
        "tools": "/tools",
        "records": "/records",
        "strips": "/strips",
        "gates": "/gates",
        "procedures": "/procedures",
        **{f"reckoner, {q}": f"/reckoner/{q}" for q in ("pressure", "torque", "units")},
    }
    heads = {head.id: head.hash for head in world.workshop.registers.revisions()}
    found["a procedure"] = f"/procedures/{heads['tarnholt-7l34-head-tighten']}"
    found["a bad draft"] = f"/procedures/{heads['tarnholt-7l34-head-bad']}"
    for row in world.workshop.registers.runs():
        state = world.workshop.log.snapshot(row.id).state
        joint = state.started.joint_label
        if state.status == "closed":
            # One record of each sort of joint: their tables are the same, and axe reads every cell.
            found[f"record, {joint.split()[0]}"] = f"/records/{row.id}"
        else:
            found[f"bench, {joint}"] = f"/bench/{row.id}"
            found[f"keying, {joint}"] = f"/sheet/{row.id}"
    return found


def walk(page: Page, site: Site, where: dict[str, str], size: Size) -> list[str]:
    wrong: list[str] = []
    for name, path in where.items():
        page.goto(f"{site.address}{path}")
        settled(page)
        least = GLOVES_PX if path.startswith("/bench/") else TOUCH_PX
        found = faults(page, least)
        # What axe looks for hangs on what a page holds, not on how wide it is: once each, where all are seen.
        found += [f"axe, {one}" for one in seen_by_axe(page)] if size.name == "phone" else []
        found += faults_in_other_words(page, least)
        wrong += [f"{name} at {size.name}: {fault}" for fault in found]
    return wrong


def test_every_screen_is_whole_at_every_size(site: Site, browser: Browser) -> None:
    where, wrong = places(site.world), list[str]()
    # One of each sort is enough at the sizes between: the layouts are the same there.
    sorts = {name.partition(",")[0]: name for name in where}
    few = {name: path for name, path in where.items() if name in sorts.values()}
    for size in SIZES:
        context = browser_context(browser, width=size.width, height=size.height, scale=size.scale)
        page = context.new_page()
        page.goto(site.address)
        settled(page)
        wrong += [f"sign-in at {size.name}: {fault}" for fault in faults(page)]
        sign_in(page, "Bram Okafor")
        wrong += walk(page, site, where if size.name == "phone" else few, size)
        if size.name == "phone":
            page.get_by_role("button", name="Go to").click()
            assert seen_by_axe(page) == []
            page.get_by_role("link", name="Berth").click()
            page.locator("main.berth").wait_for()
        context.close()
    assert wrong == [], "\n".join(wrong)


def test_the_walk_sees_what_is_wrong(browser: Browser) -> None:
    """A walk that finds nothing proves something only if it can find."""
    page = browser_context(browser, width=390, height=844).new_page()
    page.set_content(
        """<main id="content" style="margin:0">
        <button style="height:30px;width:80px">Small</button>
        <button style="position:absolute;left:200px;top:0;height:50px;width:80px">One</button>
        <button style="position:absolute;left:240px;top:10px;height:50px;width:80px">Two</button>
        <p style="overflow:hidden;white-space:nowrap;width:60px">Words that do not fit</p>
        <button style="position:absolute;left:370px;top:200px;height:50px;width:80px">Out</button>
        <svg viewBox="0 0 100 40" width="300" height="120"><text x="80" y="20" font-size="12">yield 1388</text>
        <text x="5" y="20" font-size="12">aim</text><text x="5" y="26" font-size="12">860</text></svg>
        <button style="position:absolute;left:0;top:300px;height:50px;width:60px;overflow:hidden;white-space:nowrap;
          padding:0"><span><b>Words cut at both ends</b></span></button>
        <div style="width:700px">Wide</div></main>"""
    )
    found = faults(page)
    sorts = {fault.partition(":")[0] for fault in found}
    assert sorts == {"sideways", "small", "overlap", "clipped", "outside", "cut off"}
    assert len([fault for fault in found if fault.endswith("in a drawing")]) == 2
    assert len([fault for fault in found if "by what holds it" in fault and "both ends" in fault]) == 1
    page.context.close()
