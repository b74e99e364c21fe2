"""The lines of a run's work sheet, to be keyed in."""

from __future__ import annotations

from dataclasses import replace

from jorvek.core.figures import Figure
from jorvek.core.run.log.cells import Cell, InputType
from jorvek.core.run.log.state import RunState
from jorvek.core.run.rules.paper_entry import NOT_FROM_PAPER
from jorvek.core.run.views.calls import call_of
from jorvek.core.run.views.labels import Label, naming
from jorvek.core.run.views.rows import Row, row_of


class PaperLine(Label):
    """One line to be keyed in, in working order.

    Attributes:
        as_stretch: aim and band are those of the stretch.
        units: units that a value may have, the sheet's first.
        choices: answers that may be written, each by its number too.
        row: what stands there already.
    """

    attempt: int
    ask: InputType
    aim: Figure | None
    lower: Figure | None
    upper: Figure | None
    as_stretch: bool
    units: tuple[str, ...]
    choices: tuple[str, ...]
    by_hand: bool
    row: Row | None


def paper_lines(state: RunState) -> tuple[PaperLine, ...]:
    """Return all lines of a run's work sheet, in working order, with what stands there already."""
    return tuple(_line(state, cell) for cell in state.definition.cells)


def _line(state: RunState, cell: Cell) -> PaperLine:
    live = state.live(cell.key)
    blank = replace(cell, ask=InputType.TICK) if cell.ask is InputType.SEEN else cell
    call = call_of(state, blank)
    return PaperLine(
        **naming(state, cell) | {"text": call.text},
        attempt=call.attempt,
        ask=cell.ask,
        aim=call.figure,
        lower=call.lower,
        upper=call.upper,
        as_stretch=call.as_stretch,
        units=call.units,
        choices=cell.choices,
        by_hand=cell.ask not in NOT_FROM_PAPER,
        row=row_of(state, live) if live else None,
    )
