"""Laws that the bolting functions obey for any admissible numbers."""

from __future__ import annotations

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from jorvek.core.bolting.joint import Layer, joint_resilience
from jorvek.core.bolting.stretch import elongation_temp_corrected
from jorvek.core.bolting.stud import Section, stud_split
from jorvek.core.bolting.tensioner import tensioner_force, tensioner_pressure
from jorvek.core.bolting.thread import iso_thread
from jorvek.core.bolting.transfer import transfer_derived
from jorvek.core.calibration import shown_for, true_value
from jorvek.core.guard_band import Decision, guard_band_decision
from jorvek.core.refusal import Refusal

sizes = st.floats(6, 200)
pressures = st.floats(0, 4000)
stiffness = st.floats(1e-8, 1e-5)


@given(sizes, st.floats(0.02, 0.49))
def test_thread_diameters_are_in_order_and_scale(d: float, share: float) -> None:
    thread = iso_thread(d, d * share)
    assert thread.d3_mm < thread.d1_mm < thread.d2_mm < thread.d_mm
    assert thread.As_mm2 < thread.AN_mm2
    assert iso_thread(2 * d, 2 * d * share).As_mm2 == pytest.approx(4 * thread.As_mm2, rel=1e-12)


@given(pressures, st.floats(100, 50_000), st.integers(1, 10), st.floats(0.5, 1))
def test_pressure_and_load_are_each_others_way_back(p: float, area: float, n: int, eta: float) -> None:
    force = tensioner_force(p, area, n, eta)
    assert tensioner_pressure(force, area, n, eta) == pytest.approx(p, rel=1e-12, abs=1e-9)
    assert force == pytest.approx(n * tensioner_force(p, area, 1, eta), rel=1e-12, abs=1e-9)


@given(st.floats(1e4, 5e6), stiffness, stiffness, stiffness, st.floats(0, 12))
def test_some_load_is_lost_and_a_rigid_nut_loses_none(F: float, s0: float, p: float, nut: float, f_Z: float) -> None:
    assert transfer_derived(F, s0, p, 0.0).F_res_N == pytest.approx(F)
    try:
        transfer = transfer_derived(F, s0, p, nut, f_Z)
    except Refusal as refusal:
        assert refusal.code == "E_RANGE"
        return
    assert 0 < transfer.F_res_N <= F
    assert transfer.loss >= 0
    assert transfer.loss_nut_N + transfer.loss_embed_N == pytest.approx(F - transfer.F_res_N, abs=1e-6 * F)


@given(st.lists(st.floats(5, 300), min_size=2, max_size=5), st.sampled_from(["through", "tapped"]))
def test_slices_of_one_part_are_as_stiff_as_the_part(lengths: list[float], joint: str) -> None:
    try:
        whole = joint_resilience([Layer(sum(lengths), 170_000)], 78, 54, 125, joint)
    except Refusal as refusal:
        assert refusal.code == "E_DATA"
        return
    cut = joint_resilience([Layer(length, 170_000) for length in lengths], 78, 54, 125, joint)
    assert cut.delta_P == pytest.approx(whole.delta_P, rel=1e-9)
    sleeve = joint_resilience([Layer(sum(lengths), 170_000)], 78, 54, 60)
    assert sleeve.delta_P > whole.delta_P > 0


@given(st.floats(1, 500), st.floats(1, 500))
def test_one_shank_is_the_sum_of_its_sections(a: float, b: float) -> None:
    thread = iso_thread(52, 3)
    parts = stud_split(thread, [Section(a, 47), Section(b, 47)], "tapped", 42, 12)
    whole = stud_split(thread, [Section(a + b, 47)], "tapped", 42, 12)
    assert parts.dS0 == pytest.approx(whole.dS0, rel=1e-12)
    assert parts.dNut == whole.dNut


