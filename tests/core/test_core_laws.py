"""Physics that must hold for any admissible numbers: ways there and back, limits, balance."""

from __future__ import annotations

import math
import random
from itertools import pairwise

import numpy as np
import pytest
from hypothesis import assume, given
from hypothesis import strategies as st
from scipy.integrate import quad  # type: ignore[import-untyped]  # ships no types

from jorvek.core.bolting.angle import angle_for_preload, knee, preload_after_angle, preload_after_angle_plastic
from jorvek.core.bolting.curve import analyse_torque_angle
from jorvek.core.bolting.interaction import compliance_geom, loads_for_equal_residual, pull, simulate_tensioning
from jorvek.core.bolting.joint import Layer, joint_resilience, load_factor, thermal_preload_change, vdi_cone_tan
from jorvek.core.bolting.order import (
    circle_positions,
    group_sequence,
    imbalance,
    reverse_sequence,
    row_layout,
    spiral_sequence,
    star_sequence,
)
from jorvek.core.bolting.release import release_ratio, residual_from_breakaway
from jorvek.core.bolting.scatter import alpha_A, preload_scatter, scatter_from_alpha_A
from jorvek.core.bolting.strength import preload_at_utilisation, tightening_stress
from jorvek.core.bolting.stretch import elongation_from_preload, preload_from_elongation
from jorvek.core.bolting.stroke import loosening_budget
from jorvek.core.bolting.tensioner import pump_air_setting, pump_oil_pressure
from jorvek.core.bolting.thread import Thread, iso_thread, un_thread
from jorvek.core.bolting.torque import (
    bearing_diameter,
    friction_from_K,
    friction_from_test,
    loosening_torque,
    nut_factor,
    preload_from_torque,
    torque_from_preload,
)
from jorvek.core.bolting.transfer import pressure_for_residual, tool_load_for_residual, transfer_derived
from jorvek.core.bolting.wrench import extension_actual, extension_setting, multiplier_input, multiplier_output
from jorvek.core.engine.crank import crank_angle, firing_angles, piston_position, vee_firing_angles
from jorvek.core.guard_band import Decision
from jorvek.core.measuring.bore import bore_form, straightness
from jorvek.core.measuring.evidence import Agreement, Evidence, EvidenceKind, combine_evidence
from jorvek.core.measuring.gates import GasketGrade, gasket_grade, liner_standout
from jorvek.core.measuring.rings import ring_gap_check, ring_gap_positions
from jorvek.core.measuring.uncertainty import gum_combine, monte_carlo_preload_torque, u_preload_torque
from jorvek.core.refusal import Refusal
from jorvek.core.units import UNIT_NAMES, convert_named

threads = st.builds(lambda d, share: iso_thread(d, d * share), st.floats(8, 160), st.floats(0.03, 0.25))
mus = st.floats(0.0, 0.4)
loads = st.floats(1.0, 5e6)
soft = st.floats(1e-8, 1e-5)
forms = st.sampled_from(["linear", "exact"])
M52 = iso_thread(52, 3)


# --- torque --------------------------------------------------------------------------------


@given(loads, threads, mus, mus, st.floats(1.05, 1.8), st.floats(0, 40), forms)
def test_torque_and_clamp_are_each_others_way_back(
    F: float, thread: Thread, mu_t: float, mu_b: float, wide: float, prevailing: float, form: str
) -> None:
    Dkm = wide * thread.d_mm
    torque = torque_from_preload(F, thread, mu_t, mu_b, Dkm, prevailing, form)
    back = preload_from_torque(torque.T_Nm, thread, mu_t, mu_b, Dkm, prevailing, form)
    assert back == pytest.approx(F, rel=1e-9, abs=1e-4)
    shares = (torque.share_stretch_pct, torque.share_thread_pct, torque.share_head_pct, torque.share_prev_pct)
    assert sum(shares) == pytest.approx(100)
    assert all(share >= -1e-9 for share in shares)
    assert torque_from_preload(2 * F, thread, mu_t, mu_b, Dkm, prevailing, form).T_Nm - prevailing == pytest.approx(
        2 * (torque.T_Nm - prevailing), rel=1e-9, abs=1e-9
    )


