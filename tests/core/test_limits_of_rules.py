"""Each rule at its limit: just inside, on it, just outside; what a slip of one operator would change."""

from __future__ import annotations

from dataclasses import MISSING, fields, replace
from datetime import timedelta
from itertools import pairwise
from typing import Any, get_args
from uuid import UUID, uuid4

import pytest

from jorvek.core.calibration import class_uncertainty
from jorvek.core.procedure.cell_items import CellItem
from jorvek.core.procedure.kind import Kind
from jorvek.core.procedure.kinds import KINDS, SETTLED_BY
from jorvek.core.procedure.steps import Step, StepKind, ToolIssueStep
from jorvek.core.refusal import KIND_OF, Refusal, RefusalKind
from jorvek.core.rights import Role
from jorvek.core.run.log import commands as c
from jorvek.core.run.log import events as ev
from jorvek.core.run.log.cells import InputType
from jorvek.core.run.log.definition import define
from jorvek.core.run.rules.ageing import aged
from jorvek.core.run.rules.authorization import wanted_rank
from jorvek.core.run.rules.claims import _credible_s
from jorvek.core.run.rules.decide import decide
from jorvek.core.run.rules.departures import may_be_left_out
from jorvek.core.run.rules.judge import ceiling_for, wait_left_s
from jorvek.core.run.rules.progress import DebtKind, complete, debts, last_reading, next_call, open_cells
from jorvek.core.run.rules.redo import redo_scope
from jorvek.core.run.rules.rejected import demand_not_rejected
from jorvek.core.run.views.bench import may_strike, status_of
from jorvek.core.run.views.offline_tasks import offline_tasks
from jorvek.core.run.views.on_engine import condition_now
from jorvek.core.run.views.record import record_of
from jorvek.core.tools import Tool, check_tool
from jorvek.core.units import Quantity
from tests.core.paper_run import BRAM, INES, LIO, TAM, TOOLS, PaperRun, shipped

HEAD = "corvane-v10-head-tighten"


def codes(judgement: ev.Judgement) -> list[str]:
    return [reason.code for reason in judgement.reasons]


def refused(run: PaperRun, command: c.Command, by: ev.Person = BRAM) -> str:
    before = len(run.events)
    with pytest.raises(Refusal) as refusal:
        run.send(command, by)
    assert len(run.events) == before
    return refusal.value.code


# ---- the table of kinds ------------------------------------------------------------------------------------------


def test_the_table_of_kinds_has_a_row_for_every_step_and_no_other() -> None:
    steps = {get_args(step.model_fields["kind"].annotation)[0] for step in get_args(get_args(Step)[0])}
    assert set(KINDS) == set(get_args(StepKind)) == steps


def test_a_row_that_says_nothing_forbids() -> None:
    said: dict[str, Any] = {
        "proves": (),
        "never_accepted": (),
        "changes": (),
        "hands_off": False,
        "never_held_up": False,
    }
    row = Kind(leave_out=False, offline=False, crank="still", load="none", **said)
    assert not row.covers
    assert not row.uncovers_or_loads
    assert not row.never_held_up
    assert not row.shared(CellItem.PULL)
    assert not row.shared(None)
    assert (row.ages, row.support, row.tool, row.pressure) == ("never", "none", "none", "none")


def test_what_permits_has_no_default() -> None:
    """A column that a new row may forget must not open a way by being forgotten."""
    silent = {field.name for field in fields(Kind) if field.default is MISSING}
    assert silent >= {"leave_out", "offline", "hands_off", "never_held_up", "changes", "never_accepted", "proves"}


