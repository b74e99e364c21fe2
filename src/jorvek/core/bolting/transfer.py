"""From tool load to residual load: what is left when the nut takes over."""

from __future__ import annotations

import math
from dataclasses import dataclass

from jorvek.core import checks
from jorvek.core.bolting.strength import stud_stress_check
from jorvek.core.bolting.stud import E_STEEL_MPA, Section, stud_split
from jorvek.core.bolting.tensioner import below_rating, newton_per_bar
from jorvek.core.bolting.thread import Thread
from jorvek.core.refusal import Refusal

DIRECTIONS = ("tool_to_residual", "residual_to_tool")


@dataclass(frozen=True)
class Transfer:
    """What is left when the nut takes over from the tool.

    Attributes:
        F_res_N: residual load after release.
        ratio: residual load over tool load.
        loss: tool load over residual load, less one.
        loss_nut_N: load lost into the nut's own elasticity.
        loss_embed_N: load lost into embedding.
        F_stud_peak_N: highest load in the stud, tool plus run-down.
    """

    F_res_N: float
    ratio: float
    loss: float
    loss_nut_N: float
    loss_embed_N: float
    F_stud_peak_N: float


@dataclass(frozen=True)
class PressureForResidual:
    """Pressure for a wanted residual load, and what the stud bears for it.

    Attributes:
        F_tool_N: tool load.
        p_bar: pressure.
        utilisation: highest stress over yield.
        allowed: it stays within the limit.
        sigma_MPa: highest stress.
    """

    F_tool_N: float
    p_bar: float
    utilisation: float
    allowed: bool
    sigma_MPa: float


@dataclass(frozen=True)
class GripLoss:
    """Loss at release of a plain threaded stud, by its grip.

    Attributes:
        F_tool_N: tool load for the wanted residual.
        loss: tool load over residual load, less one.
        LLF_rule: what the rule of thumb gives, as tool load over residual load.
        L_over_d: grip over diameter.
    """

    F_tool_N: float
    loss: float
    LLF_rule: float
    L_over_d: float


def transfer_given(F_N: float, loss: float, direction: str = "tool_to_residual") -> float:
    r"""Return the load in N on the other side of a stated loss.

    The loss is a share of the residual load; 10 % of the tool load is another number.

    Args:
        F_N: tool load or residual load in N, zero or above.
        loss: share of the residual load, 0 … 2.
        direction: ``tool_to_residual`` or ``residual_to_tool``.

    Returns:
        The other load in N.

    Raises:
        Refusal: ``E_TYPE``, ``E_FINITE``, ``E_RANGE``; ``E_TABLE`` for another direction.

    Formula:
        F_{res} = \frac{F_{tool}}{1 + x}

    Standing: mechanics.

    Source: definition of the loss.
    """
    F, factor = checks.not_negative("F_N", F_N), 1.0 + checks.within("loss", loss, 0.0, 2.0)
    return F / factor if checks.choice("direction", direction, DIRECTIONS) == "tool_to_residual" else F * factor


def transfer_rule_of_thumb(d_mm: float, L_mm: float) -> float:
    r"""Return the load loss factor of the rule of thumb, tool load over residual load.

    Args:
        d_mm: nominal diameter in mm.
        L_mm: grip in mm.

    Returns:
        The factor.

    Raises:
        Refusal: ``E_TYPE``, ``E_FINITE``, ``E_RANGE``; also for a grip shorter than the diameter, for which the
            rule was never meant.

    Formula:
        LLF = 1.01 + \frac{d}{L}

    Standing: quoted; well above the derived loss for short studs.

    Source: rule of thumb among tensioner users.
    """
    d, grip = checks.positive("d_mm", d_mm), checks.positive("L_mm", L_mm)
    if grip < d:
        raise Refusal("E_RANGE", name="L_mm", got=grip, low=d, high=None)
    return 1.01 + d / grip


