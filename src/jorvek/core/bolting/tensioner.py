"""Hydraulic tensioners: tool load, what stays in the stud, and the stress it sees."""

from __future__ import annotations

import math
from dataclasses import dataclass

from jorvek.core import checks
from jorvek.core.bolting.stud import StudElasticity
from jorvek.core.refusal import Refusal


def tensioner_force(p_bar: float, A_mm2: float, n_stack: int = 1, eta: float = 1.0, F_spring_N: float = 0.0) -> float:
    """Return the load in N that a tensioner puts on one stud.

    Elements stacked on one stud share the pressure and add their forces. Tools on other
    studs of the same hose never add.

    Args:
        p_bar: oil pressure at the tool in bar (gauge), zero or above.
        A_mm2: effective piston area of one element in mm².
        n_stack: stacked elements on the stud, 1 … 10.
        eta: efficiency of the tool, 0.5 … 1.
        F_spring_N: load of the return spring in N, zero or above.

    Returns:
        The load in N.

    Raises:
        Refusal: ``E_TYPE``, ``E_FINITE``, ``E_RANGE``; also when the spring is stronger than
            the oil.

    Source: hydrostatics, F = 0.1 p A n η − F_spring (1 bar = 0.1 N/mm²).
    """
    p = checks.not_negative("p_bar", p_bar)
    area = checks.positive("A_mm2", A_mm2)
    n = checks.count("n_stack", n_stack, 1, 10)
    efficiency = checks.within("eta", eta, 0.5, 1.0)
    force = 0.1 * p * area * n * efficiency - checks.not_negative("F_spring_N", F_spring_N)
    if force < 0.0:
        raise Refusal("E_RANGE", name="F_spring_N", got=F_spring_N, low=0.0, high=None)
    return force


def tensioner_pressure(F_N: float, A_mm2: float, n_stack: int = 1, eta: float = 1.0, F_spring_N: float = 0.0) -> float:
    """Return the oil pressure in bar for a wanted tool load; inverse of ``tensioner_force``.

    Args:
        F_N: tool load in N, zero or above.
        A_mm2: effective piston area of one element in mm².
        n_stack: stacked elements on the stud, 1 … 10.
        eta: efficiency of the tool, 0.5 … 1.
        F_spring_N: load of the return spring in N, zero or above.

    Returns:
        The pressure in bar (gauge).

    Raises:
        Refusal: ``E_TYPE``, ``E_FINITE``, ``E_RANGE``.

    Source: hydrostatics.
    """
    force = checks.not_negative("F_N", F_N) + checks.not_negative("F_spring_N", F_spring_N)
    area = checks.positive("A_mm2", A_mm2) * checks.count("n_stack", n_stack, 1, 10)
    return force / (0.1 * area * checks.within("eta", eta, 0.5, 1.0))


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


def transfer_derived(
    F_tool_N: float,
    dS0: float,
    dP: float,
    dNut: float,
    f_Z_um: float = 0.0,
    F_rundown_N: float = 0.0,
) -> Transfer:
    """Return the residual load after nut run-down and release of the tool.

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
    """Return the tool load in N that leaves a wanted residual load; inverse of the transfer.

    Args:
        F_res_N: wanted residual load in N, above the run-down load.
        dS0: resilience of the stud up to the nut bearing plane in mm/N.
        dP: resilience of the clamped parts in mm/N.
        dNut: resilience loaded only when the nut carries in mm/N.
        f_Z_um: embedding in µm.
        F_rundown_N: load from running the nut down in N.

    Returns:
        The tool load in N.

    Raises:
        Refusal: ``E_TYPE``, ``E_FINITE``, ``E_RANGE``.

    Source: derived here, ``transfer_derived`` solved for the tool load.
    """
    residual, s0 = checks.positive("F_res_N", F_res_N), checks.positive("dS0", dS0)
    rundown = checks.not_negative("F_rundown_N", F_rundown_N)
    if residual <= rundown:
        raise Refusal("E_RANGE", name="F_res_N", got=residual, low=rundown, high=None)
    p, nut = checks.not_negative("dP", dP), checks.not_negative("dNut", dNut)
    f_mm = checks.not_negative("f_Z_um", f_Z_um) * 1e-3
    return ((residual - rundown) * (s0 + p + nut) + f_mm) / (s0 + p)


def tightening_travel_mm(stud: StudElasticity, dP: float, F_tool_N: float, takeup_mm: float) -> float:
    """Return the piston travel in mm for tightening a slack stud up to a tool load.

    Args:
        stud: elasticity of the stud.
        dP: resilience of the clamped parts in mm/N, zero or above.
        F_tool_N: tool load in N, zero or above.
        takeup_mm: slack of threads and spacer in mm, zero or above.

    Returns:
        The travel in mm, to be held against the stroke of the tool.

    Raises:
        Refusal: ``E_TYPE``, ``E_FINITE``, ``E_RANGE``.

    Source: derived here; no gap, because for tightening the piston is pressed home and the
    tool is not backed off.
    """
    stretch = stud.dS0 + checks.not_negative("dP", dP) + stud.dU
    return checks.not_negative("takeup_mm", takeup_mm) + checks.not_negative("F_tool_N", F_tool_N) * stretch
