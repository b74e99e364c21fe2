"""The way back to a running engine: each thing before the next, the shaft read, witnesses, the running-in."""

from __future__ import annotations

from typing import Any
from uuid import uuid4

import pytest
from hypothesis import given
from hypothesis import strategies as st

from jorvek.core.overhaul.log import commands as oc
from jorvek.core.overhaul.log import events as ov
from jorvek.core.overhaul.log.fold import fold
from jorvek.core.overhaul.rules.closing import held_up
from jorvek.core.overhaul.rules.return_to_service import checks_asked, order_back, seen
from jorvek.core.overhaul.rules.shaft import pins, throws_of
from jorvek.core.overhaul.views.close_out import close_out
from jorvek.core.sheet.default import default_sheet
from jorvek.core.sheet.document import DeflectionLimits, EngineSheet
from tests.core.engines import UNIT_2, UNIT_5
from tests.core.overhauled import LIO, PaperOverhaul
from tests.core.paper_run import BRAM, INES, TAM
from tests.core.test_overhaul import no

LIMITS = DeflectionLimits.model_validate({"vertical": "0.05 mm", "horizontal": "0.04 mm", "closes_within": "0.01 mm"})
STRAIGHT = (0.0, 0.01, 0.02, 0.0, 0.0)


def sheet(**changes: Any) -> EngineSheet:
    return default_sheet(UNIT_2).model_copy(update={"deflection": LIMITS, **changes})


def see(engine: PaperOverhaul, check: str, **how: Any) -> int:
    usual = {"words": "Seen", "current_A": 14.0 if check == "barred" else None, **how}
    return engine.say(oc.SeeTo.model_validate({"kind": "see_to", "id": uuid4(), "check": check, **usual}))


def give(engine: PaperOverhaul, point: str) -> int:
    return engine.say(oc.RestorePoint.model_validate({"kind": "restore_point", "id": uuid4(), "point": point}))


def dial(engine: PaperOverhaul, when: str = "after", by: Any = BRAM, **how: Any) -> int:
    throws = dict.fromkeys(pins(UNIT_2), STRAIGHT)
    throws |= how.pop("throws", {})
    said = {"kind": "read_deflections", "id": uuid4(), "when": when, "throws_mm": throws, "engine_degC": 22, **how}
    return engine.say(oc.ReadDeflections.model_validate(said), by)


def all_seen(engine: PaperOverhaul) -> None:
    for point in order_back(engine.sheet):
        if point in engine.state.isolations:
            give(engine, point)
        elif point in checks_asked(engine.state, engine.sheet):
            see(engine, point)


def why(engine: PaperOverhaul) -> set[tuple[str, str]]:
    context = oc.EngineContext(BRAM, engine.now, engine.sheet, engine.runs)
    return {(one.why, one.what) for one in held_up(engine.state, context)}


def closed(engine: PaperOverhaul) -> int:
    return engine.say(oc.CloseOverhaul(kind="close_overhaul", id=uuid4()), INES, pin_confirmed=True)


def test_an_engine_is_given_back_in_order_and_a_check_is_a_rung_of_it() -> None:
    engine = PaperOverhaul(sheet=sheet())
    engine.isolate("coolant", "prelube", "turning_gear", "starting_air", "cocks", "signs")
    assert no(lambda: give(engine, "coolant")) == "restored_before_its_turn", "nobody has counted the tools yet"
    assert no(lambda: see(engine, "doors")) == "restored_before_its_turn"
    see(engine, "people")
    see(engine, "doors")
    give(engine, "coolant")
    assert no(lambda: see(engine, "barred")) == "restored_before_its_turn", "no oil yet at the bearings"
    give(engine, "prelube")
    assert no(lambda: see(engine, "barred")) == "restored_before_its_turn", "oil is fed, and nobody has seen it"
    see(engine, "oil_seen")
    assert no(lambda: see(engine, "barred")) == "sweep_blocked", "the turning gear's supply is locked"
    engine.free()
    assert no(lambda: see(engine, "barred", current_A=None)) == "current_asked"
    assert no(lambda: see(engine, "doors", current_A=3.0)) == "E_DATA"
    see(engine, "barred")
    assert no(lambda: see(engine, "blown_through")) == "restored_before_its_turn", "the gear is in, and there is no air"
    assert ("gear", "Bram") in why(engine), "free still: nobody may take the engine for finished"
    give(engine, "turning_gear")
    give(engine, "starting_air")
    assert no(lambda: give(engine, "signs")) == "restored_before_its_turn"
    see(engine, "blown_through")
    give(engine, "cocks")
    give(engine, "signs")
    assert not why(engine)