@given(loads, threads, st.floats(1.05, 1.8), forms)
def test_without_friction_all_work_of_a_turn_is_stretch(F: float, thread: Thread, wide: float, form: str) -> None:
    torque = torque_from_preload(F, thread, 0.0, 0.0, wide * thread.d_mm, form=form)
    assert 2 * math.pi * torque.T_Nm * 1000 == pytest.approx(F * thread.P_mm, rel=1e-12)
    assert torque.T_thread_Nm == pytest.approx(0, abs=1e-9 * torque.T_Nm)
    back = loosening_torque(F, thread, 0.0, 0.0, wide * thread.d_mm)
    assert back.T_Nm == pytest.approx(-torque.T_Nm, rel=1e-12)
    assert not back.self_locking


@given(threads, st.floats(0.05, 0.3), st.floats(1.05, 1.8))
def test_the_linear_form_lies_a_little_below_the_exact_one(thread: Thread, mu: float, wide: float) -> None:
    assume(thread.P_mm / thread.d_mm < 0.15)
    exact, linear = (nut_factor(thread, mu, mu, wide * thread.d_mm, form) for form in ("exact", "linear"))
    assert 0 < exact / linear - 1 < 0.015


@given(threads, st.floats(0, 0.4), st.floats(1.05, 1.8), st.floats(100, 1e6))
def test_friction_comes_back_from_its_nut_factor_and_from_a_test(
    thread: Thread, mu: float, wide: float, F: float
) -> None:
    Dkm = wide * thread.d_mm
    assert friction_from_K(nut_factor(thread, mu, mu, Dkm), thread, Dkm) == pytest.approx(mu, abs=1e-9)
    torque = torque_from_preload(F, thread, mu, mu, Dkm)
    measured = friction_from_test(torque.T_Nm, F, thread, Dkm, torque.T_Nm - torque.T_head_Nm)
    assert (measured.mu_tot, measured.mu_th, measured.mu_b) == pytest.approx((mu, mu, mu), abs=1e-9)


@given(st.floats(10, 100), st.floats(0.01, 0.999))
def test_uniform_pressure_acts_further_out_than_the_plain_mean(outer: float, share: float) -> None:
    plain, pressed = (bearing_diameter(outer, share * outer, model) for model in ("arithmetic", "uniform_pressure"))
    assert plain <= pressed <= outer
    force, _ = quad(lambda r: 2 * math.pi * r, share * outer / 2, outer / 2)
    moment, _ = quad(lambda r: 2 * math.pi * r * r, share * outer / 2, outer / 2)
    assert pressed == pytest.approx(2 * moment / force, rel=1e-6)


@given(threads, st.floats(200, 1200), st.floats(0, 0.4), st.floats(0.1, 1.1), st.sampled_from(["plastic", "elastic"]))
def test_the_load_at_a_share_of_yield_has_that_stress(
    thread: Thread, Rp: float, mu: float, nu: float, torsion: str
) -> None:
    F = preload_at_utilisation(nu, Rp, thread, mu, torsion=torsion)
    stress = tightening_stress(F, thread, mu, Rp, torsion=torsion)
    assert stress.util_yield == pytest.approx(nu, rel=1e-9)
    assert stress.util_axial_yield <= stress.util_yield_after <= stress.util_yield


@given(st.floats(10, 5000), threads, st.floats(0.05, 0.2), st.floats(0, 0.1), st.floats(0, 30))
def test_a_wider_friction_range_and_a_worse_wrench_only_widen_the_band(
    T: float, thread: Thread, low: float, more: float, tolerance: float
) -> None:
    Dkm = 1.3 * thread.d_mm
    band = preload_scatter(T, thread, low, low + more, Dkm, tolerance)
    assert band.F_min_N <= band.F_mid_N <= band.F_max_N
    wider = preload_scatter(T, thread, low * 0.9, low + more * 1.1, Dkm, tolerance + 1)
    assert wider.F_min_N < band.F_min_N
    assert wider.F_max_N > band.F_max_N
    assert scatter_from_alpha_A(alpha_A(band.scatter_pct)) == pytest.approx(band.scatter_pct, abs=1e-9)


