"""The lock of the turning gear: off for a move of the crank by a word, on again before any hand goes back."""

from __future__ import annotations

from typing import Any
from uuid import uuid4

import pytest

from jorvek.core.overhaul.log import commands as oc
from jorvek.core.overhaul.log.fold import fold
from jorvek.core.overhaul.views.log_lines import entry_of
from jorvek.core.run.log import events as ev
from jorvek.core.run.log.commands import Close, Context, KeyIn, Late, RecordReading, TellGear, TryPressure
from jorvek.core.run.rules.claims import decide_late
from jorvek.core.run.rules.decide import decide
from jorvek.core.run.rules.engine_effects import demand_gear_locked, tell_gear, turns_crank
from jorvek.core.run.rules.progress import next_call
from jorvek.core.run.views.bench import gear_now
from jorvek.core.run.views.offline_tasks import offline_tasks
from tests.core.engines import UNIT_2
from tests.core.overhauled import LIO, PaperOverhaul
from tests.core.paper_run import BRAM, INES, TAM, TODAY, PaperRun
from tests.core.test_overhaul import no
from tests.core.test_sheet_check import shipped

ROD = "tarnholt-7l34-rod-loosen"


def locked() -> PaperOverhaul:
    engine = PaperOverhaul(UNIT_2, shipped("tarnholt-7l34"))
    engine.isolate("turning_gear", "starting_air", "prelube")
    return engine


# ---- the engine ------------------------------------------------------------------------------------------------------


def test_the_gear_is_freed_for_a_move_and_locked_again_and_the_log_tells_both() -> None:
    engine = locked()
    assert no(engine.move) == "sweep_blocked", "its supply is locked"
    freed = engine.free(LIO)
    assert engine.state.gear_freed is not None
    engine.move()
    engine.back(freed)
    assert engine.state.gear_freed is None
    assert engine.state.in_force("turning_gear") is not None
    assert no(engine.move) == "sweep_blocked"
    assert [entry_of(line).kind for line in engine.state.lines[-3:]] == ["gear_freed", "crank_moved", "gear_locked"]
    assert fold(engine.events) == engine.state


@pytest.mark.parametrize(
    ("in_the_way", "code"),
    [
        (lambda engine: engine.enter(), "sweep_blocked"),
        (lambda engine: engine.begun("rod-2", under_pressure=True), "sweep_blocked"),
        (lambda engine: engine.lift("prelube"), "test_under_way"),
        (lambda engine: engine.free(), "gear_freed"),
    ],
)
def test_it_stays_locked_while_anything_stands_in_the_way_of_the_crank(in_the_way: Any, code: str) -> None:
    engine = locked()
    in_the_way(engine)
    assert no(engine.free) == code


def test_a_trainee_does_not_free_it_and_nobody_frees_what_is_not_locked_or_for_a_run_that_is_over() -> None:
    engine = locked()
    assert no(lambda: engine.free(TAM)) == "not_your_right"
    over = engine.begun("rod-2", open=False)
    assert no(lambda: engine.free(run=over.run_id)) == "no_such_run"
    bare = PaperOverhaul(UNIT_2, shipped("tarnholt-7l34"))
    assert no(bare.free) == "not_isolated"


def test_while_it_is_free_nobody_goes_in_nothing_burns_and_no_test_begins() -> None:
    engine = locked()
    engine.door("door-4")
    freed = engine.free()
    assert no(lambda: engine.enter(door="door-4")) == "gear_not_locked"
    assert no(lambda: engine.lift("prelube")) == "gear_freed"
    engine.back(freed)
    engine.enter(door="door-4")


def test_freed_for_a_runs_call_it_is_free_for_no_other_move() -> None:
    engine = locked()
    run = engine.begun("rod-2")
    engine.free(run=run.run_id)
    assert no(engine.move) == "gear_freed"


