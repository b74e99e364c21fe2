"""The metal of a run: what is drawn follows from what was done, and what was left out is not there."""

from __future__ import annotations

from uuid import UUID, uuid4

import pytest

from jorvek.core.procedure.document import Procedure
from jorvek.core.refusal import Refusal
from jorvek.core.run.log import events as ev
from jorvek.core.run.log.commands import GiveReason, StrikeReading
from jorvek.core.run.rules.metal import DANGEROUS, in_the_way, metal_now
from jorvek.core.run.views.bench import bench_view
from jorvek.core.run.views.joint_plan import Plan
from jorvek.messages import catalogue
from tests.core.metal_drafts import unnamed
from tests.core.paper_run import BRAM, PaperRun, shipped

MAIN, MAINS, HEAD = "tarnholt-7l34-main-tighten", "tarnholt-7l34-main-loosen", "tarnholt-7l34-head-tighten"


def plan(run: PaperRun) -> Plan:
    return bench_view(UUID(int=0), run.state, run.looking()).plan


def parts(run: PaperRun) -> dict[str, tuple[str, str]]:
    return {part.part: (part.where, part.face) for part in plan(run).parts}


def test_no_hose_is_drawn_before_it_is_connected_nor_after_the_tools_are_off() -> None:
    run = PaperRun(HEAD)
    run.play("vent/distributor")
    assert plan(run).hoses == ()
    run.play("first/clear")
    assert [hose.name for hose in plan(run).hoses] == ["Hose 1", "Hose 2"]
    run.play("length-after/temperature/1")
    assert plan(run).hoses == ()


def test_nuts_come_down_one_by_one_and_no_load_stands_beside_one_that_is_out() -> None:
    run = PaperRun(HEAD)
    assert {head.hold for head in plan(run).heads} == {"out"}
    run.play("run-down/contact/3")
    assert [head.hold for head in plan(run).heads] == ["slack", "slack", "out", "out"]
    run.play("relieve/zero")
    assert {head.hold for head in plan(run).heads} == {"tight"}
    loosened = PaperRun("tarnholt-7l34-head-loosen")
    loosened.play("hook/clearance")
    assert {(head.hold, head.clamp) for head in plan(loosened).heads} == {("out", None)}


def test_the_cap_is_off_where_it_is_off_and_the_shell_went_with_it() -> None:
    run = PaperRun(MAINS)
    run.play("lower/second")
    assert not plan(run).open
    assert parts(run) == {"crankcase_door": ("aside", "as_it_was"), "cap_jack": ("in_place", "as_it_was")}
    run.play("roll/people")
    assert plan(run).open
    assert parts(run)["cap"] == ("aside", "as_it_was")
    assert parts(run)["lower:shell"] == ("with", "as_it_was")
    run.play("look/decision")
    assert parts(run)["lower:shell"] == parts(run)["upper:shell"] == ("aside", "as_it_was")


def test_what_is_struck_is_not_done_any_more() -> None:
    run = PaperRun(HEAD)
    run.play("thread-above/thread/1")
    assert {head.hold for head in plan(run).heads} == {"slack"}
    run.send(StrikeReading(kind="strike", id=uuid4(), cell="run-down/contact/4", attempt=1))
    assert [head.hold for head in plan(run).heads] == ["slack", "slack", "slack", "out"]


def test_of_a_document_without_parts_no_nut_is_said_to_be_out() -> None:
    """Its nuts may have come down by a point of a list; a run that is open on it is drawn as ever."""
    plain = shipped(HEAD).plain()
    unnamed(plain)
    run = PaperRun(Procedure.model_validate(plain))
    run.play("first/clear")
    assert {head.hold for head in plan(run).heads} == {None}
    assert (plan(run).parts, plan(run).open) == ((), False)
    assert [hose.name for hose in plan(run).hoses] == ["Hose 1", "Hose 2"]


def test_a_point_that_its_author_calls_like_one_of_ours_stays_a_tick() -> None:
    rows = bench_view(UUID(int=0), PaperRun(MAIN).state, PaperRun(MAIN).looking()).ribbon
    items = {cell.cell: cell.item for row in rows for cell in row.cells}
    assert (items["restore/people"], items["free/people"]) == ("other", "people")


def leave_out(run: PaperRun, step: str) -> None:
    """Leave out by name every call of a step."""
    for cell in run.state.definition.by_step[step]:
        run.play(cell.key)
        run.record(cell.key, ev.LeftOutAnswer(reason="Not here"), BRAM)


def test_a_shell_that_was_left_out_bars_the_cap_and_says_which() -> None:
    run = PaperRun(MAIN)
    leave_out(run, "shells")
    run.play("jack-up/home")
    assert {o.code for o in in_the_way(run.state, run.state.definition.by_key["jack-up/home"])} >= {"no_seat"}
    with pytest.raises(Refusal) as refused:
        run.record("jack-up/home", ev.TickAnswer())
    assert (refused.value.code, refused.value.params["part"]) == ("metal_not_ready", "lower:shell")
    # It is no dead end: whoever left it out takes that back, and does it.
    for cell in run.state.definition.by_step["shells"]:
        run.send(StrikeReading(kind="strike", id=uuid4(), cell=cell.key, attempt=1))
        run.send(GiveReason(kind="give_reason", id=uuid4(), cell=cell.key, attempt=1, reason="They are here"))
    run.play("jack-up/home")
    run.record("jack-up/home", ev.TickAnswer())
    assert parts(run)["cap_jack"] == ("in_place", "as_it_was")
    assert "cap" not in parts(run)


def test_what_is_dangerous_is_something_that_the_check_finds() -> None:
    words = catalogue()["check"]
    assert isinstance(words, dict)
    assert set(words) >= DANGEROUS


def test_oil_that_was_left_out_is_no_bar_but_it_is_not_there() -> None:
    run = PaperRun(MAIN)
    leave_out(run, "oil")
    run.play("run-down/means")
    assert metal_now(run.state).parts["journal"].face == "clean"
    assert {o.code for o in in_the_way(run.state, run.state.definition.by_key["run-down/means"])} == {"closed_dry"}


@pytest.mark.parametrize("name", [MAIN, MAINS, HEAD])
def test_where_nothing_was_left_out_nothing_stands_in_the_way(name: str) -> None:
    run = PaperRun(name)
    run.play("")
    assert all(in_the_way(run.state, cell) == () for cell in run.state.definition.cells)
