"""Measured stretch: from two readings at two metal temperatures to a load, a verdict or a set."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Final

from jorvek.core import checks
from jorvek.core.guard_band import Decision, guard_band_decision
from jorvek.core.refusal import Refusal

STEEL_EXPANSION_PER_K: Final = 11.5e-6
"""Default expansion of steel per kelvin."""

_PLAUSIBLE_LENGTH_SHARE: Final = 0.2
_PLAUSIBLE_TIME_SHARE: Final = 0.05


@dataclass(frozen=True)
class Elongation:
    """Stretch between two readings.

    Attributes:
        dL_mm: mechanical stretch.
        dL_raw_mm: plain difference of the readings.
        thermal_mm: growth of the stud by warmth alone.
    """

    dL_mm: float
    dL_raw_mm: float
    thermal_mm: float


@dataclass(frozen=True)
class UltrasonicElongation:
    """Stretch from two times of flight.

    Attributes:
        dL_mm: real stretch.
        dL_apparent_mm: what the change of time alone would stand for.
        L1_ref_mm: apparent length before, at the reference temperature.
        dt_ref_ns: change of time at the reference temperature.
    """

    dL_mm: float
    dL_apparent_mm: float
    L1_ref_mm: float
    dt_ref_ns: float


@dataclass(frozen=True)
class ElasticLoad:
    """Load that an elongation speaks for.

    Attributes:
        F_N: load.
        beyond_elastic: above the yield load, so that it is no preload; None without one given.
    """

    F_N: float
    beyond_elastic: bool | None


@dataclass(frozen=True)
class PermanentSet:
    """Growth of a used stud.

    Attributes:
        set_mm: growth of its free length.
        set_pct: the same in % of the new length.
        limit_mm: limit used.
        decision: guard-banded decision.
        suspicious_negative: it seems shorter than new: a wrong reading or another stud.
    """

    set_mm: float
    set_pct: float
    limit_mm: float
    decision: Decision
    suspicious_negative: bool


@dataclass(frozen=True)
class ElongationWindow:
    """Limits of a stretch, and what remains of them with this gauge.

    Attributes:
        nominal_mm: stretch at the target load.
        lower_mm: lower limit.
        upper_mm: upper limit.
        accept_lo_mm: from here a reading is accepted; None where the gauge is too coarse to accept any.
        accept_hi_mm: up to here; None likewise.
        reject_below_mm: below this it is rejected.
        reject_above_mm: above this it is rejected.
        capable: something is left between the acceptance limits.
    """

    nominal_mm: float
    lower_mm: float
    upper_mm: float
    accept_lo_mm: float | None
    accept_hi_mm: float | None
    reject_below_mm: float
    reject_above_mm: float
    capable: bool


@dataclass(frozen=True)
class ReuseCount:
    """How often a stud can still be tightened into yield.

    Attributes:
        n: further tightenings; None when it does not grow.
        replace_now: it is longer than allowed already.
    """

    n: int | None
    replace_now: bool


def elongation_from_preload(F_N: float, delta: float) -> float:
    r"""Return the elastic elongation in mm under a load.

    Args:
        F_N: load in N, zero or above.
        delta: resilience in mm/N of what the datum measures: end to end, the bolt's own.

    Returns:
        The elongation in mm.

    Raises:
        Refusal: ``E_TYPE``, ``E_FINITE``, ``E_RANGE``.

    Formula:
        \Delta L = F \delta

    Standing: mechanics.

    Source: Hooke's law.
    """
    return checks.not_negative("F_N", F_N) * checks.positive("delta", delta)


def preload_from_elongation(dL_mm: float, delta: float, F_limit_N: float | None = None) -> ElasticLoad:
    r"""Return the load of an elastic elongation measured end to end.

    Args:
        dL_mm: elongation in mm; negative for a shortened stud.
        delta: resilience of the stud end to end in mm/N, above zero.
        F_limit_N: yield load in N, if known.

    Returns:
        The load in N, and whether it lies beyond the elastic range.

    Raises:
        Refusal: ``E_TYPE``, ``E_FINITE``, ``E_RANGE``.

    Formula:
        F = \frac{\Delta L}{\delta}

    Standing: mechanics.

    Source: Hooke's law; beyond yield the result is no preload.
    """
    load = checks.not_negative("dL_mm", dL_mm) / checks.positive("delta", delta)
    limit = None if F_limit_N is None else checks.positive("F_limit_N", F_limit_N)
    return ElasticLoad(load, None if limit is None else load > limit)


def elongation_temp_corrected(
    L1_mm: float,
    T1_C: float,
    L2_mm: float,
    T2_C: float,
    alpha: float = STEEL_EXPANSION_PER_K,
    gauge_alpha: float = 0.0,
    Tg1_C: float = 20.0,
    Tg2_C: float = 20.0,
) -> Elongation:
    r"""Return the mechanical elongation between two length readings.

    Args:
        L1_mm: first length in mm.
        T1_C: metal temperature of the stud at the first reading in °C.
        L2_mm: second length in mm.
        T2_C: metal temperature of the stud at the second reading in °C.
        alpha: expansion of the stud per kelvin, 0 … 1e-4.
        gauge_alpha: expansion of the gauge per kelvin, 0 … 1e-4; that of the stud for a rod of
            the same steel inside it.
        Tg1_C: temperature of the gauge at the first reading in °C.
        Tg2_C: temperature of the gauge at the second reading in °C.

    Returns:
        The stretch in mm; negative when the stud became shorter.

    Raises:
        Refusal: ``E_TYPE``, ``E_FINITE``, ``E_RANGE``; also when the two lengths differ by
            more than 20 %, which no stud survives.

    Formula:
        L = L_{read} \left( 1 + \alpha_g (T_g - 20) \right)
        \Delta L = L_2 - L_1 \left( 1 + \alpha (T_2 - T_1) \right)

    Standing: mechanics.

    Source: derived here from linear expansion. Checked: warming alone gives no stretch.
    """
    L1, L2 = checks.positive("L1_mm", L1_mm), checks.positive("L2_mm", L2_mm)
    T1, T2 = checks.metal_temperature("T1_C", T1_C), checks.metal_temperature("T2_C", T2_C)
    Tg1, Tg2 = checks.metal_temperature("Tg1_C", Tg1_C), checks.metal_temperature("Tg2_C", Tg2_C)
    expansion = checks.within("alpha", alpha, 0.0, 1e-4)
    gauge = checks.within("gauge_alpha", gauge_alpha, 0.0, 1e-4)
    if abs(L2 - L1) > _PLAUSIBLE_LENGTH_SHARE * L1:
        raise Refusal("E_RANGE", name="L2_mm", got=L2, low=0.8 * L1, high=1.2 * L1)
    true1, true2 = L1 * (1.0 + gauge * (Tg1 - 20.0)), L2 * (1.0 + gauge * (Tg2 - 20.0))
    warmth = true1 * expansion * (T2 - T1)
    return Elongation(true2 - true1 - warmth, L2 - L1, warmth)


def ultrasonic_elongation(
    t1_us: float,
    T1_C: float,
    t2_us: float,
    T2_C: float,
    c0_mm_per_us: float = 5.9,
    Ct_per_K: float = 0.00011,
    stress_factor: float = 1.0 / 3.0,
    T_ref_C: float = 20.0,
) -> UltrasonicElongation:
    r"""Return the stretch from two round-trip times of a longitudinal wave.

    Sound slows down under stress and in warmth, so only about a third of the change of time is
    length; warmth acts about ten times as strongly as plain expansion.

    Args:
        t1_us: round-trip time before in µs.
        T1_C: metal temperature before in °C.
        t2_us: round-trip time after in µs.
        T2_C: metal temperature after in °C.
        c0_mm_per_us: speed of sound at the reference temperature in mm/µs, 2 … 8.
        Ct_per_K: relative change of time in 1/K, 0 … 1e-3.
        stress_factor: real over apparent elongation, above 0 and at most 1.
        T_ref_C: reference temperature in °C.

    Returns:
        Stretch in mm, apparent stretch, length before, change of time in ns.

    Raises:
        Refusal: ``E_TYPE``, ``E_FINITE``, ``E_RANGE``; also when the times differ by more than
            5 %.

    Formula:
        t_{ref} = \frac{t}{1 + C_t (T - T_{ref})}
        \Delta L = f\, \frac{c_0 (t_{2,ref} - t_{1,ref})}{2}

    Standing: standard in principle; the three constants are quoted and must be calibrated on the
    stud material.

    Source: pulse-echo measurement of bolts; constants quoted.
    """
    t1, t2 = checks.positive("t1_us", t1_us), checks.positive("t2_us", t2_us)
    T1, T2 = checks.metal_temperature("T1_C", T1_C), checks.metal_temperature("T2_C", T2_C)
    reference = checks.metal_temperature("T_ref_C", T_ref_C)
    c0, Ct = checks.within("c0_mm_per_us", c0_mm_per_us, 2.0, 8.0), checks.within("Ct_per_K", Ct_per_K, 0.0, 1e-3)
    factor = checks.positive("stress_factor", stress_factor, 1.0)
    if abs(t2 - t1) > _PLAUSIBLE_TIME_SHARE * t1:
        raise Refusal("E_RANGE", name="t2_us", got=t2, low=0.95 * t1, high=1.05 * t1)
    before, after = t1 / (1.0 + Ct * (T1 - reference)), t2 / (1.0 + Ct * (T2 - reference))
    apparent = c0 * (after - before) / 2.0
    return UltrasonicElongation(factor * apparent, apparent, c0 * before / 2.0, 1000.0 * (after - before))


def permanent_set(
    L_new_mm: float,
    T_new_C: float,
    L_now_mm: float,
    T_now_C: float,
    limit_mm: float | None = None,
    limit_pct: float | None = None,
    alpha: float = STEEL_EXPANSION_PER_K,
    U_mm: float = 0.0,
    guard: float = 1.0,
) -> PermanentSet:
    r"""Return how much longer a used stud is than when it was new, and decide on it.

    Args:
        L_new_mm: free length when new in mm.
        T_new_C: metal temperature then in °C.
        L_now_mm: free length now in mm.
        T_now_C: metal temperature now in °C.
        limit_mm: limit in mm; give this or the next, not both.
        limit_pct: limit in % of the new length, above 0 and at most 10.
        alpha: expansion per kelvin, 0 … 1e-4.
        U_mm: expanded uncertainty of the growth in mm.
        guard: share of U kept as guard band, 0 … 3.

    Returns:
        Growth in mm and %, and the decision.

    Raises:
        Refusal: ``E_TYPE``, ``E_FINITE``, ``E_RANGE`` (also for lengths more than 20 % apart);
            ``E_DATA`` without a limit or with both.

    Formula:
        s = L_{now} - L_{new} \left( 1 + \alpha (T_{now} - T_{new}) \right)

    Standing: mechanics; the decision is the standard's.

    Source: derived here; ISO 14253-1 for the decision.
    """
    if (limit_mm is None) == (limit_pct is None):
        raise Refusal("E_DATA", name="limit_mm")
    grown = elongation_temp_corrected(L_new_mm, T_new_C, L_now_mm, T_now_C, alpha).dL_mm
    if limit_pct is not None:
        limit = checks.positive("limit_pct", limit_pct, 10.0) / 100.0 * L_new_mm
    else:
        limit = checks.positive("limit_mm", limit_mm, 0.1 * L_new_mm)
    decision = guard_band_decision(grown, upper=limit, U=U_mm, guard=guard)
    return PermanentSet(grown, 100.0 * grown / L_new_mm, limit, decision, grown < -U_mm)


def elongation_window(
    F_target_N: float,
    tol_pct: float,
    delta: float,
    U_mm: float,
    guard: float = 1.0,
    tol_minus_pct: float | None = None,
) -> ElongationWindow:
    r"""Return the limits of stretch for a load band, and what a gauge leaves of them.

    Args:
        F_target_N: target load in N.
        tol_pct: tolerance upwards in %, above 0 and at most 100.
        delta: resilience end to end in mm/N.
        U_mm: expanded uncertainty (k = 2) of a stretch in mm.
        guard: share of U kept as guard band, 0 … 3.
        tol_minus_pct: tolerance downwards in %; as upwards when None.

    Returns:
        Limits in mm, acceptance and rejection zones, and whether the gauge is fine enough.

    Raises:
        Refusal: ``E_TYPE``, ``E_FINITE``, ``E_RANGE``.

    Formula:
        \Delta L_{lim} = F \delta (1 \pm t), \quad accept\ inside\ \Delta L_{lim} \mp g U

    Standing: mechanics; the zones are the standard's.

    Source: Hooke's law; ISO 14253-1.
    """
    nominal = checks.positive("F_target_N", F_target_N) * checks.positive("delta", delta)
    plus = checks.positive("tol_pct", tol_pct, 100.0) / 100.0
    minus = plus if tol_minus_pct is None else checks.positive("tol_minus_pct", tol_minus_pct, 100.0) / 100.0
    g = checks.within("guard", guard, 0.0, 3.0) * checks.not_negative("U_mm", U_mm)
    low, high = nominal * (1.0 - minus), nominal * (1.0 + plus)
    capable = low + g <= high - g
    lowest, highest = (low + g, high - g) if capable else (None, None)
    return ElongationWindow(nominal, low, high, lowest, highest, low - g, high + g, capable)


def reuse_count(L_now_mm: float, L_max_mm: float, plastic_per_tightening_mm: float, U_mm: float = 0.0) -> ReuseCount:
    r"""Return how often a stud tightened into yield can be used again by its length.

    Args:
        L_now_mm: free length now in mm.
        L_max_mm: longest allowed free length in mm.
        plastic_per_tightening_mm: growth per tightening in mm, zero or above.
        U_mm: expanded uncertainty of the length in mm.

    Returns:
        Further tightenings, or None when it does not grow.

    Raises:
        Refusal: ``E_TYPE``, ``E_FINITE``, ``E_RANGE``.

    Formula:
        n = \left\lfloor \frac{L_{max} - L_{now} - U}{\Delta L_{pl}} \right\rfloor

    Standing: model.

    Source: derived here for the same growth every time, which is the cautious side: hardening
    makes the growth less.
    """
    now, longest = checks.positive("L_now_mm", L_now_mm), checks.positive("L_max_mm", L_max_mm)
    growth = checks.not_negative("plastic_per_tightening_mm", plastic_per_tightening_mm)
    room = longest - now - checks.not_negative("U_mm", U_mm)
    if abs(now - longest) > _PLAUSIBLE_LENGTH_SHARE * longest:
        raise Refusal("E_RANGE", name="L_now_mm", got=now, low=0.8 * longest, high=1.2 * longest)
    too_long = now > longest
    if growth == 0.0:
        return ReuseCount(None, too_long)
    # 0.9999999999 of a tightening is one that rounding took the edge off.
    return ReuseCount(max(0, math.floor(room / growth + 1e-9)), too_long)
