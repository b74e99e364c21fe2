"""What a run hears of a change at its engine: calls that rested on it open again, work waits for the turning gear."""

from __future__ import annotations

from uuid import UUID, uuid5

from jorvek.core.run.log.commands import CommandBase, ReopenForEngine, TellGear
from jorvek.core.run.rules.engine_effects import reopen_for_engine, tell_gear
from jorvek.store.eventlog import Stamp
from jorvek.work.workshop import Workshop


def ask_cells_again(
    workshop: Workshop,
    run_id: UUID,
    cells: tuple[str, ...],
    why: str,
    command: CommandBase,
    stamp: Stamp,
) -> None:
    """Open calls of a run again.

    Belongs in one transaction with the change that asks for it, under the lock that the change was made under.

    Args:
        workshop: where the run is kept.
        run_id: the run.
        cells: the calls that rested on what has changed.
        why: what has changed, in words.
        command: what led to it.
        stamp: who, and when.

    Raises:
        Refusal: ``nothing_to_redo`` when none of the calls stands.
    """
    redo = ReopenForEngine(id=uuid5(command.id, str(run_id)), tablet_at=command.tablet_at, cells=cells, why=why)
    workshop.log.append(run_id, redo, stamp, lambda state: reopen_for_engine(state, redo))


def tell_of_gear(
    workshop: Workshop, run_id: UUID, commander: str | None, command: CommandBase, stamp: Stamp, *, own: bool
) -> None:
    """Tell a run that the turning gear is free for a move, or locked again; what it knows already it is not told.

    Belongs in one transaction with the change, under the engine's lock.

    Args:
        workshop: where the run is kept.
        run_id: the run.
        commander: who commands the move; None when the gear is locked again.
        command: what led to it.
        stamp: who, and when.
        own: a call of this very run asks for the move.
    """
    if (workshop.log.snapshot(run_id).state.gear is None) == (commander is None):
        return
    told = TellGear(id=uuid5(command.id, f"gear {run_id}"), tablet_at=command.tablet_at, commander=commander, own=own)
    workshop.log.append(run_id, told, stamp, lambda state: tell_gear(state, told))
