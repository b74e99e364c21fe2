"""A squeezed strip: its width, read where it is narrowest and widest, told as a clearance by its printed scale."""

from __future__ import annotations

from itertools import pairwise

from jorvek.core.measuring.bearing import strip_clearance, strip_width
from jorvek.core.procedure.steps import GateStep
from jorvek.core.procedure.steps.measuring import StripClearance
from jorvek.core.run.log.cells import Cell
from jorvek.core.run.log.state import RunState

Scale = list[tuple[float, float]]


def scale_of(state: RunState, cell: Cell) -> Scale:
    """Return the printed scale of a strip's call: (width, clearance) in mm, from the narrowest width on."""
    step = state.definition.steps_by_id[cell.step_id]
    assert isinstance(step, GateStep)
    assert isinstance(step.gate, StripClearance)
    return sorted((mark.width.value, mark.clearance.value) for mark in step.gate.scale)


def widths_for(scale: Scale, least_mm: float | None, most_mm: float | None) -> tuple[float | None, float | None]:
    """Return the narrowest and the widest good width in mm for limits of the clearance in mm.

    A limit that the scale does not reach bounds nothing that could be read on it.

    Source: derived here, the inverse of ``strip_clearance``: a narrow strip is a wide gap.
    """
    clearances = [clearance for _, clearance in scale]

    def width(clearance: float | None) -> float | None:
        if clearance is None or not min(clearances) <= clearance <= max(clearances):
            return None
        return strip_width(clearance, scale)

    return width(most_mm), width(least_mm)


def clearance_at(state: RunState, cell: Cell, width_mm: float) -> float | None:
    """Return the clearance in mm that a width tells; None where the printed scale does not reach."""
    scale = scale_of(state, cell)
    if not scale[0][0] <= width_mm <= scale[-1][0]:
        return None
    return strip_clearance(width_mm, scale)


def uncertainty_mm(scale: Scale, width_mm: float, of_width_mm: float) -> float:
    """Return the expanded uncertainty in mm of a clearance from that of its width.

    Source: derived here; the steeper of the two marks beside the width, so that it is never too small.
    """
    slopes = [abs((c1 - c0) / (w1 - w0)) for (w0, c0), (w1, c1) in pairwise(scale) if w0 <= width_mm <= w1]
    return max(slopes, default=0.0) * of_width_mm