def test_what_keeps_people_safe_is_never_left_out_and_never_done_without_a_link() -> None:
    kinds: tuple[StepKind, ...] = get_args(StepKind)
    for name in kinds:
        row = KINDS[name]
        if row.crank == "turns" or row.pressure != "none":
            assert not row.offline, name
            assert row.changes, f"{name} changes what others rely on"
        if row.support == "gives" or row.pressure == "relieves" or row.tool == "off":
            assert not row.leave_out, name
        if row.tool != "none" or row.support in ("gives", "gives_if_stated"):
            assert row.changes, f"{name} changes what others rely on"
    for owing, pays in SETTLED_BY.items():
        assert KINDS[owing].leave_out, f"what is not taken off is not owed: {owing}"
        assert not KINDS[pays].leave_out, f"a debt is paid, never left out: {pays}"


# ---- pressure ----------------------------------------------------------------------------------------------------


def raised(peak: str) -> PaperRun:
    run = PaperRun()
    run.play("second/raise")
    run.value("second/raise", peak, "bar")
    run.play("second/lowest")
    return run


@pytest.mark.parametrize("lowest", ["970", "978", "980", "982", "990", "1003", "1004", "1005", "1030"])
def test_the_lowest_pressure_lies_between_the_band_and_the_peak(lowest: str) -> None:
    run = raised("1004")
    peak, cell = run.state.live("second/raise"), run.state.definition.by_key["second/lowest"]
    assert peak is not None
    assert cell.lower == pytest.approx(980.0)
    judgement = run.value("second/lowest", lowest, "bar")
    got, top = judgement.corrected or 0.0, peak.judgement.corrected or 0.0
    found = ["below_band"] if got < 980.0 else ["above_peak"] if got > top else []
    assert codes(judgement) == found
    assert (judgement.verdict is ev.Verdict.IN_BAND) == (found == [])
    assert judgement.clamp_kN == pytest.approx(859.9 * got / 1000.0, rel=0.02)


def test_a_pressure_over_the_ceiling_is_out_of_band_whatever_the_band_says() -> None:
    run = PaperRun()
    run.play("second/raise")
    cell = run.state.definition.by_key["second/raise"]
    assert ceiling_for(run.state, cell) == 1050.0
    judgement = run.value(cell.key, "1090", "bar")
    assert "above_ceiling" in codes(judgement)
    assert judgement.verdict is ev.Verdict.OUT_OF_BAND


def test_a_ceiling_holds_for_its_own_tools_and_from_where_it_is_proved() -> None:
    run = PaperRun("tarnholt-7l34-main-tighten")
    by_key = run.state.definition.by_key
    tops = {key: ceiling_for(run.state, cell) for key, cell in by_key.items() if cell.item == "raise"}
    assert len(set(tops.values())) > 1, "verticals and sides have a ceiling of their own"
    for key, top in tops.items():
        wanted = by_key[key].upper
        assert top is None or wanted is None or top >= wanted, "the stage lies below its ceiling"
    first = run.state.definition.cells[0]
    assert ceiling_for(run.state, first) is None


def test_a_hold_is_over_when_its_time_has_passed_and_not_before() -> None:
    run = PaperRun()
    run.play("first/hold")
    cell = run.state.definition.by_key["first/hold"]
    raised_at = run.state.live("first/raise")
    assert raised_at is not None
    for early, left in ((cell.wait_s, cell.wait_s), (1.0, 1.0), (0.0, 0.0)):
        now = raised_at.done_at + timedelta(seconds=cell.wait_s - early)
        assert wait_left_s(run.state, cell, now) == pytest.approx(left)
    run.now = raised_at.done_at + timedelta(seconds=cell.wait_s - 0.4)
    tick = c.RecordReading(kind="record", id=uuid4(), cell=cell.key, attempt=1, answer=ev.TickAnswer())
    assert refused(run, tick) == "hold_not_over"
    run.now += timedelta(seconds=0.4)
    run.send(tick)
    assert run.state.live(cell.key) is not None


# ---- guard band: the reason names the limit that was missed ------------------------------------------------------


