"""Stroke and back-off: whether the tool has travel for it, and comes off again."""

from __future__ import annotations

from dataclasses import dataclass

from jorvek.core import checks
from jorvek.core.refusal import Refusal


@dataclass(frozen=True)
class StrokeBudget:
    """Piston travel of a tightening.

    Attributes:
        travel_mm: travel needed.
        stretch_part_mm: part of it that is stretch of stud and parts.
        margin_mm: stroke left over.
        ok: the stroke suffices.
    """

    travel_mm: float
    stretch_part_mm: float
    margin_mm: float
    ok: bool


@dataclass(frozen=True)
class LooseningBudget:
    """Whether nut and tool come free with a given back-off.

    Attributes:
        F_free_N: tool load at which the nut comes free.
        nut_free: the opening load reaches it.
        stretch_total_mm: total stretch at the opening load.
        gap_mm: back-off of the tool.
        gap_min_strict_mm: least back-off for the load really in the stud.
        gap_min_conservative_mm: least back-off when that load is not known.
        gap_max_mm: greatest back-off that the stroke allows.
        jack_turns_min_strict: least back-off in turns.
        jack_turns_min_conservative: the same when the load is not known.
        jack_turns_max: greatest back-off in turns.
        feasible: some back-off suits both bounds.
        travel_mm: piston travel at the opening load.
        stroke_ok: the stroke suffices.
        jack_trapped: the tool stays loaded when the pressure is gone.
        F_trap_N: load it is trapped with.
        nut_turns_min_strict: least turning back of the nut, in turns.
        nut_turns_min_conservative: the same when the load is not known.
        nut_reseats: the nut takes load again when the tool lets go.
        F_reseat_N: load it takes.
        nut_room_ok: there is room above the nut to turn it back; None when not given.
    """

    F_free_N: float
    nut_free: bool
    stretch_total_mm: float
    gap_mm: float
    gap_min_strict_mm: float
    gap_min_conservative_mm: float
    gap_max_mm: float
    jack_turns_min_strict: float
    jack_turns_min_conservative: float
    jack_turns_max: float
    feasible: bool
    travel_mm: float
    stroke_ok: bool
    jack_trapped: bool
    F_trap_N: float
    nut_turns_min_strict: float
    nut_turns_min_conservative: float
    nut_reseats: bool
    F_reseat_N: float
    nut_room_ok: bool | None


def stroke_budget_tighten(
    F_tool_N: float,
    dS0: float,
    dP: float,
    dU: float,
    takeup_mm: float,
    gap_mm: float,
    stroke_max_mm: float,
    F_start_N: float = 0.0,
    dNut_GN: float = 0.0,
) -> StrokeBudget:
    r"""Return the piston travel for tightening, against the stroke.

    Args:
        F_tool_N: tool load in N, zero or above.
        dS0: resilience of the stud up to the nut bearing plane in mm/N.
        dP: resilience of the clamped parts in mm/N.
        dU: resilience from there into the puller in mm/N.
        takeup_mm: slack of threads and support in mm, zero or above.
        gap_mm: back-off of the tool in mm; zero when it is screwed home.
        stroke_max_mm: stroke of the tool in mm.
        F_start_N: load already in the stud in N, at most the tool load.
        dNut_GN: stretch of the stud within the nut in mm/N.

    Returns:
        Travel and what is left of the stroke.

    Raises:
        Refusal: ``E_TYPE``, ``E_FINITE``, ``E_RANGE`` (also when the stud bears more already).

    Formula:
        s = g + s_0 + F_{tool} (\delta_{S0} + \delta_P + \delta_U) - F_{start} (\delta_{S0} + \delta_P + \delta_{GN})

    Standing: mechanics; the split of the stud is a model.

    Source: derived here.
    """
    F, start = checks.not_negative("F_tool_N", F_tool_N), checks.not_negative("F_start_N", F_start_N)
    s0, p, u = checks.positive("dS0", dS0), checks.not_negative("dP", dP), checks.not_negative("dU", dU)
    gn = checks.not_negative("dNut_GN", dNut_GN)
    slack = checks.not_negative("takeup_mm", takeup_mm) + checks.not_negative("gap_mm", gap_mm)
    stroke = checks.positive("stroke_max_mm", stroke_max_mm)
    if start > F:
        raise Refusal("E_RANGE", name="F_start_N", got=start, low=0.0, high=F)
    stretch = F * (s0 + p + u) - start * (s0 + p + gn)
    travel = slack + stretch
    return StrokeBudget(travel, stretch, stroke - travel, travel <= stroke)


