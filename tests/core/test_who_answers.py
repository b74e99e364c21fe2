"""What the Bench says of who may answer a call is what the rules then refuse, call by call and role by role."""

from __future__ import annotations

from uuid import uuid4

import pytest

from jorvek.core.refusal import Refusal
from jorvek.core.rights import RIGHTS, Act, Role, lowest, may
from jorvek.core.run.log.cells import Cell
from jorvek.core.run.log.commands import Context, RecordReading
from jorvek.core.run.log.events import Person
from jorvek.core.run.rules.decide import decide
from jorvek.core.run.rules.progress import next_call
from jorvek.core.run.rules.recording import why_unfit
from jorvek.core.run.views.calls import call_of
from jorvek.core.run.views.looking import Looking
from jorvek.local.player import usual_answer
from tests.core.paper_run import BRAM, INES, LIO, TAM, TODAY, TOOLS, WRITERS, PaperRun, person

AUTHOR, KEEPER = person("Odile Marsh", Role.AUTHOR), person("Yara Lind", Role.KEEPER)
BARRING = {"not_your_right": "role", "not_your_point": "rank", "not_your_signature": "rank", "own_work": "own_work"}


def refused_for(run: PaperRun, cell: Cell, who: Person) -> str | None:
    """Why the rules bar a person from a call; None where they take the answer."""
    answer = usual_answer(run.state, cell, run.chance, TOOLS, TODAY)
    attempt = len(run.state.tries(cell.key)) + 1
    command = RecordReading(kind="record", id=uuid4(), cell=cell.key, attempt=attempt, answer=answer)
    context = Context(who, run.now + run.waiting(cell), TODAY, {t.id: t for t in TOOLS}, True, writers=WRITERS)
    try:
        decide(run.state, command, context)
    except Refusal as refusal:
        return BARRING[refusal.code]
    return None


@pytest.mark.parametrize(
    "name", ["tarnholt-7l34-head-tighten", "corvane-v10-main-tighten", "tarnholt-7l34-main-loosen"]
)
def test_at_every_call_the_screen_bars_exactly_whom_the_rules_bar(name: str) -> None:
    run = PaperRun(name)
    told: set[str | None] = set()
    while (cell := next_call(run.state)) is not None:
        for who in (BRAM, LIO, INES, TAM, AUTHOR, KEEPER):
            other = call_of(run.state, cell, Looking(who.id, who.role, run.now)).somebody_else
            assert (None if other is None else other.why) == refused_for(run, cell, who), (cell.key, who.role)
            told.add(None if other is None else other.why)
        run.play_one()
    assert told >= {None, "role", "rank"}


def test_nobody_signs_for_what_their_own_hands_did_and_the_call_names_the_rank_that_may() -> None:
    run = PaperRun("corvane-v10-head-tighten", tool="bar")
    run.play("lead-sees/sign")
    cell = next_call(run.state)
    assert cell is not None
    bram = call_of(run.state, cell, Looking(BRAM.id, BRAM.role, run.now)).somebody_else
    assert bram is not None
    assert (bram.why, bram.rank) == ("own_work", Role.LEAD_HAND)
    assert call_of(run.state, cell, Looking(INES.id, INES.role, run.now)).somebody_else is None


def test_on_paper_nobody_looks() -> None:
    run = PaperRun()
    run.play()
    cell = next_call(run.state)
    assert cell is not None
    assert call_of(run.state, cell).somebody_else is None


def test_whoever_is_named_for_an_act_may_do_it_and_it_is_nobody_above_need() -> None:
    assert {act: lowest(act) for act in (Act.ACCEPT, Act.CLOSE_OVERHAUL, Act.RECORD)} == {
        Act.ACCEPT: Role.LEAD_HAND,
        Act.CLOSE_OVERHAUL: Role.CHIEF,
        Act.RECORD: Role.MECHANIC,
    }
    assert {act: lowest(act) for act in (Act.IMPORT_PROCEDURE, Act.KEEP_REGISTER)} == {
        Act.IMPORT_PROCEDURE: Role.AUTHOR,
        Act.KEEP_REGISTER: Role.KEEPER,
    }
    assert all(may(lowest(act), act) for act in RIGHTS)


def test_a_tool_that_is_told_as_fit_is_drawn_and_one_that_is_told_as_unfit_is_not() -> None:
    run = PaperRun()
    run.play("tools/oil-gauge")
    cell = next_call(run.state)
    assert cell is not None
    for tool in TOOLS:
        unfit, refused = why_unfit(run.state, cell, tool), None
        answer = usual_answer(run.state, cell, run.chance, TOOLS, TODAY).model_copy(
            update={"tool_id": tool.id, "override_reason": "Nothing else here"}
        )
        command = RecordReading(kind="record", id=uuid4(), cell=cell.key, attempt=1, answer=answer)
        try:
            decide(run.state, command, Context(BRAM, run.now, TODAY, {t.id: t for t in TOOLS}, writers=WRITERS))
        except Refusal as refusal:
            refused = refusal.code
        assert (None if unfit is None else unfit.code) == refused, tool.id
