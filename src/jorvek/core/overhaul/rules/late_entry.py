"""What is done already when the log hears of it: weighed like everything else, and written down, never refused."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import replace
from datetime import datetime
from typing import Final, Literal

from jorvek.core.overhaul.log import commands as oc
from jorvek.core.overhaul.log import events as ov
from jorvek.core.overhaul.log.fold import OVERTAKEN, as_of
from jorvek.core.overhaul.log.state import Line, Overhaul
from jorvek.core.overhaul.rules.joint_conditions import counts, shown_condition
from jorvek.core.procedure.metal_parts import Condition
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
            begins; ``told_two_ways``; ``paper_overtaken`` where the log knows something newer of the same thing, and
            the line would make the engine safer.
    """
    assert command.paper is not None
    writer = context.people.get(command.paper.by)
    if writer is None:
        raise Refusal("no_such_person")
    less_safe = _takes_trust_away(state, command, context)
    # A lead hand's authority is lent to nobody below; that something was made less safe anybody at work may tell.
    if less_safe:
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
    if newer is not None and not less_safe:
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
    written = OnPaper(by=context.actor, at=paper.at, until=paper.until, why=paper.why, photo=paper.photo)
    return data.model_copy(update={"paper": written})


_LESS_SAFE: Final = (oc.RestorePoint, oc.MoveCrank, oc.TakeLockOff)
"""What takes trust away is never refused because the log knows something newer: it is kept, and looked at."""
_HELD_BY: Final[tuple[Condition, ...]] = ("closed_up", "tight", "landed", "loose", "open")
"""What a joint may be like, what holds it best first."""


def _takes_trust_away(state: Overhaul, command: oc.ListedCommand, context: oc.EngineContext) -> bool:
    if not isinstance(command, oc.DeclareConditions):
        return isinstance(command, _LESS_SAFE)
    return _lets_go(state, command.found, context)


def _lets_go(state: Overhaul, found: Mapping[str, Condition], context: oc.EngineContext) -> bool:
    """Tell whether joints are said to be held less than the log knows, all of them or none.

    Raises:
        Refusal: ``told_two_ways`` where one list says both.
    """
    mine = [run for run in context.runs if counts(state, run)]
    less = {_held_less(shown_condition(state, joint, mine), condition) for joint, condition in found.items()}
    if len(less) > 1:
        raise Refusal("told_two_ways")
    return less == {True}


def _held_less(was: Condition | None, now: Condition) -> bool:
    """Of a joint of which nobody knew anything, only that it was let go takes trust away."""
    return now in ("loose", "open") if was is None else _HELD_BY.index(now) > _HELD_BY.index(was)


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
        case ov.ConditionsDeclared():
            return "less_safe" if _lets_go(state, data.found, context) else "safer"
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
        case oc.DeclareConditions():
            return isinstance(data, ov.ConditionsDeclared) and not data.found.keys().isdisjoint(command.found)
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