@pytest.mark.parametrize(
    ("grown", "verdict", "code"),
    [
        (0.0, ev.Verdict.IN_BAND, None),
        (0.079, ev.Verdict.IN_BAND, None),
        (0.095, ev.Verdict.TOO_NEAR, "near_limit"),
        (0.105, ev.Verdict.TOO_NEAR, "near_limit"),
        (0.125, ev.Verdict.OUT_OF_BAND, "above_band"),
        (-0.03, ev.Verdict.OUT_OF_BAND, "shorter_than_new"),
    ],
)
def test_growth_is_judged_with_the_gauges_uncertainty_to_both_sides_of_the_limit(
    grown: float, verdict: ev.Verdict, code: str | None
) -> None:
    run = PaperRun()
    run.play("length-before/temperature/1")
    run.value("length-before/temperature/1", "20", "degC")
    cell = run.state.definition.by_key["length-before/length/1"]
    limit = cell.upper or 0.0
    assert limit == pytest.approx(0.1)
    new = run.state.definition.groups["1"].free_length.value
    tool = run.state.tool(cell.tool_role)
    assert tool is not None
    assert tool.expanded_uncertainty() == pytest.approx(0.02)
    judgement = run.value(cell.key, f"{new + grown:.3f}")
    assert judgement.verdict is verdict
    assert codes(judgement) == ([code] if code else [])
    if code == "above_band":
        assert judgement.reasons[0].params == {"by": f"{grown - limit:.3f} mm"}
    if code == "near_limit":
        assert judgement.reasons[0].params["limit"] == "0.100 mm"


def test_a_stretch_outside_names_the_side_it_is_on() -> None:
    for stretch, code in ((0.98, "below_band"), (1.33, "above_band")):
        run = PaperRun()
        run.play("length-after/length/1")
        before = run.state.live("length-before/length/1")
        cell = run.state.definition.by_key["length-after/length/1"]
        assert before is not None
        assert before.judgement.corrected is not None
        assert cell.lower == pytest.approx(1.060, abs=0.002)
        assert cell.upper == pytest.approx(1.244, abs=0.002)
        warm = run.state.live("length-after/temperature/1")
        cold = run.state.live("length-before/temperature/1")
        assert warm is not None
        assert cold is not None
        rise = (warm.judgement.corrected or 0.0) - (cold.judgement.corrected or 0.0)
        length = before.judgement.corrected * (1 + 11.5e-6 * rise) + stretch
        judgement = run.value(cell.key, f"{length:.3f}")
        assert judgement.judged == pytest.approx(stretch, abs=0.001)
        assert codes(judgement) == [code]
        missed = (cell.lower or 0.0) - stretch if code == "below_band" else stretch - (cell.upper or 0.0)
        assert judgement.reasons[0].params["by"] == f"{missed:.3f} mm"


# ---- tools -------------------------------------------------------------------------------------------------------


def test_a_tool_that_goes_on_again_is_on_although_it_was_off_before() -> None:
    run = PaperRun("tarnholt-7l34-main-tighten")
    seats = [cell for cell in run.state.definition.cells if cell.traits.tool == "on" and cell.item == "seat"]
    by_name: dict[str, int] = {}
    for cell in seats:
        by_name[cell.fastener or ""] = by_name.get(cell.fastener or "", 0) + 1
    twice = next(name for name, n in by_name.items() if n > 1)
    again = [cell for cell in seats if cell.fastener == twice][1]
    run.play(again.key)
    on = {d.fastener for d in debts(run.state) if d.kind is DebtKind.TOOL_ON}
    assert twice not in on, "it was taken off after the first time"
    run.record(again.key, ev.TickAnswer())
    on = {d.fastener for d in debts(run.state) if d.kind is DebtKind.TOOL_ON}
    assert twice in on, "an earlier removal does not count"


@pytest.mark.parametrize(("full_scale", "class_pct", "wanted"), [(1600, 0.6, 11.0851), (1000, 1.0, 11.547)])
def test_a_gauge_class_is_an_error_bound_evenly_spread_and_U_covers_two_of_its_standard_deviations(
    full_scale: float, class_pct: float, wanted: float
) -> None:
    assert class_uncertainty(full_scale, class_pct) == pytest.approx(wanted, abs=1e-3)


