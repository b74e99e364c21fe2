"""Questions about a tensioned stud: which pressure, how much stretch, how far to back off."""

from __future__ import annotations

import math
from typing import Final

from jorvek.core.bolting.release import release_ratio
from jorvek.core.bolting.stroke import LooseningBudget, loosening_budget
from jorvek.core.bolting.tensioner import gauge_uncertainty, newton_per_bar, tensioner_pressure
from jorvek.core.bolting.transfer import tool_load_for_residual, transfer_derived
from jorvek.core.measuring.uncertainty import USUAL, std_uncertainty, u_preload_elongation, u_preload_hydraulic
from jorvek.core.reckoner.parts import Field, Group, Inputs, Question, Reckoning, Step, Told, field
from jorvek.core.reckoner.stud import TENSIONED, joint_of, number
from jorvek.core.units import Quantity

_TOOL: Final[tuple[Field, ...]] = (
    field("A_mm2", Quantity.AREA, "mm2", "9290", Group.TOOL),
    field("n_stack", None, "", "1", Group.TOOL),
    field("eta", Quantity.RATIO, "%", "98", Group.TOOL),
)
_RATING: Final = field("p_max_bar", Quantity.PRESSURE, "bar", "1500", Group.TOOL)
_SETTLING: Final[tuple[Field, ...]] = (
    field("F_rundown_N", Quantity.FORCE, "kN", "15", Group.TOOL),
    field("f_Z_mm", Quantity.LENGTH, "um", "6", Group.TOOL),
)
_GAUGE: Final[tuple[Field, ...]] = (
    field("full_scale_bar", Quantity.PRESSURE, "bar", "1600", Group.DOUBT),
    field("class_pct", Quantity.RATIO, "%", "0.6", Group.DOUBT),
)


def _elements(x: Inputs) -> int:
    count = number(x, "n_stack")
    # A count that is not whole is passed on: the core refuses it and names it.
    return int(count) if count == int(count) else count  # type: ignore[return-value]  # a whole float is a whole number


def pressure(x: Inputs) -> Reckoning:
    """Return the pressure that leaves a wanted load."""
    joint, wanted = joint_of(x), number(x, "F_res_N")
    stud = joint.stud
    assert stud is not None
    rundown, f_Z_um = number(x, "F_rundown_N"), 1000.0 * number(x, "f_Z_mm")
    tool = tool_load_for_residual(wanted, stud.dS0, joint.dP, stud.dNut, f_Z_um, rundown)
    area, n, eta = number(x, "A_mm2"), _elements(x), number(x, "eta")
    p = tensioner_pressure(tool, area, n, eta, p_max_bar=number(x, "p_max_bar"))
    transfer = transfer_derived(tool, stud.dS0, joint.dP, stud.dNut, f_Z_um, rundown)
    bound = gauge_uncertainty(p, number(x, "full_scale_bar"), 100.0 * number(x, "class_pct")).U_bar
    u_p = std_uncertainty(bound)
    ratio = min(1.0, transfer.ratio)
    doubt = (
        u_preload_hydraulic(p, area, n, eta, ratio, u_p, USUAL.area, USUAL.efficiency, USUAL.transfer).U_rel_pct / 100.0
    )
    peak = transfer.F_stud_peak_N / joint.smallest_mm2 / number(x, "Rp02_MPa")
    return Reckoning(
        told=(
            Told("p_bar", p, Quantity.PRESSURE, spread=2.0 * u_p),
            Told("F_res_N", wanted, Quantity.FORCE, spread=doubt * wanted),
            Told("F_tool_N", tool, Quantity.FORCE),
            Told("loss", transfer.loss, Quantity.RATIO),
            Told("peak_share", peak, Quantity.RATIO),
        ),
        notes=("over_yield_limit",) if peak > 0.9 else ("typical_doubt",),
        why=(
            Step(
                "tool_load",
                r"F_{tool} = \frac{(F_{res} - F_{rd})(\delta_{S0} + \delta_P + \delta_{Nut}) + f_Z}"
                r"{\delta_{S0} + \delta_P}",
                {
                    r"F_{res}": wanted,
                    r"F_{rd}": rundown,
                    r"\delta_{S0}": stud.dS0,
                    r"\delta_P": joint.dP,
                    r"\delta_{Nut}": stud.dNut,
                    r"f_Z": f_Z_um / 1000.0,
                },
                tool,
                "N",
            ),
            Step(
                "pressure",
                r"p = \frac{F_{tool}}{0.1 \cdot A \cdot n \cdot \eta}",
                {r"F_{tool}": tool, "A": area, "n": float(n), r"\eta": eta},
                p,
                "bar",
            ),
            Step(
                "peak",
                r"\nu = \frac{F_{tool} + F_{rd}}{A_0 \cdot R_{p0.2}}",
                {
                    r"F_{tool}": tool,
                    r"F_{rd}": rundown,
                    "A_0": joint.smallest_mm2,
                    r"R_{p0.2}": number(x, "Rp02_MPa"),
                },
                peak,
                "",
            ),
        ),
        picture={"residual": wanted, "tool": tool, "peak": peak, "pressure": p},
    )


