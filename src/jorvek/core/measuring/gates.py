"""Gates: measurements that must be good before the work goes on."""

from __future__ import annotations

from dataclasses import dataclass
from itertools import pairwise
from statistics import fmean

from jorvek.core import checks
from jorvek.core.guard_band import Decision, guard_band_decision
from jorvek.core.refusal import Refusal


@dataclass(frozen=True)
class LinerStandout:
    """Stand-out of one liner.

    Attributes:
        min_mm: lowest reading.
        max_mm: highest reading.
        mean_mm: mean.
        within_mm: highest less lowest.
        height: decision on lowest and highest against the limits.
        flat: decision on highest less lowest.
    """

    min_mm: float
    max_mm: float
    mean_mm: float
    within_mm: float
    height: Decision
    flat: Decision


@dataclass(frozen=True)
class DeckLine:
    """Stand-outs along a deck.

    Attributes:
        per: each liner.
        neighbour_mm: difference of the means of each liner and the next.
        neighbour_max_mm: the largest, None with one liner.
        neighbour_decision: decision on it, None with one liner.
        overall_min_mm: lowest reading of all.
        overall_max_mm: highest reading of all.
    """

    per: tuple[LinerStandout, ...]
    neighbour_mm: tuple[float, ...]
    neighbour_max_mm: float | None
    neighbour_decision: Decision | None
    overall_min_mm: float
    overall_max_mm: float


@dataclass(frozen=True)
class EndFloat:
    """Axial play of a shaft.

    Attributes:
        float_mm: difference of the mean end positions.
        repeatability_mm: larger range of the repeated readings.
        decision: decision on the float.
    """

    float_mm: float
    repeatability_mm: float
    decision: Decision


@dataclass(frozen=True)
class GasketGrade:
    """One grade of gasket.

    Attributes:
        grade: its mark.
        lo_mm: protrusion from which it is used.
        hi_mm: protrusion up to which it is used.
        t_mm: its fitted thickness.
    """

    grade: str
    lo_mm: float
    hi_mm: float
    t_mm: float


@dataclass(frozen=True)
class GasketChoice:
    """Gasket chosen from piston protrusion.

    Attributes:
        grade: grade to fit.
        t_mm: its thickness.
        max_mean_mm: largest piston mean, which decides.
        spread_mm: largest less smallest piston mean.
        bump_clearance_mm: thickness less the largest single reading.
        clearance_ok: that is enough, None when no least value was given.
    """

    grade: str
    t_mm: float
    max_mean_mm: float
    spread_mm: float
    bump_clearance_mm: float
    clearance_ok: bool | None


_WORST = (Decision.REJECT, Decision.UNCERTAIN, Decision.ACCEPT)


def _worst(*decisions: Decision) -> Decision:
    return min(decisions, key=_WORST.index)


def _spread(values: list[float]) -> float:
    return max(values) - min(values)


def liner_standout(
    readings: list[list[float]],
    lo_mm: float,
    hi_mm: float,
    max_within_mm: float,
    max_neighbour_mm: float,
    U_mm: float = 0.0,
    guard: float = 1.0,
) -> DeckLine:
    r"""Judge the stand-out of liners along a deck.

    Args:
        readings: readings in mm of each liner at its points, each −50 … 50.
        lo_mm: lower limit in mm for every reading.
        hi_mm: upper limit in mm for every reading.
        max_within_mm: largest difference in mm on one liner.
        max_neighbour_mm: largest difference in mm between the means of neighbours.
        U_mm: expanded uncertainty of a reading in mm.
        guard: share of U kept as guard band, 0 … 3.

    Returns:
        Each liner with its decisions, and the neighbours.

    Raises:
        Refusal: ``E_TYPE``, ``E_FINITE``, ``E_RANGE``; ``E_LEN`` for a liner without readings.

    Formula:
        d_i = \left| \bar h_i - \bar h_{i+1} \right|

    Standing: model for which differences count; the decisions are the standard's.

    Source: derived here; ISO 14253-1. Neighbours are compared as means, without a guard band.
    """
    low, high = checks.within("lo_mm", lo_mm, -50.0, 50.0), checks.within("hi_mm", hi_mm, -50.0, 50.0)
    flatness = checks.within("max_within_mm", max_within_mm, 0.0, 50.0)
    step = checks.within("max_neighbour_mm", max_neighbour_mm, 0.0, 50.0)
    if low > high:
        raise Refusal("E_RANGE", name="lo_mm", got=low, low=-50.0, high=high)
    if not isinstance(readings, list | tuple) or not readings:
        raise Refusal("E_LEN", name="readings", got=0)
    rows = [[checks.within("readings", x, -50.0, 50.0) for x in checks.numbers("readings", row)] for row in readings]

    def judged(row: list[float]) -> LinerStandout:
        height = _worst(*(guard_band_decision(x, low, high, U_mm, guard) for x in (min(row), max(row))))
        flat = guard_band_decision(_spread(row), None, flatness, U_mm, guard)
        return LinerStandout(min(row), max(row), fmean(row), _spread(row), height, flat)

    per = tuple(judged(row) for row in rows)
    steps = tuple(abs(a.mean_mm - b.mean_mm) for a, b in pairwise(per))
    return DeckLine(
        per=per,
        neighbour_mm=steps,
        neighbour_max_mm=max(steps) if steps else None,
        neighbour_decision=guard_band_decision(max(steps), None, step) if steps else None,
        overall_min_mm=min(liner.min_mm for liner in per),
        overall_max_mm=max(liner.max_mm for liner in per),
    )


