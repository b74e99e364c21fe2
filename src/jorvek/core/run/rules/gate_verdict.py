"""The verdict on readings of gates that are more than a figure against its limits."""

from __future__ import annotations

from typing import Final

from jorvek.core.procedure.steps import GateStep
from jorvek.core.procedure.steps.measuring import EndFloat
from jorvek.core.refusal import Refusal
from jorvek.core.run.log import events as ev
from jorvek.core.run.log.cells import Cell
from jorvek.core.run.log.state import RunState
from jorvek.core.run.rules.guard_band_verdict import APART, corrected_of, guarded, in_unit, reason_of
from jorvek.core.run.rules.strip import clearance_at, scale_of, uncertainty_mm
from jorvek.core.units import Quantity, symbol

_UNKNOWN_MM: Final = 0.02
"""Two graduations of a dial gauge in hundredths."""


def judge_strip(state: RunState, cell: Cell, base: ev.Judgement, unit: str) -> ev.Judgement:
    """A width told as a clearance; beyond the printed scale nothing is told, so it is not good."""
    width = base.corrected or 0.0
    _demand_wider(state, cell, width, unit)
    clearance, scale = clearance_at(state, cell, width), scale_of(state, cell)
    if clearance is None:
        end = scale[0] if width < scale[0][0] else scale[-1]
        reason = reason_of(cell, "narrower_than_scale" if end is scale[0] else "wider_than_scale", clearance=end[1])
        limits = {"lower": cell.lower, "upper": cell.upper}
        return base.model_copy(update={"verdict": ev.Verdict.OUT_OF_BAND, "reasons": (reason,), **limits})
    of_clearance = base.model_copy(update={"uncertainty": uncertainty_mm(scale, width, base.uncertainty or 0.0)})
    return guarded(cell, of_clearance, clearance, cell.lower, cell.upper, None)


def _demand_wider(state: RunState, cell: Cell, width: float, unit: str) -> None:
    """The widest width of a place is not below its narrowest one."""
    narrowest = state.live(cell.needs[0]) if cell.needs else None
    least = None if narrowest is None else narrowest.judgement.corrected
    if least is not None and width < least - 1e-9:
        shown = {name: in_unit(one, Quantity.LENGTH, unit) for name, one in (("got", width), ("narrowest", least))}
        raise Refusal("narrower_than_narrowest", unit=symbol(unit), **shown)


def judge_repeat(state: RunState, cell: Cell, base: ev.Judgement) -> ev.Judgement:
    """A reading that is taken again where one was taken already: do they agree?"""
    earlier = [corrected_of(state, key) for key in cell.uses]
    apart = max(abs((base.corrected or 0.0) - one) for one in earlier)
    if apart <= agree_within(state, cell) + 1e-9:
        return base.model_copy(update={"verdict": ev.Verdict.IN_BAND})
    return base.model_copy(
        update={"verdict": ev.Verdict.OUT_OF_BAND, "reasons": (reason_of(cell, "repeats_disagree", by=apart),)}
    )


def agree_within(state: RunState, cell: Cell) -> float:
    """Return how far readings of one place may lie apart, in the glossary unit.

    Source: the author's figure; else derived here: what two readings of the instrument differ by in 95 of 100 cases,
    and two graduations where nothing is known of it.
    """
    step = state.definition.steps_by_id[cell.step_id]
    if isinstance(step, GateStep) and isinstance(step.gate, EndFloat) and step.gate.agree_within is not None:
        return step.gate.agree_within.value
    tool = state.tool(cell.tool_role)
    if tool is None or tool.quantity is not cell.quantity:
        return _UNKNOWN_MM
    return max(APART * tool.expanded_uncertainty(), 2.0 * (tool.resolution or 0.0))


def noted(base: ev.Judgement, judged: float) -> ev.Judgement:
    """Keep a figure for which nothing states a range."""
    return base.model_copy(update={"judged": judged})


def within(cell: Cell, base: ev.Judgement, judged: float, limits: tuple[float, float], doubt: float) -> ev.Judgement:
    """Hold a figure against a range: only what is clearly outside is out."""
    lower, upper = limits
    update: dict[str, object] = {"judged": judged, "lower": lower, "upper": upper, "verdict": ev.Verdict.IN_BAND}
    if not lower - doubt <= judged <= upper + doubt:
        code, by = ("below_band", lower - judged) if judged < lower else ("above_band", judged - upper)
        update |= {"reasons": (reason_of(cell, code, by=by),), "verdict": ev.Verdict.OUT_OF_BAND}
    return base.model_copy(update=update)
