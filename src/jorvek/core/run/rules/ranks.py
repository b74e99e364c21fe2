"""Points that only somebody of a stated rank confirms."""

from __future__ import annotations

from jorvek.core.procedure.steps import LiftStep, MakeSafeStep, RestoreStep
from jorvek.core.rights import Role
from jorvek.core.run.log.cells import Cell
from jorvek.core.run.log.state import RunState


def wanted_rank(state: RunState, cell: Cell) -> Role | None:
    """Return the lowest rank that may confirm a point; None when anybody at work may."""
    step = state.definition.steps_by_id[cell.step_id]
    return step.by if isinstance(step, LiftStep | MakeSafeStep | RestoreStep) else None