def test_an_inch_thread_is_not_a_metric_thread_of_its_size() -> None:
    inch = un_thread(1, 8)
    metric = iso_thread(25.4, 25.4 / 8)
    assert inch.d2_mm == pytest.approx(metric.d2_mm)
    assert metric.As_mm2 / inch.As_mm2 == pytest.approx(1.0103, abs=1e-4)


# --- stiffness, angle, stretch ---------------------------------------------------------------


@given(st.floats(20, 400), st.floats(1.1, 3.0), st.floats(0.2, 0.9), st.sampled_from(["through", "tapped"]))
def test_the_closed_form_of_the_cone_is_its_integral(grip: float, wide: float, hole: float, joint: str) -> None:
    dW, dh, DA = 50.0, 50.0 * hole, 50.0 * wide
    try:
        t = vdi_cone_tan(grip, dW, DA, joint)
    except Refusal as refusal:
        assert refusal.code == "E_DATA"
        return

    def per_mm(z: float) -> float:
        near = min(z, grip - z) if joint == "through" else z
        D = min(DA, dW + 2 * near * t)
        return 4 / (math.pi * (D * D - dh * dh) * 170e3)

    kinks = sorted({z for z in ((DA - dW) / (2 * t), grip / 2, grip - (DA - dW) / (2 * t)) if 0 < z < grip})
    by_hand, _ = quad(per_mm, 0, grip, points=kinks or None, limit=200)
    assert joint_resilience([Layer(grip, 170e3)], dW, dh, DA, joint).delta_P == pytest.approx(by_hand, rel=1e-7)


@given(soft, st.floats(0, 1e-5), st.floats(10, 500), st.floats(0, 3e-5), st.floats(-80, 300))
def test_equal_warming_of_equal_metals_costs_nothing(S: float, P: float, grip: float, alpha: float, dT: float) -> None:
    assert thermal_preload_change(S, P, grip, alpha, dT, alpha, dT) == 0.0
    shared = load_factor(S, P, 1.0, 1e6, 1e5)
    assert pytest.approx(1e5) == shared.F_S_N - shared.F_KR_N


@given(st.floats(0, 1e6), st.floats(0, 400), st.floats(0.5, 6), soft, st.floats(0, 1e-5))
def test_an_angle_and_its_load_are_each_others_way_back(F: float, angle: float, P: float, dS: float, dP: float) -> None:
    stage = preload_after_angle(F, angle, P, dS, dP)
    assert stage.bolt_stretch_mm + stage.joint_compression_mm == pytest.approx(P * angle / 360, abs=1e-12)
    assert angle_for_preload(F, stage.F_N, P, dS, dP) == pytest.approx(angle, rel=1e-6, abs=1e-4)


@given(st.floats(0, 3e5), st.floats(1e3, 2e5), st.floats(2, 2000))
def test_the_knee_stays_below_both_and_sharpens_to_their_minimum(F_e: float, F_p: float, n: float) -> None:
    F = knee(F_e, F_p, n)
    assert min(F_e, F_p) * (1 + 1e-12) >= F
    assert min(F_e, F_p) * 2 ** (-1 / n) * (1 - 1e-12) <= F
    assert knee(F_e, F_p, 2000) == pytest.approx(min(F_e, F_p), rel=4e-4)


@given(st.floats(1e3, 5e4), st.floats(0, 300), soft, st.floats(0, 1e-6))
def test_a_yielding_bolt_keeps_the_turn_as_load_and_length(F: float, angle: float, dS: float, dP: float) -> None:
    stage = preload_after_angle_plastic(F, angle, 1.5, dS, dP, 90e3)
    turned = 1.5 * angle / 360
    assert (stage.F_N - F) * (dS + dP) + stage.plastic_mm == pytest.approx(turned, abs=1e-9)
    assert stage.plastic_mm >= -1e-12
    assert pytest.approx(F) == preload_from_elongation(elongation_from_preload(F, dS), dS).F_N


