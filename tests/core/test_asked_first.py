"""What is possible but unlikely is asked about once, before it is stored; looked at again, it stands."""

from __future__ import annotations

import random
from typing import Literal
from uuid import uuid4

import pytest
from hypothesis import given
from hypothesis import strategies as st

from jorvek.core.refusal import Refusal, RefusalKind
from jorvek.core.run.log import commands as c
from jorvek.core.run.log import events as ev
from jorvek.core.run.log.cells import InputType
from jorvek.core.run.log.commands import RedoWork
from jorvek.core.run.rules.asked_first import still_turned
from jorvek.core.run.rules.claims import decide_late
from jorvek.core.run.rules.decide import decide
from jorvek.core.run.rules.lengths import expected_length
from jorvek.core.run.rules.progress import next_call, open_cells
from jorvek.core.run.rules.redo import redo_scope
from jorvek.core.run.rules.slips import meant
from jorvek.core.run.views.record import record_of
from tests.core.paper_run import INES, LIO, TODAY, TOOLS, PaperRun
from tests.core.test_limits_of_rules import codes

HEAD, V10 = "tarnholt-7l34-head-tighten", "corvane-v10-head-tighten"


def asked(run: PaperRun, key: str, answer: ev.Answer) -> Refusal:
    seq = run.state.seq
    with pytest.raises(Refusal) as refused:
        run.record(key, answer)
    assert run.state.seq == seq, "nothing is stored before it is asked"
    return refused.value


def value(text: str, unit: str = "mm", *, sure: Literal[True] | None = None) -> ev.ValueAnswer:
    return ev.ValueAnswer(text=text, unit=unit, sure=sure)


def at(name: str, key: str) -> PaperRun:
    run = PaperRun(name)
    run.play(key)
    return run


# ---- the slips of a hand ---------------------------------------------------------------------------------------------


@pytest.mark.parametrize(
    ("typed", "low", "high", "expected"),
    [
        ("631.193", 612.9, 613.5, "613.193"),
        ("613.913", 612.9, 613.5, "613.193"),
        ("6131.93", 612.9, 613.5, "613.193"),
        ("613193", 612.9, 613.5, "613.193"),
        ("6113.193", 612.9, 613.5, "613.193"),
        ("618.193", 612.9, 613.5, "613.193"),
        ("24.139", 612.9, 613.5, "613.13"),
        ("30.2", 17.0, 23.0, "20.3"),
        ("203", 17.0, 23.0, "20.3"),
        ("2.03", 17.0, 23.0, "20.3"),
        ("-20.3", 17.0, 23.0, "20.3"),
        ("7.3", 18.0, 290.0, "73"),
        ("20,3", 100.0, 300.0, "203"),
    ],
)
def test_one_slip_that_explains_a_figure_is_offered(typed: str, low: float, high: float, expected: str) -> None:
    assert meant(typed, low, high) == expected


def test_what_many_slips_would_explain_is_not_offered() -> None:
    assert meant("500.0", 612.9, 613.5) is None, "nothing is one slip away"
    assert meant("619.4", 610.0, 618.0) is None, "eight figures are one digit away"


@given(st.decimals(1, 999, places=3), st.floats(0.001, 0.2))
def test_what_is_offered_always_fits(figure: object, share: float) -> None:
    text = str(figure)
    low, high = float(text) * (1 - share), float(text) * (1 + share)
    exchanged = text[1] + text[0] + text[2:]
    offered = meant(exchanged, low, high)
    assert offered is None or low <= float(offered) <= high


# ---- lengths by the stretch that they mean ---------------------------------------------------------------------------


def stretched(run: PaperRun, name: str) -> float:
    target, _, _ = expected_length(run.state, run.state.definition.by_key[f"length-after/length/{name}"])
    assert target is not None
    return target


def test_a_length_with_two_digits_exchanged_is_offered_as_it_was_meant_and_stays_in_the_field() -> None:
    run = at(HEAD, "length-after/length/2")
    good = f"{stretched(run, '2'):.3f}"
    wrong = good[0] + good[2] + good[1] + good[3:]
    refusal = asked(run, "length-after/length/2", value(wrong))
    assert refusal.code == "length_asked_meant"
    assert (refusal.params["got"], refusal.params["meant"]) == (wrong, good)
    assert codes(run.record("length-after/length/2", value(good))) == []


@pytest.mark.parametrize("by_mm", [-3.0, 6.0, 20.0])
def test_a_length_shorter_than_at_rest_or_beyond_yield_is_asked_about(by_mm: float) -> None:
    run = at(HEAD, "length-after/length/1")
    assert asked(run, "length-after/length/1", value(f"{stretched(run, '1') + by_mm:.2f}")).code.startswith("length_")


