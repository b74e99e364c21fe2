"""A follow-up that is work: the short bolts of a vee engine's head, pulled once more after fifty running hours."""

from __future__ import annotations

from datetime import date
from uuid import uuid4

import pytest

from jorvek.core.refusal import Refusal
from jorvek.core.run.log import events as ev
from jorvek.core.run.log.commands import RecordReading
from jorvek.core.run.rules.progress import next_call
from jorvek.core.run.rules.studs import uses_in
from jorvek.core.run.views.record import record_of
from jorvek.local.demo import DEMO_PIN, actor, load_world
from jorvek.local.player import Player
from jorvek.settings import ROOT
from jorvek.work.engine import overhauls
from jorvek.work.library import revisions
from jorvek.work.runs import acts, follow_ups
from jorvek.work.runs.exports import export_run, import_run
from jorvek.work.upkeep import hours_and_due
from tests.conftest import World, new_database, new_workshop
from tests.store.test_engine_as_a_whole import tell
from tests.store.test_upkeep import closed

VEE = "unit-5"


def due(world: World) -> hours_and_due.DueWork:
    (found,) = [d for d in hours_and_due.due_work(world.workshop) if d.again]
    return found


def begun(world: World, of: hours_and_due.DueWork, *, as_it_ran: bool = False, name: str = "Dessa Marlow") -> Player:
    player = world.player(name)
    player.run_id = uuid4()
    assert of.run_id is not None
    command = follow_ups.StartFollowUp(id=uuid4(), run_id=player.run_id, as_it_ran=as_it_ran)
    follow_ups.start_follow_up(world.workshop, player.hands, of.run_id, of.step, command)
    return player


def test_the_short_bolts_are_pulled_again_by_the_revision_that_asked_for_it(world: World) -> None:
    world.found(VEE, head_a="open")
    first = closed(world, "corvane-v10-head-tighten", VEE, "head-a")
    ask = due(world)
    assert (ask.joint, ask.hours_left, ask.under_way) == ("Head A", 25.0, None)
    again = begun(world, ask)
    state = again.state()
    kinds = [state.definition.steps_by_id[cells[0].step_id].kind for _, cells in state.definition.steps]
    assert kinds == ["make_safe", "confirm", "tool_issue", "check_trip", "restore"], "and nothing of the long bolts"
    assert {c.fastener for c in state.definition.cells if c.kind == "check_trip"} == {f"S{n}" for n in range(1, 7)}
    assert list(state.definition.wanted_tools) == ["wrench-short"]
    assert state.started.procedure_hash == first.state().started.procedure_hash
    assert due(world).under_way == again.run_id
    assert due(world).by == "Dessa Marlow"
    chief = actor(world.workshop, "Ines Halloran")
    while next_call(again.play()) is not None:
        again.sign(chief, DEMO_PIN)
    assert uses_in(again.state()) == {}, "a bolt that is pulled again where it sits is not used once more"
    again.close(chief)
    assert not [d for d in hours_and_due.due_work(world.workshop) if d.again], "done, without anybody saying so"
    (joint,) = [r for r in overhauls.runs_on(world.workshop, VEE) if r.run_id == again.run_id]
    assert (joint.begins, joint.leaves, joint.condition) == ("closed_up", "closed_up", "closed_up")


def test_a_bolt_that_moves_too_far_is_out_of_band_as_in_the_procedure(world: World) -> None:
    world.found(VEE, head_a="open")
    closed(world, "corvane-v10-head-tighten", VEE, "head-a")
    again = begun(world, due(world))
    state = again.play(lambda cell: cell.kind == "check_trip")
    call = next_call(state)
    assert call is not None
    far = ev.PullAnswer(outcome=ev.PullOutcome.MOVED, moved="12")
    reading = RecordReading(kind="record", id=uuid4(), cell=call.key, attempt=1, answer=far)
    acts.act(world.workshop, again.hands, again.run_id, reading)
    live = again.state().live(call.key)
    assert live is not None
    assert live.judgement.verdict is ev.Verdict.OUT_OF_BAND


