"""The calls that a tablet may walk by itself while it has no link: the rest of the present stage, in order."""

from __future__ import annotations

from typing import Final

from jorvek.core.run.log.cells import Cell, InputType
from jorvek.core.run.log.state import RunState
from jorvek.core.run.rules.ageing import asked_now
from jorvek.core.run.rules.engine_effects import moves_door
from jorvek.core.run.rules.progress import open_cells
from jorvek.core.run.views.calls import Call, call_of
from jorvek.core.run.views.labels import View
from jorvek.core.run.views.looking import Looking

_BY_HAND: Final = frozenset(
    {
        InputType.TICK,
        InputType.VALUE,
        InputType.FEELER,
        InputType.CHOICE,
        InputType.WORDS,
        InputType.COUNT,
        InputType.PULL,
        InputType.TURN,
    }
)
"""A tool is checked against the register, a signature against a PIN, a figure is worked out: those wait."""


class AheadCall(View):
    """A call to come, and the cells of its stage that have to be filled before it."""

    call: Call
    needs: tuple[str, ...]


class Ahead(View):
    """What may be done without a link; ``seq`` is the event it was made after.

    Attributes:
        step: the present stage; None when nothing may be done without a link.
    """

    seq: int
    step: str | None
    calls: tuple[AheadCall, ...]


def offline_tasks(state: RunState, looking: Looking) -> Ahead:
    """Return the calls of the present stage that a person may answer without a link, in working order.

    Those that are filled are among them: one that is struck has to be answered again. While the turning gear is known
    to be free there are none: without a link nobody hears that it is locked again.
    """
    now = open_cells(state)
    if not now or state.gear is not None or asked_now(state, looking.now):
        return Ahead(seq=state.seq, step=None, calls=())
    step = now[0].step
    taken = {name for part in state.parts if part.by.id != looking.person_id for name in part.fasteners}
    cells = [c for c in dict(state.definition.steps)[step] if _alone(state, c) and c.fastener not in taken]
    calls = tuple(AheadCall(call=call_of(state, c, looking), needs=_needs(state, c, step)) for c in cells)
    return Ahead(seq=state.seq, step=step, calls=calls)


def _alone(state: RunState, cell: Cell) -> bool:
    by_hand = cell.ask in _BY_HAND and cell.traits.offline and not cell.deliberate and cell.wait_s == 0
    return by_hand and not moves_door(state, cell)


def _needs(state: RunState, cell: Cell, step: str) -> tuple[str, ...]:
    by_key = state.definition.by_key
    return tuple(key for key in cell.needs if by_key[key].step == step)
