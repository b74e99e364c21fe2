"""What passed a limit is let down; what no sentence makes sound is accepted by nobody; what is only set is set anew."""

from __future__ import annotations

from uuid import uuid4

import pytest

from jorvek.core.refusal import Refusal
from jorvek.core.run.log import commands as c
from jorvek.core.run.log import events as ev
from jorvek.core.run.log.cells import InputType
from jorvek.core.run.log.fold import fold
from jorvek.core.run.rules.departures import may_be_left_out
from jorvek.core.run.rules.progress import DebtKind, debts, next_call, open_cells
from jorvek.core.run.rules.recording import demand_capable
from jorvek.core.run.rules.redo import redo_scope
from jorvek.core.run.rules.rejected import rejected_in
from jorvek.core.run.views.bench import bench_view
from tests.core.paper_run import BRAM, INES, LIO, TOOLS, PaperRun
from tests.core.test_every_kind_of_run import NAMES
from tests.core.test_limits_of_rules import codes, refused

LOOSEN = "tarnholt-7l34-head-loosen"


def opened(run: PaperRun) -> list[str]:
    return [cell.key for cell in open_cells(run.state)]


def accept(run: PaperRun, key: str) -> c.Accept:
    live = run.state.live(key)
    assert live is not None
    return c.Accept(kind="accept", id=uuid4(), cell=key, attempt=live.number, reason="Looks good to me")


def redo(run: PaperRun, key: str) -> None:
    run.send(c.RedoWork(kind="redo", id=uuid4(), cell=key, cells=redo_scope(run.state, key), reason="Done again"))


def reject(run: PaperRun, key: str, mark: str = "S-17") -> c.RejectFastener:
    live = run.state.live(key)
    assert live is not None
    return c.RejectFastener(
        kind="reject_fastener", id=uuid4(), cell=key, attempt=live.number, piece=mark, reason="Out for good"
    )


# ---- over the ceiling --------------------------------------------------------------------------------------------


@pytest.mark.parametrize(("peak", "passed"), [("1045", False), ("1055", True), ("1200", True)])
def test_a_pressure_over_its_ceiling_leaves_nothing_to_do_but_zero(peak: str, passed: bool) -> None:
    run = PaperRun()
    run.play("second/raise")
    judgement = run.value("second/raise", peak, "bar")
    assert ("above_ceiling" in codes(judgement)) == passed
    assert opened(run) == ["relieve/zero"], "no hold and no nut on a pressure that is not right"
    if passed:
        assert refused(run, accept(run, "second/raise"), INES) == "never_accepted"


def test_after_zero_the_pull_is_done_again_from_the_tools_and_nothing_else_opens() -> None:
    run = PaperRun()
    run.play("second/raise")
    run.value("second/raise", "1090", "bar")
    cells = redo_scope(run.state, "second/raise")
    again = c.RedoWork(kind="redo", id=uuid4(), cell="second/raise", cells=cells, reason="Too far")
    assert refused(run, again) == "let_down_first"
    run.value("relieve/zero", "0", "bar")
    assert opened(run) == []
    assert refused(run, accept(run, "second/raise"), INES) == "never_accepted"
    redo(run, "second/raise")
    first = next_call(run.state)
    assert first is not None
    assert first.step == "seat"
    run.play("second/feeler/1")
    assert fold(run.state.definition, run.events).seq == run.state.seq


def test_a_mistyped_pressure_is_struck_while_the_oil_still_stands() -> None:
    run = PaperRun()
    run.play("second/raise")
    run.value("second/raise", "1090", "bar")
    run.strike("second/raise")
    assert opened(run) == ["second/raise"]


def test_the_lowest_pressure_above_the_peak_is_let_down_too() -> None:
    run = PaperRun()
    run.play("second/raise")
    run.value("second/raise", "1000", "bar")
    run.play("second/lowest")
    assert codes(run.value("second/lowest", "1010", "bar")) == ["above_peak"]
    assert opened(run) == ["relieve/zero"]
    assert refused(run, accept(run, "second/lowest"), INES) == "never_accepted"


def test_too_low_is_pumped_on_and_what_was_read_stays_on_the_record() -> None:
    run = PaperRun()
    run.play("second/raise")
    assert codes(run.value("second/raise", "940", "bar")) == ["below_band"]
    assert opened(run) == ["second/raise"], "no hold on a pressure that is not reached"
    run.value("second/raise", "1000", "bar")
    assert [a.live for a in run.state.tries("second/raise")] == [False, True]
    assert opened(run) == ["second/hold"]
    owed = {debt.kind for debt in debts(run.state)}
    assert owed == {DebtKind.TOOL_ON}, "a pressure that was pumped on leaves no question"
    assert fold(run.state.definition, run.events) == run.state


