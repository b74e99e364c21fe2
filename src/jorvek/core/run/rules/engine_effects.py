"""Where a joint's run meets the engine as a whole: what it gives back, what it leaves to others, what asks again."""

from __future__ import annotations

from typing import Final

from jorvek.core.procedure.cell_items import WEBS, CellItem
from jorvek.core.procedure.metal_parts import Act
from jorvek.core.procedure.parts import Isolation
from jorvek.core.procedure.steps import MakeSafeStep, RestoreStep
from jorvek.core.refusal import Refusal
from jorvek.core.run.log import events as ev
from jorvek.core.run.log.cells import Cell
from jorvek.core.run.log.commands import KeyIn, RecordReading, ReopenForEngine, TellGear, TryPressure
from jorvek.core.run.log.state import RunState
from jorvek.core.run.rules.metal import moves_of

_LEAVES_SHUT: Final[tuple[Act, ...]] = ("put_in", "lay", "oil", "seal", "clean", "measure", "look")
"""What may be done to a part that shuts the crankcase without taking it away; what only words say is not among it."""


def gives_back(state: RunState, cell: Cell) -> bool:
    """Tell whether a call gives back a part of the engine's isolation."""
    return isinstance(state.definition.steps_by_id[cell.step_id], RestoreStep)


def point_of(state: RunState, cell: Cell) -> Isolation | None:
    """Return the isolation point that a call makes safe or gives back; None for any other."""
    step = state.definition.steps_by_id[cell.step_id]
    if not isinstance(step, MakeSafeStep | RestoreStep):
        return None
    return next((i.isolates for i in step.items if i.id == cell.item), None)


_MOVES: Final = frozenset((CellItem.REACHED, CellItem.INCHED, CellItem.TURNED, *WEBS))
"""Items after which the crank stands elsewhere; what is looked at before, and proved after, moves nothing."""


def moves_crank(state: RunState, cell: Cell) -> bool:
    """Tell whether the crank has moved when a call is answered: the turning gear is free for that."""
    return turns_crank(state, cell) and (cell.what in _MOVES or point_of(state, cell) == "barred")


def turns_crank(state: RunState, cell: Cell) -> bool:
    """Tell whether a call belongs to a move of the crank: to a step that turns it, or to the engine's last barring."""
    return cell.traits.crank == "turns" or point_of(state, cell) == "barred"


def demand_gear_locked(state: RunState, command: RecordReading | KeyIn | TryPressure) -> None:
    """Refuse work at a joint while the turning gear is free; the calls for whose move it was freed go on.

    Raises:
        Refusal: ``gear_freed``.
    """
    if state.gear is None:
        return
    cell = None if isinstance(command, TryPressure) else state.definition.by_key.get(command.cell)
    if cell is None or not (state.gear.own and turns_crank(state, cell)):
        raise Refusal("gear_freed", by=state.gear.commander)


def tell_gear(state: RunState, command: TellGear) -> ev.GearTold:
    """Take down that the turning gear is free for a move of the crank, or locked again."""
    if (command.commander is None) == (state.gear is None):
        raise Refusal("E_DATA", name="commander")
    return ev.GearTold(commander=command.commander, own=command.own)


def moves_door(state: RunState, cell: Cell) -> bool:
    """Tell whether a call opens or shuts the space in which somebody may be."""
    return shuts_door(state, cell) or opens_crankcase(state, cell)


def opens_crankcase(state: RunState, cell: Cell) -> bool:
    """Tell whether a call takes something out of its place that shuts the crankcase, or nobody can tell that not."""
    moves = moves_of(state)
    step = state.definition.steps_by_id[cell.step_id]
    shutting = any(moves.parts[name].traits.opens_crankcase for name in moves.touched(step))
    return shutting and moves.act(step) not in _LEAVES_SHUT


def shuts_door(state: RunState, cell: Cell) -> bool:
    """Tell whether a call puts a door back before the space in which somebody may be."""
    moves = moves_of(state)
    step = state.definition.steps_by_id[cell.step_id]
    doors = any(moves.parts[name].kind == "crankcase_door" for name in moves.touched(step))
    return doors and moves.act(step) == "put_in"


def may_be_left_to_engine(state: RunState, cell: Cell) -> bool:
    """Tell whether a call may be left to whoever is last on the engine.

    What gives back an isolation, and what can only be seen once that is given back: a step before which the author has
    put a restoring that was left to the engine itself.
    """
    return gives_back(state, cell) or any(
        any(order.step == cell.step_id for order in step.must_precede) and _left(state, step.id)
        for step in state.definition.procedure.steps
        if isinstance(step, RestoreStep)
    )


def _left(state: RunState, step: str) -> bool:
    cells = [c for c in state.definition.cells if c.step_id == step]
    answers = [state.live(c.key) for c in cells]
    return bool(cells) and all(a is not None and isinstance(a.answer, ev.LeftToEngineAnswer) for a in answers)


def left_to_engine(state: RunState, cell: Cell, relied_on: tuple[str, ...]) -> ev.Judgement:
    """Leave a call to whoever is last on the engine.

    Args:
        state: the run as it stands.
        cell: the call.
        relied_on: what else relies on the isolations.

    Raises:
        Refusal: ``not_for_engine`` where nothing else relies on them, or the call is none of that sort.
    """
    if not relied_on or not may_be_left_to_engine(state, cell):
        raise Refusal("not_for_engine", cell=cell.key)
    reason = ev.Reason(code="left_to_engine", params={"by": _some(relied_on)})
    return ev.Judgement(verdict=ev.Verdict.LEFT_OUT, reasons=(reason,))


def demand_not_relied_on(state: RunState, cell: Cell, relied_on: tuple[str, ...]) -> None:
    """Refuse to give back what others on the engine still rely on, or to see what only shows once it is given back.

    Raises:
        Refusal: ``isolation_relied_on``.
    """
    if relied_on and may_be_left_to_engine(state, cell):
        raise Refusal("isolation_relied_on", by=_some(relied_on))


def _some(names: tuple[str, ...]) -> str:
    shown = ", ".join(names[:4])
    return shown if len(names) <= 4 else f"{shown} + {len(names) - 4}"


def reopen_for_engine(state: RunState, command: ReopenForEngine) -> ev.Reopened:
    """Open calls again because something of the engine on which they rested has changed.

    Raises:
        Refusal: ``nothing_to_redo`` when none of them stands.
    """
    steps = {state.definition.by_key[key].step for key in command.cells if key in state.definition.by_key}
    turned = {c.key for c in state.definition.cells if c.step in steps and c.traits.crank == "turns"}
    wanted = {*command.cells, *turned}
    for key in tuple(wanted):
        wanted |= set(state.definition.users.get(key, ()))
    cells = tuple(c.key for c in state.definition.cells if c.key in wanted and state.live(c.key) is not None)
    if not cells:
        raise Refusal("nothing_to_redo", cell=command.cells[0])
    return ev.Reopened(cell=cells[0], cells=cells, reason=command.why)
