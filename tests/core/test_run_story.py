"""One head tightened on paper: what comes next, what is judged, what is refused, what is kept."""

from __future__ import annotations

import json
from datetime import timedelta
from pathlib import Path
from uuid import uuid4

import pytest

from jorvek.core.procedure.document import Procedure
from jorvek.core.refusal import Refusal
from jorvek.core.run.log import events as ev
from jorvek.core.run.log.commands import (
    Accept,
    Close,
    Conflict,
    GiveReason,
    Pause,
    RecordReading,
    RedoWork,
    StrikeReading,
    TakeOver,
)
from jorvek.core.run.log.definition import define
from jorvek.core.run.log.events import Verdict
from jorvek.core.run.log.fold import fold
from jorvek.core.run.rules.lengths import expected_length
from jorvek.core.run.rules.progress import DebtKind, complete, debts, next_call, open_cells
from jorvek.core.run.rules.redo import redo_scope
from jorvek.core.run.views.bench import bench_view
from jorvek.core.run.views.looking import Looking
from jorvek.core.run.views.record import record_of
from tests.core.paper_run import BRAM, DEFINITION, INES, LIO, TAM, PaperRun

TICK = ev.TickAnswer()


def strike(run: PaperRun, key: str, reason: str | None = None) -> None:
    attempt = len(run.state.tries(key))
    run.send(StrikeReading(kind="strike", id=uuid4(), cell=key, attempt=attempt, reason=reason))


def refusal(run: PaperRun, key: str, answer: ev.Answer, by: ev.Person = BRAM) -> str:
    before = (run.state, len(run.events))
    with pytest.raises(Refusal) as refused:
        run.record(key, answer, by)
    assert (run.state, len(run.events)) == before, "a refusal changes nothing"
    return refused.value.code


def test_a_sound_joint_goes_from_the_first_call_to_a_closed_run() -> None:
    run = PaperRun()
    run.play()
    assert [d.kind for d in debts(run.state)] == []
    run.record("chief-sees/sign", ev.SignatureAnswer(), INES, pin=True)
    assert complete(run.state)
    run.send(Close(kind="close", id=uuid4()), INES)
    assert run.state.status == "closed"
    assert fold(DEFINITION, run.events) == run.state
    record = record_of(run.events[0].run_id, run.state, "0" * 64)
    assert not record.exceptions
    assert [s.by for s in record.signatures] == ["Ines Halloran"]
    assert all(stud.verdict is Verdict.IN_BAND for stud in record.studs)
    assert refusal(run, "relieve/zero", ev.ValueAnswer(text="0", unit="bar")) == "run_closed"


def test_steps_open_in_order_and_a_free_step_lets_another_stud_come_first() -> None:
    run = PaperRun()
    assert refusal(run, "seat/seat/1", TICK) == "not_yet"
    assert refusal(run, "no/such/cell", TICK) == "no_such_cell"
    run.play("length-before/temperature/1")
    assert {c.key for c in open_cells(run.state)} == {f"length-before/temperature/{n}" for n in "1234"}
    run.value("length-before/temperature/3", "19.0", "degC")
    assert refusal(run, "length-before/length/1", ev.ValueAnswer(text="612.02", unit="mm")) == "not_yet"
    run.value("length-before/length/3", "612.02")
    run.play("first/nut/1")
    assert refusal(run, "first/nut/3", TICK) == "not_yet", "nuts have a fixed order"


def test_pressure_is_judged_by_the_corrected_gauge_against_the_band() -> None:
    run = PaperRun()
    run.play("second/raise")
    assert run.value("second/raise", "975", "bar").verdict is Verdict.OUT_OF_BAND
    strike(run, "second/raise", "Misread")
    # 985 shown is 981.1 true on PG-12, just inside 980 … 1020.
    judgement = run.value("second/raise", "985", "bar")
    assert judgement.verdict is Verdict.IN_BAND
    assert judgement.corrected == pytest.approx(797 + 398 * 185 / 400)
    strike(run, "second/raise", "Misread")
    over = run.value("second/raise", "1060", "bar")
    assert [r.code for r in over.reasons] == ["above_band", "above_ceiling"]


