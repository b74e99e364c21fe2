"""Loosening pressure: what the pressure at which a nut came free says about its stud."""

from __future__ import annotations

import statistics
from dataclasses import dataclass
from enum import StrEnum

from jorvek.core import checks
from jorvek.core.bolting.tensioner import newton_per_bar
from jorvek.core.refusal import Refusal


class ReleaseClass(StrEnum):
    """One stud's release pressure against nominal."""

    LOW = "low"
    OK = "ok"
    HIGH = "high"


class ReleasePattern(StrEnum):
    """What a set of release pressures looks like as a whole."""

    SYSTEMATIC_LOW = "systematic_low"
    SYSTEMATIC_HIGH = "systematic_high"
    SCATTER = "scatter"
    UNIFORM = "uniform"


@dataclass(frozen=True)
class ReleaseLoad:
    """Load that a release pressure speaks for.

    Attributes:
        F_N: best estimate, the middle of the interval.
        F_low_N: lower end, when nuts were tried in steps.
        F_high_N: upper end.
    """

    F_N: float
    F_low_N: float
    F_high_N: float


@dataclass(frozen=True)
class ReleaseAnalysis:
    """Release pressures of one joint as loads in % of nominal.

    Attributes:
        pct: load of each stud in % of nominal, None where not noted.
        classes: low, ok or high for each, None where not noted.
        mean_pct: mean.
        median_pct: median.
        min_pct: lowest.
        max_pct: highest.
        spread_pct: highest less lowest in % of the mean.
        outliers: places (from 0) of studs far from the median.
        pattern: what the set looks like.
        noted: how many were noted.
    """

    pct: tuple[float | None, ...]
    classes: tuple[ReleaseClass | None, ...]
    mean_pct: float
    median_pct: float
    min_pct: float
    max_pct: float
    spread_pct: float
    outliers: tuple[int, ...]
    pattern: ReleasePattern
    noted: int


@dataclass(frozen=True)
class HoseBounds:
    """What one hose on several studs says about their loads.

    Attributes:
        F_weakest_N: load of the weakest stud, None when its pressure was not noted.
        F_strongest_N: load of the strongest stud.
        F_exact: there is one stud, so bounds and value are the same.
        upper_bound_only: only the pressure of the last was noted.
        F_mean_N: mean, which only one or two studs have.
    """

    F_weakest_N: float | None
    F_strongest_N: float
    F_exact: bool
    upper_bound_only: bool
    F_mean_N: float | None


def release_ratio(dS0: float, dP: float, dNut: float) -> float:
    r"""Return the load in a stud over the tool load at which its nut comes free.

    Args:
        dS0: resilience of the stud up to the nut bearing plane in mm/N.
        dP: resilience of the clamped parts in mm/N.
        dNut: resilience loaded only when the nut carries in mm/N.

    Returns:
        The ratio, above 0 and at most 1.

    Raises:
        Refusal: ``E_TYPE``, ``E_FINITE``, ``E_RANGE``.

    Formula:
        r = \frac{\delta_{S0} + \delta_P}{\delta_{S0} + \delta_P + \delta_{Nut}}

    Standing: mechanics; the split of the stud is a model.

    Source: derived here: the nut comes free when its own load is zero. A ratio of 1 makes good
    studs read 106 … 131 % of what they carry.
    """
    below = checks.positive("dS0", dS0) + checks.not_negative("dP", dP)
    return below / (below + checks.not_negative("dNut", dNut))


def _per_bar(A_mm2: float, n_stack: int, eta: float, ratio: float) -> float:
    return newton_per_bar(A_mm2, n_stack, eta) * checks.within("ratio", ratio, 0.5, 1.0)


def residual_from_breakaway(
    p_bar: float,
    A_mm2: float,
    n_stack: int = 1,
    eta: float = 1.0,
    ratio: float = 1.0,
    p_step_bar: float = 0.0,
) -> ReleaseLoad:
    r"""Return the load that was in a stud from the pressure at which its nut came free.

    Args:
        p_bar: pressure in bar at which the nut was first found free, zero or above.
        A_mm2: effective piston area of one element in mm².
        n_stack: stacked elements on the stud, 1 … 10.
        eta: efficiency of the tool, 0.5 … 1.
        ratio: as ``release_ratio`` gives it, 0.5 … 1.
        p_step_bar: step in bar between trials; the nut came free somewhere within it.

    Returns:
        Load and interval in N.

    Raises:
        Refusal: ``E_TYPE``, ``E_FINITE``, ``E_RANGE``.

    Formula:
        F_0 = 0.1\, p A n \eta\, r

    Standing: mechanics; the ratio is a model.

    Source: derived here.
    """
    p, step = checks.not_negative("p_bar", p_bar), checks.not_negative("p_step_bar", p_step_bar)
    per_bar = _per_bar(A_mm2, n_stack, eta, ratio)
    high, low = per_bar * p, per_bar * max(0.0, p - step)
    return ReleaseLoad((low + high) / 2.0, low, high)


def _noted(p_bar_list: list[float | None]) -> list[float | None]:
    if not isinstance(p_bar_list, list | tuple):
        raise Refusal("E_TYPE", name="p_bar_list", got=str(p_bar_list))
    noted = [None if p is None else checks.not_negative("p_bar_list", p) for p in p_bar_list]
    if all(p is None for p in noted) or not any(noted):
        raise Refusal("E_DATA", name="p_bar_list")
    return noted