def _curve(seed: int, yields: bool) -> tuple[list[float], list[float]]:
    """A joint that runs down at 5 N·m, seats at 60°, climbs at 0.6 N·m/° and may yield at 220°."""
    draw = random.Random(seed)
    angles = [k * 0.5 for k in range(600)]
    torques = []
    for a in angles:
        clamp = max(0.0, a - 60)
        climb = 0.6 * (min(clamp, 160) + 0.1 * max(0.0, clamp - 160)) if yields else 0.6 * clamp
        torques.append(5 + climb + draw.gauss(0, 0.8) + (draw.random() < 0.02) * draw.uniform(5, 40))
    return angles, torques


@pytest.mark.parametrize("seed", range(6))
@pytest.mark.parametrize("yields", [True, False])
def test_a_curve_with_stick_slip_still_tells_slope_snug_and_yield(seed: int, yields: bool) -> None:
    seen = analyse_torque_angle(*_curve(seed, yields))
    assert seen.gradient_Nm_per_deg == pytest.approx(0.6, rel=0.05)
    assert seen.snug_angle_deg == pytest.approx(60, abs=9)
    assert seen.prevailing_Nm == pytest.approx(5, abs=1)
    assert seen.theta_zero_deg == pytest.approx(60, abs=4)
    if yields:
        assert seen.yield_angle_deg == pytest.approx(220, abs=9)
    else:
        assert seen.yield_angle_deg is None


# --- tensioner, release, back-off ---------------------------------------------------------------


@given(st.floats(1e4, 5e6), soft, soft, soft, st.floats(0, 6), st.floats(0, 2e4))
def test_tool_load_and_residual_are_each_others_way_back(
    F: float, s0: float, p: float, nut: float, f_Z: float, rundown: float
) -> None:
    tool = tool_load_for_residual(F + rundown, s0, p, nut, f_Z, rundown)
    assert transfer_derived(tool, s0, p, nut, f_Z, rundown).F_res_N == pytest.approx(F + rundown, rel=1e-9)
    asked = pressure_for_residual(F + rundown, s0, p, nut, 9290, M52, 800, f_Z_um=f_Z, F_rundown_N=rundown)
    assert asked.p_bar == pytest.approx(tool / 929)


@given(st.floats(1e4, 2e6), soft, soft, soft, st.floats(0, 200))
def test_a_nut_comes_free_at_the_load_that_the_ratio_says(
    F0: float, s0: float, p: float, nut: float, step: float
) -> None:
    ratio = release_ratio(s0, p, nut)
    assume(ratio >= 0.5)
    budget = loosening_budget(F0, F0, s0, p, nut, nut, 3, 1, 1, 10)
    assert budget.F_free_N * ratio == pytest.approx(F0)
    pressure = budget.F_free_N / (0.1 * 9290)
    told = residual_from_breakaway(pressure, 9290, 1, 1.0, ratio, step)
    assert told.F_low_N <= F0 * (1 + 1e-9)
    assert told.F_high_N == pytest.approx(F0)


@given(st.floats(0, 2e6), st.floats(1, 2e6), soft, soft, soft, st.floats(0, 4), st.floats(0, 4))
def test_what_is_enough_for_the_opening_load_is_enough_for_any_smaller(
    F0: float, F_open: float, s0: float, p: float, nut: float, jack: float, turns: float
) -> None:
    assume(F0 * (1 + nut / (s0 + p)) <= F_open)
    budget = loosening_budget(F0, F_open, s0, p, nut, nut, 3, jack, turns, 10, dGN=nut / 2)
    if jack >= budget.jack_turns_min_conservative:
        assert not budget.jack_trapped
    if turns >= budget.nut_turns_min_conservative:
        assert not budget.nut_reseats
    assert (budget.F_trap_N > 0) == budget.jack_trapped
    assert budget.gap_min_strict_mm <= budget.gap_min_conservative_mm * (1 + 1e-9)


