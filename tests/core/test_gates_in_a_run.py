"""Gates as they are measured: strips by their width, blades alone, readings taken twice, and where the gauge stands."""

from __future__ import annotations

import json
from uuid import UUID

import pytest
from hypothesis import given
from hypothesis import strategies as st

from jorvek.core.measuring.bearing import strip_clearance, strip_width
from jorvek.core.procedure.document import Procedure
from jorvek.core.refusal import Refusal
from jorvek.core.run.log import events as ev
from jorvek.core.run.log.cells import InputType, Rule
from jorvek.core.run.log.definition import define
from jorvek.core.run.rules.progress import next_call, open_cells
from jorvek.core.run.rules.redo import redo_scope
from jorvek.core.run.rules.strip import uncertainty_mm
from jorvek.core.run.views.bench import BenchView, bench_view
from jorvek.core.run.views.gauges import Measuring
from tests.core.paper_run import PaperRun, shipped
from tests.core.test_limits_of_rules import codes

MAIN = "corvane-v10-main-tighten"
SCALE = [(1.10, 0.152), (1.50, 0.102), (2.00, 0.076), (2.60, 0.051)]


def at_the_strip() -> PaperRun:
    run = PaperRun(MAIN, clearance="strip")
    run.play("strip/narrowest:1")
    return run


def bench(run: PaperRun) -> BenchView:
    return bench_view(UUID(int=0), run.state, run.looking())


def measuring(run: PaperRun) -> Measuring:
    found = bench(run).plan.measuring
    assert found is not None
    return found


def test_a_strip_is_read_with_the_cap_off_and_its_band_stands_in_widths() -> None:
    run = at_the_strip()
    filled = [c.step for c in run.state.definition.cells if run.state.live(c.key) is not None]
    assert filled[-1] == "trial-lift"
    assert [c.key for c in open_cells(run.state)] == ["strip/narrowest:1", "strip/narrowest:2"]
    call = bench(run).calls[0]
    # 0.130 mm lies between 1.10 and 1.50 on the packet, 0.060 mm between 2.00 and 2.60: taken inwards to hundredths.
    assert (call.figure, call.lower and call.lower.text, call.upper and call.upper.text) == (None, "1.280", "2.380")
    assert (call.details["lower"], call.details["upper"]) == ("0.060 mm", "0.130 mm")


def test_no_load_stands_beside_a_bolt_that_was_let_go() -> None:
    run = PaperRun(MAIN, clearance="strip")
    run.play("trial-slack/slack:1/4")
    loads = {head.name: head.clamp for head in bench(run).plan.heads}
    assert all(loads[name] is not None for name in "1234")
    run.play_one()
    loads = {head.name: head.clamp for head in bench(run).plan.heads}
    assert [name for name in "1234" if loads[name] is None] == ["4"]


@pytest.mark.parametrize(
    ("width", "verdict", "reason"),
    [
        ("1.75", ev.Verdict.IN_BAND, []),
        ("1.29", ev.Verdict.TOO_NEAR, ["near_limit"]),
        ("1.12", ev.Verdict.OUT_OF_BAND, ["above_band"]),
        ("2.55", ev.Verdict.OUT_OF_BAND, ["below_band"]),
        ("1.09", ev.Verdict.OUT_OF_BAND, ["narrower_than_scale"]),
        ("2.61", ev.Verdict.OUT_OF_BAND, ["wider_than_scale"]),
    ],
)
def test_a_width_is_judged_as_the_clearance_that_the_packet_says(
    width: str, verdict: ev.Verdict, reason: list[str]
) -> None:
    judged = at_the_strip().value("strip/narrowest:1", width)
    assert (judged.verdict, codes(judged)) == (verdict, reason)
    if verdict is ev.Verdict.IN_BAND:
        assert judged.judged == pytest.approx((0.102 + 0.076) / 2)
        assert judged.uncertainty == pytest.approx(0.05 * (0.102 - 0.076) / 0.5)
    assert (judged.lower, judged.upper) == (0.060, 0.130)


