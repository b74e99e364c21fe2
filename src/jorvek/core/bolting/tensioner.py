"""Hydraulic tensioners: oil pressure and load on the stud."""

from __future__ import annotations

from dataclasses import dataclass

from jorvek.core import checks
from jorvek.core.bolting.thread import circle_area
from jorvek.core.refusal import Refusal


@dataclass(frozen=True)
class GaugeBound:
    """Error bound of a pressure gauge.

    Attributes:
        U_bar: bound in bar, the same anywhere on the scale.
        U_rel_pct: bound in % of the reading; None at zero.
    """

    U_bar: float
    U_rel_pct: float | None


def annular_area(D_mm: float, d_mm: float = 0.0) -> float:
    r"""Return the effective piston area in mm² of one element.

    Args:
        D_mm: outer diameter in mm.
        d_mm: inner diameter in mm, zero or above and below D.

    Returns:
        The area in mm².

    Raises:
        Refusal: ``E_TYPE``, ``E_FINITE``, ``E_RANGE``; ``E_GEOM`` when the hole is not smaller.

    Formula:
        A = \frac{\pi}{4} (D^2 - d^2)

    Standing: mechanics.

    Source: geometry.
    """
    outer, inner = checks.positive("D_mm", D_mm), checks.not_negative("d_mm", d_mm)
    if inner >= outer:
        raise checks.contradiction("d_mm", inner, "D_mm", outer)
    return circle_area(outer) - circle_area(inner)


def newton_per_bar(A_mm2: float, n_stack: int, eta: float) -> float:
    """Return the load in N on one stud per bar.

    Raises:
        Refusal: ``E_TYPE``, ``E_FINITE``, ``E_RANGE``.
    """
    area, n = checks.positive("A_mm2", A_mm2), checks.count("n_stack", n_stack, 1, 10)
    return 0.1 * area * n * checks.within("eta", eta, 0.5, 1.0)


def below_rating(p_bar: float, p_max_bar: float | None) -> float:
    """Return a pressure in bar that the tool may carry.

    Raises:
        Refusal: ``E_TYPE``, ``E_FINITE``; ``E_RANGE`` above the rating.
    """
    rating = None if p_max_bar is None else checks.positive("p_max_bar", p_max_bar)
    if rating is not None and p_bar > rating:
        raise Refusal("E_RANGE", name="p_bar", got=p_bar, low=0.0, high=rating)
    return p_bar


def tensioner_force(p_bar: float, A_mm2: float, n_stack: int = 1, eta: float = 1.0, F_spring_N: float = 0.0) -> float:
    r"""Return the load in N that a tensioner puts on one stud.

    Elements stacked on one stud share the pressure and add their forces. Tools on other
    studs of the same hose never add.

    Args:
        p_bar: oil pressure at the tool in bar (gauge), zero or above.
        A_mm2: effective piston area of one element in mm².
        n_stack: stacked elements on the stud, 1 … 10.
        eta: efficiency of the tool, 0.5 … 1.
        F_spring_N: load of the return spring in N, zero or above.

    Returns:
        The load in N; zero while the spring is stronger than the oil.

    Raises:
        Refusal: ``E_TYPE``, ``E_FINITE``, ``E_RANGE``.

    Formula:
        F = \max(0,\ 0.1\, p A n \eta - F_{spring})

    Standing: mechanics.

    Source: hydrostatics (1 bar = 0.1 N/mm²).
    """
    per_bar, spring = newton_per_bar(A_mm2, n_stack, eta), checks.not_negative("F_spring_N", F_spring_N)
    return max(0.0, checks.not_negative("p_bar", p_bar) * per_bar - spring)


def tensioner_pressure(
    F_N: float,
    A_mm2: float,
    n_stack: int = 1,
    eta: float = 1.0,
    F_spring_N: float = 0.0,
    p_max_bar: float | None = None,
) -> float:
    r"""Return the oil pressure in bar for a wanted tool load; inverse of ``tensioner_force``.

    Args:
        F_N: tool load in N, zero or above.
        A_mm2: effective piston area of one element in mm².
        n_stack: stacked elements on the stud, 1 … 10.
        eta: efficiency of the tool, 0.5 … 1.
        F_spring_N: load of the return spring in N, zero or above.
        p_max_bar: rating of the tool in bar, if known.

    Returns:
        The pressure in bar (gauge).

    Raises:
        Refusal: ``E_TYPE``, ``E_FINITE``, ``E_RANGE`` (also above the rating).

    Formula:
        p = \frac{F + F_{spring}}{0.1\, A n \eta}

    Standing: mechanics.

    Source: hydrostatics.
    """
    force = checks.not_negative("F_N", F_N) + checks.not_negative("F_spring_N", F_spring_N)
    return below_rating(force / newton_per_bar(A_mm2, n_stack, eta), p_max_bar)