def test_a_tool_is_refused_just_beyond_each_of_its_limits() -> None:
    run = PaperRun("ulvane-5x46-cover-tighten", tools="eight")
    issue = next(s for s in run.state.definition.procedure.steps if isinstance(s, ToolIssueStep))
    wanted = next(t for t in issue.tools if t.accuracy is not None and t.range_at_least is not None)
    fits = (t for t in TOOLS if t.tool_class == wanted.tool_class and t.full_scale == 1000.0)
    good = next(t for t in fits if not t.out_of_date(run.now.date()))
    check_tool(good, wanted)
    reach = wanted.range_at_least.value if wanted.range_at_least else 0.0
    bound = wanted.accuracy.value if wanted.accuracy else 0.0

    def other(**changes: object) -> Tool:
        return good.model_copy(update=changes)

    check_tool(other(full_scale=reach), wanted)
    accuracy = "class_pct" if good.class_pct is not None else "accuracy_pct"
    check_tool(other(**{accuracy: bound}), wanted)
    for tool, code in (
        (other(full_scale=reach * 0.999), "tool_range"),
        (other(**{accuracy: bound * 1.001}), "tool_accuracy"),
        (other(tool_class="spoon"), "tool_class"),
    ):
        with pytest.raises(Refusal) as refusal:
            check_tool(tool, wanted)
        assert refusal.value.code == code
    due = good.calibration_due
    assert not good.out_of_date(due), "the last day still holds"
    assert good.out_of_date(due + timedelta(days=1))


# ---- leaving, sharing, redoing -----------------------------------------------------------------------------------


def test_a_pause_gives_back_all_parts_and_a_close_is_final() -> None:
    run = PaperRun(HEAD, tool="bar")
    run.play("snug/pull/9")
    run.send(c.TakePart(kind="take_part", id=uuid4(), fasteners=("9", "15")), LIO)
    run.send(c.TakePart(kind="take_part", id=uuid4(), fasteners=("10",)), BRAM)
    assert {p.by.name: p.fasteners for p in run.state.parts} == {LIO.name: ("9", "15"), BRAM.name: ("10",)}
    assert refused(run, c.TakePart(kind="take_part", id=uuid4(), fasteners=("15",)), BRAM) == "part_taken"
    run.send(c.Pause(kind="pause", id=uuid4()), LIO)
    assert (run.state.status, run.state.parts) == ("paused", ())
    assert refused(run, c.Pause(kind="pause", id=uuid4())) == "run_paused"
    assert (status_of(run.state), open_cells(run.state)) == ("paused", ())
    run.send(c.TakeOver(kind="take_over", id=uuid4()), BRAM)
    assert (run.state.status, run.state.parts, run.state.watches[-1].by) == ("open", (), BRAM)
    assert refused(run, c.TakeOver(kind="take_over", id=uuid4())) == "already_yours"
    run.send(c.TakeOver(kind="take_over", id=uuid4()), LIO)
    assert run.state.watches[-1].by == LIO


def test_a_redo_takes_all_stages_only_once_the_angle_was_turned() -> None:
    run = PaperRun("corvane-v10-rod-tighten")
    # By the default of the kind; what the document itself declares is tried elsewhere.
    silent = run.state.definition.procedure.model_copy(update={"redo": ()})
    run.state = replace(run.state, definition=replace(run.state.definition, procedure=silent))
    first, second = [cell.fastener for cell in run.state.definition.cells if cell.key.startswith("snug/pull/")][:2]
    run.play(f"turn/turn/{first}")
    assert redo_scope(run.state, f"full-snug/pull/{first}") == (f"full-snug/pull/{first}", "turn/marks"), "the one pull"
    run.play(f"turn/turn/{second}")
    scope = redo_scope(run.state, f"full-snug/pull/{first}")
    stages = ("snug/setting", f"snug/pull/{first}", "full-snug/setting", f"full-snug/pull/{first}")
    assert scope == (*stages, "turn/marks", f"turn/turn/{first}", f"turn/end_torque/{first}")
    assert redo_scope(run.state, f"full-snug/pull/{second}") == (f"full-snug/pull/{second}", "turn/marks")


