"""What is told later: less safe counts at once and is in doubt, safer counts when somebody else has looked."""

from __future__ import annotations

from datetime import timedelta
from typing import Any
from uuid import uuid4

import pytest

from jorvek.core.overhaul.log import commands as oc
from jorvek.core.overhaul.log import events as ov
from jorvek.core.overhaul.log.fold import fold
from jorvek.core.overhaul.rules.sweep import in_sweep
from jorvek.core.run.views.on_engine import PartOut
from tests.core.overhauled import LIO, PaperOverhaul
from tests.core.paper_run import BRAM, INES, TAM
from tests.core.test_from_a_list import MOVE, keyed, morning
from tests.core.test_overhaul import no


def with_somebody_inside() -> PaperOverhaul:
    engine = morning()
    engine.isolate("turning_gear", "fuel")
    engine.enter(LIO, attended_by=TAM.id, attendant=None)
    engine.now += timedelta(hours=2)
    return engine


def test_a_move_told_by_a_mechanic_over_somebody_inside_is_kept_and_nobody_knows_the_angle() -> None:
    engine = with_somebody_inside()
    told = keyed(engine, "move_crank", ago_min=0, by=LIO, **MOVE)
    assert (told.told, told.against) == ("less_safe", "sweep_blocked")
    assert engine.state.crank is not None
    assert engine.state.crank.angle_deg is None, "where it ended is seen on the wheel, not on paper"
    assert no(lambda: engine.enter(INES)) == "in_doubt"
    engine.say(oc.FindCrank(kind="find_crank", id=uuid4(), angle_deg=30.0, proof="Mark and cam"))
    assert not engine.state.told, "read on the wheel: that answers it"


@pytest.mark.parametrize("by", [TAM, BRAM])
def test_given_back_by_paper_trust_goes_whoever_tells_it(by: Any) -> None:
    engine = with_somebody_inside()
    keyed(engine, "restore_point", ago_min=0, by=by, point="turning_gear")
    assert engine.state.in_force("turning_gear") is None
    assert ("in_doubt", by.name) in {
        (one.code, one.what) for one in in_sweep(engine.state, engine.sheet, engine.runs, ())
    }
    told = engine.state.seq
    assert no(lambda: engine.look(told, engine.state.lines[told - 1].by)) == "told_by_oneself"
    assert no(lambda: engine.look(told, LIO)) == "not_your_point"
    assert no(lambda: engine.look(told, BRAM, pin_confirmed=False)) == "pin_needed"
    engine.look(told, BRAM)
    assert not engine.state.told
    assert no(lambda: engine.look(told, BRAM)) == "nothing_told"
    assert fold(engine.events) == engine.state


def test_whoever_told_it_neither_answers_it_nor_strikes_it() -> None:
    engine = with_somebody_inside()
    keyed(engine, "move_crank", ago_min=0, by=LIO, keys=BRAM, **MOVE)
    told = engine.state.seq
    find = oc.FindCrank(kind="find_crank", id=uuid4(), angle_deg=30.0, proof="Mark and cam")
    strike = oc.StrikeEntry(kind="strike_entry", id=uuid4(), entry=told, words="A slip")
    assert no(lambda: engine.say(strike, BRAM)) == "in_doubt"
    engine.say(find, BRAM)
    assert engine.state.told, "he reads the wheel himself: somebody else has to look"
    engine.say(find.model_copy(update={"id": uuid4()}), INES)
    assert not engine.state.told


def test_a_trainee_tells_what_a_lead_hand_did_where_it_makes_things_less_safe() -> None:
    """Whose authority it was does not matter: it is not buried."""
    engine = morning()
    assert keyed(engine, "move_crank", by=BRAM, keys=TAM, **MOVE).told == "less_safe"
    assert no(lambda: keyed(engine, "find_crank", by=BRAM, keys=TAM, angle_deg=1.0, proof="Mark")) == "writer_above"


def test_an_isolation_told_later_keeps_nobody_safe_before_somebody_has_looked() -> None:
    engine = morning()
    keyed(engine, "isolate", ago_min=30, by=BRAM, point="turning_gear")
    assert no(engine.enter) == "gear_not_locked"
    engine.look(engine.state.seq, BRAM)
    engine.enter()


def test_shut_again_by_somebody_who_stands_there_answers_what_was_told() -> None:
    engine = morning()
    keyed(engine, "isolate", ago_min=30, by=BRAM, point="fuel")
    engine.isolate("fuel")
    assert not engine.state.told
    assert engine.state.in_force("fuel") is not None


