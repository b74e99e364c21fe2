"""Points that only somebody of a stated rank confirms, and who may answer a call."""

from __future__ import annotations

from enum import StrEnum
from uuid import UUID

from jorvek.core.procedure.steps import HoldPointStep, LiftStep, MakeSafeStep, RestoreStep
from jorvek.core.rights import Act, Role, may, may_sign_as
from jorvek.core.run.log.cells import Cell, InputType
from jorvek.core.run.log.state import RunState


def wanted_rank(state: RunState, cell: Cell) -> Role | None:
    """Return the lowest rank that may confirm a point; None when anybody at work may."""
    step = state.definition.steps_by_id[cell.step_id]
    return step.by if isinstance(step, LiftStep | MakeSafeStep | RestoreStep) else None


def signing_rank(state: RunState, cell: Cell) -> Role | None:
    """Return the lowest rank that may sign a hold point; None for a call that is no signature."""
    step = state.definition.steps_by_id[cell.step_id]
    return step.signed_by if isinstance(step, HoldPointStep) and cell.ask is InputType.SIGNATURE else None


class Bar(StrEnum):
    """Why somebody else answers a call."""

    ROLE = "role"
    RANK = "rank"
    OWN_WORK = "own_work"


def barred(state: RunState, cell: Cell, person_id: UUID, role: Role) -> Bar | None:
    """Tell why a person may not answer a call; None where they may.

    A signature stands on its signer's rank, and nobody signs for what their own hands did; any other answer wants the
    right to record, and the rank that its point names.
    """
    signed_by = signing_rank(state, cell)
    if signed_by is not None:
        own = any(person_id in one.hands for key in cell.uses for one in state.tries(key))
        return _below(role, signed_by) or (Bar.OWN_WORK if own else None)
    if not may(role, Act.RECORD):
        return Bar.ROLE
    wanted = wanted_rank(state, cell)
    return None if wanted is None else _below(role, wanted)


def _below(role: Role, wanted: Role) -> Bar | None:
    return None if may_sign_as(role, wanted) else Bar.RANK
