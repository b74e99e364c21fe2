"""A stud grows from its own first length; the document's length only limits a new one."""

from __future__ import annotations

from uuid import UUID, uuid4

import pytest

from jorvek.core.bolting.stretch import STEEL_EXPANSION_PER_K
from jorvek.core.procedure.document import Procedure
from jorvek.core.run.log import commands as c
from jorvek.core.run.log import events as ev
from jorvek.core.run.log.fold import begin
from jorvek.core.run.rules.progress import open_cells
from jorvek.core.run.rules.studs import first_length, free_lengths, gone_at, used, uses_in
from jorvek.core.run.views.bench import bench_view
from tests.core.paper_run import BRAM, PaperRun, shipped
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


def begun_with(name: str | Procedure, uses: dict[str, int], **way: str) -> PaperRun:
    """A run on a joint whose fasteners were tightened before."""
    run = PaperRun(name, **way)
    started = run.events[0].data
    assert isinstance(started, ev.RunStarted)
    with_uses = run.events[0].model_copy(update={"data": started.model_copy(update={"uses": uses})})
    run.events, run.state = [with_uses], begin(run.state.definition, with_uses)
    return run


def pulled_first(run: PaperRun, key: str) -> ev.Judgement:
    run.play(key)
    return run.record(key, ev.PullAnswer(outcome=ev.PullOutcome.MOVED))


def handled_first(run: PaperRun, name: str) -> ev.Judgement:
    """What is said where a bolt is first handled, before anything is pulled."""
    cell = run.state.definition.cells_of[name][0]
    run.play(cell.key)
    return run.record(cell.key, ev.TickAnswer())


@pytest.mark.parametrize(("before", "good"), [(5, True), (6, False), (7, False)])
def test_a_bolt_is_tightened_as_often_as_its_document_allows(before: int, good: bool) -> None:
    """Six uses are allowed: the sixth is one of them."""
    run = begun_with("corvane-v10-main-tighten", {"A": before}, clearance="free")
    judged = handled_first(run, "A") if not good else pulled_first(run, "side-low-a/pull/A")
    assert (judged.verdict is ev.Verdict.OUT_OF_BAND) is not good
    assert codes(judged) == ([] if good else ["used_up"])
    if not good:
        assert judged.reasons[0].params == {"times": before, "allowed": 6}


def test_only_the_first_pull_from_slack_is_a_use() -> None:
    run = begun_with("corvane-v10-main-tighten", {"A": 5}, clearance="free")
    pulled_first(run, "side-low-a/pull/A")
    assert pulled_first(run, "side-a/pull/A").verdict is ev.Verdict.IN_BAND, "the second stage is the same tightening"
    assert uses_in(run.state)["A"] == 1


def test_a_trial_assembly_is_a_use_of_its_own() -> None:
    run = PaperRun("corvane-v10-main-tighten", clearance="strip")
    run.play("trial-off/freed/4")
    assert uses_in(run.state)["1"] == 1
    run.play("side-a/setting")
    assert uses_in(run.state)["1"] == 2
    assert uses_in(run.state)["A"] == 1


@pytest.mark.parametrize(("before", "good"), [(4, True), (5, False)])
def test_after_a_trial_the_tightening_that_stays_is_held_against_the_count_too(before: int, good: bool) -> None:
    """The trial is the sixth use of six; then the bolt is spent, though this run tightened it once already."""
    plain = shipped("corvane-v10-main-tighten").plain()
    plain["fasteners"][0]["reuse"] = {"rule": "by_count", "uses": 6}
    run = begun_with(Procedure.model_validate(plain), {"1": before}, clearance="strip")
    assert pulled_first(run, "trial-snug/pull/1").verdict is ev.Verdict.IN_BAND
    judged = pulled_first(run, "snug/pull/1")
    assert codes(judged) == ([] if good else ["used_up"])


def test_a_used_up_bolt_comes_out_by_its_mark_and_another_begins_anew() -> None:
    run = begun_with("corvane-v10-main-tighten", {"A": 6}, clearance="free")
    assert codes(handled_first(run, "A")) == ["used_up"]
    first = run.state.definition.cells_of["A"][0].key
    out = c.RejectFastener(kind="reject_fastener", id=uuid4(), cell=first, attempt=1, piece="A-9", reason="Used up")
    run.send(out, BRAM)
    found = used(run.state, "A")
    assert found is not None
    assert (found.times, found.up) == (0, False)
    assert pulled_first(run, "side-low-a/pull/A").verdict is ev.Verdict.IN_BAND


def test_a_decision_to_use_again_what_is_used_up_is_a_question() -> None:
    for times, verdict in ((7, ev.Verdict.NOTED), (8, ev.Verdict.OUT_OF_BAND)):
        run = begun_with("tarnholt-7l34-rod-loosen", {"1": times}, piston="stay")
        run.play("look/decision/1")
        call = bench_view(UUID(int=0), run.state, run.looking()).calls[0]
        assert call.details["used"] == f"{times} / 8"
        assert run.record("look/decision/1", ev.ChoiceAnswer(choice="reuse")).verdict is verdict


@pytest.mark.parametrize(("times", "good"), [(7, True), (8, False)])
def test_a_used_up_stud_is_named_before_it_is_tightened_once_more(times: int, good: bool) -> None:
    run = begun_with("tarnholt-7l34-rod-tighten", {"1": times}, shell="before")
    run.play("length-before/length/1")
    judged = run.value("length-before/length/1", f"{free_mm(run):.3f}")
    assert codes(judged) == ([] if good else ["used_up"])


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
    judged = run.value("length/length/2", f"{free_mm(run) + 0.4:.3f}", sure=True)
    assert judged.verdict is ev.Verdict.OUT_OF_BAND
    out = c.RejectFastener(
        kind="reject_fastener", id=uuid4(), cell="length/length/2", attempt=1, piece="B-2", reason="Grown"
    )
    run.send(out, BRAM)
    assert run.state.live("length/length/2") is not None
    assert "2" not in free_lengths(run.state)
    assert "length/length/2" not in {cell.key for cell in open_cells(run.state)}