def test_both_widths_of_each_end_are_read_and_the_widest_is_not_the_narrower_one() -> None:
    run = at_the_strip()
    run.value("strip/narrowest:1", "1.60")
    before = len(run.events)
    with pytest.raises(Refusal) as refused:
        run.value("strip/widest:1", "1.55")
    assert refused.value.code == "narrower_than_narrowest"
    assert len(run.events) == before
    assert run.value("strip/widest:1", "1.60").verdict is ev.Verdict.IN_BAND, "a shaft that lies true"
    run.value("strip/narrowest:2", "1.30")
    assert run.value("strip/widest:2", "2.59").verdict is ev.Verdict.OUT_OF_BAND, "one end is tight on its far side"


@given(st.floats(1.10, 2.60))
def test_the_packets_scale_is_read_both_ways(width: float) -> None:
    assert strip_width(strip_clearance(width, SCALE), SCALE) == pytest.approx(width)


def test_the_packets_scale_says_nothing_beyond_its_ends() -> None:
    for clearance in (0.0505, 0.1525):
        with pytest.raises(Refusal) as refused:
            strip_width(clearance, SCALE)
        assert refused.value.code == "E_TABLE"
    assert [strip_width(c, SCALE) for c in (0.051, 0.152)] == pytest.approx([2.60, 1.10])


def test_on_a_mark_of_the_packet_the_steeper_side_counts() -> None:
    steep, flat = (0.152 - 0.102) / 0.4, (0.102 - 0.076) / 0.5
    assert steep > flat
    assert uncertainty_mm(SCALE, 1.50, 0.1) == pytest.approx(0.1 * steep)
    assert uncertainty_mm(SCALE, 1.51, 0.1) == pytest.approx(0.1 * flat)


def test_a_document_of_an_older_format_keeps_its_one_width_a_point() -> None:
    plain = shipped(MAIN).plain() | {"format": "jorvek-procedure/2"}
    old = define(Procedure.from_body(json.dumps(plain)), {"clearance": "strip"})
    assert [c.key for c in old.cells if c.step == "strip"] == ["strip/point:1", "strip/point:2"]
    assert {c.rule for c in old.cells if c.step == "float" and c.ask is InputType.VALUE} == {Rule.NONE}


def with_step(base: str, **gate: object) -> Procedure:
    """A sound procedure that begins with a measurement."""
    plain = shipped(base).plain()
    first = {"id": "gap", "kind": "gate", "title": "Gap", "instrument": "feelers", "gate": gate}
    return Procedure.model_validate({**plain, "steps": [*plain["steps"], first]})


@pytest.mark.parametrize(("blade", "good"), [("go", True), ("no_go", False)])
def test_one_blade_alone_proves_at_least_or_at_most(blade: str, good: bool) -> None:
    procedure = with_step(MAIN, measure="blades", points=["top"], **{blade: "0.30 mm"})
    (cell,) = [c for c in define(procedure).cells if c.step == "gap"]
    assert (cell.ask, cell.rule, "enters" in cell.choices) == (InputType.FEELER, Rule.FEELER, good)


def test_blades_without_any_blade_are_refused() -> None:
    with pytest.raises(ValueError, match="need 'go', 'no_go' or both"):
        with_step(MAIN, measure="blades", points=["top"])


def at_the_float() -> PaperRun:
    run = PaperRun(MAIN, clearance="free")
    run.play("float/forward:1")
    return run


def test_a_reading_that_does_not_repeat_is_asked_about() -> None:
    """The author allows 0.02 mm; what is set aside by a new reading no longer counts."""
    run = at_the_float()
    run.value("float/forward:1", "0.200")
    run.value("float/aft:1", "0.000")
    assert run.value("float/forward:2", "0.220").verdict is ev.Verdict.IN_BAND, "on the limit"
    odd = run.value("float/aft:2", "0.021")
    assert (odd.verdict, codes(odd)) == (ev.Verdict.OUT_OF_BAND, ["repeats_disagree"])
    assert odd.reasons[0].params == {"by": "0.021 mm"}
    run.strike("float/aft:2")
    run.value("float/aft:2", "0.010")
    # The third is held against both before it: 0.200 and 0.220 leave it no more than the hundredths between.
    assert run.value("float/forward:3", "0.199").verdict is ev.Verdict.OUT_OF_BAND


