"""Web deflections: five readings of a dial, what they make, and what they say of the bearings."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from jorvek.core.measuring.deflection import READ_AT, web_deflection
from jorvek.core.refusal import Refusal
from jorvek.core.run.log import events as ev
from jorvek.core.run.rules.progress import next_call
from tests.core.paper_run import PaperRun
from tests.core.test_limits_of_rules import codes

HUNDREDTHS = st.floats(-0.5, 0.5).map(lambda x: round(x, 3))


@pytest.mark.parametrize(
    ("readings", "vertical", "horizontal", "closes", "tells"),
    [
        ([0.00, 0.01, 0.02, 0.01, 0.00], 0.02, 0.00, 0.00, "straight"),
        ([0.00, 0.04, 0.08, 0.03, 0.01], 0.075, 0.01, 0.01, "bearings_low"),
        ([0.00, -0.03, -0.06, -0.04, 0.00], -0.06, 0.01, 0.00, "bearings_high"),
        ([0.00, 0.02, 0.05, 0.02, 0.00], 0.05, 0.00, 0.00, "straight"),
    ],
)
def test_a_gap_that_opens_below_the_axis_tells_of_low_bearings(
    readings: list[float], vertical: float, horizontal: float, closes: float, tells: str
) -> None:
    found = web_deflection(readings, 0.05)
    assert found.vertical_mm == pytest.approx(vertical)
    assert found.horizontal_mm == pytest.approx(horizontal)
    assert found.closes_mm == pytest.approx(closes)
    assert found.tells == tells


@given(st.lists(HUNDREDTHS, min_size=5, max_size=5), HUNDREDTHS)
def test_where_the_dial_is_zeroed_does_not_matter_and_the_other_way_round_mirrors_the_sides(
    readings: list[float], zero: float
) -> None:
    found = web_deflection(readings, 0.05)
    moved = web_deflection([r + zero for r in readings], 0.05)
    assert moved.vertical_mm == pytest.approx(found.vertical_mm, abs=1e-9)
    assert moved.horizontal_mm == pytest.approx(found.horizontal_mm, abs=1e-9)
    back = web_deflection(readings[::-1], 0.05)
    assert back.vertical_mm == pytest.approx(found.vertical_mm)
    assert back.horizontal_mm == pytest.approx(-found.horizontal_mm)


@pytest.mark.parametrize(("readings", "code"), [([0.0] * 4, "E_LEN"), ([0.0] * 4 + [float("nan")], "E_FINITE")])
def test_four_readings_and_none_at_all_are_refused(readings: list[float], code: str) -> None:
    with pytest.raises(Refusal) as refused:
        web_deflection(readings, 0.05)
    assert refused.value.code == code


def read(run: PaperRun, figures: tuple[float, ...]) -> None:
    run.play("webs/web_bottom_first")
    for place, figure in zip(READ_AT, figures, strict=True):
        run.value(f"webs/web_{place}", f"{figure:.3f}")


def test_in_a_run_everybody_is_out_first_and_low_bearings_are_named() -> None:
    run = PaperRun("tarnholt-7l34-main-tighten")
    run.play("webs/people")
    call = next_call(run.state)
    assert call is not None
    assert (call.key, call.deliberate) == ("webs/people", True)
    read(run, (0.0, 0.04, 0.09, 0.04, 0.0))
    seen = run.record("webs/vertical", ev.SeenAnswer())
    assert seen.verdict is ev.Verdict.OUT_OF_BAND
    assert codes(seen) == ["above_band", "bearings_low"]
    assert run.record("webs/horizontal", ev.SeenAnswer()).verdict is ev.Verdict.IN_BAND


def test_a_gauge_that_slipped_does_not_close() -> None:
    run = PaperRun("tarnholt-7l34-main-tighten")
    read(run, (0.0, 0.01, 0.02, 0.01, 0.03))
    run.record("webs/vertical", ev.SeenAnswer())
    run.record("webs/horizontal", ev.SeenAnswer())
    assert run.record("webs/closes", ev.SeenAnswer()).verdict is ev.Verdict.OUT_OF_BAND
