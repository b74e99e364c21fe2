"""A figure that cannot be is asked about before it is stored, never found out afterwards."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from statistics import median
from typing import Final

from jorvek.core.figures import figure
from jorvek.core.procedure.cell_items import CellItem
from jorvek.core.procedure.steps import GateStep, StretchStep, StudLengthStep
from jorvek.core.procedure.steps.measuring import BoreForm
from jorvek.core.refusal import Refusal
from jorvek.core.run.log import events as ev
from jorvek.core.run.log.cells import Cell, Rule
from jorvek.core.run.log.state import Attempt, RunState
from jorvek.core.run.rules.friction import tested_friction
from jorvek.core.run.rules.measured import form_figure
from jorvek.core.run.rules.slips import meant
from jorvek.core.units import GLOSSARY_UNIT, convert

_SHARE: Final = 0.05
"""Two sizes of one bore or journal never differ by more; the sums of ``core.measuring`` refuse them, too."""
_LENGTH_SHARE: Final = 0.2


def demand_likely(state: RunState, cell: Cell, answer: ev.Answer, corrected: float | None) -> None:
    """Ask about a size that is far from what is measured there.

    Raises:
        Refusal: ``figure_meant`` with the figure that was probably meant; ``figure_unlikely`` where
            no slip of the decimal point explains it.
    """
    about = _size_about(state, cell)
    if not isinstance(answer, ev.ValueAnswer) or corrected is None or about is None:
        return
    if _near(corrected, *about):
        return
    assert cell.quantity is not None
    question = _question(cell, answer, about)
    if question is not None:
        raise question
    shown = figure(about[0], cell.quantity, answer.unit)
    raise Refusal("figure_unlikely", got=answer.text, unit=shown.unit, about=shown.text)


def meant_for(state: RunState, cell: Cell, answer: ev.ValueAnswer) -> Refusal | None:
    """Return the question to ask about a figure outside the physical range that a slipped point explains.

    Only where a call knows its size or its aim: without one, every power of ten is as good as another.
    """
    about = _size_about(state, cell) or ((cell.target, _LENGTH_SHARE) if cell.target else None)
    if cell.quantity is None or about is None:
        return None
    return _question(cell, answer, about)


def _question(cell: Cell, answer: ev.ValueAnswer, about: tuple[float, float]) -> Refusal | None:
    assert cell.quantity is not None
    size, share = about
    shown = figure(size, cell.quantity, answer.unit)
    ends = ((1.0 - share) * size, (1.0 + share) * size)
    low, high = sorted(convert(x, cell.quantity, GLOSSARY_UNIT[cell.quantity], answer.unit) for x in ends)
    offered = meant(answer.text, low, high)
    if offered is None:
        return None
    return Refusal("figure_meant", got=answer.text, unit=shown.unit, about=shown.text, meant=offered)


def _near(value: float, size: float, share: float) -> bool:
    return abs(value - size) <= share * abs(size)


def _size_about(state: RunState, cell: Cell) -> tuple[float, float] | None:
    """Return the size that is measured in a call and how far a reading may lie from it; None where nothing tells."""
    step = state.definition.steps_by_id[cell.step_id]
    if isinstance(step, GateStep) and isinstance(step.gate, BoreForm):
        return step.gate.nominal.value, _SHARE
    if cell.what in (CellItem.BORE, CellItem.JOURNAL):
        return _of_peers(state, cell)
    end_to_end = isinstance(step, StudLengthStep) or (isinstance(step, StretchStep) and step.datum == "end_to_end")
    if end_to_end and cell.what is CellItem.LENGTH and cell.fastener is not None:
        return state.definition.groups[cell.fastener].free_length.value, _LENGTH_SHARE
    return None


def _of_peers(state: RunState, cell: Cell) -> tuple[float, float] | None:
    """A diameter without a nominal one is compared with the others of its gate."""
    peers = [c for c in state.definition.cells if c.step == cell.step and c.what in (CellItem.BORE, CellItem.JOURNAL)]
    live = [state.live(c.key) for c in peers if c.key != cell.key]
    sizes = [a.judgement.corrected for a in live if a is not None and a.judgement.corrected is not None]
    return (median(sizes), _SHARE) if sizes else None


_MADE: Final[dict[Rule, Callable[[RunState, Cell], object]]] = {
    Rule.FORM: form_figure,
    Rule.FRICTION: tested_friction,
}


def demand_sums_possible(state: RunState, reading: Attempt) -> None:
    """Refuse a reading that makes a figure impossible which rests on it: nothing would come of it afterwards.

    Args:
        state: the run as it stands.
        reading: the answer as it would be kept.

    Raises:
        Refusal: ``readings_at_odds`` naming the figure, with the reason of the sum as its cause.
    """
    after = replace(state, attempts={**state.attempts, reading.cell: (*state.tries(reading.cell), reading)})
    by_key = state.definition.by_key
    for key in state.definition.users[reading.cell]:
        figure_cell = by_key[key]
        made = _MADE.get(figure_cell.rule)
        if made is None or any(after.live(used) is None for used in figure_cell.uses):
            continue
        try:
            made(after, figure_cell)
        except Refusal as why:
            raise Refusal("readings_at_odds", item=figure_cell.item_word) from why
