"""Points that only somebody of a stated rank confirms."""

from __future__ import annotations

from jorvek.core.rights import Role
from jorvek.core.run.cells import Cell
from jorvek.core.run.state import RunState


def wanted_rank(state: RunState, cell: Cell) -> Role | None:
    """Return the lowest rank that may confirm a point; None when anybody at work may."""
    wanted = getattr(state.definition.steps_by_id[cell.step_id], "by", None)
    return wanted if isinstance(wanted, Role) else None