def loosening_budget(
    F0_N: float,
    F_open_N: float,
    dS0: float,
    dP: float,
    dNut: float,
    dU: float,
    P_mm: float,
    jack_turns: float,
    nut_turns: float,
    stroke_max_mm: float,
    takeup_mm: float = 0.0,
    dGN: float = 0.0,
    nut_clearance_mm: float | None = None,
) -> LooseningBudget:
    r"""Return whether nut and tool come free with a given back-off, and by what margin.

    With x the height of the puller above the joint against the slack stud: before the pull
    x0 = F0 (dS0 + dP + dGN); at the opening load x1 = F_open (dS0 + dP + dU). The piston travels
    gap + take-up + x1 − x0 and must find stroke for it; when the pressure is gone the stud is
    slack and the piston stands at gap − x0, which must not be below zero.

    Args:
        F0_N: load in the stud in N, zero or above.
        F_open_N: opening load of the tool in N.
        dS0: resilience of the stud up to the nut bearing plane in mm/N.
        dP: resilience of the clamped parts in mm/N.
        dNut: resilience loaded only when the nut carries in mm/N.
        dU: resilience from the nut bearing plane into the puller in mm/N.
        P_mm: pitch in mm.
        jack_turns: turns the tool is backed off after screwing it home, zero or above.
        nut_turns: turns the nut is turned back, zero or above.
        stroke_max_mm: stroke of the tool in mm.
        takeup_mm: slack of threads and support in mm.
        dGN: stretch of the stud within the nut in mm/N.
        nut_clearance_mm: room above the nut in mm, if known.

    Returns:
        The budget, with strict bounds for the load given and cautious ones for an unknown load.

    Raises:
        Refusal: ``E_TYPE``, ``E_FINITE``, ``E_RANGE``.

    Formula:
        F_{free} = F_0 \left( 1 + \frac{\delta_{Nut}}{\delta_{S0} + \delta_P} \right)
        g \ge x_0, \quad g + s_0 + x_1 - x_0 \le s_{max}, \quad n P \ge F_0 (\delta_{S0} + \delta_P + \delta_{Nut})
        F_{trap} = \frac{x_0 - g}{\delta_{S0} + \delta_P + \delta_U}

    Standing: mechanics; the split of the stud is a model.

    Source: derived here. Checked: with F0 = 0 nothing is needed, and the cautious bound is the
    strict one of a stud that bears the opening load.
    """
    F0, F_open = checks.not_negative("F0_N", F0_N), checks.positive("F_open_N", F_open_N)
    s0, p = checks.positive("dS0", dS0), checks.not_negative("dP", dP)
    nut, u, gn = checks.not_negative("dNut", dNut), checks.not_negative("dU", dU), checks.not_negative("dGN", dGN)
    P, stroke = checks.positive("P_mm", P_mm), checks.positive("stroke_max_mm", stroke_max_mm)
    gap = checks.not_negative("jack_turns", jack_turns) * P
    back = checks.not_negative("nut_turns", nut_turns) * P
    takeup = checks.not_negative("takeup_mm", takeup_mm)
    room = None if nut_clearance_mm is None else checks.not_negative("nut_clearance_mm", nut_clearance_mm)
    x0, x1, carried = F0 * (s0 + p + gn), F_open * (s0 + p + u), s0 + p + nut
    gap_max = stroke - takeup - x1 + x0
    travel = gap + takeup + x1 - x0
    F_free = F0 * (1.0 + nut / (s0 + p))
    return LooseningBudget(
        F_free_N=F_free,
        nut_free=F_open >= F_free,
        stretch_total_mm=x1,
        gap_mm=gap,
        gap_min_strict_mm=x0,
        gap_min_conservative_mm=x1,
        gap_max_mm=gap_max,
        jack_turns_min_strict=x0 / P,
        jack_turns_min_conservative=x1 / P,
        jack_turns_max=gap_max / P,
        feasible=x0 <= gap_max,
        travel_mm=travel,
        stroke_ok=travel <= stroke,
        jack_trapped=gap < x0,
        F_trap_N=max(0.0, (x0 - gap) / (s0 + p + u)),
        nut_turns_min_strict=F0 * carried / P,
        nut_turns_min_conservative=F_open * carried / P,
        nut_reseats=back < F0 * carried,
        F_reseat_N=max(0.0, F0 - back / carried),
        nut_room_ok=None if room is None else back <= room,
    )