def test_nothing_is_seen_to_while_somebody_relies_on_the_isolations() -> None:
    engine = PaperOverhaul(sheet=sheet())
    engine.isolate("turning_gear")
    engine.enter()
    assert no(lambda: see(engine, "people")) == "isolation_relied_on"
    engine.out(engine.state.inside[0].seq)
    work = engine.begun("head-4")
    assert no(lambda: see(engine, "people")) == "isolation_relied_on"
    engine.becomes(work, open=False, condition="closed_up", leaves="closed_up")
    assert no(lambda: engine.say(oc.SeeTo(kind="see_to", id=uuid4(), check="people", words="Mine"), TAM)) == (
        "not_your_right"
    )
    see(engine, "people")


@pytest.mark.parametrize("again", ["enter", "isolate", "declare", "lock", "run"])
def test_what_opens_the_engine_again_takes_the_checks_away(again: str) -> None:
    engine = PaperOverhaul(sheet=sheet())
    engine.isolate("turning_gear")
    see(engine, "people")
    assert seen(engine.state, engine.runs, "people")
    match again:
        case "enter":
            engine.enter()
        case "isolate":
            engine.isolate("fuel")
        case "declare":
            engine.found("open", "head-4")
        case "lock":
            engine.say(oc.HangLock(kind="hang_lock", id=uuid4(), lock="7"), LIO)
        case "run":
            engine.begun("head-4", open=False, condition="closed_up", leaves="closed_up")
    assert not seen(engine.state, engine.runs, "people")
    assert ("check", "people") in why(engine)


def test_after_two_turns_nobody_knows_where_the_crank_stands() -> None:
    engine = PaperOverhaul(sheet=sheet())
    engine.say(oc.FindCrank(kind="find_crank", id=uuid4(), angle_deg=10.0, proof="Mark"))
    for check in ("people", "doors", "oil_seen", "barred"):
        see(engine, check)
    assert engine.state.crank is not None
    assert engine.state.crank.angle_deg is None


def test_a_struck_check_was_never_made() -> None:
    engine = PaperOverhaul(sheet=sheet())
    made = see(engine, "people")
    engine.say(oc.StrikeEntry(kind="strike_entry", id=uuid4(), entry=made, words="One spanner missing"))
    assert ("check", "people") in why(engine)
    assert fold(engine.events) == engine.state


def test_an_overhaul_is_closed_by_the_chiefs_signature_and_a_single_job_by_its_lead_hand() -> None:
    engine = PaperOverhaul(sheet=sheet())
    assert ("check", "blown_through") in why(engine)
    all_seen(engine)
    close = oc.CloseOverhaul(kind="close_overhaul", id=uuid4())
    assert no(lambda: engine.say(close, BRAM, pin_confirmed=True)) == "not_your_right"
    assert no(lambda: engine.say(close, INES)) == "pin_needed"
    closed(engine)
    small = PaperOverhaul(sheet=sheet(witnesses=("class",)), small=True)
    assert not why(small), "what a single job owes is in its own calls"
    small.say(close)


def test_who_has_to_attend_is_waited_for() -> None:
    engine = PaperOverhaul(sheet=sheet(witnesses=("class", "owner")))
    all_seen(engine)
    assert why(engine) == {("witness", "class"), ("witness", "owner")}
    for who in ("class", "owner"):
        engine.say(oc.Witness(kind="witness", id=uuid4(), attends=who, name="R. Aldous", words="Item 12 seen"))
    assert not why(engine)


# ---- the shaft -------------------------------------------------------------------------------------------------------


def test_the_shaft_is_read_again_once_a_main_was_worked_on() -> None:
    engine = PaperOverhaul(sheet=sheet())
    all_seen(engine)
    assert not why(engine), "heads alone do not bend a shaft"
    engine.begun("main-3", open=False, condition="closed_up", leaves="closed_up")
    all_seen(engine)
    assert why(engine) == {("deflections", "1, 2, 3, 4, 5, 6, 7")}
    dial(engine, "before")
    assert why(engine), "those before tell nothing of what was done since"
    dial(engine)
    assert not why(engine)
    engine.begun("main-4", open=False, condition="closed_up", leaves="closed_up")
    assert ("deflections", "1, 2, 3, 4, 5, 6, 7") in why(engine)