def test_a_pressure_in_another_unit_keeps_what_was_read() -> None:
    run = PaperRun()
    run.play("first/raise")
    judgement = run.value("first/raise", "60,3", "MPa")
    attempt = run.state.live("first/raise")
    assert attempt is not None
    assert attempt.answer == ev.ValueAnswer(text="60,3", unit="MPa")
    assert judgement.value == pytest.approx(603)


@pytest.mark.parametrize(
    ("text", "unit", "code"),
    [
        ("612", "bar", "E_DIM"),
        ("612", "furlong", "E_UNIT"),
        ("six", "mm", "E_TYPE"),
        ("1,612.0", "mm", "E_TYPE"),
        ("61.2", "mm", "figure_meant"),
        ("31.2", "mm", "out_of_physical_range"),
        ("812.0", "mm", "out_of_physical_range"),
    ],
)
def test_a_value_that_cannot_be_is_refused(text: str, unit: str, code: str) -> None:
    run = PaperRun()
    run.play("length-before/length/1")
    assert refusal(run, "length-before/length/1", ev.ValueAnswer(text=text, unit=unit)) == code
    assert refusal(run, "length-before/length/1", TICK) == "wrong_answer"


@pytest.mark.parametrize(
    ("unit", "typed", "low", "high"),
    [("mm", "31.2", 489.6, 734.4), ("in", "0.5", 19.28, 28.91), ("thou", "9", 19280.0, 28910.0)],
)
def test_what_cannot_be_is_refused_in_the_unit_that_was_typed(unit: str, typed: str, low: float, high: float) -> None:
    run = PaperRun()
    run.play("length-before/length/1")
    with pytest.raises(Refusal) as refused:
        run.value("length-before/length/1", typed, unit)
    assert refused.value.code == "out_of_physical_range"
    assert refused.value.params["unit"] == refused.value.params["base"] == unit
    assert refused.value.params["low"] == pytest.approx(low, rel=0.001)
    assert refused.value.params["high"] == pytest.approx(high, rel=0.001)


def test_a_reading_above_full_scale_is_refused() -> None:
    run = PaperRun()
    run.play("first/raise")
    assert refusal(run, "first/raise", ev.ValueAnswer(text="1700", unit="bar")) == "above_full_scale"


def test_a_stud_longer_than_allowed_is_out_and_one_near_the_limit_is_too_near_to_call() -> None:
    run = PaperRun()
    run.play("length-before/length/1")
    temperature = run.state.live("length-before/temperature/1")
    assert temperature is not None
    new = 612 * (1 + 11.5e-6 * ((temperature.judgement.value or 0) - 20))
    for grown, verdict in ((0.07, Verdict.IN_BAND), (0.10, Verdict.TOO_NEAR), (0.15, Verdict.OUT_OF_BAND)):
        assert run.value("length-before/length/1", f"{new + grown:.3f}").verdict is verdict
        strike(run, "length-before/length/1", "test")
    short = run.value("length-before/length/1", f"{new - 0.05:.3f}")
    assert [r.code for r in short.reasons] == ["shorter_than_new"]


def test_stretch_comes_from_the_studs_own_first_length_and_both_temperatures() -> None:
    run = PaperRun()
    run.play("length-before/temperature/1")
    for name in "1234":
        run.value(f"length-before/temperature/{name}", "19.0", "degC")
        run.value(f"length-before/length/{name}", "612.020")
    run.play("length-after/temperature/1")
    run.value("length-after/temperature/1", "23.0", "degC")
    call = bench_view(run.events[0].run_id, run.state, run.looking()).calls[0]
    assert call.figure is not None
    assert call.figure.text == "1.152", "the stretch: a length that is shown before it is read is easily copied"
    length, _, _ = expected_length(run.state, run.state.definition.by_key[call.cell])
    assert length == pytest.approx(612.020 * (1 + 11.5e-6 * 4) + 1.152, abs=6e-4)
    judgement = run.value("length-after/length/1", f"{length:.3f}")
    assert judgement.judged == pytest.approx(1.152, abs=1e-3)
    assert judgement.clamp_kN == pytest.approx(859.9, abs=1)
    assert judgement.verdict is Verdict.IN_BAND


