"""The running-in: after an overhaul is closed, the first start and the named stops after it."""

from __future__ import annotations

from jorvek.core.overhaul.log import commands as oc
from jorvek.core.overhaul.log import events as ov
from jorvek.core.overhaul.log.state import Overhaul
from jorvek.core.refusal import Refusal
from jorvek.core.rights import Act, demand
from jorvek.core.sheet.document import FIRST_START, EngineSheet


def stops_of(sheet: EngineSheet) -> tuple[str, ...]:
    """Return the stops of the running-in in order: the first start, then those of the sheet."""
    return (FIRST_START, *(stop.id for stop in sheet.running_in)) if sheet.running_in else ()


def next_stop(state: Overhaul, sheet: EngineSheet) -> str | None:
    """Return the stop that is next after an overhaul was closed; None for a single job, and when all were made."""
    if state.status != "closed" or state.opened.small:
        return None
    return next((stop for stop in stops_of(sheet) if stop not in state.run_in), None)


def note_run_in(state: Overhaul, command: oc.NoteRunIn, context: oc.EngineContext) -> ov.RunIn:
    """Note a stop of the running-in: after the overhaul was closed, one after the other.

    Raises:
        Refusal: ``not_your_right``; ``not_closed_yet``, ``no_such_stop``, ``stop_made``, ``stop_before_its_turn``.
    """
    demand(context.actor.role, Act.RECORD)
    stops = stops_of(context.sheet)
    if state.status != "closed":
        raise Refusal("not_closed_yet")
    if command.stop not in stops:
        raise Refusal("no_such_stop", stop=command.stop)
    if command.stop in state.run_in:
        raise Refusal("stop_made", stop=command.stop)
    first = next((s for s in stops[: stops.index(command.stop)] if s not in state.run_in), None)
    if first is not None:
        raise Refusal("stop_before_its_turn", stop=command.stop, first=first)
    return ov.RunIn(stop=command.stop, words=command.words)