def stretch(x: Inputs) -> Reckoning:
    """Return the stretch to expect under a load, by where it is measured from."""
    joint, F = joint_of(x), number(x, "F_N")
    stud = joint.stud
    assert stud is not None
    own, face = F * stud.delta_own, F * (stud.dS0 + joint.dP + stud.dGN)
    turning = F * (joint.bolt.delta_S + joint.dP)
    length = number(x, "thread_low_mm") + number(x, "shank_length_mm") + number(x, "thread_high_mm")
    u_read = number(x, "U_reading_mm") / 2.0
    doubt = u_preload_elongation(own, stud.delta_own, u_read, number(x, "u_dT_K"), length, USUAL.stiffness)
    share = F / joint.smallest_mm2 / number(x, "Rp02_MPa")
    return Reckoning(
        told=(
            Told("stretch_own_mm", own, Quantity.LENGTH, spread=2.0 * USUAL.stiffness * own),
            Told("stretch_face_mm", face, Quantity.LENGTH, spread=2.0 * USUAL.stiffness * face),
            Told("nut_turn_deg", 360.0 * turning / joint.thread.P_mm, Quantity.ANGLE),
            Told("F_from_stretch_N", F, Quantity.FORCE, spread=doubt.U_rel_pct / 100.0 * F),
            Told("yield_share", share, Quantity.RATIO),
        ),
        notes=("beyond_yield",) if share >= 1.0 else ("datum", "typical_stiffness"),
        why=(
            Step(
                "stretch_own", r"\Delta L = F \cdot \delta_{own}", {"F": F, r"\delta_{own}": stud.delta_own}, own, "mm"
            ),
            Step(
                "stretch_face",
                r"x = F \cdot (\delta_{S0} + \delta_P + \delta_{GN})",
                {"F": F, r"\delta_{S0}": stud.dS0, r"\delta_P": joint.dP, r"\delta_{GN}": stud.dGN},
                face,
                "mm",
            ),
            Step(
                "nut_turn",
                r"\theta = \frac{360 \cdot F \cdot (\delta_S + \delta_P)}{P}",
                {"F": F, r"\delta_S": joint.bolt.delta_S, r"\delta_P": joint.dP, "P": joint.thread.P_mm},
                360.0 * turning / joint.thread.P_mm,
                "deg",
            ),
        ),
        picture={"own": own, "face": face, "length": length, "share": share},
    )


def _back_off_notes(budget: LooseningBudget, jack: float, turns: float) -> tuple[str, ...]:
    notes = []
    if jack < budget.jack_turns_min_conservative:
        notes.append("jack_may_trap")
    if not budget.stroke_ok:
        notes.append("stroke_short")
    if turns < budget.nut_turns_min_conservative:
        notes.append("nut_may_seat")
    if budget.nut_room_ok is False:
        notes.append("nut_no_room")
    return tuple(notes) or ("back_off_good",)