def test_the_pressure_must_stand_before_the_nuts_are_touched() -> None:
    run = PaperRun()
    run.play("first/hold")
    run.now += timedelta(seconds=12)
    assert refusal(run, "first/hold", TICK) == "hold_not_over"
    run.now += timedelta(seconds=8)
    run.record("first/hold", TICK)


def test_a_strike_keeps_the_value_owes_a_reason_and_takes_what_rested_on_it() -> None:
    run = PaperRun()
    run.play("length-before/temperature/2")
    strike(run, "length-before/temperature/1")
    first = run.state.tries("length-before/length/1")[0]
    assert first.fallen_by is not None
    assert not first.live
    assert next_call(run.state) == DEFINITION.by_key["length-before/temperature/1"]
    assert [d.kind for d in debts(run.state)] == [DebtKind.REASON]
    after = "grease/product"
    run.play(after)
    assert next_call(run.state) is None, "the stage does not close while the reason is owed"
    give = GiveReason(
        kind="give_reason", id=uuid4(), cell="length-before/temperature/1", attempt=1, reason="Wrong stud"
    )
    run.send(give)
    assert next_call(run.state) == DEFINITION.by_key[after]
    struck = run.state.tries("length-before/temperature/1")[0].struck
    assert struck is not None
    assert struck.reason == "Wrong stud"


def test_a_free_length_cannot_be_taken_back_once_the_studs_have_carried_load() -> None:
    run = PaperRun()
    run.play("first/hold")
    with pytest.raises(Refusal) as refused:
        strike(run, "length-before/length/1")
    assert refused.value.code == "moment_gone"


def test_an_entering_feeler_holds_the_stage_until_the_nut_is_done_again() -> None:
    run = PaperRun()
    run.play("second/feeler/3")
    assert run.record("second/feeler/3", ev.FeelerAnswer(enters=True)).verdict is Verdict.OUT_OF_BAND
    run.record("second/feeler/4", ev.FeelerAnswer(enters=False))
    assert [cell.key for cell in open_cells(run.state)] == ["relieve/zero"], "nobody waits beside live oil"
    scope = redo_scope(run.state, "second/feeler/3")
    assert scope == ("second/nut/3", "second/lowest", "second/feeler/3")
    run.send(RedoWork(kind="redo", id=uuid4(), cell="second/feeler/3", cells=scope, reason="Nut was cocked"))
    first = next_call(run.state)
    assert first is not None
    assert first.key == "second/nut/3"
    run.play("relieve/zero")
    assert len(run.state.tries("second/feeler/3")) == 2


def test_after_release_the_joint_is_pulled_again_from_the_seating_of_the_tools() -> None:
    run = PaperRun()
    run.play()
    scope = redo_scope(run.state, "second/nut/1")
    assert scope[0] == "seat/seat/1"
    assert "length-after/spread" in scope
    assert "length-before/length/1" not in scope
    assert redo_scope(run.state, "length-after/length/2") == (
        "length-after/temperature/2",
        "length-after/length/2",
        "length-after/spread",
    )


def test_a_scope_that_changed_since_it_was_shown_is_refused() -> None:
    run = PaperRun()
    run.play("second/nut/3")
    old = redo_scope(run.state, "second/raise")
    run.play("second/nut/4")
    with pytest.raises(Refusal) as refused:
        run.send(RedoWork(kind="redo", id=uuid4(), cell="second/raise", cells=old, reason="Pressure fell"))
    assert refused.value.code == "scope_changed"


def test_only_a_lead_hand_accepts_by_name() -> None:
    run = PaperRun()
    run.play("second/lowest")
    run.value("second/lowest", "940", "bar")
    accept = Accept(kind="accept", id=uuid4(), cell="second/lowest", attempt=1, reason="Gauge jumped, nut seen tight")
    with pytest.raises(Refusal) as refused:
        run.send(accept, LIO)
    assert refused.value.code == "not_your_right"
    run.send(accept, BRAM)
    assert not [d for d in debts(run.state) if d.kind is DebtKind.UNRESOLVED]