def test_anothers_lock_that_came_off_without_a_link_is_in_doubt_and_ones_own_is_not() -> None:
    engine = with_somebody_inside()
    lock = engine.say(oc.HangLock(kind="hang_lock", id=uuid4(), lock="7"), LIO)
    engine.say(oc.TakeLockOff(kind="take_lock_off", id=uuid4(), hung=lock), TAM, kept_s=0.0)
    data = engine.state.lines[-1].data
    assert isinstance(data, ov.LockOff)
    assert (data.told, data.against) == ("less_safe", "anothers_lock")
    assert no(lambda: engine.enter(INES)) == "in_doubt"
    mine = engine.say(oc.HangLock(kind="hang_lock", id=uuid4(), lock="8"), TAM)
    engine.say(oc.TakeLockOff(kind="take_lock_off", id=uuid4(), hung=mine), TAM, kept_s=0.0)
    assert len(engine.state.told) == 1


def test_a_span_and_a_reason_stand_with_it() -> None:
    engine = morning()
    at, until = engine.now - timedelta(hours=3), engine.now - timedelta(hours=1)
    paper = {"by": BRAM.id, "at": at, "until": until, "why": "No tablet below"}
    command = oc.Isolate.model_validate({"kind": "isolate", "id": uuid4(), "point": "fuel", "paper": paper})
    engine.say(command, INES)
    written = engine.state.lines[-1].paper
    assert written is not None
    assert (written.at, written.until, written.why) == (at, until, "No tablet below")
    paper["until"] = at - timedelta(minutes=1)
    backwards = oc.Isolate.model_validate({"kind": "isolate", "id": uuid4(), "point": "coolant", "paper": paper})
    assert no(lambda: engine.say(backwards, INES)) == "written_when"


def test_a_log_from_before_the_rule_reads_as_it_was_meant() -> None:
    engine = morning()
    keyed(engine, "isolate", ago_min=30, by=BRAM, point="fuel")
    old = engine.events[-1].model_copy(update={"data": engine.events[-1].data.model_copy(update={"told": None})})
    assert fold([*engine.events[:-1], old]).in_force("fuel") is not None


# ---- off the board ---------------------------------------------------------------------------------------------------


def test_off_the_board_by_oneself_by_who_attends_or_by_a_chief_and_by_nobody_else() -> None:
    engine = with_somebody_inside()
    inside = engine.state.inside[0].seq
    assert no(lambda: engine.out(inside, BRAM, seen=True)) == "not_theirs_to_take_off"
    assert no(lambda: engine.out(inside, TAM)) == "not_seen"
    leave = oc.Leave(kind="leave", id=uuid4(), entered=inside, seen=True)
    assert no(lambda: engine.say(leave, TAM)) == "pin_needed"
    assert no(lambda: engine.say(leave, LIO)) == "pin_needed"
    assert engine.state.inside
    engine.out(inside, TAM, seen=True)
    assert not engine.state.inside


def test_a_chief_who_has_seen_them_takes_them_off() -> None:
    engine = with_somebody_inside()
    assert no(lambda: engine.out(engine.state.inside[0].seq, INES)) == "not_seen"
    engine.out(engine.state.inside[0].seq, INES, seen=True)
    assert not engine.state.inside


def test_whoever_works_does_not_attend() -> None:
    engine = morning()
    engine.isolate("turning_gear")
    run = engine.begun("main-3", by="Somebody of that name", by_id=TAM.id)
    assert no(lambda: engine.enter(LIO, attended_by=TAM.id, attendant=None)) == "attendant_works"
    engine.becomes(run, in_hand=False)
    engine.enter(LIO, attended_by=TAM.id, attendant=None)


# ---- every open door and bore ----------------------------------------------------------------------------------------


def test_every_open_door_and_bore_answers_by_name_before_the_crank_moves() -> None:
    engine = morning()
    engine.found("open", "head-2")
    run = engine.begun("main-3", opens=(PartOut(id="part", kind="door", called="door 3"),))
    assert no(engine.move) == "not_clear"
    assert no(lambda: engine.move(clear=["head-2"])) == "not_clear"
    engine.move(clear=["head-2", "main-3/part"])
    moved = engine.state.lines[-1].data
    assert isinstance(moved, ov.CrankMoved)
    assert moved.clear == ("head-2", "main-3/part")
    engine.becomes(run, open=False)
    engine.found("closed_up", "main-3")
    engine.move(clear=["head-2"])
    assert engine.state.crank is not None, "a person has said that the main is whole: its door asks nobody"
    engine.found("open", "liner-2")
    assert no(lambda: engine.move(clear=["head-2"])) == "not_clear", "a liner that is out opens the crankcase"
