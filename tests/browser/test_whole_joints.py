"""The head procedures of all three engines, and one joint for every other kind of step, whole, on the screen."""

from __future__ import annotations

import os
from collections import Counter
from typing import get_args

import pytest
from playwright.sync_api import expect

from jorvek.core.procedure.options import Selection
from jorvek.core.procedure.steps import StepKind
from jorvek.core.run.log.definition import define
from jorvek.core.run.rules.progress import complete
from jorvek.store.verify import verify
from tests.browser.conftest import OpenTablet, Site
from tests.browser.hands import Sort, hands_on
from tests.core.paper_run import shipped

HEADS: list[tuple[str, str, str, Selection]] = [
    ("unit-2", "head-5", "tarnholt-7l34-head-loosen", {}),
    ("unit-2", "head-5", "tarnholt-7l34-head-land", {}),
    ("unit-2", "head-5", "tarnholt-7l34-head-tighten", {}),
    ("unit-2", "head-5", "tarnholt-7l34-head-close", {}),
    ("unit-5", "head-b", "corvane-v10-head-loosen", {}),
    ("unit-5", "head-b", "corvane-v10-head-tighten", {"tool": "bar"}),
    ("grey-plover", "head-4", "ulvane-5x46-cover-loosen", {"tools": "eight"}),
    ("grey-plover", "head-4", "ulvane-5x46-cover-tighten", {"tools": "four"}),
]
OTHERS: list[tuple[str, str, str, Selection]] = [
    ("unit-2", "main-3", "tarnholt-7l34-main-loosen", {}),
    ("unit-2", "liner-4", "tarnholt-7l34-liner-fit", {}),
    ("unit-5", "main-2", "corvane-v10-main-tighten", {"clearance": "strip"}),
    ("unit-2", "rod-4", "tarnholt-7l34-rod-tighten", {"piston": "in", "shell": "before"}),
    ("unit-5", "rod-a2", "corvane-v10-rod-tighten", {}),
    ("grey-plover", "crosshead-2", "ulvane-5x46-crosshead-tighten", {}),
]


ALIKE = {
    "tarnholt-7l34-head-tighten",
    "tarnholt-7l34-head-loosen",
    "tarnholt-7l34-head-land",
    "tarnholt-7l34-head-close",
    "corvane-v10-head-loosen",
    "ulvane-5x46-cover-loosen",
    "ulvane-5x46-cover-tighten",
}
"""What the others or a story of its own show as well; worked with ``JORVEK_WHOLE=1``."""
WORKED = [one for one in HEADS + OTHERS if "JORVEK_WHOLE" in os.environ or one[2] not in ALIKE]

ANSWERED: Counter[Sort] | None = None if "JORVEK_WHOLE" in os.environ else Counter()
"""What was answered on the screen so far, whichever joint it was; None where everything is."""


@pytest.mark.parametrize(("engine", "joint", "name", "way"), WORKED, ids=[n for _, _, n, _ in WORKED])
def test_a_joint_is_worked_whole_on_the_screen(
    site: Site, tablet: OpenTablet, engine: str, joint: str, name: str, way: Selection
) -> None:
    digest = next(r.hash for r in site.world.workshop.registers.revisions() if r.id == name)
    player = site.world.player("Bram Okafor")
    player.start(engine, joint, digest, way)
    hands = hands_on(site, tablet, player)
    state = hands.work(ANSWERED)
    assert complete(state)
    assert [a.cell for a in state.counting.values() if not a.settled] == []
    assert all(len(tries) == 1 for tries in state.attempts.values()), "nothing was taken twice"
    assert verify(site.world.workshop.database).alterations == ()
    expect(hands.page.locator("#bar-slot")).to_contain_text("live")


def test_together_they_hold_every_kind_of_step() -> None:
    shown = {cell.kind for _, _, name, way in WORKED for cell in define(shipped(name), way or None).cells}
    # A repetition is no call of its own: it is the same calls once more.
    assert set(get_args(StepKind)) - shown == {"repeat"}
