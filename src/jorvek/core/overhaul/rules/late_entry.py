"""What is done already when the log hears of it: weighed like everything else, and written down, never refused."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from datetime import datetime
from typing import Final, Literal

from jorvek.core.overhaul.log import commands as oc
from jorvek.core.overhaul.log import events as ov
from jorvek.core.overhaul.log.fold import OVERTAKEN, as_of
from jorvek.core.overhaul.log.state import Line, Overhaul
from jorvek.core.procedure.parts import Isolation
from jorvek.core.refusal import Refusal
from jorvek.core.rights import Act, demand, demand_may_name
from jorvek.core.run.log.commands import CommandBase
from jorvek.core.run.log.events import OnPaper
from jorvek.core.run.rules.paper_entry import WITHIN


def collect_objections(context: oc.EngineContext, *checks: Callable[[], None]) -> str | None:
    """Hold checks against what is asked: of what is done already the first that speaks against it is named.

    Args:
        context: what is known.
        checks: each raises a refusal where it is not held.

    Raises:
        Refusal: that of the first check which is not held, for what is asked now.
    """
    for check in checks:
        try:
            check()
        except Refusal as refusal:
            if context.happened_at is None:
                raise
            return refusal.code
    return None


def then(state: Overhaul, context: oc.EngineContext) -> Overhaul:
    """Return the overhaul against which something is weighed: as it stood when it was done, or as it stands now."""
    return state if context.happened_at is None else as_of(state, context.happened_at)


def take_from_paper(state: Overhaul, command: oc.ListedCommand, context: oc.EngineContext) -> oc.EngineContext:
    """Return the facts as they were for whoever wrote a line on a list.

    Raises:
        Refusal: ``not_your_right``; ``no_such_person`` for an unknown writer; ``no_writer``, ``writer_above``;
            ``written_when`` for a time before the overhaul, in the future, or weeks ago, or a span that ends before it
            begins; ``paper_overtaken`` where the log knows something newer of the same thing, and the line would make
            the engine safer.
    """
    assert command.paper is not None
    writer = context.people.get(command.paper.by)
    if writer is None:
        raise Refusal("no_such_person")
    # A lead hand's authority is lent to nobody below; that something was made less safe anybody at work may tell.
    if isinstance(command, _LESS_SAFE):
        demand(context.actor.role, Act.RECORD)
    else:
        demand_may_name(context.actor.role, writer.role, writer.name)
    at = command.paper.at
    # Paper knows minutes, not seconds.
    opened = state.opened_at.replace(second=0, microsecond=0)
    earliest, latest = max(context.now - WITHIN, opened), context.now
    if not earliest <= at <= (command.paper.until or at) <= latest:
        raise Refusal("written_when", earliest=earliest.isoformat(), latest=latest.isoformat())
    newer = _newer(state, command, at)
    if newer is not None and not isinstance(command, _LESS_SAFE):
        raise Refusal("paper_overtaken", at=newer.done_at.isoformat(), by=newer.done_by.name)
    return replace(
        context,
        actor=writer,
        happened_at=at,
        runs=tuple(run for run in context.runs if datetime.fromisoformat(run.started) <= at),
        silent=tuple(tablet for tablet in context.silent if tablet.heard_at <= at),
    )


def from_paper(command: oc.ListedCommand, context: oc.EngineContext, data: ov.OverhaulData) -> ov.OverhaulData:
    """Return an event with the hand that wrote it on the list."""
    assert command.paper is not None
    assert isinstance(data, ov.Listed)
    paper = command.paper
    written = OnPaper(by=context.actor, at=paper.at, until=paper.until, why=paper.why)
    return data.model_copy(update={"paper": written})


_LESS_SAFE: Final = (oc.RestorePoint, oc.MoveCrank, oc.TakeLockOff)
"""What takes trust away is never refused because the log knows something newer: it is kept, and looked at."""


def told_later(
    state: Overhaul, command: oc.OverhaulCommand, context: oc.EngineContext, data: ov.OverhaulData
) -> ov.OverhaulData:
    """Return an event that was told later, with what that means.

    What makes things less safe is in doubt until somebody looks, whoever tells it; what makes them safer counts only
    then. One's own lock, a lock that is hung and an entry are nobody else's to look at.
    """
    told = _told(state, context, data)
    if told is None:
        return data
    assert context.happened_at is not None
    newer = told == "less_safe" and _newer(state, command, context.happened_at) is not None
    return data.model_copy(update={"told": told} | ({"against": OVERTAKEN} if newer else {}))


def _told(state: Overhaul, context: oc.EngineContext, data: ov.OverhaulData) -> Literal["less_safe", "safer"] | None:
    match data:
        case ov.Isolated() | ov.Left() | ov.CrankFound():
            return "safer"
        case ov.CrankMoved() | ov.Restored():
            return "less_safe"
        case ov.DoorMoved():
            return None if data.now == "open" else "safer"
        case ov.LockOff():
            own = any(k.seq == data.hung and k.by.id == context.actor.id for k in state.locks)
            return None if own else "less_safe"
        case _:
            return None


def _newer(state: Overhaul, command: CommandBase, at: datetime) -> Line | None:
    """Return what the log knows of the same thing that was done after a moment."""
    after = (line for line in state.lines if line.struck_by is None and line.done_at > at)
    return next((line for line in after if _same_thing(state, command, line)), None)


def _same_thing(state: Overhaul, command: CommandBase, line: Line) -> bool:
    """Tell whether an entry is about what a command is about, so that the newer of them holds."""
    data = line.data
    match command:
        case oc.Isolate() | oc.RestorePoint():
            lifted = isinstance(data, ov.Lifted) and command.point in data.points
            put_back = isinstance(data, ov.PutBack) and _lifted(state, data.lifted, command.point)
            return lifted or put_back or (isinstance(data, ov.Isolated | ov.Restored) and data.point == command.point)
        case oc.FindCrank() | oc.MoveCrank():
            return isinstance(data, ov.CrankFound | ov.CrankLost | ov.CrankMoved)
        case oc.MoveDoor():
            return isinstance(data, ov.DoorMoved) and data.door == command.door
        case oc.Enter():
            return isinstance(data, ov.Entered) and data.person.id == command.person
        case oc.Leave():
            return command.entered == line.seq or command.entry == line.id
        case oc.TakeLockOff():
            return command.hung == line.seq or command.entry == line.id
        case _:
            return False


def _lifted(state: Overhaul, seq: int, point: Isolation) -> bool:
    """Tell whether an entry lifted a point for a test."""
    line = state.line(seq)
    return line is not None and isinstance(line.data, ov.Lifted) and point in line.data.points