def test_taken_out_for_good_it_is_free_for_no_move_any_more() -> None:
    engine = locked()
    engine.free()
    for check in ("people", "doors", "oil_seen", "barred"):
        if check == "oil_seen":
            engine.say(oc.RestorePoint(kind="restore_point", id=uuid4(), point="prelube"))
        current = 14.0 if check == "barred" else None
        said = {"kind": "see_to", "id": uuid4(), "check": check, "words": "Seen", "current_A": current}
        engine.say(oc.SeeTo.model_validate(said))
    engine.say(oc.RestorePoint(kind="restore_point", id=uuid4(), point="turning_gear"))
    assert engine.state.gear_freed is None
    assert not engine.state.tests


# ---- the work at a joint ---------------------------------------------------------------------------------------------


def told(run: PaperRun, commander: str | None, *, own: bool = False) -> None:
    run.take(tell_gear(run.state, TellGear(id=uuid4(), commander=commander, own=own)))


def at_the_crank() -> PaperRun:
    """A rod at the first call for which the crank turns."""
    run = PaperRun(ROD, piston="stay")
    while (cell := next_call(run.state)) is not None and not turns_crank(run.state, cell):
        run.play_one()
    assert cell is not None
    return run


def key_of(run: PaperRun) -> str:
    cell = next_call(run.state)
    assert cell is not None
    return cell.key


def test_freed_for_its_own_call_a_run_turns_the_crank_and_does_nothing_else_before_it_is_locked() -> None:
    run = at_the_crank()
    told(run, "Bram", own=True)
    while turns_crank(run.state, run.state.definition.by_key[key_of(run)]):
        run.play_one()
    assert no(run.play_one) == "gear_freed", "hands go back when the lock is on"
    assert gear_now(run.state) is not None
    told(run, None)
    run.play_one()
    assert gear_now(run.state) is None


def test_freed_for_somebody_elses_move_a_run_waits_crank_calls_and_all() -> None:
    run = at_the_crank()
    told(run, "Lio")
    assert no(run.play_one) == "gear_freed"
    told(run, None)
    run.play_one()
    for command in (
        TryPressure(kind="try_pressure", id=uuid4(), step="free", text="300", unit="bar"),
        KeyIn(kind="key_in", id=uuid4(), cell=key_of(run), attempt=1, text="1", written_by=LIO.id, written_at=run.now),
    ):
        told(run, "Lio")
        assert no(lambda c=command: demand_gear_locked(run.state, c)) == "gear_freed"  # type: ignore[misc]  # bound now
        told(run, None)


def test_a_tablet_that_knows_it_to_be_free_offers_nothing_without_a_link() -> None:
    run = PaperRun()
    while not offline_tasks(run.state, run.looking()).calls:
        run.play_one()
    told(run, "Lio")
    assert not offline_tasks(run.state, run.looking()).calls
    told(run, None)
    assert offline_tasks(run.state, run.looking()).calls


def test_a_run_that_had_it_freed_is_not_closed_before_it_is_locked_and_another_is() -> None:
    run = PaperRun()
    run.play("")
    close = Close(kind="close", id=uuid4())
    told(run, "Bram", own=True)
    assert no(lambda: run.send(close, INES)) == "gear_freed"
    told(run, None)
    told(run, "Lio")
    assert run.send(close, INES).status == "closed"


def test_a_run_is_told_neither_twice_and_what_was_done_without_a_link_is_taken_all_the_same() -> None:
    run = at_the_crank()
    assert no(lambda: told(run, None)) == "E_DATA", "it was not free"
    told(run, "Lio")
    assert no(lambda: told(run, "Lio")) == "E_DATA"
    tick = RecordReading(kind="record", id=uuid4(), cell=key_of(run), attempt=1, answer=ev.TickAnswer())
    context = Context(BRAM, run.now, TODAY, {})
    assert no(lambda: decide(run.state, tick, context)) == "gear_freed"
    late = Late(batch=uuid4(), saw=run.state.seq, kept_s=30.0)
    taken = decide_late(run.state, tick, context, late, decide)
    assert isinstance(taken, ev.Recorded), "done before anybody could say so"