@given(st.floats(0, 3000), st.floats(1, 1000), st.floats(-50, 50), st.floats(0.5, 1))
def test_pump_air_wrench_extension_and_multiplier_go_both_ways(p: float, ratio: float, e: float, eta: float) -> None:
    assert pump_oil_pressure(pump_air_setting(p, ratio, e, eta), ratio, e, eta) == pytest.approx(p)
    assert extension_actual(extension_setting(p, 600, 120, 3 * e), 600, 120, 3 * e) == pytest.approx(p)
    assert multiplier_output(multiplier_input(p, ratio, eta), ratio, eta) == pytest.approx(p)
    assert extension_setting(p, 600, 120, 90) == pytest.approx(p)


# --- interaction and order ---------------------------------------------------------------------


@given(st.integers(3, 12), st.floats(50, 300), st.integers(0, 10**6), st.floats(1e-7, 3e-6))
def test_the_last_pass_reckoned_backwards_leaves_every_stud_at_its_target(
    n: int, reach: float, seed: int, dS: float
) -> None:
    C = compliance_geom(circle_positions(n, 600), 3e-7, reach)
    order = list(range(n))
    random.Random(seed).shuffle(order)
    groups = [order[k : k + 2] for k in range(0, n, 2)]
    prior = [pull(group, 1e5, n) for group in groups]
    answer = loads_for_equal_residual(dS, C, prior, groups, 3e5)
    assume(answer.linear_ok)
    assert answer.check_final_N == pytest.approx([3e5] * n, rel=1e-6)
    assert answer.max_set_over_target >= 1 - 1e-9
    replay = simulate_tensioning(dS, C, [*prior, *(pull(g, [answer.set_loads_N[i] for i in g], n) for g in groups)])
    assert replay.final_N == pytest.approx([3e5] * n, rel=1e-6)


@given(st.integers(2, 12), st.floats(20, 300), st.integers(0, 10**6))
def test_each_step_balances_and_no_stud_ever_pushes(n: int, reach: float, seed: int) -> None:
    draw = random.Random(seed)
    C = np.array(compliance_geom(circle_positions(n, 600), 8e-7, reach))
    steps = [
        pull(draw.sample(range(n), draw.randint(1, n)), draw.uniform(0, 4e5), n, freed=draw.random() < 0.3)
        for _ in range(6)
    ]
    seat, tight = np.zeros(n), np.zeros(n, dtype=bool)
    history = simulate_tensioning(3e-7, C.tolist(), steps).history_N
    for step, row in zip(steps, history, strict=True):
        F = np.array(row)
        moved = list(step.studs)
        tight[moved] = not step.freed
        reached = 3e-7 * F + C @ F
        seat[moved] = reached[moved]
        assert (F >= 0).all()
        assert F[moved] == pytest.approx(step.loads_N)
        carrying = tight & (F > 0)
        assert reached[carrying] == pytest.approx(seat[carrying], rel=1e-9)
        assert (reached[tight] >= seat[tight] * (1 - 1e-9)).all()
        assert (F[~tight] == 0).all()


def test_pulled_together_studs_do_not_disturb_each_other_and_freeing_one_loads_its_neighbours() -> None:
    C = compliance_geom(circle_positions(8, 600), 3e-7, 150)
    together = simulate_tensioning(1e-6, C, [pull(list(range(8)), 3e5, 8)])
    assert together.final_N == pytest.approx([3e5] * 8)
    freed = simulate_tensioning(1e-6, C, [pull(list(range(8)), 3e5, 8), pull([0], 0, 8, freed=True)]).final_N
    assert freed[0] == 0
    assert freed[1] == pytest.approx(freed[7])
    assert freed[1] > freed[4] > 3e5


