"""What the core does not reckon with, because no such part, tool or reading can exist; and what it must not refuse."""

from __future__ import annotations

import math

import pytest

from jorvek.core.bolting.joint import load_factor
from jorvek.core.bolting.stretch import elongation_window, preload_from_elongation
from jorvek.core.bolting.stud import Section, section_area
from jorvek.core.bolting.thread import iso_thread
from jorvek.core.bolting.transfer import transfer_rule_of_thumb
from jorvek.core.bolting.wrench import multiplier_input, multiplier_output
from jorvek.core.measuring.bore import straightness
from jorvek.core.procedure.measure import measure_from_text
from jorvek.core.procedure.parts import Limits, half_width
from jorvek.core.refusal import Refusal
from jorvek.core.units import Quantity

THREAD = iso_thread(52.0, 3.0)


def code(work: object) -> str:
    with pytest.raises(Refusal) as refused:
        work()  # type: ignore[operator]  # each is a call that is to be refused
    return refused.value.code


@pytest.mark.parametrize(("area", "fits"), [(1734.9, True), (1735.0, True), (1700.0, False), (1800.0, False)])
def test_an_area_beside_a_diameter_is_that_of_the_diameter(area: float, fits: bool) -> None:
    section = Section(L_mm=380.0, d_mm=47.0, A_mm2=area)
    if fits:
        assert section_area(section, THREAD) == pytest.approx(1734.9, abs=0.1)
    else:
        assert code(lambda: section_area(section, THREAD)) == "E_GEOM"


@pytest.mark.parametrize(("U", "capable"), [(0.086, True), (0.0868, False), (0.1, False)])
def test_a_gauge_that_is_too_coarse_leaves_no_window(U: float, capable: bool) -> None:
    window = elongation_window(640_000.0, 5.0, 2.71e-6, U)
    assert window.capable is capable
    if capable:
        assert window.accept_lo_mm is not None
        assert window.accept_hi_mm is not None
        assert window.accept_lo_mm <= window.accept_hi_mm
    else:
        assert (window.accept_lo_mm, window.accept_hi_mm) == (None, None), "never from 1.748 to 1.721"


def test_a_working_load_may_press() -> None:
    pressed = load_factor(2.85e-6, 3.1e-7, 1.0, 640_000.0, -50_000.0)
    assert pressed.F_SA_N < 0.0
    assert pressed.F_KR_N > 640_000.0
    assert not pressed.gaps


@pytest.mark.parametrize("ratio", [0.2, 0.999])
def test_a_multiplier_multiplies(ratio: float) -> None:
    assert code(lambda: multiplier_input(3850.0, ratio, 0.9)) == "E_RANGE"
    assert code(lambda: multiplier_output(410.0, ratio, 0.9)) == "E_RANGE"
    assert multiplier_output(100.0, 1.0, 1.0) == 100.0


def test_a_stud_that_became_shorter_holds_nothing() -> None:
    assert code(lambda: preload_from_elongation(-0.01, 1.35e-6)) == "E_RANGE"
    assert preload_from_elongation(0.0, 1.35e-6).F_N == 0.0


def test_two_points_are_always_in_line() -> None:
    assert code(lambda: straightness([0.0, 100.0], [0.0, 0.05])) == "E_LEN"
    assert straightness([0.0, 100.0, 200.0], [0.0, 0.05, 0.0]).min_zone_mm == pytest.approx(0.05)


@pytest.mark.parametrize(("grip", "meant"), [(29.9, False), (30.0, True), (300.0, True)])
def test_the_rule_of_thumb_was_never_meant_for_a_grip_shorter_than_the_diameter(grip: float, meant: bool) -> None:
    if meant:
        assert transfer_rule_of_thumb(30.0, grip) == pytest.approx(1.01 + 30.0 / grip)
    else:
        assert code(lambda: transfer_rule_of_thumb(30.0, grip)) == "E_RANGE"


def test_a_band_without_limits_is_infinitely_wide() -> None:
    aim = measure_from_text("100 bar", Quantity.PRESSURE)
    assert half_width(aim, Limits.model_construct(lower=None, upper=None)) == math.inf