# ---- zero, ceiling, blade ----------------------------------------------------------------------------------------


@pytest.mark.parametrize(("read", "is_zero"), [("0", True), ("2", True), ("3", False), ("40", False)])
def test_a_zero_that_is_none_is_read_again_and_accepted_by_nobody(read: str, is_zero: bool) -> None:
    run = PaperRun()
    run.play("relieve/zero")
    run.value("relieve/zero", read, "bar")
    if is_zero:
        assert "relieve/zero" not in opened(run)
        return
    assert opened(run) == ["relieve/zero"]
    assert refused(run, accept(run, "relieve/zero"), INES) == "never_accepted"
    run.value("relieve/zero", "0", "bar")
    assert opened(run) != ["relieve/zero"]


def test_a_ceiling_set_wrong_is_set_again() -> None:
    run = PaperRun()
    run.play("ceiling/prove")
    run.value("ceiling/prove", "1090", "bar")
    assert opened(run) == ["ceiling/prove"]
    assert refused(run, accept(run, "ceiling/prove"), INES) == "never_accepted"
    run.value("ceiling/prove", "1040", "bar")
    assert opened(run) != ["ceiling/prove"]


def test_a_blade_that_enters_under_pressure_is_accepted_by_nobody_and_the_nut_is_run_down_again() -> None:
    run = PaperRun()
    run.play("second/feeler/1")
    run.record("second/feeler/1", ev.FeelerAnswer(enters=True))
    assert refused(run, accept(run, "second/feeler/1"), INES) == "never_accepted"
    view = bench_view(run.events[0].run_id, run.state, run.looking())
    assert [(q.may_accept, q.may_redo, q.may_reject) for q in view.questions] == [(False, True, False)]
    redo(run, "second/feeler/1")
    assert opened(run)[0] == "second/nut/1"


# ---- letting free ------------------------------------------------------------------------------------------------


def freed_too_high() -> tuple[PaperRun, str]:
    run = PaperRun(LOOSEN)
    first = next(cell.key for cell in run.state.definition.cells if cell.item == "free")
    run.play(first)
    top = bench_view(run.events[0].run_id, run.state, run.looking()).calls[0].details["ceiling"]
    high = f"{float(top.split()[0]) + 40:.0f}"
    assert "above_ceiling" in codes(run.value(first, high, "bar"))
    return run, first


def test_a_nut_freed_over_the_ceiling_stops_the_freeing_and_its_stud_comes_out() -> None:
    run, free = freed_too_high()
    assert [key.rpartition("/")[2] for key in opened(run)] == ["zero"]
    assert refused(run, reject(run, free)) == "let_down_first"
    zero = opened(run)[0]
    run.value(zero, "0", "bar")
    assert opened(run) == []
    assert refused(run, accept(run, free), INES) == "never_accepted"
    again = c.RedoWork(kind="redo", id=uuid4(), cell=free, cells=redo_scope(run.state, free), reason="Once more")
    assert refused(run, again) == "nothing_to_redo", "a nut that is free cannot come free again"
    assert refused(run, reject(run, free), LIO) == "not_your_right"
    run.send(reject(run, free), BRAM)
    assert opened(run)[0].endswith("/clear"), "people are clear again before the pressure comes up"
    assert run.state.worked(free), "what it came free at stands"
    assert list(rejected_in(run.state)) == ["s17"]
    run.play("never")
    assert DebtKind.UNRESOLVED not in {d.kind for d in debts(run.state)}
    assert fold(run.state.definition, run.events) == run.state


def test_a_bolt_that_turned_on_comes_out_and_another_begins_at_its_first_pull() -> None:
    run = PaperRun("corvane-v10-rod-tighten")
    pull = next(cell.key for cell in run.state.definition.cells if cell.ask is InputType.PULL)
    run.play(pull)
    run.record(pull, ev.PullAnswer(outcome=ev.PullOutcome.TURNED_ON))
    assert refused(run, accept(run, pull), INES) == "never_accepted"
    run.send(reject(run, pull, "B 4/2"))
    assert run.state.live(pull) is None
    assert pull in opened(run)
    assert list(rejected_in(run.state)) == ["b42"]
    assert (
        refused(
            run, c.RejectFastener(kind="reject_fastener", id=uuid4(), cell=pull, attempt=1, piece="B 4/2", reason="x")
        )
        == "nothing_to_reject"
    )


# ---- the wrench --------------------------------------------------------------------------------------------------


