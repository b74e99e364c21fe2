"""Tightening by angle: elastic, into yield, and how much friction still matters."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Final

from jorvek.core import checks
from jorvek.core.bolting.scatter import friction_band
from jorvek.core.bolting.stud import Section
from jorvek.core.bolting.thread import Thread
from jorvek.core.bolting.torque import torque_lever_mm
from jorvek.core.refusal import Refusal

G_STEEL_MPA: Final = 79_000.0
"""Shear modulus of steel."""


@dataclass(frozen=True)
class AngleStage:
    """What an angle adds in the elastic range.

    Attributes:
        F_N: load after the angle.
        dF_N: load added.
        bolt_stretch_mm: part of the turn that stretched the bolt.
        joint_compression_mm: part that pressed the parts together.
        beyond_elastic: above the yield load, so the elastic figure is wrong; None without one.
    """

    F_N: float
    dF_N: float
    bolt_stretch_mm: float
    joint_compression_mm: float
    beyond_elastic: bool | None


@dataclass(frozen=True)
class PlasticAngleStage:
    """What an angle gives up to and beyond yield.

    Attributes:
        F_N: load after the angle.
        F_elastic_N: load an elastic joint would have.
        plastic_mm: permanent elongation.
        elastic_limit_angle_deg: angle at which yield would begin.
        yielded: the elastic load has reached the yield load.
    """

    F_N: float
    F_elastic_N: float
    plastic_mm: float
    elastic_limit_angle_deg: float
    yielded: bool


@dataclass(frozen=True)
class AngleComparison:
    """Preload band of torque plus angle against torque alone.

    Attributes:
        F_min_N: at the highest friction.
        F_max_N: at the lowest friction.
        scatter_angle_pct: half width over the middle, torque plus angle.
        scatter_torque_pct: the same, had it been done by torque alone.
        end_torque_mu_max_Nm: torque at the end of the angle at the highest friction.
        end_torque_mu_min_Nm: the same at the lowest friction.
    """

    F_min_N: float
    F_max_N: float
    scatter_angle_pct: float
    scatter_torque_pct: float
    end_torque_mu_max_Nm: float
    end_torque_mu_min_Nm: float


def flats_to_deg(flats: float, points: int = 6) -> float:
    r"""Return an angle counted in flats or points as degrees.

    Args:
        flats: number of flats, zero or above; parts of a flat are meant as such.
        points: 6 for a hexagon (60° each), 12 for a twelve-point (30° each), 4 or 8 for a square.

    Returns:
        The angle in degrees.

    Raises:
        Refusal: ``E_TYPE``, ``E_FINITE``, ``E_RANGE``; ``E_TABLE`` for another count of points.

    Formula:
        \theta = \frac{360°\, n}{points}

    Standing: mechanics.

    Source: geometry.
    """
    n = checks.not_negative("flats", flats)
    if isinstance(points, bool) or not isinstance(points, int):
        raise Refusal("E_TYPE", name="points", got=str(points))
    if points not in (4, 6, 8, 12):
        raise Refusal("E_TABLE", name="points", got=points, allowed="4, 6, 8, 12")
    return n * 360.0 / points


def _turned_N(angle_deg: float, P_mm: float, delta_S: float, delta_P: float) -> float:
    """Load in N that an angle adds to an elastic joint."""
    P = checks.positive("P_mm", P_mm)
    both = checks.positive("delta_S", delta_S) + checks.not_negative("delta_P", delta_P)
    return P * angle_deg / 360.0 / both


def preload_after_angle(
    F_snug_N: float,
    angle_deg: float,
    P_mm: float,
    delta_S: float,
    delta_P: float,
    F_yield_N: float | None = None,
    windup_deg: float = 0.0,
) -> AngleStage:
    r"""Return the load after an angle stage in the elastic range.

    Args:
        F_snug_N: load before the angle in N, zero or above.
        angle_deg: angle turned in degrees, zero or above.
        P_mm: pitch in mm.
        delta_S: resilience of the bolt as the nut feels it in mm/N.
        delta_P: resilience of the clamped parts in mm/N; not to be left out.
        F_yield_N: yield load with torsion in N, if known.
        windup_deg: twist of the stud during the stage in degrees, 0 … the angle.

    Returns:
        Load, what was added, and where the turn went.

    Raises:
        Refusal: ``E_TYPE``, ``E_FINITE``, ``E_RANGE``.

    Formula:
        F = F_s + \frac{P}{360°} \cdot \frac{\theta - \theta_w}{\delta_S + \delta_P}

    Standing: mechanics.

    Source: derived here. Checked: a joint that cannot give puts all of the turn into the bolt.
    """
    snug, angle = checks.not_negative("F_snug_N", F_snug_N), checks.not_negative("angle_deg", angle_deg)
    windup = checks.within("windup_deg", windup_deg, 0.0, angle)
    limit = None if F_yield_N is None else checks.positive("F_yield_N", F_yield_N)
    added = _turned_N(angle - windup, P_mm, delta_S, delta_P)
    load = snug + added
    return AngleStage(load, added, added * delta_S, added * delta_P, None if limit is None else load > limit)


def angle_for_preload(F_snug_N: float, F_target_N: float, P_mm: float, delta_S: float, delta_P: float) -> float:
    r"""Return the angle in degrees from a snug load to a target load.

    Args:
        F_snug_N: load before the angle in N, zero or above.
        F_target_N: wanted load in N, not below the snug load; with the yield load the result is
            the elastic-limit angle.
        P_mm: pitch in mm.
        delta_S: resilience of the bolt as the nut feels it in mm/N.
        delta_P: resilience of the clamped parts in mm/N.

    Returns:
        The angle in degrees.

    Raises:
        Refusal: ``E_TYPE``, ``E_FINITE``, ``E_RANGE``.

    Formula:
        \theta = \frac{360°\, (F - F_s)(\delta_S + \delta_P)}{P}

    Standing: mechanics.

    Source: derived here, ``preload_after_angle`` solved for the angle.
    """
    snug, target = checks.not_negative("F_snug_N", F_snug_N), checks.not_negative("F_target_N", F_target_N)
    if target < snug:
        raise Refusal("E_RANGE", name="F_target_N", got=target, low=snug, high=None)
    return (target - snug) / _turned_N(1.0, P_mm, delta_S, delta_P)


def angle_error_to_preload(angle_err_deg: float, P_mm: float, delta_S: float, delta_P: float) -> float:
    r"""Return the load in N that an error of angle makes in the elastic range.

    Args:
        angle_err_deg: error in degrees, either sign.
        P_mm: pitch in mm.
        delta_S: resilience of the bolt as the nut feels it in mm/N.
        delta_P: resilience of the clamped parts in mm/N.

    Returns:
        The error of load in N, with the sign of the angle.

    Raises:
        Refusal: ``E_TYPE``, ``E_FINITE``, ``E_RANGE``.

    Formula:
        \Delta F = \frac{P}{360°} \cdot \frac{\Delta\theta}{\delta_S + \delta_P}

    Standing: mechanics.

    Source: derived here.
    """
    return checks.number("angle_err_deg", angle_err_deg) * _turned_N(1.0, P_mm, delta_S, delta_P)


def stud_windup(T_thread_Nm: float, sections: list[Section], G_MPa: float = G_STEEL_MPA) -> float:
    r"""Return the elastic twist in degrees of a shank under the thread torque.

    Args:
        T_thread_Nm: thread torque in N·m, zero or above.
        sections: lengths with their diameters; threaded lengths by the stress diameter.
        G_MPa: shear modulus in MPa.

    Returns:
        The twist in degrees.

    Raises:
        Refusal: ``E_TYPE``, ``E_FINITE``, ``E_RANGE``; ``E_LEN`` without sections.

    Formula:
        \theta_w = \sum_i \frac{T L_i}{G J_i}, \quad J_i = \frac{\pi d_i^4}{32}

    Standing: mechanics.

    Source: torsion of round bars.
    """
    T, G = checks.not_negative("T_thread_Nm", T_thread_Nm), checks.positive("G_MPa", G_MPa)
    if not sections:
        raise Refusal("E_LEN", name="sections", got=0)
    per_moment = sum(
        checks.not_negative("L_mm", s.L_mm) / (math.pi / 32.0 * checks.positive("d_mm", s.d_mm) ** 4) for s in sections
    )
    return math.degrees(1000.0 * T * per_moment / G)


def knee(F_e: float, F_p: float, n: float = 20.0) -> float:
    r"""Return the load of an elastic, then yielding bolt, with a smooth knee.

    Args:
        F_e: load in N that an elastic joint would have, zero or above.
        F_p: load in N of the plateau, above zero.
        n: sharpness of the knee, 2 … 2000; large n is min(F_e, F_p).

    Returns:
        The load in N, below both.

    Raises:
        Refusal: ``E_TYPE``, ``E_FINITE``, ``E_RANGE``.

    Formula:
        F = \frac{F_e}{\left( 1 + (F_e / F_p)^n \right)^{1/n}}

    Standing: model.

    Source: derived here; written in the smaller ratio, so that no power overflows.
    """
    elastic, plateau = checks.not_negative("F_e", F_e), checks.positive("F_p", F_p)
    sharp = checks.within("n", n, 2.0, 2000.0)
    low, high = sorted((elastic, plateau))
    return low / math.exp(math.log1p((low / high) ** sharp) / sharp)


def preload_after_angle_plastic(
    F_snug_N: float,
    angle_deg: float,
    P_mm: float,
    delta_S: float,
    delta_P: float,
    F_yield_N: float,
    n_knee: float = 20.0,
) -> PlasticAngleStage:
    r"""Return load and permanent elongation of torque plus angle into yield.

    Args:
        F_snug_N: load before the angle in N, below the yield load.
        angle_deg: angle turned in degrees, zero or above.
        P_mm: pitch in mm.
        delta_S: resilience of the bolt as the nut feels it in mm/N.
        delta_P: resilience of the clamped parts in mm/N.
        F_yield_N: yield load of the turning bolt in N, lowered by torsion.
        n_knee: sharpness of the knee, 2 … 2000.

    Returns:
        Load, elastic load, permanent elongation, elastic-limit angle.

    Raises:
        Refusal: ``E_TYPE``, ``E_FINITE``, ``E_RANGE`` (also for a snug load at or above yield).

    Formula:
        F_e = F_s + \frac{P \theta}{360° (\delta_S + \delta_P)}
        F = \frac{F_e}{\left( 1 + (F_e / F_y)^n \right)^{1/n}}
        \Delta L_{pl} = (F_e - F)(\delta_S + \delta_P)

    Standing: model.

    Source: derived here; all of the yielding is in the bolt. Checked against the sharp limit,
    where the load stops at F_y and the rest of the turn becomes length.
    """
    plateau = checks.positive("F_yield_N", F_yield_N)
    stage = preload_after_angle(F_snug_N, angle_deg, P_mm, delta_S, delta_P)
    if F_snug_N >= plateau:
        raise Refusal("E_RANGE", name="F_snug_N", got=F_snug_N, low=0.0, high=plateau)
    load = knee(stage.F_N, plateau, n_knee)
    limit = angle_for_preload(F_snug_N, plateau, P_mm, delta_S, delta_P)
    grown = (stage.F_N - load) * (delta_S + delta_P)
    return PlasticAngleStage(load, stage.F_N, grown, limit, plateau <= stage.F_N)


def torque_angle_compare(
    T_snug_Nm: float,
    angle_deg: float,
    thread: Thread,
    mu_min: float,
    mu_max: float,
    Dkm_mm: float,
    delta_S: float,
    delta_P: float,
) -> AngleComparison:
    r"""Compare the preload band of snug torque plus angle with torque alone.

    Args:
        T_snug_Nm: snug torque in N·m.
        angle_deg: angle in degrees, zero or above.
        thread: the thread.
        mu_min: lowest friction, 0 … 1, the same in thread and face.
        mu_max: highest friction, 0 … 1.
        Dkm_mm: mean diameter in mm of the bearing face that slides.
        delta_S: resilience of the bolt as the nut feels it in mm/N.
        delta_P: resilience of the clamped parts in mm/N.

    Returns:
        Both bands, and the torque at the end of the angle.

    Raises:
        Refusal: ``E_TYPE``, ``E_FINITE``, ``E_RANGE``; ``E_GEOM`` for a bearing face inside the
            thread.

    Formula:
        F(\mu) = \frac{T_s}{c(\mu)} + \frac{P}{360°} \cdot \frac{\theta}{\delta_S + \delta_P}
        s_{torque} = \frac{c(\mu_{max}) - c(\mu_{min})}{c(\mu_{max}) + c(\mu_{min})}

    Standing: mechanics.

    Source: derived here.
    """
    T, (low, high) = checks.positive("T_snug_Nm", T_snug_Nm), friction_band(mu_min, mu_max)
    added = checks.not_negative("angle_deg", angle_deg) * _turned_N(1.0, thread.P_mm, delta_S, delta_P)
    c_low, c_high = (torque_lever_mm(thread, mu, mu, Dkm_mm) for mu in (low, high))
    F_min, F_max = 1000.0 * T / c_high + added, 1000.0 * T / c_low + added
    return AngleComparison(
        F_min_N=F_min,
        F_max_N=F_max,
        scatter_angle_pct=100.0 * (F_max - F_min) / (F_max + F_min),
        scatter_torque_pct=100.0 * (c_high - c_low) / (c_high + c_low),
        end_torque_mu_max_Nm=F_min * c_high / 1000.0,
        end_torque_mu_min_Nm=F_max * c_low / 1000.0,
    )
