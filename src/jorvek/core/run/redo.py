"""What must be done again, by physics, when one thing is done again."""

from __future__ import annotations

from jorvek.core.refusal import Refusal
from jorvek.core.run.cells import Cell
from jorvek.core.run.state import RunState


def redo_scope(state: RunState, key: str) -> tuple[str, ...]:
    """Return the filled cells that open again when the work of one cell is done again.

    Under pressure a nut and its feeler can be repeated alone; once the pressure is off, the
    tools must go back on and the joint is pulled again from the seating of the tools. A
    length is read again together with its temperature.

    Args:
        state: the run as it stands.
        key: a filled cell.

    Returns:
        Keys in working order, with everything whose judgement rests on them.

    Raises:
        Refusal: ``no_such_cell``; ``nothing_to_redo`` when the cell is empty; ``moment_gone``
            for a free length once the studs have been loaded.
    """
    cell = state.definition.by_key.get(key)
    if cell is None:
        raise Refusal("no_such_cell", cell=key)
    if state.live(key) is None:
        raise Refusal("nothing_to_redo", cell=key)
    wanted = _group(state, cell)
    for member in tuple(wanted):
        wanted |= set(state.definition.users[member])
    return tuple(c.key for c in state.definition.cells if c.key in wanted and state.live(c.key) is not None)


def _group(state: RunState, cell: Cell) -> set[str]:
    if cell.kind in ("stud_length", "thread_above_nut"):
        demand_moment(state, cell)
    if cell.kind in ("stud_length", "stretch"):
        return _same(state, cell, fastener=True)
    if cell.kind in ("tension", "relieve", "remove_tool", "seat_tool", "vent", "ceiling"):
        return _hydraulic(state, cell)
    return {cell.key}


def demand_moment(state: RunState, cell: Cell) -> None:
    """Refuse to take back a reading whose moment has passed.

    Raises:
        Refusal: ``moment_gone``.
    """
    if cell.gone_after is not None and state.live(cell.gone_after) is not None:
        raise Refusal("moment_gone", cell=cell.key, after=cell.gone_after)


def _same(state: RunState, cell: Cell, *, fastener: bool) -> set[str]:
    return {
        c.key for c in state.definition.cells if c.step == cell.step and (not fastener or c.fastener == cell.fastener)
    }


def _hydraulic(state: RunState, cell: Cell) -> set[str]:
    if cell.kind == "tension" and not _released(state, cell):
        alone = cell.item in ("nut", "feeler")
        lowest = {c.key for c in state.definition.cells if c.step == cell.step and c.item == "lowest"}
        return _same(state, cell, fastener=True) | lowest if alone else _same(state, cell, fastener=False)
    pulled = any(c.kind == "tension" and c.item == "raise" and state.live(c.key) for c in state.definition.cells)
    if not pulled:
        return {cell.key}
    return _from_seating(state)


def _released(state: RunState, cell: Cell) -> bool:
    return cell.gone_after is not None and state.live(cell.gone_after) is not None


def _from_seating(state: RunState) -> set[str]:
    kinds = [c.kind for c in state.definition.cells]
    start = kinds.index("seat_tool")
    return {c.key for c in state.definition.cells[start:]}
