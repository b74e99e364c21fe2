"""Who goes in, comes out or hangs a lock does so with or without a link; a silent tablet keeps the crank still."""

from __future__ import annotations

from datetime import timedelta
from typing import Any
from uuid import uuid4

import pytest

from jorvek.core.overhaul.log import commands as oc
from jorvek.core.overhaul.log import events as ov
from jorvek.core.overhaul.rules.sweep import in_sweep
from tests.core.engines import GREY_PLOVER
from tests.core.overhauled import LIO, START, PaperOverhaul
from tests.core.paper_run import INES, TAM
from tests.core.test_overhaul import no
from tests.core.test_sheet_check import shipped


def late(engine: PaperOverhaul, kept_s: float = 600.0, **how: Any) -> Any:
    usual = {"space": "crankcase", "permit": "P-1", "attendant": "Tam", "oxygen_pct": 20.9, "gas_pct": 0.0}
    said = {"kind": "enter", "id": uuid4(), "person": LIO.id, **usual, **how}
    engine.say(oc.Enter.model_validate(said), LIO, kept_s=kept_s)
    return engine.state.lines[-1].data


def secured() -> PaperOverhaul:
    engine = PaperOverhaul()
    engine.isolate("turning_gear")
    engine.now += timedelta(hours=1)
    return engine


def test_somebody_who_is_inside_is_written_down_whatever_speaks_against_it() -> None:
    engine = PaperOverhaul()
    assert no(engine.enter) == "gear_not_locked"
    assert late(engine).against == "gear_not_locked"
    assert [i.person.name for i in engine.state.inside] == ["Lio Sandvik"]
    assert no(lambda: late(engine)) == "inside_already"


@pytest.mark.parametrize(
    ("how", "against"),
    [
        ({}, None),
        ({"door": "door-9"}, "no_such_door"),
        ({"oxygen_pct": 19.4}, "air_not_good"),
        ({"gas_pct": 10.0}, "gas_there"),
    ],
)
def test_an_entry_that_comes_late_says_what_would_have_refused_it(how: dict[str, Any], against: str | None) -> None:
    entered = late(secured(), **how)
    assert entered.late
    assert entered.against == against


def test_a_crank_that_moved_after_somebody_had_gone_in_is_told() -> None:
    engine = secured()
    lifted = engine.lift("turning_gear")
    engine.move()
    engine.back(lifted)
    engine.now += timedelta(minutes=4)
    assert late(engine, kept_s=200.0).against is None, "moved before they went in"
    engine.out(engine.state.inside[0].seq)
    assert late(engine, kept_s=3600.0).against == ov.MOVED_MEANWHILE


def test_out_again_and_off_again_by_the_command_that_nobody_has_heard_of_yet() -> None:
    engine = secured()
    went_in, hung = uuid4(), uuid4()
    late(engine, id=went_in)
    engine.say(oc.HangLock(kind="hang_lock", id=hung, lock="7"), LIO, kept_s=500.0)
    # The paper log gives events ids of its own; what the tablet knows is the id of its command.
    inside, lock = engine.state.inside[0], engine.state.locks[0]
    assert no(lambda: engine.say(oc.Leave(kind="leave", id=uuid4(), entry=uuid4()), LIO)) == "no_such_entry"
    engine.say(oc.Leave(kind="leave", id=uuid4(), entry=inside.id), LIO, kept_s=400.0)
    engine.say(oc.TakeLockOff(kind="take_lock_off", id=uuid4(), entry=lock.id), LIO, kept_s=300.0)
    assert engine.state.inside, "told later: the board keeps him until somebody says so with a PIN"
    engine.out(inside.seq)
    assert not engine.state.inside
    assert not engine.state.told, "answered with it"
    assert not engine.state.locks, "his own"


def test_nothing_else_waits_on_a_tablet() -> None:
    engine = secured()
    move = oc.MoveCrank(kind="move_crank", id=uuid4(), to_deg=90.0, way="ahead", commander="Bram", looked_at=("sweep",))
    assert no(lambda: engine.say(move, kept_s=5.0)) == "moment_gone"


# ---- tablets that are silent -----------------------------------------------------------------------------------------


def test_the_crank_waits_for_a_named_answer_while_a_tablet_is_silent() -> None:
    engine = PaperOverhaul()
    silent = (oc.SilentTablet("a1", "Lio Sandvik", START),)
    move = oc.MoveCrank(
        kind="move_crank", id=uuid4(), to_deg=90.0, way="ahead", commander="Bram", looked_at=("sweep",), stays="Stays"
    )
    assert no(lambda: engine.say(move, silent=silent)) == "sweep_blocked", "no lead hand's word lets it be"
    answer = oc.AnswerForTablet(kind="answer_for_tablet", id=uuid4(), tablet="a1", words="He stands beside me")
    assert no(lambda: engine.say(answer)) == "not_silent"
    assert no(lambda: engine.say(answer, TAM, silent=silent)) == "not_your_right"
    engine.say(answer, silent=silent)
    assert no(lambda: engine.say(answer, silent=silent)) == "not_silent", "answered once"
    engine.say(move, silent=silent)
    later = (oc.SilentTablet("a1", "Lio Sandvik", START + timedelta(hours=1)),)
    found = in_sweep(engine.state, engine.sheet, engine.runs, later)
    assert [(o.code, o.what, o.by_word) for o in found] == [("tablet_silent", "Lio Sandvik", False)], "heard, and lost"


def test_the_door_by_which_somebody_went_in_is_one_of_the_sheet_and_is_kept() -> None:
    sheet = shipped("ulvane-5x46")
    engine = PaperOverhaul(GREY_PLOVER, sheet)
    engine.isolate("turning_gear")
    assert no(lambda: engine.enter(door="scavenge-2")) == "no_such_door", "it leads elsewhere"
    assert no(lambda: engine.enter(door=None)) == "door_not_said", "whoever looks for them has to know"
    assert no(lambda: engine.enter(door="scavenge-2", space="scavenge")) == "door_not_open"
    engine.door("scavenge-2")
    assert no(lambda: engine.enter(door="scavenge-2", space="scavenge")) == "own_lock_first", "the sheet wants it"
    engine.say(oc.HangLock(kind="hang_lock", id=uuid4(), lock="7"), INES)
    assert no(lambda: engine.enter(door="scavenge-2", space="scavenge")) == "own_lock_first", "another's does not count"
    engine.say(oc.HangLock(kind="hang_lock", id=uuid4(), lock="8"), LIO)
    engine.enter(door="scavenge-2", space="scavenge")
    assert engine.state.inside[0].door == "scavenge-2"
    assert no(lambda: engine.door("scavenge-2", "shut")) == "person_inside", "no door is shut on anybody"
    assert no(lambda: engine.enter(INES, door="door-3")) == "door_not_open", "another door of another space"
