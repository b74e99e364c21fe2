"""Welding, cutting and grinding at an engine: a permit of its own with its hours, never an open crankcase beside it."""

from __future__ import annotations

from datetime import timedelta
from typing import Any
from uuid import uuid4

import pytest

from jorvek.core.overhaul.log import commands as oc
from jorvek.core.overhaul.views.permits import hot_work_now, inside_now
from jorvek.core.run.rules.engine_effects import opens_crankcase
from tests.core.overhauled import LIO, START, PaperOverhaul
from tests.core.paper_run import INES, TAM, PaperRun
from tests.core.test_overhaul import no

DOOR = {"id": "door", "kind": "crankcase_door", "called": "Door of this cylinder"}
PISTON = {"id": "piston", "kind": "piston", "called": "Piston"}


def burn(engine: PaperOverhaul, by: Any = LIO, silent: tuple[oc.SilentTablet, ...] = (), **how: Any) -> int:
    """Begin hot work on the exhaust, with everything in order but for what is said otherwise."""
    usual = {
        "person": LIO.id,
        "work": "Bracket of the exhaust welded",
        "place": "Exhaust, cylinder 4",
        "watch": "Tam",
        "permit": "HW-7",
        "until_at": engine.now + timedelta(hours=4),
        "gas_pct": 0.0,
        "shut": "Ines: every door on, covers on the bores",
    }
    said = oc.BeginHotWork.model_validate({"kind": "begin_hot_work", "id": uuid4(), **usual, **how})
    return engine.say(said, by, silent=silent)


def over(engine: PaperOverhaul, began: int) -> int:
    return engine.say(oc.EndHotWork(kind="end_hot_work", id=uuid4(), began=began, words="Tam, cold at 15:00"), LIO)


def secured() -> PaperOverhaul:
    engine = PaperOverhaul()
    engine.isolate("turning_gear")
    return engine


# ---- never beside an open crankcase ----------------------------------------------------------------------------------


@pytest.mark.parametrize("part", [DOOR, PISTON])
def test_no_flame_beside_what_is_open_while_it_is_worked_on(part: dict[str, str]) -> None:
    engine = secured()
    run = engine.begun("rod-4", opens=(part,))
    assert no(lambda: burn(engine)) == "crankcase_open"
    engine.becomes(run, opens=())
    assert burn(engine)


def test_closing_a_run_shuts_no_door() -> None:
    engine = secured()
    run = engine.begun("rod-4", opens=(DOOR,))
    engine.becomes(run, open=False, condition="open")
    assert no(lambda: burn(engine)) == "crankcase_open"
    back = engine.begun("rod-4", purpose="tighten", begins="open", leaves="closed_up", opens=(DOOR,))
    assert no(lambda: burn(engine)) == "crankcase_open"
    engine.becomes(back, open=False, opens=())
    assert burn(engine)


def test_a_word_shuts_it_only_where_it_says_that_the_joint_is_whole() -> None:
    engine = secured()
    run = engine.begun("rod-4", opens=(DOOR,))
    engine.becomes(run, open=False)
    engine.found("open", "rod-4")
    assert no(lambda: burn(engine)) == "crankcase_open"
    engine.found("closed_up", "rod-4")
    assert burn(engine)


def test_a_liner_that_somebody_found_drawn_leaves_the_crankcase_open() -> None:
    engine = secured()
    engine.found("open", "liner-4")
    assert no(lambda: burn(engine)) == "crankcase_open"
    engine.found("landed", "liner-4")
    assert burn(engine)


def test_nobody_is_inside_when_it_begins_and_nobody_goes_in_while_it_lasts() -> None:
    engine = secured()
    inside = engine.enter(TAM)
    assert no(lambda: burn(engine)) == "person_inside"
    engine.out(inside)
    began = burn(engine)
    assert no(lambda: engine.enter(TAM)) == "hot_work_there"
    over(engine, began)
    assert engine.enter(TAM)


def test_whoever_was_inside_before_anybody_knew_is_written_down_with_what_spoke_against_it() -> None:
    engine = secured()
    burn(engine)
    engine.now += timedelta(hours=1)
    usual = {"space": "crankcase", "permit": "P-1", "attendant": "Tam", "oxygen_pct": 20.9, "gas_pct": 0.0}
    late = oc.Enter.model_validate({"kind": "enter", "id": uuid4(), "person": TAM.id, **usual})
    engine.say(late, TAM, kept_s=60.0)
    assert engine.state.inside[0].against == "hot_work_there"


def test_a_silent_tablet_may_have_opened_a_door_or_gone_in() -> None:
    engine = secured()
    silent = (oc.SilentTablet("a1", "Tam Ferrow", START),)
    assert no(lambda: burn(engine, silent=silent)) == "tablet_silent"
    answer = oc.AnswerForTablet(kind="answer_for_tablet", id=uuid4(), tablet="a1", words="He stands beside me")
    engine.say(answer, silent=silent)
    assert burn(engine, silent=silent)


def test_nothing_is_let_in_again_while_somebody_works_with_flame() -> None:
    engine = secured()
    engine.isolate("prelube")
    lift = {"kind": "lift_for_test", "points": ("prelube",), "test": "Prelube", "guards": "Tam at the door"}
    began = burn(engine)
    assert no(lambda: engine.say(oc.LiftForTest.model_validate({**lift, "id": uuid4()}))) == "hot_work_there"
    back = oc.RestorePoint(kind="restore_point", id=uuid4(), point="turning_gear")
    assert no(lambda: engine.say(back)) == "isolation_relied_on"
    over(engine, began)
    engine.say(oc.LiftForTest.model_validate({**lift, "id": uuid4()}))
    assert no(lambda: burn(engine)) == "test_under_way"