def test_a_redo_under_pressure_stays_with_its_nut_and_after_it_begins_at_the_tools() -> None:
    run = PaperRun()
    run.play("second/feeler/2")
    scope = redo_scope(run.state, "second/nut/1")
    assert set(scope) == {"second/nut/1", "second/feeler/1", "second/lowest"}
    run.play("length-after/temperature/1")
    steps = {key.split("/")[0] for key in redo_scope(run.state, "second/nut/1")}
    assert {"seat", "first", "second", "relieve", "tools-off"} <= steps
    assert "length-before" not in steps


def test_a_free_length_is_not_read_again_once_the_stud_was_loaded() -> None:
    run = PaperRun()
    run.play("first/raise")
    before = [c_.key for c_ in run.state.definition.cells if c_.traits.moment == "before_load"]
    assert before
    assert "length-before/length/1" in redo_scope(run.state, "length-before/length/1")
    run.play("first/hold")
    with pytest.raises(Refusal) as gone:
        redo_scope(run.state, "length-before/length/1")
    assert gone.value.code == "moment_gone"
    strike = c.StrikeReading(kind="strike", id=uuid4(), cell="length-before/length/1", attempt=1)
    assert refused(run, strike) == "moment_gone"


# ---- who may -----------------------------------------------------------------------------------------------------


def test_an_open_question_is_closed_only_by_whoever_may_accept() -> None:
    run = PaperRun()
    run.play("second/lowest")
    run.value("second/lowest", "940", "bar")
    accept = c.Accept(kind="accept", id=uuid4(), cell="second/lowest", attempt=1, reason="Seen")
    for who in (LIO, TAM):
        assert refused(run, accept, who) == "not_your_right"
    wrong = accept.model_copy(update={"attempt": 2})
    assert refused(run, wrong) == "no_such_reading"
    elsewhere = accept.model_copy(update={"cell": "second/feeler/2"})
    assert refused(run, elsewhere) == "no_such_reading"
    assert {d.kind for d in debts(run.state)} >= {DebtKind.UNRESOLVED}
    run.send(accept)
    assert refused(run, accept.model_copy(update={"id": uuid4()})) == "nothing_to_accept"
    assert DebtKind.UNRESOLVED not in {d.kind for d in debts(run.state)}


def test_a_point_of_a_rank_wants_that_rank_or_above() -> None:
    run = PaperRun("tarnholt-7l34-main-loosen")
    ranked = next(cell for cell in run.state.definition.cells if wanted_rank(run.state, cell) is Role.LEAD_HAND)
    run.play(ranked.key)
    tick = c.RecordReading(kind="record", id=uuid4(), cell=ranked.key, attempt=1, answer=ev.TickAnswer())
    for who in (LIO, TAM):
        assert refused(run, tick, who) == "not_your_point"
    run.send(tick, INES)
    live = run.state.live(ranked.key)
    assert live is not None
    assert live.by == INES


def test_a_run_is_complete_without_a_hole_a_debt_or_a_question_and_only_then_closed() -> None:
    run = PaperRun()
    close = c.Close(kind="close", id=uuid4())
    assert refused(run, close) == "not_complete"
    run.play("")
    assert complete(run.state)
    assert refused(run, close, LIO) == "not_your_right"
    note = last_reading(run.state)
    assert note is not None
    strike = c.StrikeReading(kind="strike", id=uuid4(), cell=note.cell, attempt=note.number)
    run.send(strike, INES)
    assert not complete(run.state)
    assert refused(run, close, INES) == "not_complete"


# ---- ageing ------------------------------------------------------------------------------------------------------