def back_off(x: Inputs) -> Reckoning:
    """Return how far to back off tool and nut before loosening, whatever load is in the stud."""
    joint, p = joint_of(x), number(x, "p_ceiling_bar")
    stud, P = joint.stud, joint.thread.P_mm
    assert stud is not None
    opening = p * newton_per_bar(number(x, "A_mm2"), _elements(x), number(x, "eta"))
    jack, turns = number(x, "jack_turns"), number(x, "nut_turns")
    take_up, stroke, room = (number(x, name) for name in ("takeup_mm", "stroke_max_mm", "nut_clearance_mm"))
    # F0 = 0 is the worst case for the stroke, the opening load the worst for back-off: both are asked.
    budget = loosening_budget(
        0.0, opening, stud.dS0, joint.dP, stud.dNut, stud.dU, P, jack, turns, stroke, take_up, stud.dGN, room
    )
    share = opening / joint.smallest_mm2 / number(x, "Rp02_MPa")
    least, most = budget.jack_turns_min_conservative, budget.jack_turns_max
    notes = _back_off_notes(budget, jack, turns)
    return Reckoning(
        told=(
            Told("jack_turns_min", math.ceil(4.0 * least) / 4.0, None, counted=True),
            Told("jack_turns_max", max(0, math.floor(4.0 * most)) / 4.0, None, counted=True),
            Told("nut_turns_min", math.ceil(4.0 * budget.nut_turns_min_conservative) / 4.0, None, counted=True),
            Told("travel_mm", budget.travel_mm, Quantity.LENGTH),
            Told("F_free_ratio", release_ratio(stud.dS0, joint.dP, stud.dNut), Quantity.RATIO),
            Told("yield_share", share, Quantity.RATIO),
        ),
        notes=(*notes, "over_yield_limit") if share > 0.9 else notes,
        why=(
            Step(
                "opening_stretch",
                r"x_1 = F_{open} \cdot (\delta_{S0} + \delta_P + \delta_U)",
                {r"F_{open}": opening, r"\delta_{S0}": stud.dS0, r"\delta_P": joint.dP, r"\delta_U": stud.dU},
                budget.stretch_total_mm,
                "mm",
            ),
            Step("jack_least", r"n = \frac{x_1}{P}", {"x_1": budget.stretch_total_mm, "P": P}, least, ""),
            Step(
                "jack_most",
                r"n = \frac{s_{max} - s_0 - x_1}{P}",
                {r"s_{max}": stroke, "s_0": take_up, "x_1": budget.stretch_total_mm, "P": P},
                most,
                "",
            ),
            Step(
                "nut_least",
                r"m = \frac{F_{open} \cdot (\delta_{S0} + \delta_P + \delta_{Nut})}{P}",
                {
                    r"F_{open}": opening,
                    r"\delta_{S0}": stud.dS0,
                    r"\delta_P": joint.dP,
                    r"\delta_{Nut}": stud.dNut,
                    "P": P,
                },
                budget.nut_turns_min_conservative,
                "",
            ),
        ),
        picture={"least": least, "most": most, "turns": jack, "stroke": stroke, "travel": budget.travel_mm},
    )


PRESSURE = Question(
    "pressure",
    (field("F_res_N", Quantity.FORCE, "kN", "860"), *TENSIONED, *_TOOL, _RATING, *_SETTLING, *_GAUGE),
    pressure,
)
STRETCH = Question(
    "stretch",
    (
        field("F_N", Quantity.FORCE, "kN", "860"),
        *TENSIONED,
        field("U_reading_mm", Quantity.LENGTH, "mm", "0.02", Group.DOUBT),
        field("u_dT_K", Quantity.TEMPERATURE_DIFFERENCE, "K_diff", "1", Group.DOUBT),
    ),
    stretch,
)
BACK_OFF = Question(
    "back_off",
    (
        field("p_ceiling_bar", Quantity.PRESSURE, "bar", "1150"),
        field("jack_turns", None, "", "1"),
        field("nut_turns", None, "", "1"),
        *TENSIONED,
        *_TOOL,
        field("stroke_max_mm", Quantity.LENGTH, "mm", "10", Group.TOOL),
        field("takeup_mm", Quantity.LENGTH, "mm", "0.5", Group.TOOL),
        field("nut_clearance_mm", Quantity.LENGTH, "mm", "6", Group.TOOL),
    ),
    back_off,
)