def test_looked_at_again_it_stands_and_the_record_says_that_it_was_asked() -> None:
    run = at(HEAD, "length-after/length/1")
    long = f"{stretched(run, '1') + 6.0:.2f}"
    asked(run, "length-after/length/1", value(long))
    judgement = run.record("length-after/length/1", value(long, sure=True))
    assert codes(judgement)[-1] == "asked_and_stands"
    shown = record_of(run.events[0].run_id, run.state, "").exceptions
    assert any(reason.code == "asked_and_stands" for row in shown for reason in row.reasons)


def test_the_fourth_stud_is_held_against_the_other_three() -> None:
    """A stud that holds a third less than its fellows is far outside what three alike studs scatter by."""
    run = at(HEAD, "length-after/length/4")
    rest = stretched(run, "4") - (run.state.definition.by_key["length-after/length/4"].target or 0.0)
    target = run.state.definition.by_key["length-after/length/4"].target or 0.0
    assert asked(run, "length-after/length/4", value(f"{rest + 0.6 * target:.3f}")).code == "length_asked"
    assert run.record("length-after/length/4", value(f"{rest + target:.3f}")).verdict is ev.Verdict.IN_BAND


# ---- temperatures ----------------------------------------------------------------------------------------------------


@pytest.mark.parametrize(
    ("typed", "offered"), [("30.2", "20.3"), ("203", "20.3"), ("2.03", "20.3"), ("-19.2", "19.2"), ("33.0", None)]
)
def test_a_stud_warmer_or_colder_than_its_fellows_is_asked_about(typed: str, offered: str | None) -> None:
    run = at(HEAD, "length-before/temperature/3")
    refusal = asked(run, "length-before/temperature/3", value(typed, "degC"))
    assert refusal.params.get("meant") == offered
    assert refusal.code == ("temperature_asked" if offered is None else "temperature_asked_meant")


@pytest.mark.parametrize(("typed", "taken"), [("4.9", False), ("5.0", True), ("45.0", True), ("45.1", False)])
def test_the_first_stud_is_metal_that_has_stood_in_an_engine_room(typed: str, taken: bool) -> None:
    run = at(HEAD, "length-before/temperature/1")
    if taken:
        run.record("length-before/temperature/1", value(typed, "degC"))
    else:
        asked(run, "length-before/temperature/1", value(typed, "degC"))


def test_a_joint_that_is_really_warm_is_asked_about_once_and_not_at_every_stud() -> None:
    run = at(HEAD, "length-before/temperature/1")
    asked(run, "length-before/temperature/1", value("48.0", "degC"))
    run.record("length-before/temperature/1", value("48.0", "degC", sure=True))
    run.play("length-before/temperature/2")
    run.record("length-before/temperature/2", value("47.5", "degC"))


def test_after_the_pull_the_metal_is_about_as_warm_as_before() -> None:
    run = at(HEAD, "length-after/temperature/1")
    assert asked(run, "length-after/temperature/1", value("36.6", "degC")).code == "temperature_asked"
    run.record("length-after/temperature/1", value("27.0", "degC"))


# ---- sizes, pressures, angles ----------------------------------------------------------------------------------------


def test_a_thread_of_seven_between_threads_of_seventy_is_asked_about() -> None:
    run = at(HEAD, "thread-above/thread/3")
    before = run.state.live("thread-above/thread/2")
    assert before is not None
    assert isinstance(before.answer, ev.ValueAnswer)
    slipped = f"{float(before.answer.text) / 10:.2f}"
    refusal = asked(run, "thread-above/thread/3", value(slipped))
    assert refusal.code == "size_asked_meant"


def test_a_nut_comes_free_at_the_pressure_that_stands_on_the_ladder() -> None:
    run = at("tarnholt-7l34-head-loosen", "free/free/1")
    run.send(c.TryPressure(kind="try_pressure", id=uuid4(), step="free", text="940", unit="bar"))
    assert asked(run, "free/free/1", value("1040", "bar")).code in ("rung_asked", "rung_asked_meant")
    run.record("free/free/1", value("950", "bar"))


def turning() -> tuple[PaperRun, str, float]:
    run = PaperRun(V10)
    cell = next(cell for cell in run.state.definition.cells if cell.ask is InputType.TURN)
    run.play(cell.key)
    return run, cell.key, cell.target or 0.0


def test_an_angle_half_as_large_again_is_asked_about_and_half_a_turn_more_is_refused() -> None:
    run, key, target = turning()
    slip = asked(run, key, ev.TurnAnswer(bites=(f"{target + 181:.0f}",), sure=True))
    assert slip.code == "angle_slip", "nobody turns that far, however sure"
    much = f"{1.5 * target + 1:.0f}"
    assert asked(run, key, ev.TurnAnswer(bites=(much,))).code == "angle_asked"
    judgement = run.record(key, ev.TurnAnswer(bites=(much,), sure=True))
    assert judgement.verdict is ev.Verdict.OUT_OF_BAND