def end_float(
    forward_mm: list[float],
    aft_mm: list[float],
    lower: float | None = None,
    upper: float | None = None,
    U_mm: float = 0.0,
    guard: float = 1.0,
) -> EndFloat:
    r"""Judge the axial play of a shaft from repeated dial readings at both ends of its travel.

    Args:
        forward_mm: dial readings in mm with the shaft forward.
        aft_mm: dial readings in mm with the shaft aft.
        lower: lower limit in mm, if any.
        upper: upper limit in mm, if any.
        U_mm: expanded uncertainty in mm.
        guard: share of U kept as guard band, 0 … 3.

    Returns:
        Play, repeatability and decision.

    Raises:
        Refusal: ``E_TYPE``, ``E_FINITE``, ``E_RANGE``; ``E_LEN`` without readings; ``E_DATA``
            without any limit.

    Formula:
        e = \left| \bar x_{fwd} - \bar x_{aft} \right|

    Standing: mechanics; the decision is the standard's.

    Source: derived here; ISO 14253-1.
    """
    forward, aft = checks.numbers("forward_mm", forward_mm), checks.numbers("aft_mm", aft_mm)
    play = abs(fmean(forward) - fmean(aft))
    decision = guard_band_decision(play, lower, upper, U_mm, guard)
    return EndFloat(play, max(_spread(forward), _spread(aft)), decision)


def _checked_grades(grades: list[GasketGrade]) -> list[GasketGrade]:
    if not grades:
        raise Refusal("E_LEN", name="grades", got=0)
    for grade in grades:
        if checks.number("lo", grade.lo_mm) >= checks.number("hi", grade.hi_mm):
            raise Refusal("E_MONO", name="grades")
        checks.positive("t", grade.t_mm)
    if any(abs(a.hi_mm - b.lo_mm) > 1e-9 for a, b in pairwise(grades)):
        raise Refusal("E_MONO", name="grades")
    return grades


def gasket_grade(
    protrusions_mm: list[list[float]],
    grades: list[GasketGrade],
    max_spread_mm: float,
    clearance_min_mm: float | None = None,
) -> GasketChoice:
    r"""Choose the grade of head gasket from the protrusion of the pistons.

    Args:
        protrusions_mm: readings in mm of each piston, each −20 … 20.
        grades: grades from thin to thick, without gaps or overlaps.
        max_spread_mm: largest difference in mm between piston means.
        clearance_min_mm: least bump clearance in mm, if stated.

    Returns:
        The grade for the largest piston mean, and the bump clearance of the largest reading.

    Raises:
        Refusal: ``E_TYPE``, ``E_FINITE``, ``E_RANGE``; ``E_LEN`` without readings or grades;
            ``E_MONO`` for grades that do not follow on; ``E_DATA`` when the pistons differ too
            much; ``E_TABLE`` when no grade covers the protrusion.

    Formula:
        c_{bump} = t - \max_{ij} h_{ij}

    Standing: model.

    Source: derived here; a grade runs from its lower limit up to below its upper one, the last
    includes its upper limit.
    """
    spread_limit, table = checks.not_negative("max_spread_mm", max_spread_mm), _checked_grades(grades)
    least = None if clearance_min_mm is None else checks.not_negative("clearance_min_mm", clearance_min_mm)
    if not isinstance(protrusions_mm, list | tuple) or not protrusions_mm:
        raise Refusal("E_LEN", name="protrusions_mm", got=0)
    pistons = [
        [checks.within("protrusions_mm", x, -20.0, 20.0) for x in checks.numbers("protrusions_mm", piston)]
        for piston in protrusions_mm
    ]
    means = [fmean(piston) for piston in pistons]
    # A spread typed as the difference of two readings must not fail on the last binary digit.
    if _spread(means) > spread_limit + 1e-9:
        raise Refusal("E_DATA", name="protrusions_mm")
    top = max(means)
    fitting = [g for g in table if g.lo_mm - 1e-9 <= top < g.hi_mm - 1e-9]
    if not fitting and abs(top - table[-1].hi_mm) <= 1e-9:
        fitting = [table[-1]]
    if not fitting:
        allowed = f"{table[0].lo_mm:g} … {table[-1].hi_mm:g}"
        raise Refusal("E_TABLE", name="protrusions_mm", got=top, allowed=allowed)
    chosen = fitting[-1]
    bump = chosen.t_mm - max(x for piston in pistons for x in piston)
    enough = None if least is None else bump >= least - 1e-9
    return GasketChoice(chosen.grade, chosen.t_mm, top, _spread(means), bump, enough)