@given(st.integers(1, 120))
def test_every_pattern_names_every_stud_once_and_balances_in_pairs(n: int) -> None:
    seq = star_sequence(n)
    assert sorted(seq) == list(range(1, n + 1))
    assert reverse_sequence(reverse_sequence(seq)) == seq
    if n >= 4 and n % 2 == 0:
        even = imbalance(circle_positions(n, 500), seq)
        assert max(even.e[1::2]) == pytest.approx(0, abs=1e-9)
        if n >= 8:
            assert even.adjacent == 0
    for m in (d for d in (2, 3, 4) if n % d == 0):
        groups = group_sequence(n, m)
        assert sorted(k for group in groups for k in group) == list(range(1, n + 1))
        assert imbalance(circle_positions(n, 500), groups).e_max == pytest.approx(0, abs=1e-9)


@given(st.integers(1, 4), st.integers(1, 9), st.sampled_from(["cross", "spiral"]))
def test_centre_out_never_comes_back_in(rows: int, cols: int, mode: str) -> None:
    xy = row_layout(rows, cols, 92, 118)
    order = spiral_sequence(xy, mode)
    assert sorted(order) == list(range(1, len(xy) + 1))
    cx, cy = (cols - 1) * 92 / 2, (rows - 1) * 118 / 2
    radii = [math.dist(xy[k - 1], (cx, cy)) for k in order]
    assert all(b >= a - 1e-6 for a, b in pairwise(radii))


# --- measuring -----------------------------------------------------------------------------------


@given(st.floats(50, 500), st.floats(0, 0.1), st.floats(0, 180), st.integers(3, 12))
def test_an_oval_bore_has_its_ovality_by_either_way(D: float, half: float, at: float, n: int) -> None:
    angles = [180 * k / n for k in range(n)]
    row = [D + half * math.cos(2 * math.radians(a - at)) for a in angles]
    form = bore_form([10, 20], angles, [row, row])
    assert form.ovality_fourier_mm is not None
    assert form.ovality_fourier_mm[0] == pytest.approx(2 * half, abs=1e-9)
    assert form.ovality_max_mm <= 2 * half + 1e-9
    assert form.taper_max_mm == 0


@given(st.lists(st.floats(-0.5, 0.5), min_size=3, max_size=12), st.floats(-1e-3, 1e-3))
def test_the_least_strip_is_least_and_tilting_the_line_changes_nothing(dev: list[float], tilt: float) -> None:
    z = [40.0 * k for k in range(len(dev))]
    flat = straightness(z, dev)
    assert flat.min_zone_mm <= flat.least_squares_mm + 1e-12
    assert flat.min_zone_mm <= flat.end_point_mm + 1e-12
    tilted = straightness(z, [d + tilt * x for x, d in zip(z, dev, strict=True)])
    assert tilted.min_zone_mm == pytest.approx(flat.min_zone_mm, abs=1e-9)


@given(st.integers(1, 6), st.floats(0, 360), st.floats(0, 20))
def test_ring_gaps_set_out_pass_their_own_check(n: int, start: float, half: float) -> None:
    avoid = [(0.0, half), (180.0, half)]
    placed = ring_gap_positions(n, start, avoid)
    checked = ring_gap_check(list(placed.angles_deg), min(179.0, 360 / n - 1e-6) if n > 1 else 0, avoid)
    assert checked.in_avoid == ()
    assert checked.sep_ok


def test_a_liner_too_near_its_limit_to_call_is_not_called() -> None:
    deck = liner_standout([[0.085, 0.09], [0.11, 0.12], [0.20, 0.12]], 0.08, 0.15, 0.03, 0.04, 0.006)
    assert [liner.height for liner in deck.per] == [Decision.UNCERTAIN, Decision.ACCEPT, Decision.REJECT]
    grades = [GasketGrade("1", 0.3, 0.4, 1.1), GasketGrade("2", 0.4, 0.5, 1.2)]
    assert gasket_grade([[0.4, 0.4]], grades, 0.1).grade == "2"


@given(st.floats(0.08, 0.2), st.floats(0.01, 0.15), st.floats(0.0, 0.03))
def test_drawing_and_first_order_agree_for_narrow_friction(mu: float, narrow: float, u_T: float) -> None:
    spread = narrow * mu * 0.5
    first = u_preload_torque(2500, M52, mu, mu, 66, u_T, spread, spread)
    drawn = monte_carlo_preload_torque(2500, M52, mu, mu, 66, u_T, spread, spread, draws=20_000)
    assert drawn.u_N / drawn.mean_N == pytest.approx(first.u_rel, rel=0.06, abs=3e-4)
    assert drawn.median_N == pytest.approx(first.F_N, rel=0.01)