def test_what_ages_is_asked_about_after_its_time_and_not_on_it() -> None:
    run = PaperRun()
    perishable = run.state.definition.perishables[-1]
    run.play(perishable.uses[0])
    done = max(a.done_at for a in (run.state.live(key) for key in perishable.cells) if a is not None)
    on_time = done + timedelta(seconds=perishable.limit_s)
    assert [one.what.step for one in aged(run.state, on_time)] == []
    old = aged(run.state, on_time + timedelta(seconds=1))
    assert [one.what.step for one in old] == [perishable.step]
    assert old[0].age_s == pytest.approx(perishable.limit_s + 1)


# ---- neighbours, and what a tablet may do alone ------------------------------------------------------------------


def test_a_joint_comes_apart_as_soon_as_the_metal_does_and_is_together_only_once_the_run_is_closed() -> None:
    loosening = PaperRun("tarnholt-7l34-main-loosen")
    assert condition_now(loosening.state) == "closed_up"
    loosening.play(
        next(c.key for c in loosening.state.definition.cells if c.traits.load == "takes" and c.item == "free")
    )
    assert condition_now(loosening.state) == "tight", "doors and sensors are off, no nut has moved"
    loosening.play(next(c.key for c in loosening.state.definition.cells if c.kind == "nuts_off"))
    assert condition_now(loosening.state) == "loose"
    assert condition_now(replace(loosening.state, status="closed")) == "open"
    tightening = PaperRun("tarnholt-7l34-main-tighten")
    assert condition_now(tightening.state) == "open"
    tightening.play()
    assert condition_now(tightening.state) == "loose", "as long as it runs"
    assert condition_now(replace(tightening.state, status="paused")) == "loose"
    assert condition_now(replace(tightening.state, status="closed")) == "closed_up"


def test_a_tablet_alone_walks_the_present_stage_and_never_what_the_table_forbids() -> None:
    run = PaperRun()
    while (cell := next_call(run.state)) is not None:
        ahead = offline_tasks(run.state, run.looking())
        for one in ahead.calls:
            known = run.state.definition.by_key[one.call.cell]
            assert known.traits.offline
            assert not known.deliberate
            assert known.step == cell.step == ahead.step
            assert known.ask not in (InputType.TOOL, InputType.SIGNATURE, InputType.SEEN)
        run.play_one()


def test_a_list_that_is_in_order_opens_point_by_point_and_another_one_all_at_once() -> None:
    run = PaperRun("tarnholt-7l34-head-loosen")
    free = {cell.key for cell in open_cells(run.state)}
    assert {f"make-safe/{name}" for name in ("starting-air", "fuel", "signs")} <= free
    points = [cell.key for cell in run.state.definition.cells if cell.kind == "ancillary_off"]
    run.play(points[0])
    assert len(points) > 2
    for first, then in pairwise(points):
        assert [cell.key for cell in open_cells(run.state)] == [first]
        early = c.RecordReading(kind="record", id=uuid4(), cell=then, attempt=1, answer=ev.TickAnswer())
        assert refused(run, early) == "not_yet"
        run.play_one()


def test_leaving_out_needs_a_kind_that_allows_it_a_call_that_is_not_deliberate_and_no_figure_on_it() -> None:
    run = PaperRun()
    by_key = run.state.definition.by_key
    assert not may_be_left_out(run.state, by_key["length-before/length/1"]), "the stretch rests on it"
    assert not may_be_left_out(run.state, by_key["first/clear"]), "a deliberate act"
    assert not may_be_left_out(run.state, by_key["relieve/zero"]), "zero is proved"
    assert not may_be_left_out(run.state, by_key["second/feeler/1"]), "it proves that the nut seats"
    assert may_be_left_out(run.state, by_key["second/nut/1"])


