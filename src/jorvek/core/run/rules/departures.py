"""Departures from the procedure: by authority, by name, for a reason, and never from what keeps people safe."""

from __future__ import annotations

from jorvek.core.procedure.steps import AncillaryOffStep, TemporaryOnStep
from jorvek.core.refusal import Refusal
from jorvek.core.rights import Act, demand, may_sign_as
from jorvek.core.run.log import events as ev
from jorvek.core.run.log.cells import Cell, InputType
from jorvek.core.run.log.state import RunState


def may_be_left_out(state: RunState, cell: Cell) -> bool:
    """Tell whether a call may be left out at all: nothing safe hangs on it, and no figure rests on it."""
    by_key = state.definition.by_key
    rests = any(by_key[key].ask is not InputType.SIGNATURE for key in state.definition.users[cell.key])
    proves = cell.what in cell.traits.proves
    return cell.traits.leave_out and not (cell.deliberate or rests or proves or _carries(state, cell))


def _carries(state: RunState, cell: Cell) -> bool:
    """Tell whether a part hangs on what the call fits, where the document says so."""
    step = state.definition.steps_by_id[cell.step_id]
    return isinstance(step, TemporaryOnStep | AncillaryOffStep) and step.carries_part


def demand_may_leave_out(state: RunState, cell: Cell, actor: ev.Person) -> None:
    """Refuse to leave a call out where that is never allowed, or to a person who may not.

    Raises:
        Refusal: ``never_left_out``; ``not_your_right``; ``departure_wants`` a higher rank.
    """
    if not may_be_left_out(state, cell):
        raise Refusal("never_left_out", cell=cell.key)
    demand_authority(state, cell, actor)


def demand_authority(state: RunState, cell: Cell, actor: ev.Person) -> None:
    """Refuse a departure from a step to anybody below the authority that the document names for it.

    Raises:
        Refusal: ``not_your_right``; ``departure_wants``.
    """
    demand(actor.role, Act.ACCEPT)
    foreseen = next((d for d in state.definition.procedure.departures if d.step == cell.step_id), None)
    if foreseen is not None and not may_sign_as(actor.role, foreseen.authority):
        raise Refusal("departure_wants", wanted=foreseen.authority.value, rule=foreseen.rule)