@pytest.mark.parametrize(
    ("does", "opens"),
    [
        ("take_off", True),
        ("hang", True),
        (None, True),
        ("put_in", False),
        ("lay", False),
        ("look", False),
        ("measure", False),
    ],
)
def test_what_only_words_say_of_a_door_may_open_it(
    monkeypatch: pytest.MonkeyPatch, does: str | None, *, opens: bool
) -> None:
    run = PaperRun("tarnholt-7l34-rod-loosen")
    cell = next(cell for cell in run.state.definition.cells if cell.step_id == "door")
    steps = run.state.definition.steps_by_id
    monkeypatch.setitem(steps, "door", steps["door"].model_copy(update={"does": does}))
    assert opens_crankcase(run.state, cell) == opens


# ---- its permit ------------------------------------------------------------------------------------------------------


@pytest.mark.parametrize(
    ("minutes", "refused"), [(0, "permit_hours"), (1, None), (24 * 60, None), (24 * 60 + 1, "permit_hours")]
)
def test_a_permit_holds_for_a_shift(minutes: int, refused: str | None) -> None:
    engine = secured()
    until = engine.now + timedelta(minutes=minutes)
    if refused is None:
        assert burn(engine, until_at=until)
        return
    assert no(lambda: burn(engine, until_at=until)) == refused
    assert no(lambda: engine.enter(until_at=until)) == refused


@pytest.mark.parametrize(("gas_pct", "refused"), [(0.9, None), (1.0, "gas_there")])
def test_no_spark_where_there_is_gas(gas_pct: float, refused: str | None) -> None:
    engine = secured()
    if refused is None:
        assert burn(engine, gas_pct=gas_pct)
    else:
        assert no(lambda: burn(engine, gas_pct=gas_pct)) == refused


def test_a_permit_that_has_run_out_is_told_and_ends_nothing() -> None:
    engine = secured()
    began = burn(engine)
    until = engine.now - timedelta(minutes=1) + timedelta(hours=4)
    assert [one.run_out for one in hot_work_now(engine.state, until - timedelta(seconds=1))] == [False]
    assert [one.run_out for one in hot_work_now(engine.state, until)] == [True]
    assert no(lambda: engine.enter(TAM)) == "hot_work_there"
    over(engine, began)
    assert no(lambda: over(engine, began)) == "no_such_entry"


def test_a_trainee_neither_begins_nor_ends_it() -> None:
    engine = secured()
    assert no(lambda: burn(engine, TAM)) == "not_your_right"
    assert no(lambda: burn(engine, person=uuid4())) == "no_such_person"


def test_a_wrong_entry_is_struck_and_one_that_was_ended_is_not() -> None:
    engine = secured()
    strike = {"kind": "strike_entry", "words": "Wrong engine"}
    began = burn(engine)
    engine.say(oc.StrikeEntry.model_validate({**strike, "id": uuid4(), "entry": began}), LIO)
    assert not engine.state.hot_work
    again = burn(engine)
    over(engine, again)
    said = oc.StrikeEntry.model_validate({**strike, "id": uuid4(), "entry": again})
    assert no(lambda: engine.say(said, LIO)) == "not_to_be_struck"


# ---- the air where people are ----------------------------------------------------------------------------------------


def read_again(engine: PaperOverhaul, oxygen_pct: float, gas_pct: float = 0.0, space: str = "crankcase") -> int:
    said = {"kind": "test_air", "space": space, "oxygen_pct": oxygen_pct, "gas_pct": gas_pct}
    return engine.say(oc.TestAir.model_validate({**said, "id": uuid4()}), TAM)


def test_air_that_has_turned_bad_is_taken_down_and_told_of_everybody_in_that_space() -> None:
    engine = secured()
    engine.enter(LIO)
    engine.enter(INES, space="scavenge")
    read_again(engine, 19.4)
    told = {one.person: (one.oxygen_pct, one.air_good) for one in inside_now(engine.state, engine.now)}
    assert told == {"Lio Sandvik": (19.4, False), "Ines Halloran": (20.9, True)}
    read_again(engine, 19.5, 9.9)
    assert [one.air_good for one in inside_now(engine.state, engine.now)] == [True, True]
    read_again(engine, 20.9, 10.0)
    assert [one.air_good for one in inside_now(engine.state, engine.now)] == [False, True]


def test_the_newest_reading_of_a_space_counts_for_whoever_went_in_before_it() -> None:
    engine = secured()
    engine.enter(LIO)
    read_again(engine, 19.0)
    engine.enter(INES, oxygen_pct=20.5)
    assert [one.oxygen_pct for one in inside_now(engine.state, engine.now)] == [20.5, 20.5]


def test_an_entry_permit_runs_out_at_its_minute() -> None:
    engine = secured()
    engine.enter(until_at=engine.now + timedelta(hours=2))
    until = engine.state.inside[0].until_at
    assert until is not None
    assert [one.run_out for one in inside_now(engine.state, until - timedelta(seconds=1))] == [False]
    assert [one.run_out for one in inside_now(engine.state, until)] == [True]
