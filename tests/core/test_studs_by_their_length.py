"""A stud grows from its own first length; the document's length only limits a new one."""

from __future__ import annotations

from uuid import uuid4

import pytest

from jorvek.core.bolting.stretch import STEEL_EXPANSION_PER_K
from jorvek.core.run.log import commands as c
from jorvek.core.run.log import events as ev
from jorvek.core.run.log.fold import begin
from jorvek.core.run.rules.progress import open_cells
from jorvek.core.run.rules.studs import first_length, free_lengths, gone_at
from tests.core.paper_run import BRAM, PaperRun
from tests.core.test_limits_of_rules import codes


def at_a_length(first: dict[str, float]) -> PaperRun:
    """A head is about to be tightened; some of its studs were measured at earlier overhauls."""
    run = PaperRun()
    started = run.events[0].data
    assert isinstance(started, ev.RunStarted)
    with_lengths = run.events[0].model_copy(update={"data": started.model_copy(update={"first_lengths": first})})
    run.events, run.state = [with_lengths], begin(run.state.definition, with_lengths)
    run.play("length-before/temperature/1")
    run.value("length-before/temperature/1", "20.0", "degC")
    return run


def free_mm(run: PaperRun) -> float:
    return run.state.definition.groups["1"].free_length.value


def limit_mm(run: PaperRun) -> float:
    return run.state.definition.by_key["length-before/length/1"].upper or 0.0


def test_a_new_stud_is_held_against_the_document() -> None:
    run = at_a_length({})
    judged = run.value("length-before/length/1", f"{free_mm(run) + limit_mm(run) + 0.03:.3f}")
    assert (judged.verdict, codes(judged)) == (ev.Verdict.OUT_OF_BAND, ["above_band"])
    assert judged.judged == pytest.approx(limit_mm(run) + 0.03)


def test_a_stud_that_was_made_long_has_not_grown() -> None:
    """It measured more than the document's length when it was new, and measures the same today."""
    probe = at_a_length({})
    own = free_mm(probe) + limit_mm(probe) + 0.03
    judged = at_a_length({"1": own}).value("length-before/length/1", f"{own:.3f}")
    assert judged.verdict is ev.Verdict.IN_BAND
    assert judged.judged == pytest.approx(0.0, abs=1e-6)


def test_a_stud_that_was_made_short_has_grown_though_it_is_not_long() -> None:
    probe = at_a_length({})
    own, over = free_mm(probe) - 0.05, limit_mm(probe) + 0.03
    judged = at_a_length({"1": own}).value("length-before/length/1", f"{own + over:.3f}")
    assert judged.verdict is ev.Verdict.OUT_OF_BAND
    assert judged.judged == pytest.approx(over, abs=1e-6)


def test_lengths_of_warm_and_cold_days_are_compared_at_20_degrees() -> None:
    probe = at_a_length({})
    own = free_mm(probe)
    run = at_a_length({"1": own})
    run.strike("length-before/temperature/1")
    run.value("length-before/temperature/1", "35.0", "degC")
    warm = own * (1.0 + 15.0 * STEEL_EXPANSION_PER_K)
    assert warm - own > limit_mm(run), "the warmth alone is more than the limit"
    judged = run.value("length-before/length/1", f"{warm:.3f}")
    assert judged.judged == pytest.approx(0.0, abs=0.001)
    assert free_lengths(run.state)["1"] == pytest.approx(own, abs=0.001)


@pytest.mark.parametrize(("shorter", "verdict"), [(0.02, ev.Verdict.IN_BAND), (0.04, ev.Verdict.OUT_OF_BAND)])
def test_a_stud_does_not_become_shorter_than_two_readings_can_tell(shorter: float, verdict: ev.Verdict) -> None:
    """The gauge tells 0.02 mm; two of its readings lie 0.028 mm apart at most."""
    probe = at_a_length({})
    own = free_mm(probe) + 0.02
    judged = at_a_length({"1": own}).value("length-before/length/1", f"{own - shorter:.3f}")
    assert judged.verdict is verdict
    assert codes(judged) == ([] if verdict is ev.Verdict.IN_BAND else ["shorter_than_first"])


def test_a_stud_that_went_out_takes_its_first_length_along() -> None:
    probe = at_a_length({})
    own = free_mm(probe) - 0.05
    run = at_a_length({"1": own, "2": own})
    run.value("length-before/length/1", f"{own + limit_mm(run) + 0.05:.3f}")
    out = c.RejectFastener(
        kind="reject_fastener", id=uuid4(), cell="length-before/length/1", attempt=1, piece="A-17", reason="Grown"
    )
    run.send(out, BRAM)
    assert set(gone_at(run.state)) == {"1"}
    assert first_length(run.state, "1") is None
    assert first_length(run.state, "2") == own
    assert "1" not in free_lengths(run.state), "what was measured went out with it"
    assert [cell.key for cell in open_cells(run.state)][:1] == ["length-before/temperature/1"], "another goes in"
    run.value("length-before/temperature/1", "20.0", "degC")
    assert run.value("length-before/length/1", f"{free_mm(run) + 0.01:.3f}").verdict is ev.Verdict.IN_BAND
    assert free_lengths(run.state)["1"] == pytest.approx(free_mm(run) + 0.01)


def test_a_stud_found_too_long_where_the_joint_is_undone_leaves_its_place_empty() -> None:
    run = PaperRun("tarnholt-7l34-head-loosen")
    run.play("length/length/2")
    judged = run.value("length/length/2", f"{free_mm(run) + 0.4:.3f}")
    assert judged.verdict is ev.Verdict.OUT_OF_BAND
    out = c.RejectFastener(
        kind="reject_fastener", id=uuid4(), cell="length/length/2", attempt=1, piece="B-2", reason="Grown"
    )
    run.send(out, BRAM)
    assert run.state.live("length/length/2") is not None
    assert "2" not in free_lengths(run.state)
    assert "length/length/2" not in {cell.key for cell in open_cells(run.state)}