def breakaway_analysis(
    p_bar_list: list[float | None],
    F_nominal_N: float,
    A_mm2: float,
    n_stack: int = 1,
    eta: float = 1.0,
    ratio: float = 1.0,
    low_pct: float = 85.0,
    high_pct: float = 115.0,
    outlier_pct: float = 15.0,
) -> ReleaseAnalysis:
    r"""Return the release pressures of a joint as loads, with classes and a pattern.

    When all are off alike, gauge, area and specification are suspected before the studs.

    Args:
        p_bar_list: release pressure in bar of each stud, None where not noted.
        F_nominal_N: load in N that each should have.
        A_mm2: effective piston area of one element in mm².
        n_stack: stacked elements on the stud, 1 … 10.
        eta: efficiency of the tool, 0.5 … 1.
        ratio: as ``release_ratio`` gives it, 0.5 … 1.
        low_pct: below this share of nominal in % a stud is low, 0 … 100.
        high_pct: above this share in % it is high, 100 … 500.
        outlier_pct: distance from the median in % of the median that stands out, 0 … 100.

    Returns:
        The analysis.

    Raises:
        Refusal: ``E_TYPE``, ``E_FINITE``, ``E_RANGE``; ``E_DATA`` when nothing was noted.

    Formula:
        q_i = 100\, \frac{0.1\, p_i A n \eta\, r}{F_{nom}}

    Standing: mechanics; the thresholds are a model.

    Source: derived here; median and spread after common statistics.
    """
    per_bar = _per_bar(A_mm2, n_stack, eta, ratio) / checks.positive("F_nominal_N", F_nominal_N)
    low, high = checks.within("low_pct", low_pct, 0.0, 100.0), checks.within("high_pct", high_pct, 100.0, 500.0)
    far = checks.within("outlier_pct", outlier_pct, 0.0, 100.0)
    pct = tuple(None if p is None else 100.0 * p * per_bar for p in _noted(p_bar_list))
    values = [q for q in pct if q is not None]
    middle, mean = statistics.median(values), statistics.fmean(values)
    outliers = tuple(i for i, q in enumerate(pct) if q is not None and abs(q - middle) > far / 100.0 * middle)
    return ReleaseAnalysis(
        pct=pct,
        classes=tuple(None if q is None else _class(q, low, high) for q in pct),
        mean_pct=mean,
        median_pct=middle,
        min_pct=min(values),
        max_pct=max(values),
        spread_pct=100.0 * (max(values) - min(values)) / mean,
        outliers=outliers,
        pattern=_pattern(middle, low, high, bool(outliers)),
        noted=len(values),
    )


def _class(pct: float, low: float, high: float) -> ReleaseClass:
    if pct < low:
        return ReleaseClass.LOW
    return ReleaseClass.HIGH if pct > high else ReleaseClass.OK


def _pattern(median: float, low: float, high: float, outliers: bool) -> ReleasePattern:
    if median < low:
        return ReleasePattern.SYSTEMATIC_LOW
    if median > high:
        return ReleasePattern.SYSTEMATIC_HIGH
    return ReleasePattern.SCATTER if outliers else ReleasePattern.UNIFORM


def shared_hose_bounds(
    n_studs: int,
    p_first_free_bar: float | None,
    p_all_free_bar: float,
    A_mm2: float,
    n_stack: int = 1,
    eta: float = 1.0,
    ratio: float = 1.0,
) -> HoseBounds:
    r"""Return the bounds on the loads of studs that shared one hose.

    Unless each nut is noted when it comes free, the first free and the last free bound the set;
    no stud's own load is known.

    Args:
        n_studs: studs on the hose, 1 … 400.
        p_first_free_bar: pressure in bar at which the first nut was free, None when not noted.
        p_all_free_bar: pressure in bar at which all were free.
        A_mm2: effective piston area of one element in mm².
        n_stack: stacked elements on the stud, 1 … 10.
        eta: efficiency of the tool, 0.5 … 1.
        ratio: as ``release_ratio`` gives it, 0.5 … 1.

    Returns:
        The bounds in N.

    Raises:
        Refusal: ``E_TYPE``, ``E_FINITE``, ``E_RANGE`` (also when the first came free above the
            last).

    Formula:
        F_{weakest} = 0.1\, p_{first} A n \eta\, r, \quad F_{strongest} = 0.1\, p_{all} A n \eta\, r

    Standing: mechanics.

    Source: derived here.
    """
    n, per_bar = checks.count("n_studs", n_studs, 1, 400), _per_bar(A_mm2, n_stack, eta, ratio)
    last = checks.not_negative("p_all_free_bar", p_all_free_bar)
    strongest = per_bar * last
    if n == 1:
        if p_first_free_bar is not None:
            checks.within("p_first_free_bar", p_first_free_bar, 0.0, last)
        return HoseBounds(strongest, strongest, True, False, strongest)
    if p_first_free_bar is None:
        return HoseBounds(None, strongest, False, True, None)
    weakest = per_bar * checks.within("p_first_free_bar", p_first_free_bar, 0.0, last)
    return HoseBounds(weakest, strongest, False, False, (weakest + strongest) / 2.0 if n == 2 else None)
