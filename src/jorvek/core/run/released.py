"""What the pressure says at which a nut came free."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Final

from jorvek.core.bolting.release import ReleaseAnalysis, breakaway_analysis, release_ratio, residual_from_breakaway
from jorvek.core.procedure.clamp import ClampModel
from jorvek.core.procedure.steps import LoosenPressureStep
from jorvek.core.run import events as ev
from jorvek.core.run.cells import Cell
from jorvek.core.run.figures import figure
from jorvek.core.run.state import RunState
from jorvek.core.units import Quantity

LOW, HIGH = 0.85, 1.15
"""Shares of the expected pressure between which a stud is healthy. Model; the author's step states what is expected."""
_STEADY: Final = 1e-9


def _pressure_reason(cell: Cell, code: str, **params: float) -> ev.Reason:
    shown = {name: figure(value, Quantity.PRESSURE, cell.unit or "bar") for name, value in params.items()}
    return ev.Reason(code=code, params={name: f"{f.text} {f.unit}" for name, f in shown.items()})


def judge_release(state: RunState, cell: Cell, base: ev.Judgement, ceiling: float | None) -> ev.Judgement:
    """Judge a release pressure against the ceiling and what a healthy stud shows, and turn it into load.

    The nut was tight one try before: the true value lies in an interval, which the record keeps.
    """
    step = state.definition.steps_by_id[cell.step_id]
    assert isinstance(step, LoosenPressureStep)
    model, got = state.definition.clamp_of(cell), base.corrected or 0.0
    reasons: list[ev.Reason] = []
    if ceiling is not None and got > ceiling + _STEADY:
        reasons.append(_pressure_reason(cell, "above_ceiling", ceiling=ceiling))
    if got < LOW * step.expected.value:
        reasons.append(_pressure_reason(cell, "came_free_low", expected=step.expected.value))
    if got > HIGH * step.expected.value:
        reasons.append(_pressure_reason(cell, "came_free_high", expected=step.expected.value))
    load = residual_from_breakaway(
        got, model.area_mm2, model.elements, model.eta, _ratio(model), min(step.step.value, got)
    )
    return base.model_copy(
        update={
            "verdict": ev.Verdict.OUT_OF_BAND if reasons else ev.Verdict.IN_BAND,
            "reasons": tuple(reasons),
            "lower": max(0.0, got - step.step.value),
            "upper": got,
            "clamp_kN": load.F_N / 1000.0,
        }
    )


def _ratio(model: ClampModel) -> float:
    return release_ratio(model.stud.dS0, model.dP, model.stud.dNut)


@dataclass(frozen=True)
class Strip:
    """The release pressures of one step.

    Attributes:
        step: the step, with its cycle.
        names: fasteners in working order.
        pressures: corrected pressure in bar of each, None where it is not noted yet.
        loads_kN: load each speaks for.
        expected_bar: where healthy nuts come free.
        ceiling_bar: never to be passed.
        try_bar: how far the pressure rises between tries.
        analysis: classes and pattern; None before the first.
    """

    step: str
    names: tuple[str, ...]
    pressures: tuple[float | None, ...]
    loads_kN: tuple[float | None, ...]
    expected_bar: float
    ceiling_bar: float | None
    try_bar: float
    analysis: ReleaseAnalysis | None


def strips(state: RunState, ceiling_of: dict[str, float | None]) -> tuple[Strip, ...]:
    """Return the release pressures of a run, step by step."""
    found: list[Strip] = []
    for key, cells in state.definition.steps:
        step = state.definition.steps_by_id[cells[0].step_id]
        if not isinstance(step, LoosenPressureStep):
            continue
        free = [c for c in cells if c.item == "free"]
        live = [state.live(c.key) for c in free]
        pressures = tuple(a.judgement.corrected if a else None for a in live)
        model = state.definition.clamp_of(free[0])
        healthy = residual_from_breakaway(
            step.expected.value, model.area_mm2, model.elements, model.eta, _ratio(model), 0.0
        )
        noted = [p for p in pressures if p is not None]
        analysis = (
            breakaway_analysis(list(pressures), healthy.F_N, model.area_mm2, model.elements, model.eta, _ratio(model))
            if noted
            else None
        )
        found.append(
            Strip(
                step=key,
                names=tuple(c.fastener or "" for c in free),
                pressures=pressures,
                loads_kN=tuple(a.judgement.clamp_kN if a else None for a in live),
                expected_bar=step.expected.value,
                ceiling_bar=ceiling_of.get(key),
                try_bar=step.step.value,
                analysis=analysis,
            )
        )
    return tuple(found)