@given(st.floats(100, 3000), st.floats(-20, 60), st.floats(-20, 60), st.floats(0, 5))
def test_warmth_alone_is_no_stretch(length: float, first: float, second: float, stretch: float) -> None:
    warm = length * (1 + 11.5e-6 * (second - first))
    assert elongation_temp_corrected(length, first, warm + stretch, second).dL_mm == pytest.approx(stretch, abs=1e-9)


@given(st.floats(0, 1600))
def test_a_calibration_is_read_both_ways(shown: float) -> None:
    points = [(0.0, 0.0), (400.0, 398.0), (800.0, 797.0), (1200.0, 1195.0), (1600.0, 1593.0)]
    assert shown_for(true_value(shown, points), points) == pytest.approx(shown, abs=1e-9)


@given(st.floats(-5, 5), st.floats(-2, 0), st.floats(0, 2), st.floats(0, 1))
def test_a_guard_band_never_accepts_what_is_outside_nor_rejects_what_is_inside(
    x: float, low: float, high: float, U: float
) -> None:
    decision = guard_band_decision(x, low, high, U)
    if decision is Decision.ACCEPT:
        assert low <= x <= high
    if decision is Decision.REJECT:
        assert not low <= x <= high
    if U == 0:
        assert decision is not Decision.UNCERTAIN


@pytest.mark.parametrize("bad", [math.nan, math.inf, -1.0, True, "52", None])
def test_every_refusal_carries_its_code(bad: object) -> None:
    with pytest.raises(Refusal) as refused:
        iso_thread(bad, 3)  # type: ignore[arg-type]  # wrong on purpose
    assert refused.value.code in {"E_TYPE", "E_FINITE", "E_RANGE"}


@pytest.mark.parametrize(
    ("call", "code"),
    [
        (lambda: iso_thread(3, 42), "E_GEOM"),
        (lambda: tensioner_force(100, 5840, 0), "E_RANGE"),
        (lambda: transfer_derived(10_000, 4.1e-7, 6e-8, 1.6e-7, 12), "E_RANGE"),
        (lambda: stud_split(iso_thread(42, 3), [Section(548, 37.5)], "glued", 38, 6), "E_TABLE"),
        (lambda: joint_resilience([], 46, 31, 70), "E_LEN"),
        (lambda: joint_resilience([Layer(50, 2e5)], 46, 46, 70), "E_GEOM"),
        (lambda: elongation_temp_corrected(812.4, 18.5, 81.42, 27), "E_RANGE"),
        (lambda: true_value(50, [(68, 66.9), (204, 206.5)]), "E_TABLE"),
        (lambda: true_value(50, [(68, 66.9), (60, 206.5)]), "E_MONO"),
        (lambda: guard_band_decision(1.0, 2, 1), "E_RANGE"),
    ],
)
def test_what_cannot_be_is_refused(call: object, code: str) -> None:
    with pytest.raises(Refusal) as refused:
        call()  # type: ignore[operator]  # wrong on purpose
    assert refused.value.code == code


def test_published_cases_of_these_functions() -> None:
    thread = iso_thread(42, 3)
    assert thread.As_mm2 == pytest.approx(1205.9765, rel=1e-7)
    assert thread.lead_angle_deg == pytest.approx(1.3658203, rel=1e-7)
    aluminium = joint_resilience([Layer(95, 72_000)], 20.5, 15, 34)
    assert aluminium.delta_P == pytest.approx(2.4142795e-06, rel=1e-7)
    assert aluminium.shape == "cone+sleeve"
    transfer = transfer_derived(730_000, 2.969005e-06, 3.1e-07, 1.47259e-07, 6)
    assert transfer.F_res_N == pytest.approx(696873.81, rel=1e-7)
    split = stud_split(
        iso_thread(56, 4), [Section(310, 50.5), Section(74)], "tapped", 50, 10, E_MPa=206_000, E_tapped_MPa=122_000
    )
    assert (split.dS0, split.dNut, split.dGN, split.dU) == pytest.approx(
        (1.054321e-06, 1.1044422e-07, 6.6295834e-08, 2.5250672e-07), rel=1e-7
    )