def test_every_throw_is_read_and_a_dial_that_slipped_is_read_again() -> None:
    engine = PaperOverhaul(sheet=sheet())
    one = {"kind": "read_deflections", "id": uuid4(), "when": "after", "throws_mm": {"1": STRAIGHT}, "engine_degC": 22}
    assert no(lambda: engine.say(oc.ReadDeflections.model_validate(one))) == "throws_missing"
    assert no(lambda: dial(engine, throws={"4": (0.0, 0.0, 0.0, 0.0, 0.011)})) == "dial_slipped"
    dial(engine, throws={"4": (0.0, 0.0, 0.0, 0.0, 0.01)})


@pytest.mark.parametrize(
    ("readings", "outside"),
    [
        ((0.0, 0.0, 0.05, 0.0, 0.0), False),
        ((0.0, 0.0, 0.051, 0.0, 0.0), True),
        ((0.0, 0.0, -0.051, 0.0, 0.0), True),
        ((0.0, 0.02, 0.0, -0.02, 0.0), False),
        ((0.0, 0.021, 0.0, -0.02, 0.0), True),
    ],
)
def test_a_throw_outside_the_limits_is_the_chiefs_to_take_with_a_word(
    readings: tuple[float, ...], *, outside: bool
) -> None:
    engine = PaperOverhaul(sheet=sheet())
    throws = {"4": readings}
    if not outside:
        assert no(lambda: dial(engine, throws=throws, accepted="Well enough")) == "nothing_to_accept"
        dial(engine, throws=throws)
        return
    dial(engine, "before", throws=throws)
    assert no(lambda: dial(engine, throws=throws)) == "deflection_outside"
    assert no(lambda: dial(engine, throws=throws, accepted="Well enough")) == "not_your_right"
    dial(engine, by=INES, throws=throws, accepted="As it was before; the maker has agreed")


def test_a_type_without_limits_has_its_figures_shown_and_not_judged() -> None:
    read = ov.DeflectionsRead(when="after", throws_mm={"1": (0.0, 0.0, 0.4, 0.0, 0.0)}, engine_degC=20.0)
    (throw,) = throws_of(read, default_sheet(UNIT_2))
    assert throw.tells.vertical_mm == pytest.approx(0.4)
    assert throw.outside == ()


def test_banks_share_their_crankpins() -> None:
    assert pins(UNIT_5) == ("1", "2", "3", "4", "5")


# ---- the running-in --------------------------------------------------------------------------------------------------


def run_in(engine: PaperOverhaul, stop: str, by: Any = LIO) -> int:
    return engine.say(oc.NoteRunIn(kind="note_run_in", id=uuid4(), stop=stop, words="Cool"), by)


def test_the_running_in_follows_the_closing_stop_by_stop() -> None:
    engine = PaperOverhaul(sheet=sheet())
    assert no(lambda: run_in(engine, "first-start")) == "not_closed_yet"
    all_seen(engine)
    closed(engine)
    assert no(lambda: run_in(engine, "five-minutes")) == "stop_before_its_turn"
    run_in(engine, "first-start")
    assert no(lambda: run_in(engine, "first-start")) == "stop_made"
    assert no(lambda: run_in(engine, "one-hour")) == "stop_before_its_turn"
    assert no(lambda: run_in(engine, "one-week")) == "no_such_stop"
    for stop in ("five-minutes", "one-hour", "one-shift"):
        run_in(engine, stop)
    assert engine.state.status == "closed"
    assert fold(engine.events) == engine.state


# ---- as it is shown --------------------------------------------------------------------------------------------------


@given(st.integers(0, 15))
def test_the_step_that_is_shown_as_next_is_the_one_that_is_allowed(steps: int) -> None:
    engine = PaperOverhaul(sheet=sheet())
    engine.isolate("coolant", "prelube", "turning_gear", "starting_air")
    for _ in range(steps):
        shown = close_out(engine.state, engine.sheet, engine.runs).steps
        following = next((s for s in shown if s.next), None)
        for other in shown:
            if other.done or other is following:
                continue
            act = see if other.check else give
            assert no(lambda p=other.point, a=act: a(engine, p)) == "restored_before_its_turn"  # type: ignore[misc]  # bound now
        if following is None:
            assert not why(engine)
            return
        if following.point == "barred":
            engine.free()
        (see if following.check else give)(engine, following.point)
