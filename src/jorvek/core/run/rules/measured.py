"""Figures that are worked out from several readings of a gate, and the part they choose."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from statistics import fmean
from typing import Final

from jorvek.core.measuring.bearing import bearing_clearance
from jorvek.core.measuring.bore import bore_form, straightness
from jorvek.core.measuring.deflection import Deflection, web_deflection
from jorvek.core.measuring.rings import ring_gap_check
from jorvek.core.procedure.cell_items import CellItem
from jorvek.core.procedure.steps import ChoosePartStep, DeflectionStep, GateStep
from jorvek.core.procedure.steps.measuring import BoreForm, Straightness
from jorvek.core.run.log.cells import Cell
from jorvek.core.run.log.state import RunState
from jorvek.core.run.rules.blocked_reason import blocked_reason


def _readings(state: RunState, cell: Cell) -> list[float]:
    """Return the corrected readings that a figure rests on.

    Raises:
        Refusal: ``not_yet`` while one is missing.
    """
    found: list[float] = []
    for key in cell.uses:
        live = state.live(key)
        if live is None or live.judgement.corrected is None:
            raise blocked_reason(state, cell.key, key)
        found.append(live.judgement.corrected)
    return found


def _spread(state: RunState, cell: Cell, readings: list[float]) -> float:
    return max(readings) - min(readings)


def _clearance(state: RunState, cell: Cell, readings: list[float]) -> float:
    bore_C, journal_C = readings[-2:]
    bores, journals = readings[:-2:2], readings[1:-2:2]
    return bearing_clearance(bores, journals, bore_C, journal_C).min_mm


def _float(state: RunState, cell: Cell, readings: list[float]) -> float:
    return abs(fmean(readings[::2]) - fmean(readings[1::2]))


def _gate(state: RunState, cell: Cell) -> GateStep:
    step = state.definition.steps_by_id[cell.step_id]
    assert isinstance(step, GateStep)
    return step


def _figure_of(cell: Cell) -> CellItem:
    assert cell.what is not None
    return cell.what


def _form(state: RunState, cell: Cell, readings: list[float]) -> float:
    gate = _gate(state, cell).gate
    assert isinstance(gate, BoreForm)
    wide = len(gate.angles)
    grid = [readings[k : k + wide] for k in range(0, len(readings), wide)]
    form = bore_form(
        [d.value for d in gate.depths], [a.value for a in gate.angles], grid, nominal_mm=gate.nominal.value
    )
    figures = {
        CellItem.OVALITY: form.ovality_max_mm,
        CellItem.TAPER: form.taper_max_mm,
        CellItem.WEAR: form.wear_max_mm or 0.0,
    }
    return figures[_figure_of(cell)]


def _straight(state: RunState, cell: Cell, readings: list[float]) -> float:
    gate = _gate(state, cell).gate
    assert isinstance(gate, Straightness)
    return straightness([p.value for p in gate.points], readings).min_zone_mm


def _apart(state: RunState, cell: Cell, readings: list[float]) -> float:
    return min(ring_gap_check([r % 360.0 for r in readings], 0.0).sep_deg)


def _deflected(state: RunState, cell: Cell, readings: list[float]) -> float:
    found = deflection_of(state, cell, readings)
    figures = {
        CellItem.VERTICAL: found.vertical_mm,
        CellItem.HORIZONTAL: found.horizontal_mm,
        CellItem.CLOSES: found.closes_mm,
    }
    return figures[_figure_of(cell)]


def deflection_of(state: RunState, cell: Cell, readings: list[float] | None = None) -> Deflection:
    """Return what the five readings of a web tell.

    Raises:
        Refusal: ``not_yet`` while one is missing.
    """
    step = state.definition.steps_by_id[cell.step_id]
    assert isinstance(step, DeflectionStep)
    return web_deflection(_readings(state, cell) if readings is None else readings, step.vertical.value)


_FIGURES: Final[dict[CellItem, Callable[[RunState, Cell, list[float]], float]]] = {
    CellItem.WITHIN: _spread,
    CellItem.DIFFERENCE: _spread,
    CellItem.CLEARANCE: _clearance,
    CellItem.FLOAT: _float,
    CellItem.OVALITY: _form,
    CellItem.TAPER: _form,
    CellItem.WEAR: _form,
    CellItem.STRAIGHTNESS: _straight,
    CellItem.APART: _apart,
    CellItem.VERTICAL: _deflected,
    CellItem.HORIZONTAL: _deflected,
    CellItem.CLOSES: _deflected,
}


def form_figure(state: RunState, cell: Cell) -> float:
    """Return the figure that a call shows to be seen, in the glossary unit.

    Raises:
        Refusal: ``not_yet`` while a reading is missing; those of the sum when readings contradict each other.
    """
    return _FIGURES[_figure_of(cell)](state, cell, _readings(state, cell))


@dataclass(frozen=True)
class Chosen:
    """What a measurement chooses.

    Attributes:
        figure_mm: the figure that decides.
        part: the part; None when the table has none for it.
    """

    figure_mm: float
    part: str | None


def chosen_part(state: RunState, cell: Cell) -> Chosen:
    """Return the part that a choice step's table gives for its measurement.

    Raises:
        Refusal: ``not_yet`` while the measurement is not whole.
    """
    step = state.definition.steps_by_id[cell.step_id]
    assert isinstance(step, ChoosePartStep)
    points = [c for c in state.definition.cells if c.step_id == step.gate and c.what is CellItem.POINT]
    readings: list[float] = []
    for point in points:
        live = state.live(point.key)
        if live is None or live.judgement.corrected is None:
            raise blocked_reason(state, cell.key, point.key)
        readings.append(live.judgement.corrected)
    figure_mm = fmean(readings) if step.statistic == "mean" else max(readings)
    last = step.table[-1]
    for row in step.table:
        upper = figure_mm <= row.up_to.value if row is last else figure_mm < row.up_to.value
        if row.above.value <= figure_mm and upper:
            return Chosen(figure_mm, row.part)
    return Chosen(figure_mm, None)