def test_the_hold_point_is_not_signed_by_the_hands_nor_without_pin_nor_below_rank() -> None:
    run = PaperRun()
    run.play("tools-off/off/1")
    run.record("tools-off/off/1", TICK, INES)
    run.play()
    sign = ev.SignatureAnswer()
    assert refusal(run, "chief-sees/sign", sign, LIO) == "not_your_signature"
    assert refusal(run, "chief-sees/sign", sign, INES) == "own_work"
    clean = PaperRun()
    clean.play()
    assert refusal(clean, "chief-sees/sign", sign, INES) == "pin_needed"
    assert refusal(clean, "chief-sees/sign", sign, TAM) == "not_your_signature"


def test_an_expired_gauge_is_refused_or_used_under_a_named_reason() -> None:
    run = PaperRun()
    run.play("tools/oil-gauge")
    expired = ev.ToolAnswer(tool_id="PG-07")
    assert refusal(run, "tools/oil-gauge", expired) == "tool_out_of_date"
    with_reason = ev.ToolAnswer(tool_id="PG-07", override_reason="The other gauge is on Unit 5")
    assert refusal(run, "tools/oil-gauge", with_reason, LIO) == "not_your_right"
    assert refusal(run, "tools/oil-gauge", ev.ToolAnswer(tool_id="SG-03")) == "tool_class"
    run.record("tools/oil-gauge", with_reason)
    attempt = run.state.live("tools/oil-gauge")
    assert attempt is not None
    assert attempt.tool is not None
    assert attempt.tool.id == "PG-07"


def test_of_two_people_on_one_call_the_second_is_told_who_was_first() -> None:
    run = PaperRun()
    run.play("seat/seat/1")
    run.record("seat/seat/1", TICK, LIO)
    late = RecordReading(kind="record", id=uuid4(), cell="seat/seat/1", attempt=1, answer=TICK)
    with pytest.raises(Conflict) as conflict:
        run.send(late, BRAM)
    assert conflict.value.params["by"] == "Lio Sandvik"


def test_a_paused_run_stands_still_until_somebody_takes_over() -> None:
    run = PaperRun()
    run.play("first/nut/2")
    run.send(Pause(kind="pause", id=uuid4()))
    assert refusal(run, "first/nut/2", TICK, LIO) == "run_paused"
    run.send(TakeOver(kind="take_over", id=uuid4()), LIO)
    run.record("first/nut/2", TICK, LIO)
    assert [w.by.name for w in run.state.watches] == ["Bram Okafor", "Lio Sandvik"]


def test_a_run_with_holes_or_debts_does_not_close() -> None:
    run = PaperRun()
    run.play("second/lowest")
    with pytest.raises(Refusal) as refused:
        run.send(Close(kind="close", id=uuid4()), INES)
    assert refused.value.code == "not_complete"
    assert refused.value.params["owed"] == 4, "four tools sit on the studs"


LOGS = sorted((Path(__file__).parent / "logs").glob("*.json"))
OLD_PROCEDURES = {
    stored["hash"]: Procedure.from_body(stored["body"])
    for path in (Path(__file__).parent / "logs" / "procedures").glob("*.json")
    for stored in (json.loads(path.read_text()),)
}


@pytest.mark.parametrize("path", LOGS, ids=lambda p: p.stem)
def test_old_logs_still_add_up_to_what_they_did(path: Path) -> None:
    """Logs stay here for good; a newer core must read them and come to the same state."""
    log = json.loads(path.read_text())
    events = [ev.Event.model_validate(e) for e in log["events"]]
    started = events[0].data
    assert isinstance(started, ev.RunStarted)
    state = fold(define(OLD_PROCEDURES[started.procedure_hash]), events)
    view = bench_view(events[0].run_id, state, Looking(BRAM.id, BRAM.role, state.last_at))
    assert view.procedure_hash == started.procedure_hash, "an older format keeps its address"
    assert view.status == log["expected"]["standing"]
    assert {row.step: row.done for row in view.ribbon} == log["expected"]["done"]
    assert [a.key for a in open_cells(state)] == log["expected"]["open"]