def test_wide_friction_is_skewed_and_first_order_says_too_little() -> None:
    first = u_preload_torque(2500, M52, 0.12, 0.12, 66, 0.02, 0.035, 0.035, 0.9)
    drawn = monte_carlo_preload_torque(2500, M52, 0.12, 0.12, 66, 0.02, 0.035, 0.035, 0.9)
    assert drawn.high_N - drawn.median_N > 1.25 * (drawn.median_N - drawn.low_N)
    assert drawn.high_N > first.F_N * (1 + 2 * first.u_rel)


@given(st.lists(st.tuples(st.floats(-5, 5), st.floats(0, 3)), min_size=1, max_size=6), st.floats(-1, 1))
def test_shares_add_up_and_full_correlation_adds_plainly(parts: list[tuple[float, float]], r: float) -> None:
    combined = gum_combine(parts)
    assert combined.u_c == pytest.approx(math.sqrt(sum((c * u) ** 2 for c, u in parts)))
    if combined.u_c > 1e-6:
        assert sum(combined.share_pct) == pytest.approx(100)
    ones = [[1.0] * len(parts) for _ in parts]
    assert gum_combine(parts, ones).u_c == pytest.approx(abs(sum(c * u for c, u in parts)), abs=1e-6)


# --- one estimate from all evidence ------------------------------------------------------------------


def piece(kind: str, F_kN: float, u_kN: float, shared: dict[str, float] | None = None) -> Evidence:
    return Evidence(EvidenceKind(kind), 1000 * F_kN, 1000 * u_kN, "after stage 2", shared or {})


def test_agreeing_evidence_is_weighted_by_how_sure_it_is() -> None:
    both = combine_evidence([piece("pressure", 860, 26), piece("stretch", 850, 13)])
    assert both.agreement is Agreement.AGREE
    assert pytest.approx(852e3) == both.F_N
    assert both.u_N == pytest.approx(1000 / math.sqrt(1 / 26**2 + 1 / 13**2))


def test_a_contradiction_is_named_and_never_averaged() -> None:
    two = combine_evidence([piece("pressure", 860, 20), piece("stretch", 700, 15)])
    assert (two.agreement, two.F_N, two.disagreeing) == (Agreement.TWO_DISAGREE, None, (0, 1))
    three = combine_evidence([piece("pressure", 860, 20), piece("stretch", 700, 15), piece("angle", 855, 25)])
    assert (three.agreement, three.F_N, three.disagreeing) == (Agreement.ONE_DISAGREES, None, (1,))
    none = combine_evidence([piece("pressure", 860, 10), piece("stretch", 700, 10), piece("angle", 500, 10)])
    assert (none.agreement, none.disagreeing) == (Agreement.NO_AGREEMENT, (0, 1, 2))


def test_a_common_gauge_makes_two_readings_worth_less_than_two() -> None:
    apart = combine_evidence([piece("pressure", 860, 20), piece("angle", 850, 20)])
    gauge = {"gauge P-12": 15_000.0}
    same = combine_evidence([piece("pressure", 860, 20, gauge), piece("angle", 850, 20, gauge)])
    assert apart.u_N is not None
    assert same.u_N is not None
    assert pytest.approx(855e3) == same.F_N
    assert apart.u_N < same.u_N < 20e3


def test_a_skewed_torque_must_be_met_but_is_not_averaged() -> None:
    torque = Evidence(EvidenceKind.TORQUE, 800e3, 150e3, "after stage 2", {}, (600e3, 1200e3))
    met = combine_evidence([torque, piece("stretch", 850, 13)])
    assert (met.agreement, met.F_N) == (Agreement.AGREE, 850e3)
    assert combine_evidence([torque, piece("stretch", 400, 13)]).agreement is Agreement.TWO_DISAGREE
    alone = combine_evidence([torque])
    assert (alone.agreement, alone.low_N, alone.high_N, alone.u_N) == (Agreement.SINGLE, 600e3, 1200e3, None)