def test_every_sort_of_no_is_known_by_its_kind() -> None:
    assert Refusal("log_broken", seq=1).kind is RefusalKind.DAMAGED
    assert Refusal("no_such_run").kind is RefusalKind.MISSING
    assert KIND_OF["pin_delay"] is RefusalKind.TOO_SOON
    assert str(Refusal("no_such_run")) == "no_such_run"


def test_a_command_that_is_decided_changes_nothing_by_itself() -> None:
    run = PaperRun()
    cell = next_call(run.state)
    assert cell is not None
    command = c.RecordReading(kind="record", id=uuid4(), cell=cell.key, attempt=1, answer=ev.TickAnswer())
    context = c.Context(BRAM, run.now, run.now.date(), {})
    before = run.state
    assert decide(run.state, command, context) == decide(run.state, command, context)
    assert run.state is before
    assert Quantity.PRESSURE.value == "pressure"


# ---- what is shown at a limit --------------------------------------------------------------------------------------


def test_a_row_is_an_exception_when_it_is_odd_struck_accepted_or_fallen_and_only_then() -> None:
    run = PaperRun()
    run.play("second/feeler/3")
    record = record_of(UUID(int=0), run.state, "0" * 64)
    assert not record.exceptions
    run.record("second/feeler/3", ev.FeelerAnswer(enters=True))
    assert [r.cell for r in record_of(UUID(int=0), run.state, "0" * 64).exceptions] == ["second/feeler/3"]
    run.strike("second/feeler/3")
    run.record("second/feeler/3", ev.FeelerAnswer(enters=False))
    struck = record_of(UUID(int=0), run.state, "0" * 64).exceptions
    assert [(r.cell, r.attempt, r.struck is not None) for r in struck] == [("second/feeler/3", 1, True)]


def test_nothing_of_a_closed_run_may_be_struck() -> None:
    run = PaperRun()
    run.play()
    key = "length-after/length/3"
    assert may_strike(run.state, key)
    run.record("chief-sees/sign", ev.SignatureAnswer(), INES, pin=True)
    run.send(c.Close(kind="close", id=uuid4()), INES)
    assert not may_strike(run.state, key)


def test_a_reading_made_as_the_watch_began_keeps_its_hour_and_one_before_it_does_not() -> None:
    run = PaperRun()
    run.play("first/nut/2")
    began = run.state.watches[-1].at
    since = (run.now - began).total_seconds()
    for kept_s, believed in ((since, since), (since + 0.001, None), (0.0, 0.0), (None, None)):
        assert _credible_s(run.state, run.now, kept_s) == believed


def test_an_attempt_is_the_next_one_and_no_other() -> None:
    run = PaperRun()
    run.play("length-before/length/3")
    value = ev.ValueAnswer(text="612.018", unit="mm")
    for number in (2, 3):
        record = c.RecordReading(kind="record", id=uuid4(), cell="length-before/length/3", attempt=number, answer=value)
        assert refused(run, record) == "wrong_attempt"
    run.value("length-before/length/3", "612.018")


def test_a_rejected_mark_is_refused_as_a_part_and_as_a_piece_and_nowhere_else() -> None:
    rejected = {"s1": "Unit 5, Head B"}
    cells = {cell.ask: cell for cell in define(shipped("corvane-v10-rod-tighten")).cells if cell.traits.names_pieces}
    choosing = define(shipped(HEAD), {"tool": "bar"}).by_key["length/decision/9"]
    for cell, said in (
        (cells[InputType.WORDS], lambda mark: ev.WordsAnswer(text=mark)),
        (choosing, lambda mark: ev.ChoiceAnswer(choice="reuse", piece=mark)),
    ):
        with pytest.raises(Refusal) as refusal:
            demand_not_rejected(cell, said("S-1"), rejected)
        assert (refusal.value.code, refusal.value.params["where"]) == ("piece_rejected", "Unit 5, Head B")
        demand_not_rejected(cell, said("S-2"), rejected)
    demand_not_rejected(cells[InputType.WORDS], ev.TickAnswer(), rejected)