def transfer_derived(
    F_tool_N: float,
    dS0: float,
    dP: float,
    dNut: float,
    f_Z_um: float = 0.0,
    F_rundown_N: float = 0.0,
) -> Transfer:
    r"""Return the residual load after nut run-down and release of the tool.

    Before release the stud below the nut carries tool plus run-down load and the nut only
    the run-down load; afterwards everything carries the residual load. Equal lengths before
    and after give the balance.

    Args:
        F_tool_N: tool load in N, above zero.
        dS0: resilience of the stud up to the nut bearing plane in mm/N, above zero.
        dP: resilience of the clamped parts in mm/N, zero or above.
        dNut: resilience loaded only when the nut carries in mm/N, zero or above.
        f_Z_um: embedding in µm of the faces loaded for the first time at release.
        F_rundown_N: load from running the nut down with the bar in N.

    Returns:
        The transfer.

    Raises:
        Refusal: ``E_TYPE``, ``E_FINITE``, ``E_RANGE``; also when nothing would remain.

    Formula:
        F_{res} = F_{rd} + \frac{F_{tool} (\delta_{S0} + \delta_P) - f_Z}{\delta_{S0} + \delta_P + \delta_{Nut}}

    Standing: mechanics; which parts load when is a model.

    Source: derived here from compatibility; cross-checked against the inverse and the limit
    of a rigid nut (all of the tool load stays).
    """
    tool, s0 = checks.positive("F_tool_N", F_tool_N), checks.positive("dS0", dS0)
    p, nut = checks.not_negative("dP", dP), checks.not_negative("dNut", dNut)
    f_mm = checks.not_negative("f_Z_um", f_Z_um) * 1e-3
    rundown = checks.not_negative("F_rundown_N", F_rundown_N)
    total = s0 + p + nut
    loss_nut, loss_embed = tool * nut / total, f_mm / total
    residual = rundown + tool - loss_nut - loss_embed
    if residual <= 0.0 or not math.isfinite(residual):
        raise Refusal("E_RANGE", name="F_res_N", got=residual, low=0.0, high=None)
    return Transfer(residual, residual / tool, tool / residual - 1.0, loss_nut, loss_embed, tool + rundown)


def tool_load_for_residual(
    F_res_N: float,
    dS0: float,
    dP: float,
    dNut: float,
    f_Z_um: float = 0.0,
    F_rundown_N: float = 0.0,
) -> float:
    r"""Return the tool load in N that leaves a wanted residual load; inverse of the transfer.

    Args:
        F_res_N: wanted residual load in N, above the run-down load.
        dS0: resilience of the stud up to the nut bearing plane in mm/N, above zero.
        dP: resilience of the clamped parts in mm/N, zero or above.
        dNut: resilience loaded only when the nut carries in mm/N, zero or above.
        f_Z_um: embedding in µm, zero or above.
        F_rundown_N: load from running the nut down in N, zero or above.

    Returns:
        The tool load in N.

    Raises:
        Refusal: ``E_TYPE``, ``E_FINITE``, ``E_RANGE``.

    Formula:
        F_{tool} = \frac{(F_{res} - F_{rd})(\delta_{S0} + \delta_P + \delta_{Nut}) + f_Z}{\delta_{S0} + \delta_P}

    Standing: mechanics; which parts load when is a model.

    Source: derived here, ``transfer_derived`` solved for the tool load.
    """
    residual, s0 = checks.positive("F_res_N", F_res_N), checks.positive("dS0", dS0)
    rundown = checks.not_negative("F_rundown_N", F_rundown_N)
    if residual <= rundown:
        raise Refusal("E_RANGE", name="F_res_N", got=residual, low=rundown, high=None)
    p, nut = checks.not_negative("dP", dP), checks.not_negative("dNut", dNut)
    f_mm = checks.not_negative("f_Z_um", f_Z_um) * 1e-3
    return ((residual - rundown) * (s0 + p + nut) + f_mm) / (s0 + p)