def test_without_a_figure_of_the_author_the_instrument_tells_what_repeats() -> None:
    run = PaperRun("tarnholt-7l34-main-loosen")
    run.play("float-before/forward:1")
    tool = run.state.tool("dial-gauge")
    assert tool is not None
    limit = max(2**0.5 * tool.expanded_uncertainty(), 2 * (tool.resolution or 0.0))
    run.value("float-before/forward:1", "0.450")
    run.value("float-before/aft:1", "0.000")
    assert run.value("float-before/forward:2", f"{0.450 + limit - 0.001:.3f}").verdict is ev.Verdict.IN_BAND
    assert run.value("float-before/aft:2", f"{limit + 0.001:.3f}").verdict is ev.Verdict.OUT_OF_BAND


def test_a_bore_gauge_lies_across_the_bore_as_it_is_called_and_at_its_depth() -> None:
    run = PaperRun("tarnholt-7l34-liner-draw")
    run.play("bore/bore:2.3")
    shown = measuring(run)
    now = next(m for m in shown.marks if m.state == "now")
    assert (now.label, now.points_deg, now.across_mm, now.x, now.y) == ("90°", 90.0, 340.0, 0.0, 0.0)
    assert [m.state for m in shown.marks] == ["done", "done", "now", "todo"]
    assert [(d.label, d.state) for d in shown.depths[:3]] == [("30 mm", "done"), ("150 mm", "now"), ("350 mm", "todo")]
    assert [d.share for d in shown.depths] == pytest.approx([0.05, 0.25, 350 / 600, 1.0])


def test_points_named_like_a_landmark_stand_at_it_and_others_where_the_author_says() -> None:
    run = PaperRun("tarnholt-7l34-liner-fit")
    run.play("dry-height/point:2")
    plan = bench(run).plan
    at = {m.label: (m.x, m.y, m.state) for m in measuring(run).marks}
    collar = (340 + 470) / 4
    assert at[plan.y_plus] == (0.0, collar, "now") and at[plan.x_minus] == (-collar, 0.0, "done")  # noqa: PT018 — one picture
    run = PaperRun("ulvane-5x46-main-tighten")
    run.play("clearance/go:1")
    assert [(m.label, m.x, m.points_deg) for m in measuring(run).marks] == [
        ("forward edge", -115.0, 0.0),
        ("aft edge", 115.0, 180.0),
    ]


def test_a_place_for_a_point_that_is_not_measured_is_refused() -> None:
    plain = shipped("ulvane-5x46-main-tighten").plain()
    gate = next(s for s in plain["steps"] if s["id"] == "clearance")
    gate["places"] = {"middle": {"x": "0 mm", "y": "0 mm"}}
    with pytest.raises(ValueError, match="point 'middle'"):
        Procedure.model_validate(plain)


def test_where_nothing_is_measured_or_nothing_tells_where_no_gauge_is_drawn() -> None:
    run = PaperRun("tarnholt-7l34-head-close")
    assert bench(run).plan.measuring is None
    call = next_call(run.state)
    assert call is not None
    assert call.kind != "gate"


@pytest.mark.parametrize("of", ["float/forward:1", "float/aft:2", "float/float"])
def test_a_float_is_measured_again_whole_whichever_of_its_readings_is_done_again(of: str) -> None:
    """The shaft was barred to one end and back: a reading that was taken before says nothing of it any more."""
    run = PaperRun("corvane-v10-main-tighten", clearance="free")
    mine = [cell.key for cell in run.state.definition.by_step["float"]]
    run.play(run.state.definition.cells[run.state.definition.place_of(mine[-1]) + 1].key)
    assert [key for key in redo_scope(run.state, of if of in mine else mine[-1]) if key in mine] == mine