def test_no_pull_opens_while_the_wrench_is_set_wrong_and_setting_it_again_is_no_redo() -> None:
    run = PaperRun("corvane-v10-rod-tighten")
    setting = next(cell for cell in run.state.definition.cells if cell.item == "setting")
    run.play(setting.key)
    run.value(setting.key, f"{(setting.upper or 0) * 1.2:.0f}", "N.m")
    assert opened(run) == [setting.key]
    run.value(setting.key, f"{setting.target:.0f}", "N.m")
    assert [cell.item for cell in open_cells(run.state)][:1] == ["pull"]


def test_a_setting_that_is_struck_takes_its_pulls_along() -> None:
    run = PaperRun("corvane-v10-rod-tighten")
    cells = run.state.definition.cells
    setting = next(cell for cell in cells if cell.item == "setting")
    pulls = [cell.key for cell in cells if setting.key in cell.needs]
    run.play(pulls[1])
    run.strike(setting.key)
    assert run.state.live(pulls[0]) is None
    assert opened(run) == [setting.key]


# ---- what is never left out --------------------------------------------------------------------------------------


def test_what_carries_a_part_and_what_proves_is_never_left_out() -> None:
    carriers, proofs = 0, 0
    for name in NAMES:
        state = PaperRun(name).state
        for cell in state.definition.cells:
            step = state.definition.steps_by_id[cell.step_id]
            if getattr(step, "carries_part", False) or cell.kind == "support":
                carriers += 1
                assert not may_be_left_out(state, cell), cell.key
            if cell.traits.pressure == "relieves" or cell.item in ("prove", "feeler", "free_low", "hold"):
                proofs += 1
                assert not may_be_left_out(state, cell), cell.key
    assert carriers > 5
    assert proofs > 50


def test_a_lead_hand_cannot_leave_out_the_beam_that_carries_the_cap() -> None:
    name, key = next(
        (name, cell.key)
        for name in NAMES
        for state in (PaperRun(name).state,)
        for cell in state.definition.cells
        if getattr(state.definition.steps_by_id[cell.step_id], "carries_part", False)
    )
    run = PaperRun(name)
    run.play(key)
    without = c.RecordReading(
        kind="record", id=uuid4(), cell=key, attempt=1, answer=ev.LeftOutAnswer(reason="We hold it by hand")
    )
    assert refused(run, without, INES) == "never_left_out"


# ---- a gauge that cannot tell the band ---------------------------------------------------------------------------


@pytest.mark.parametrize(("class_pct", "fits"), [(0.6, True), (0.75, True), (0.76, False), (1.0, False), (1.6, False)])
def test_a_gauge_whose_own_error_is_wider_than_the_band_is_not_drawn(class_pct: float, fits: bool) -> None:
    """The first stage is 600 bar within 2 %: 12 bar to each side. A gauge of 1600 bar may be off by its class."""
    run = PaperRun()
    cell = next(c_ for c_ in run.state.definition.cells if c_.ask is InputType.TOOL and c_.tool_role == "oil-gauge")
    run.play(cell.key)
    gauge = next(tool for tool in TOOLS if tool.id == "PG-12").model_copy(update={"class_pct": class_pct})
    if fits:
        demand_capable(run.state, cell, gauge)
        return
    with pytest.raises(Refusal) as refusal:
        demand_capable(run.state, cell, gauge)
    assert refusal.value.code == "tool_not_capable"
    assert refusal.value.params["half"] == 12.0


# ---- oil let off before the pull was finished -----------------------------------------------------------------------


def test_a_pull_whose_oil_was_let_off_in_the_middle_begins_again_where_people_stand_clear() -> None:
    """A question holds the pull up, the oil is let off, the question is settled: no blade is tried at no pressure."""
    run = PaperRun()
    run.play("second/lowest")
    run.value("second/lowest", "900", "bar")
    run.value("relieve/zero", "0", "bar")
    run.send(accept(run, "second/lowest"), INES)
    assert opened(run) == ["second/clear"]
    run.play_one()
    assert opened(run) == ["second/raise"]
    assert run.state.live("relieve/zero") is None, "zero is proved anew after the oil was up again"
    run.play("never")
    assert run.state.live("relieve/zero") is not None
    assert fold(run.state.definition, run.events) == run.state


def test_a_zero_that_was_proved_before_the_next_stage_is_proved_anew_after_it() -> None:
    run = PaperRun()
    run.play("first/lowest")
    run.value("first/lowest", "500", "bar")
    run.value("relieve/zero", "0", "bar")
    run.send(accept(run, "first/lowest"), INES)
    run.play("second/lowest")
    assert run.state.live("relieve/zero") is None
    assert codes(run.value("second/lowest", "1010", "bar")) == ["above_peak"]
    assert opened(run) == ["relieve/zero"], "there is a way on"