def pressure_for_residual(
    F_res_N: float,
    dS0: float,
    dP: float,
    dNut: float,
    A_mm2: float,
    thread: Thread,
    Rp02_MPa: float,
    n_stack: int = 1,
    eta: float = 1.0,
    f_Z_um: float = 0.0,
    F_rundown_N: float = 0.0,
    d_shank_mm: float | None = None,
    limit: float = 0.9,
    p_max_bar: float | None = None,
) -> PressureForResidual:
    r"""Return the pressure that leaves a wanted load, and the stress at its peak.

    A stress above the limit is reported, not refused; a pressure above the rating is refused.

    Args:
        F_res_N: wanted residual load in N, above the run-down load.
        dS0: resilience of the stud up to the nut bearing plane in mm/N.
        dP: resilience of the clamped parts in mm/N.
        dNut: resilience loaded only when the nut carries in mm/N.
        A_mm2: effective piston area of one element in mm².
        thread: the thread.
        Rp02_MPa: yield strength in MPa.
        n_stack: stacked elements on the stud, 1 … 10.
        eta: efficiency of the tool, 0.5 … 1.
        f_Z_um: embedding in µm.
        F_rundown_N: load from running the nut down in N.
        d_shank_mm: shank diameter in mm; governs when smaller than the stress diameter.
        limit: allowed share of yield at the peak, 0.3 … 1.
        p_max_bar: rating of the tool in bar, if known.

    Returns:
        Tool load, pressure, stress and share of yield.

    Raises:
        Refusal: ``E_TYPE``, ``E_FINITE``, ``E_RANGE`` (also above the rating).

    Formula:
        p = \frac{F_{tool}}{0.1\, A n \eta}, \quad \sigma = \frac{F_{tool} + F_{rd}}{A_0}

    Standing: mechanics; the transfer is a model.

    Source: ``tool_load_for_residual``, ``tensioner_pressure`` and ``stud_stress_check``.
    """
    tool = tool_load_for_residual(F_res_N, dS0, dP, dNut, f_Z_um, F_rundown_N)
    stress = stud_stress_check(tool + F_rundown_N, thread, Rp02_MPa, d_shank_mm, limit)
    pressure = below_rating(tool / newton_per_bar(A_mm2, n_stack, eta), p_max_bar)
    return PressureForResidual(tool, pressure, stress.utilisation, stress.allowed, stress.sigma_MPa)


def transfer_vs_grip(
    L_mm: float,
    thread: Thread,
    F_res_N: float,
    joint_area_ratio: float = 8.0,
    E_MPa: float = E_STEEL_MPA,
    E_joint_MPa: float = E_STEEL_MPA,
    f_Z_um: float = 6.0,
    bottom: str = "tapped",
) -> GripLoss:
    r"""Return the derived loss of a fully threaded stud by its grip.

    Args:
        L_mm: grip in mm.
        thread: the thread.
        F_res_N: wanted residual load in N.
        joint_area_ratio: area of the clamped parts over the nominal area, 0.5 … 100.
        E_MPa: modulus of the stud in MPa.
        E_joint_MPa: modulus of the clamped parts in MPa.
        f_Z_um: embedding in µm.
        bottom: lower end, as in ``stud_split``.

    Returns:
        Tool load, loss, and the rule of thumb beside it.

    Raises:
        Refusal: ``E_TYPE``, ``E_FINITE``, ``E_RANGE``; ``E_TABLE`` for an unknown lower end.

    Formula:
        \delta_P = \frac{L}{E_P\, r\, A_N}

    Standing: model.

    Source: derived here; shows why short studs lose more.
    """
    L, ratio = checks.positive("L_mm", L_mm), checks.within("joint_area_ratio", joint_area_ratio, 0.5, 100.0)
    stud = stud_split(thread, [Section(L)], bottom, thread.d_mm, 0.0, E_MPa=E_MPa)
    parts = L / (checks.positive("E_joint_MPa", E_joint_MPa) * ratio * thread.AN_mm2)
    tool = tool_load_for_residual(F_res_N, stud.dS0, parts, stud.dNut, f_Z_um)
    return GripLoss(tool, tool / F_res_N - 1.0, transfer_rule_of_thumb(thread.d_mm, L), L / thread.d_mm)