def test_a_movement_of_400_degrees_where_17_are_usual_is_a_slip() -> None:
    run = PaperRun("corvane-v10-rod-tighten")
    pull = next(
        cell for cell in run.state.definition.cells if cell.ask is InputType.PULL and cell.rule.value == "moved"
    )
    run.play(pull.key)
    moved = ev.PullAnswer(outcome=ev.PullOutcome.MOVED, moved="400")
    assert asked(run, pull.key, moved).code == "angle_slip"


# ---- sound joints are left in peace ----------------------------------------------------------------------------------


@pytest.mark.parametrize("name", [HEAD, "tarnholt-7l34-main-tighten", "tarnholt-7l34-rod-tighten", V10])
def test_a_sound_joint_is_asked_nothing_in_hundreds_of_readings(name: str) -> None:
    readings = 0
    for seed in range(6):
        run = PaperRun(name)
        run.chance = random.Random(seed)
        run.play("never")
        readings += sum(a.judgement.value is not None for tries in run.state.attempts.values() for a in tries)
    assert readings >= 100


def test_what_was_unlikely_on_a_tablet_without_a_link_waits_and_whoever_takes_it_in_has_looked() -> None:
    run = at(HEAD, "length-before/temperature/2")
    reading = c.RecordReading(
        kind="record", id=uuid4(), cell="length-before/temperature/2", attempt=1, answer=value("30.2", "degC")
    )
    late = c.Late(batch=uuid4(), saw=run.state.seq, kept_s=5.0)
    context = c.Context(LIO, run.now, TODAY, {t.id: t for t in TOOLS})
    claimed = decide_late(run.state, reading, context, late, decide)
    assert isinstance(claimed, ev.Claimed)
    assert claimed.why.code == "temperature_asked_meant"
    run.take(claimed, LIO)
    run.send(c.SettleClaim(kind="settle_claim", id=uuid4(), claim=run.state.seq, take=True), INES)
    live = run.state.live("length-before/temperature/2")
    assert live is not None
    assert codes(live.judgement) == ["asked_and_stands"]


def turned_short() -> PaperRun:
    """A rod whose first bolt was turned short of its angle and is pulled again from its first stage."""
    run = PaperRun("corvane-v10-rod-tighten")
    run.play("turn/turn/1")
    run.record("turn/turn/1", ev.TurnAnswer(bites=("40",), unit="deg"))
    scope = redo_scope(run.state, "turn/turn/1")
    run.send(RedoWork(kind="redo", id=uuid4(), cell="turn/turn/1", cells=scope, reason="Short of its angle"))
    return run


def pulls_again(run: PaperRun) -> str:
    return next(c.key for c in open_cells(run.state) if c.ask is InputType.PULL and c.fastener == "1")


def test_a_bolt_that_was_turned_is_slackened_before_it_is_pulled_from_its_first_torque_again() -> None:
    run = turned_short()
    while not [c for c in open_cells(run.state) if c.ask is InputType.PULL]:
        run.play_one()
    key, seq = pulls_again(run), run.state.seq
    with pytest.raises(Refusal) as asked:
        run.record(key, ev.PullAnswer(outcome=ev.PullOutcome.MOVED))
    assert (asked.value.code, asked.value.kind) == ("slack_asked", RefusalKind.ASKED)
    assert run.state.seq == seq, "nothing is stored by a question"
    judged = run.record(key, ev.PullAnswer(outcome=ev.PullOutcome.MOVED, sure=True))
    assert [r.code for r in judged.reasons] == ["slackened_first"]
    assert judged.verdict is ev.Verdict.IN_BAND
    # It is asked once: what follows begins from a bolt that is slack.
    while (cell := next_call(run.state)) is not None and cell.ask is InputType.PULL and cell.fastener != "1":
        run.play_one()
    assert not still_turned(run.state, "1")
    assert not still_turned(run.state, "2"), "the other bolt was never turned"


def test_a_turn_that_was_only_written_down_wrong_asks_for_no_slackening() -> None:
    run = PaperRun("corvane-v10-rod-tighten")
    run.play("turn/turn/1")
    run.record("turn/turn/1", ev.TurnAnswer(to_mark=True))
    assert not still_turned(run.state, "1")


def test_in_the_second_cycle_too_a_bolt_that_was_turned_short_is_slackened_first() -> None:
    run = PaperRun("corvane-v10-head-tighten", tool="bar")
    run.play("turn-bar#2/turn/9")
    assert not still_turned(run.state, "9"), "freed between the cycles, and pulled since"
    run.record("turn-bar#2/turn/9", ev.TurnAnswer(bites=("40",), unit="deg"))
    scope = redo_scope(run.state, "turn-bar#2/turn/9")
    run.send(RedoWork(kind="redo", id=uuid4(), cell="turn-bar#2/turn/9", cells=scope, reason="Short of its angle"))
    assert still_turned(run.state, "9"), "that it was turned in the first cycle lets nothing through"
    assert not still_turned(run.state, "15")