@given(st.lists(st.tuples(st.floats(1e5, 1e6), st.floats(1e3, 5e4)), min_size=1, max_size=5))
def test_a_combined_load_lies_between_its_pieces_and_is_surer_than_each(pairs: list[tuple[float, float]]) -> None:
    pieces = [Evidence(EvidenceKind.STRETCH, F, u, "now") for F, u in pairs]
    estimate = combine_evidence(pieces)
    if estimate.F_N is None or estimate.u_N is None:
        assert estimate.disagreeing
        return
    assert min(F for F, _ in pairs) - 1e-6 <= estimate.F_N <= max(F for F, _ in pairs) + 1e-6
    assert estimate.u_N <= min(u for _, u in pairs) * (1 + 1e-9)
    assert all(abs(r) <= 2 for r in estimate.residuals)


def test_evidence_of_several_moments_or_one_reading_twice_is_refused() -> None:
    later = Evidence(EvidenceKind.STRETCH, 8e5, 1e4, "after release")
    for pieces in ([piece("pressure", 860, 20), later], [piece("angle", 8, 1, {"x": 1000.0})] * 2, []):
        with pytest.raises(Refusal):
            combine_evidence(pieces)


# --- crank ---------------------------------------------------------------------------------------------


@given(st.floats(20, 600), st.floats(1.5, 6), st.floats(0, 180))
def test_piston_and_crank_are_each_others_way_back(r: float, ratio: float, angle: float) -> None:
    s = piston_position(angle, r, ratio * r)
    assert 0 <= s <= 2 * r * (1 + 1e-12)
    assert s == pytest.approx(piston_position(360 - angle, r, ratio * r), abs=1e-9)
    # Near the dead centres the piston hardly moves, so the angle is known less well than the place.
    assert crank_angle(min(s, 2 * r), r, ratio * r) == pytest.approx(angle, abs=1e-4)
    assert s >= r * (1 - math.cos(math.radians(angle))) - 1e-9


def test_a_four_stroke_seven_has_no_companions_and_a_six_has_three_pairs() -> None:
    seven = firing_angles(["1", "2", "4", "6", "7", "5", "3"], 4)
    assert seven.companions == ()
    assert seven.interval_deg == pytest.approx([720 / 7] * 7)
    six = firing_angles(["1", "5", "3", "6", "2", "4"], 4)
    assert {frozenset(pair) for pair in six.companions} == {frozenset("16"), frozenset("52"), frozenset("34")}
    two_stroke = firing_angles(["1", "4", "3", "2", "5"], 2)
    assert two_stroke.cycle_deg == 360
    assert two_stroke.companions == ()


def test_a_vee_ten_fires_evenly_only_at_its_own_bank_angle() -> None:
    order = ["A1", "B5", "A5", "B2", "A2", "B3", "A3", "B4", "A4", "B1"]
    even = vee_firing_angles(order, 4, 72.0, "counterclockwise")
    assert even.interval_deg == pytest.approx([72.0] * 10)
    uneven = vee_firing_angles(order, 4, 90.0, "counterclockwise")
    assert sorted(set(np.round(uneven.interval_deg, 6))) == [54.0, 90.0]
    assert sum(uneven.interval_deg) == pytest.approx(720)


@given(st.data(), st.floats(1, 1e5))
def test_named_units_go_there_and_back_and_differences_have_no_offset(data: st.DataObject, value: float) -> None:
    names = data.draw(st.sampled_from([sorted(names) for names in UNIT_NAMES.values()]))
    a, b = data.draw(st.sampled_from(names)), data.draw(st.sampled_from(names))
    assert convert_named(convert_named(value, a, b), b, a) == pytest.approx(value, rel=1e-9)
    assert convert_named(1.8, "degF_diff", "degC_diff") == pytest.approx(1.0)
