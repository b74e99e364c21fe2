"""What the third format says of turned fasteners: settling trips, torque at the end of an angle, marks, flats."""

from __future__ import annotations

from uuid import uuid4

import pytest
from pydantic import ValidationError

from jorvek.core.procedure.document import Procedure
from jorvek.core.run.log import commands as c
from jorvek.core.run.log import events as ev
from jorvek.core.run.log.definition import define
from jorvek.core.run.rules.progress import next_call
from jorvek.core.run.rules.redo import redo_scope
from jorvek.core.run.views.record import record_of
from jorvek.core.run.views.rows import row_of
from tests.core.paper_run import PaperRun, shipped
from tests.core.test_limits_of_rules import codes

ROD = "corvane-v10-rod-tighten"
MAIN = "corvane-v10-main-tighten"


# ---- the settling trip -------------------------------------------------------------------------------------------


@pytest.mark.parametrize(
    "answer",
    [
        ev.PullAnswer(outcome=ev.PullOutcome.MOVED),
        ev.PullAnswer(outcome=ev.PullOutcome.MOVED, moved="35"),
        ev.PullAnswer(outcome=ev.PullOutcome.STILL),
    ],
)
def test_on_a_settling_trip_moving_is_expected_how_far_is_free_and_standing_still_is_no_finding(
    answer: ev.PullAnswer,
) -> None:
    run = PaperRun(MAIN)
    pull = next(cell.key for cell in run.state.definition.cells if cell.kind == "settling_pass")
    run.play(pull)
    judgement = run.record(pull, answer)
    assert (judgement.verdict, codes(judgement)) == (ev.Verdict.IN_BAND, [])


def test_a_settling_trip_at_the_same_torque_passes_the_check_and_one_at_another_does_not() -> None:
    from jorvek.core.procedure_check import check  # noqa: PLC0415 — the one test that checks a document

    same = shipped(MAIN)
    assert not [f for f in check(same) if f.severity == "error"]
    steps = [
        {**step, "torque": "160 N.m"} if step["kind"] == "settling_pass" else step for step in same.plain()["steps"]
    ]
    other = Procedure.model_validate({**same.plain(), "steps": steps})
    assert "check_trip_other_torque" in {f.code for f in check(other)}


# ---- torque at the end of an angle -------------------------------------------------------------------------------


@pytest.mark.parametrize(
    ("read", "found"), [("257", ["end_torque_low"]), ("258", []), ("395", []), ("396", ["end_torque_high"])]
)
def test_a_soft_bolt_is_seen_by_the_torque_at_the_end_of_its_angle(read: str, found: list[str]) -> None:
    run = PaperRun(ROD)
    run.play("turn/end_torque/1")
    judgement = run.value("turn/end_torque/1", read, "N.m")
    assert codes(judgement) == found
    assert (judgement.verdict is ev.Verdict.IN_BAND) == (found == [])


def test_the_end_torque_is_asked_before_the_tool_goes_to_the_next_bolt_and_goes_with_its_turn() -> None:
    run = PaperRun(ROD)
    run.play("turn/turn/1")
    run.record("turn/turn/1", ev.TurnAnswer(to_mark=True))
    now = next_call(run.state)
    assert now is not None
    assert now.key == "turn/end_torque/1"
    run.play("turn/turn/2")
    assert "turn/end_torque/1" in redo_scope(run.state, "turn/turn/1")


# ---- to the mark -------------------------------------------------------------------------------------------------


def test_one_touch_says_to_the_mark_and_the_record_says_no_measured_angle() -> None:
    run = PaperRun(ROD)
    run.play("turn/turn/1")
    judgement = run.record("turn/turn/1", ev.TurnAnswer(to_mark=True))
    assert (judgement.value, judgement.verdict) == (None, ev.Verdict.IN_BAND)
    live = run.state.live("turn/turn/1")
    assert live is not None
    row = row_of(run.state, live)
    assert (row.answer, row.read) == ("turn_to_mark", None)
    assert judgement.clamp_kN == pytest.approx(119.7, abs=0.5), "the mark stands where the document says"
    run.record("turn/end_torque/1", ev.ValueAnswer(text="300", unit="N.m"))
    measured = run.record("turn/turn/2", ev.TurnAnswer(bites=("50", "31")))
    assert measured.value == pytest.approx(81.0)
    rows = [r for s in record_of(run.events[0].run_id, run.state, "").sections for r in s.rows if r.item == "turn"]
    assert [(r.answer, r.read.text if r.read else None) for r in rows] == [("turn_to_mark", None), ("turn", "50 + 31")]


@pytest.mark.parametrize("said", [{}, {"to_mark": True, "bites": ["120"]}])
def test_a_turn_is_either_to_the_mark_or_measured(said: dict[str, object]) -> None:
    with pytest.raises(ValidationError):
        ev.TurnAnswer.model_validate(said)


# ---- flats -------------------------------------------------------------------------------------------------------


@pytest.mark.parametrize(("written", "deg"), [("1 flats6", 60.0), ("2 flats12", 60.0), ("1.5 flats6", 90.0)])
def test_an_author_may_write_flats_and_they_stay_the_authors(written: str, deg: float) -> None:
    plain = shipped(ROD).plain()
    steps = [{**step, "angle": written, "band": "5 %"} if step["kind"] == "angle" else step for step in plain["steps"]]
    made = Procedure.model_validate({**plain, "steps": steps})
    cell = define(made).by_key["turn/turn/1"]
    assert cell.target == pytest.approx(deg)
    assert cell.unit == written.split()[1]


def test_a_redo_of_the_turn_begins_with_the_wrench_set_back() -> None:
    run = PaperRun(ROD)
    run.play("turn/turn/2")
    cells = redo_scope(run.state, "turn/turn/1")
    run.send(c.RedoWork(kind="redo", id=uuid4(), cell="turn/turn/1", cells=cells, reason="Lost count"))
    now = next_call(run.state)
    assert now is not None
    assert now.key == "snug/setting", "no pull at 45 with a wrench that stands at 95"
