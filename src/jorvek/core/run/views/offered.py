"""What a call offers to whoever types: a setting as it stands when it is right, and how readings began before.

Nothing of a measurement is offered but whole units that were read at other points of the step.
"""

from __future__ import annotations

import re
from dataclasses import replace
from typing import Final

from jorvek.core.procedure.cell_items import CellItem
from jorvek.core.run.log import events as ev
from jorvek.core.run.log.cells import Cell, InputType, Rule
from jorvek.core.run.log.state import RunState
from jorvek.core.run.rules.on_instrument import shown_on
from jorvek.core.run.views.labels import View
from jorvek.core.run.views.rows import limit_of
from jorvek.core.units import Quantity


class SetTo(View):
    """What an instrument shows when a setting is right, as somebody would type it."""

    text: str
    unit: str


_SET_BY_HAND: Final = frozenset({CellItem.PROVE, CellItem.RAISE, CellItem.SETTING})
"""The ceiling at the pump, the pressure of a stage, the torque of a wrench; where it sank to afterwards is read."""


def set_to(state: RunState, cell: Cell) -> SetTo | None:
    """Return the aim of what hands set on a drawn instrument; what is measured is read, and never offered."""
    shown = shown_on(state, cell) if cell.what in _SET_BY_HAND and cell.rule is Rule.SETTING else None
    # The marks of a wrench are those of its own scale, whatever unit the book is written in.
    marked = replace(cell, unit="N.m") if cell.quantity is Quantity.TORQUE else cell
    aim = None if shown is None else limit_of(marked, shown.aim)
    return None if aim is None or marked.unit is None else SetTo(text=aim.text, unit=marked.unit)


_START = re.compile(r"-?\d+[.,]")
_MOST: Final = 2


def starts(state: RunState, cell: Cell) -> dict[str, tuple[str, ...]]:
    """Return the whole units that an instrument showed at the other points of this step.

    They stay from point to point while the digits behind the mark change, and typing them again is where figures
    change places.
    """
    if cell.ask is not InputType.VALUE:
        return {}
    alike = (c for c in state.definition.by_step[cell.step] if c.what is cell.what and c.key != cell.key)
    read = sorted((a for a in (state.live(c.key) for c in alike) if a is not None), key=lambda a: a.seq, reverse=True)
    found: dict[str, list[str]] = {}
    for answer in (a.answer for a in read):
        begun = _START.match(answer.text) if isinstance(answer, ev.ValueAnswer) else None
        if begun is not None and isinstance(answer, ev.ValueAnswer):
            known = found.setdefault(answer.unit, [])
            start = begun[0].replace(",", ".")
            if start not in known and len(known) < _MOST:
                known.append(start)
    return {unit: tuple(known) for unit, known in found.items()}