def pass_pressures(
    residual_loads_N: list[float],
    loss: float,
    A_mm2: float,
    n_stack: int = 1,
    eta: float = 1.0,
    p_max_bar: float | None = None,
) -> list[float]:
    r"""Return the pressure of each pass from the load that it must leave.

    Args:
        residual_loads_N: loads in N to be left by each pass, zero or above.
        loss: share of the residual load lost at release, 0 … 2.
        A_mm2: effective piston area of one element in mm².
        n_stack: stacked elements on the stud, 1 … 10.
        eta: efficiency of the tool, 0.5 … 1.
        p_max_bar: rating of the tool in bar, if known.

    Returns:
        Pressures in bar, in the same order.

    Raises:
        Refusal: ``E_TYPE``, ``E_FINITE``, ``E_RANGE`` (also above the rating); ``E_LEN`` for an
            empty list.

    Formula:
        p_k = \frac{F_k (1 + x)}{0.1\, A n \eta}

    Standing: mechanics.

    Source: hydrostatics.
    """
    per_bar, lost = newton_per_bar(A_mm2, n_stack, eta), checks.within("loss", loss, 0.0, 2.0)
    loads = [checks.not_negative("residual_loads_N", F) for F in checks.numbers("residual_loads_N", residual_loads_N)]
    return [below_rating(F * (1.0 + lost) / per_bar, p_max_bar) for F in loads]


def _true_air(gauge_over_read_pct: float) -> float:
    return 1.0 + checks.within("gauge_over_read_pct", gauge_over_read_pct, -50.0, 50.0) / 100.0


def pump_oil_pressure(
    p_air_indicated_bar: float, ratio: float, gauge_over_read_pct: float = 0.0, eta: float = 1.0
) -> float:
    r"""Return the oil pressure in bar of an air-driven pump from its air gauge.

    Args:
        p_air_indicated_bar: air pressure shown in bar (gauge), zero or above.
        ratio: ratio of the pump, 1 … 1000.
        gauge_over_read_pct: how much the air gauge shows too much in %, −50 … 50.
        eta: efficiency, 0.5 … 1.

    Returns:
        Oil pressure in bar (gauge).

    Raises:
        Refusal: ``E_TYPE``, ``E_FINITE``, ``E_RANGE``.

    Formula:
        p_{oil} = i\, \eta\, \frac{p_{ind}}{1 + e}

    Standing: mechanics.

    Source: balance of forces on the intensifier.
    """
    air = checks.not_negative("p_air_indicated_bar", p_air_indicated_bar) / _true_air(gauge_over_read_pct)
    return checks.within("ratio", ratio, 1.0, 1000.0) * checks.within("eta", eta, 0.5, 1.0) * air


def pump_air_setting(
    p_oil_bar: float,
    ratio: float,
    gauge_over_read_pct: float = 0.0,
    eta: float = 1.0,
    p_air_max_bar: float | None = None,
) -> float:
    r"""Return the air pressure in bar to be shown for a wanted true oil pressure.

    Args:
        p_oil_bar: wanted oil pressure in bar (gauge), zero or above.
        ratio: ratio of the pump, 1 … 1000.
        gauge_over_read_pct: how much the air gauge shows too much in %, −50 … 50.
        eta: efficiency, 0.5 … 1.
        p_air_max_bar: highest air pressure of the pump in bar, if known.

    Returns:
        Indicated air pressure in bar (gauge).

    Raises:
        Refusal: ``E_TYPE``, ``E_FINITE``, ``E_RANGE`` (also above the highest air pressure).

    Formula:
        p_{ind} = \frac{p_{oil}}{i\, \eta} (1 + e)

    Standing: mechanics.

    Source: ``pump_oil_pressure`` solved for the air.
    """
    per_air = checks.within("ratio", ratio, 1.0, 1000.0) * checks.within("eta", eta, 0.5, 1.0)
    shown = checks.not_negative("p_oil_bar", p_oil_bar) / per_air * _true_air(gauge_over_read_pct)
    highest = None if p_air_max_bar is None else checks.positive("p_air_max_bar", p_air_max_bar)
    if highest is not None and shown > highest:
        raise Refusal("E_RANGE", name="p_air_indicated_bar", got=shown, low=0.0, high=highest)
    return shown


def gauge_uncertainty(p_bar: float, full_scale_bar: float, class_pct: float) -> GaugeBound:
    r"""Return the error bound of a pressure gauge at a reading.

    The class is a share of full scale, so a low reading on a big gauge is a poor one.

    Args:
        p_bar: reading in bar, zero or above and not above full scale.
        full_scale_bar: full scale in bar.
        class_pct: accuracy class in %, 0 … 10.

    Returns:
        The bound; rectangular, so that u = bound/√3 in a clamp estimate.

    Raises:
        Refusal: ``E_TYPE``, ``E_FINITE``, ``E_RANGE`` (also above full scale).

    Formula:
        \Delta p = \frac{class}{100} \cdot p_{FS}

    Standing: standard.

    Source: EN 837-1.
    """
    scale = checks.positive("full_scale_bar", full_scale_bar)
    p = checks.within("p_bar", p_bar, 0.0, scale)
    bound = scale * checks.within("class_pct", class_pct, 0.0, 10.0) / 100.0
    return GaugeBound(bound, 100.0 * bound / p if p > 0.0 else None)
