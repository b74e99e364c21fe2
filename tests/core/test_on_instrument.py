"""What stands large on the Bench is what the gauge in hand must show, on a mark it has, with its band beside it."""

from __future__ import annotations

from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from jorvek.core.calibration import true_value
from jorvek.core.figures import apart_figure, stated_figure
from jorvek.core.procedure.document import Procedure
from jorvek.core.run.log import events as ev
from jorvek.core.run.log.cells import Rule
from jorvek.core.run.rules.judge import judge
from jorvek.core.run.rules.on_instrument import Shown, _to_marks, shown_on
from jorvek.core.run.views.bench import bench_view
from jorvek.core.units import Quantity
from tests.core.paper_run import TOOLS, PaperRun, shipped
from tests.core.test_every_kind_of_run import NAMES

GLOSSARY = {"pressure": "bar", "torque": "N.m", "length": "mm"}
PG_12 = next(tool for tool in TOOLS if tool.id == "PG-12")


def at(key: str) -> PaperRun:
    run = PaperRun()
    run.play(key)
    return run


def large(run: PaperRun) -> list[str | None]:
    call = bench_view(run.events[0].run_id, run.state, run.looking()).calls[0]
    return [f.text if f else None for f in (call.figure, call.lower, call.upper, call.stated)]


def test_the_ceiling_is_set_to_a_mark_below_what_the_gauge_shows_for_it() -> None:
    """PG-12 shows 1054 for 1050 bar and has a mark every 10 bar."""
    run = at("ceiling/prove")
    figure, _, upper, stated = large(run)
    assert (figure, upper, stated) == ("1050", "1050", None)
    assert run.value("ceiling/prove", "1050", "bar").verdict is ev.Verdict.IN_BAND


def test_what_the_gauge_cannot_show_is_never_asked_for() -> None:
    run = at("second/raise")
    figure, lower, upper, _ = large(run)
    marks = [float(one or "nan") for one in (figure, lower, upper)]
    assert all(mark % 10 == 0 for mark in marks)
    assert marks[1] <= marks[0] <= marks[2]


@pytest.mark.parametrize("name", NAMES)
def test_every_setting_answered_as_shown_is_in_band(name: str) -> None:
    """Whatever stands large, and both ends of the band beside it, is judged in band when it is read."""
    run = PaperRun(name)
    asked = 0
    while (cells := bench_view(run.events[0].run_id, run.state, run.looking()).calls) and asked < 40:
        cell = run.state.definition.by_key[cells[0].cell]
        shown = shown_on(run.state, cell) if cell.rule is Rule.SETTING else None
        offered = cells[0].set_to
        if offered is not None:
            given = ev.ValueAnswer(text=offered.text, unit=offered.unit)
            assert judge(run.state, cell, given, run.now).verdict is ev.Verdict.IN_BAND, "one press gives what is right"
        for value in () if shown is None else (shown.aim, shown.lower, shown.upper):
            if value is None:
                continue
            asked += 1
            read = ev.ValueAnswer(text=f"{value:.6f}", unit=GLOSSARY[str(cell.quantity)])
            assert judge(run.state, cell, read, run.now).verdict is ev.Verdict.IN_BAND, (cell.key, value)
        run.play_one()


@given(
    grain=st.sampled_from([0.5, 1.0, 2.0, 5.0, 10.0, 20.0]),
    lower=st.floats(10.0, 1500.0),
    wide=st.floats(0.0, 60.0),
    share=st.floats(0.0, 1.0),
)
def test_marks_lie_inside_the_band_or_nothing_is_rounded(grain: float, lower: float, wide: float, share: float) -> None:
    exact = Shown(lower + share * wide, lower, lower + wide)
    made = _to_marks(grain, exact)
    if made == exact:
        return
    assert made.aim is not None
    assert made.lower is not None
    assert made.upper is not None
    for mark in (made.aim, made.lower, made.upper):
        assert mark / grain == pytest.approx(round(mark / grain), abs=1e-6)
    assert lower - 1e-6 <= made.lower <= made.aim <= made.upper <= lower + wide + 1e-6


def test_an_instrument_without_a_certificate_shows_what_is_true() -> None:
    run = at("second/raise")
    bare = PG_12.model_copy(update={"calibration_points": [], "resolution": None})
    key = next(c.key for c in run.state.definition.cells if c.tool_role == "oil-gauge" and c.ask == "tool")
    drawn = run.state.live(key)
    assert drawn is not None
    state = replace(run.state, attempts={**run.state.attempts, key: (replace(drawn, tool=bare),)})
    assert shown_on(state, state.definition.by_key["second/raise"]) == Shown(1000.0, 980.0, 1020.0)


def test_the_certificate_is_used_both_ways() -> None:
    run = at("second/raise")
    shown = shown_on(run.state, run.state.definition.by_key["second/raise"])
    assert shown is not None
    assert shown.lower is not None
    assert true_value(shown.lower, PG_12.calibration_points) >= 980.0
    assert true_value(shown.lower - 10.0, PG_12.calibration_points) < 980.0


@pytest.mark.parametrize(
    ("value", "unit", "text"),
    [(8.5, "N.m", "8.5"), (8.16, "N.m", "8.16"), (105.0, "N.m", "105"), (2.5, "bar", "2.5"), (1000.0, "bar", "1000")],
)
def test_a_target_keeps_the_decimals_it_was_given(value: float, unit: str, text: str) -> None:
    quantity = Quantity.TORQUE if unit == "N.m" else Quantity.PRESSURE
    assert stated_figure(value, quantity, unit).text == text


@pytest.mark.parametrize(("value", "text"), [(0.34, "0.34"), (0.012, "0.012"), (0.0, "0"), (1.4, "1"), (44.0, "44")])
def test_what_lies_beyond_a_limit_never_does_so_by_nothing(value: float, text: str) -> None:
    assert apart_figure(value, Quantity.PRESSURE, "bar").text == text


@pytest.mark.parametrize(("value", "text"), [(105.0, "105"), (102.5, "102.5"), (60.0, "60")])
def test_an_angle_is_told_in_whole_degrees_where_it_is_whole(value: float, text: str) -> None:
    assert stated_figure(value, Quantity.ANGLE, "deg").text == text


def test_a_figure_of_the_book_stands_as_the_book_has_it_and_the_mark_of_the_wrench_beside_it() -> None:
    """100.5 lbf·ft is 136.3 N·m; the wrench has a mark at 136, which is 100.3 lbf·ft and no figure of the book."""
    plain = shipped("corvane-v10-main-tighten").plain()
    snug = next(s for s in plain["steps"] if s["kind"] == "torque")
    snug |= {"torque": "100.5 lbf.ft", "band": "4 %"}
    run = PaperRun(Procedure.model_validate(plain))
    run.play(f"{snug['id']}/setting")
    (call, *_) = bench_view(run.events[0].run_id, run.state, run.looking()).calls
    assert call.figure is not None
    assert (call.figure.text, call.stated) == ("100.5", None)
    assert call.set_to is not None
    assert (call.set_to.text, call.set_to.unit) == ("136", "N.m")
    assert run.value(f"{snug['id']}/setting", "136", "N.m").verdict is ev.Verdict.IN_BAND
