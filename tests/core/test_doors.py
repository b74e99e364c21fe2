"""Doors of an engine: opened when it has stood, gone in by when they are open, shut when everybody is out."""

from __future__ import annotations

from datetime import timedelta
from typing import Any
from uuid import uuid4

from jorvek.core.overhaul.log import commands as oc
from jorvek.core.overhaul.rules.closing import held_up
from jorvek.core.overhaul.rules.open_places import open_doors, to_clear
from jorvek.core.run.log.events import Person
from jorvek.core.run.views.on_engine import PartOut
from tests.core.engines import UNIT_2
from tests.core.overhauled import LIO, PaperOverhaul
from tests.core.paper_run import BRAM, INES, TAM
from tests.core.test_overhaul import no
from tests.core.test_sheet_check import shipped

DOOR = PartOut(id="door", kind="crankcase_door", called="door")


def locked() -> PaperOverhaul:
    engine = PaperOverhaul(UNIT_2, shipped("tarnholt-7l34"))
    engine.isolate("turning_gear")
    engine.say(oc.HangLock(kind="hang_lock", id=uuid4(), lock="7"), LIO)
    return engine


def told(engine: PaperOverhaul, ago_min: float, now: str, by: Person = LIO, teller: Person = BRAM) -> Any:
    """Key in a line of a list."""
    paper = oc.Paper(by=by.id, at=engine.now - timedelta(minutes=ago_min))
    said = {"kind": "move_door", "id": uuid4(), "door": "door-4", "now": now, "paper": paper}
    engine.say(oc.MoveDoor.model_validate(said), teller)
    return engine.state.lines[-1].data


def is_open(engine: PaperOverhaul) -> frozenset[str]:
    return open_doors(engine.state, engine.sheet, engine.runs)


def test_a_door_is_opened_by_hand_or_by_the_work_on_its_cylinder() -> None:
    engine = locked()
    assert is_open(engine) == frozenset()
    assert no(lambda: engine.enter(door="door-4")) == "door_not_open"
    engine.door("door-2")
    engine.begun("rod-4", opens=(DOOR,))
    engine.begun("main-6", opens=(DOOR,))
    assert is_open(engine) == {"door-2", "door-4"}, "of a main nobody knows which door it is"
    engine.enter(door="door-4")
    assert engine.state.inside[0].door == "door-4"


def test_work_that_has_its_door_on_again_leaves_it_shut() -> None:
    engine = locked()
    run = engine.begun("rod-4", opens=(DOOR,))
    engine.becomes(run, opens=())
    assert is_open(engine) == frozenset()
    run = engine.becomes(run, opens=(DOOR,))
    engine.door("door-4", "shut")
    assert is_open(engine) == frozenset(), "somebody has shut it since"
    engine.now += timedelta(minutes=1)
    engine.becomes(run, opens=(DOOR,))
    assert is_open(engine) == {"door-4"}, "and the work went on there"


def test_no_door_is_opened_before_the_engine_has_stood() -> None:
    engine = locked()
    stop = {"kind": "note_stop", "id": uuid4(), "stopped_at": engine.now, "cause": "planned", "words": "Stopped"}
    engine.say(oc.NoteStop.model_validate(stop))
    assert no(lambda: engine.door("door-4")) == "not_stood"
    engine.now += timedelta(hours=3)
    engine.door("door-4")
    assert no(lambda: engine.door("door-9")) == "no_such_door"


def test_a_door_is_shut_when_everybody_is_out_and_one_that_is_open_answers_before_the_crank_moves() -> None:
    engine = locked()
    engine.door("door-4")
    inside = engine.enter(door="door-4")
    engine.door("door-5")
    assert no(lambda: engine.door("door-5", "shut")) == "person_inside", "one space"
    opened = next(line.seq for line in engine.state.lines if line.data.kind == "door_moved")
    strike = oc.StrikeEntry(kind="strike_entry", id=uuid4(), entry=opened, words="Wrong door")
    assert no(lambda: engine.say(strike)) == "person_inside", "the door by which they went in"
    engine.out(inside, LIO)
    places = to_clear(engine.state, engine.sheet, engine.runs)
    assert {(p.id, p.sort) for p in places} == {("door:door-4", "door"), ("door:door-5", "door")}
    lock = next(iter(engine.state.locks)).seq
    engine.say(oc.TakeLockOff(kind="take_lock_off", id=uuid4(), hung=lock), LIO)
    lifted = engine.lift("turning_gear")
    assert no(lambda: engine.move(clear=["door:door-4"])) == "not_clear"
    engine.move(clear=["door:door-4", "door:door-5"])
    engine.back(lifted)
    engine.door("door-4", "shut")
    assert [p.joint for p in to_clear(engine.state, engine.sheet, engine.runs)] == ["door-5"]


def test_an_overhaul_is_not_closed_with_a_door_open() -> None:
    engine = locked()
    engine.door("door-4")
    context = oc.EngineContext(INES, engine.now, engine.sheet, engine.runs, engine.people)
    assert ("door", "door-4") in [(one.why, one.what) for one in held_up(engine.state, context)]
    engine.door("door-4", "shut")
    assert "door" not in {one.why for one in held_up(engine.state, context)}


def test_no_flame_beside_an_open_door() -> None:
    engine = locked()
    engine.door("door-4")
    begin = {
        "kind": "begin_hot_work", "id": uuid4(), "person": TAM.id, "work": "weld", "place": "at 4", "permit": "P-2",
        "watch": "Ines", "until_at": engine.now + timedelta(hours=2), "gas_pct": 0.0, "shut": "Seen",
    }  # fmt: skip
    assert no(lambda: engine.say(oc.BeginHotWork.model_validate(begin))) == "door_open"


def test_a_door_told_open_later_is_open_and_one_told_shut_later_waits_for_a_look() -> None:
    engine = locked()
    engine.now += timedelta(hours=2)
    assert told(engine, 60, "open").told is None
    assert is_open(engine) == {"door-4"}
    assert told(engine, 30, "shut").told == "safer"
    assert is_open(engine) == {"door-4"}, "nobody has looked"
    waiting = engine.state.told[-1].seq
    engine.look(waiting, INES)
    assert is_open(engine) == frozenset()


def test_without_a_link_a_door_is_opened_before_it_was_time_and_the_log_says_so() -> None:
    engine = locked()
    stop = {"kind": "note_stop", "id": uuid4(), "stopped_at": engine.now, "cause": "planned", "words": "Stopped"}
    engine.say(oc.NoteStop.model_validate(stop))
    engine.now += timedelta(minutes=5)
    engine.door("door-4", kept_s=60.0)
    data = engine.state.lines[-1].data
    assert getattr(data, "against", None) == "not_stood"
    assert is_open(engine) == {"door-4"}


def test_once_every_door_was_seen_shut_none_is_open() -> None:
    engine = PaperOverhaul(UNIT_2, shipped("tarnholt-7l34"))
    engine.door("door-4")
    for check in ("people", "doors"):
        assert is_open(engine) == {"door-4"}
        said = {"kind": "see_to", "id": uuid4(), "check": check, "words": "Seen, all of them"}
        engine.say(oc.SeeTo.model_validate(said), INES)
    assert is_open(engine) == frozenset()
    engine.door("door-5")
    assert not engine.state.seen, "opened again, all of it is seen to again"