def test_months_later_the_engine_stands_closed_up_as_it_ran(world: World) -> None:
    """No overhaul is open: whoever starts says so, and a small one opens for the job."""
    world.found(VEE, head_a="open")
    closed(world, "corvane-v10-head-tighten", VEE, "head-a")
    for check in ("people", "doors", "oil_seen", "barred", "blown_through"):
        said = {"check": check, "words": "Seen", "current_A": 14.0 if check == "barred" else None}
        tell(world, "Bram Okafor", {"kind": "see_to", **said}, engine=VEE)
    tell(world, "Ines Halloran", {"kind": "close_overhaul"}, pin=DEMO_PIN, engine=VEE)
    assert overhauls.open_on(world.workshop, VEE) is None
    ask = due(world)
    with pytest.raises(Refusal) as refused:
        begun(world, ask)
    assert refused.value.code == "conditions_unknown", "nobody has said that nothing was touched since"
    again = begun(world, ask, as_it_ran=True)
    small = overhauls.open_on(world.workshop, VEE)
    assert small is not None
    assert (small.opened.small, again.state().started.overhaul) == (True, small.overhaul_id)


def test_a_look_is_no_work_to_start_and_nothing_is_started_twice(world: World) -> None:
    world.found("unit-2", head_4="tight")
    look = closed(world, "tarnholt-7l34-head-close", "unit-2", "head-4")
    (ask,) = hours_and_due.due_work(world.workshop)
    assert not ask.again
    lio = actor(world.workshop, "Lio Sandvik")
    command = follow_ups.StartFollowUp(id=uuid4(), run_id=uuid4())
    for step in (ask.step, "nothing"):
        with pytest.raises(Refusal) as refused:
            follow_ups.start_follow_up(world.workshop, lio, look.run_id, step, command)
        assert refused.value.code == "nothing_to_follow"


def test_a_withdrawn_revision_still_does_what_it_asked_for(world: World) -> None:
    world.found(VEE, head_a="open")
    first = closed(world, "corvane-v10-head-tighten", VEE, "head-a")
    chief = actor(world.workshop, "Ines Halloran")
    revisions.withdraw(world.workshop, chief, first.state().started.procedure_hash)
    again = begun(world, due(world))
    with pytest.raises(Refusal) as refused:
        begun(world, due(world), name="Lio Sandvik")
    assert refused.value.code == "joint_taken"
    assert next_call(again.state()) is not None


def test_a_follow_up_is_read_back_with_its_own_few_calls(world: World, server: object) -> None:
    world.found(VEE, head_a="open")
    closed(world, "corvane-v10-head-tighten", VEE, "head-a")
    again = begun(world, due(world))
    again.play(lambda cell: cell.kind == "check_trip")
    elsewhere = new_workshop(new_database(server), world.clock)  # type: ignore[arg-type]  # the session's server
    load_world(elsewhere, ROOT)
    exported = export_run(world.workshop, again.run_id).model_dump_json()
    import_run(elsewhere, actor(elsewhere, "Ines Halloran"), exported)
    there = elsewhere.log.snapshot(again.run_id)
    assert there.state.definition.cells == again.state().definition.cells
    record = record_of(again.run_id, there.state, there.head_hash)
    assert record.procedure_title.endswith("Short bolts after running in")


def test_hours_read_meanwhile_make_it_due(world: World) -> None:
    world.found(VEE, head_a="open")
    closed(world, "corvane-v10-head-tighten", VEE, "head-a")
    before = next(e.running_hours for e in world.workshop.registers.engines() if e.id == VEE)
    assert before is not None
    world.clock.forward(60)
    lio, day = actor(world.workshop, "Lio Sandvik"), date(2026, 11, 23)
    hours_and_due.read_hours(world.workshop, lio, VEE, before + 30, day)
    asked = due(world)
    assert (asked.over, asked.late, asked.latest_left) == (True, False, 20), "due, and twenty hours are left for it"
    hours_and_due.read_hours(world.workshop, lio, VEE, before + 50, day)
    assert due(world).late


def test_while_its_own_run_is_open_nobody_closes_a_follow_up_by_a_word(world: World) -> None:
    world.found(VEE, head_a="open")
    closed(world, "corvane-v10-head-tighten", VEE, "head-a")
    ask = due(world)
    assert ask.run_id is not None
    again = begun(world, ask)
    lio = actor(world.workshop, "Lio Sandvik")
    with pytest.raises(Refusal) as refused:
        hours_and_due.follow_up(world.workshop, lio, ask.run_id, ask.step, "All tight")
    assert refused.value.code == "follow_up_under_way"
    assert due(world).under_way == again.run_id
