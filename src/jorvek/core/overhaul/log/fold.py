"""From events to the state of an overhaul: one event at a time, pure and always the same."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import replace
from datetime import datetime
from typing import Final

from jorvek.core.overhaul.log import events as ov
from jorvek.core.overhaul.log.state import (
    TURNING_GEAR,
    Air,
    CrankNow,
    Declared,
    Deflections,
    DoorNow,
    HotWork,
    Inside,
    IsolationNow,
    Line,
    Overhaul,
    PersonalLock,
    PlanInForce,
    Stop,
    Test,
)
from jorvek.core.procedure.parts import Isolation
from jorvek.core.refusal import Refusal

OVERTAKEN: Final = "paper_overtaken"
"""Said against something told later of which the log knows something newer: it is kept, and changes nothing."""


def begin(event: ov.OverhaulEvent) -> Overhaul:
    """Return the state after an overhaul's first event.

    Raises:
        Refusal: ``log_broken`` when the event does not open one.
    """
    data = event.data
    if not isinstance(data, ov.Opened) or event.seq != 1:
        raise Refusal("log_broken", seq=event.seq, why="first event does not open an overhaul")
    line = Line(event.seq, event.id, event.at, event.author, data)
    return Overhaul(
        event.overhaul_id, data, event.at, event.author, event.seq, event.at, scope=data.scope, lines=(line,)
    )


def advance(state: Overhaul, event: ov.OverhaulEvent) -> Overhaul:
    """Return the state after one more event; the given state is left as it was.

    Raises:
        Refusal: ``log_broken`` when the event does not follow on.
    """
    if event.seq != state.seq + 1:
        raise Refusal("log_broken", seq=event.seq, why="sequence has a gap")
    line = Line(event.seq, event.id, event.at, event.author, event.data)
    after = replace(state, seq=event.seq, last_at=event.at, lines=(*state.lines, line))
    if isinstance(event.data, ov.StruckOut):
        return _without(after, event.data.entry, event.seq)
    return _apply(after, line)


def fold(events: Iterable[ov.OverhaulEvent]) -> Overhaul:
    """Return the state that a whole log adds up to.

    Raises:
        Refusal: ``log_broken`` when the log is empty or does not hang together.
    """
    state: Overhaul | None = None
    for event in events:
        state = begin(event) if state is None else advance(state, event)
    if state is None:
        raise Refusal("log_broken", seq=0, why="empty")
    return state


def _without(state: Overhaul, entry: int, by: int) -> Overhaul:
    """Return the overhaul as if an entry had never been made; the entry itself stays to be read."""
    lines = tuple(replace(line, struck_by=by) if line.seq == entry else line for line in state.lines)
    return _replayed(replace(state, struck=state.struck | {entry}, lines=lines), lines)


def as_of(state: Overhaul, at: datetime) -> Overhaul:
    """Return the overhaul as it stood at a moment: by what was done by then, whenever it was entered."""
    # Whoever looks later sees what was so before.
    by_then = (line for line in state.lines if line.done_at <= at or isinstance(line.data, ov.ToldConfirmed))
    return _replayed(state, tuple(by_then))


def _replayed(state: Overhaul, lines: tuple[Line, ...]) -> Overhaul:
    """Return what some of the lines add up to, those that were struck left aside."""
    bare = Overhaul(
        state.overhaul_id, state.opened, state.opened_at, state.opened_by, state.seq, state.last_at,
        scope=state.opened.scope, struck=state.struck, lines=state.lines,
    )  # fmt: skip
    for line in lines:
        if line.seq > 1 and line.struck_by is None and not isinstance(line.data, ov.StruckOut):
            bare = _apply(bare, line)
    return bare


def _apply(state: Overhaul, line: Line) -> Overhaul:
    """What was told later and makes things safer changes nothing before somebody has looked; the rest counts."""
    told = getattr(line.data, "told", None)
    if told == "safer":
        return replace(state, told=(*state.told, line))
    if isinstance(line.data, ov.ToldConfirmed):
        return _looked_at(state, line.data.entry)
    if told is None:
        return _effect(replace(state, told=tuple(one for one in state.told if not _settles(line, one))), line)
    doubted = replace(state, told=(*state.told, line))
    return doubted if getattr(line.data, "against", None) == OVERTAKEN else _effect(doubted, line)


def _looked_at(state: Overhaul, entry: int) -> Overhaul:
    found = next((one for one in state.told if one.seq == entry), None)
    if found is None:
        return state
    left = replace(state, told=tuple(one for one in state.told if one.seq != entry))
    return _effect(left, found) if getattr(found.data, "told", None) == "safer" else left


def _settles(line: Line, waiting: Line) -> bool:
    """Tell whether something that is done and seen now answers what was told of the same thing.

    What makes the engine less safe is answered by somebody else than whoever told it.
    """
    data, told = line.data, waiting.data
    if getattr(told, "told", None) == "less_safe" and waiting.by.id == line.by.id:
        return False
    match data:
        case ov.Isolated() | ov.Restored():
            return isinstance(told, ov.Isolated | ov.Restored) and told.point == data.point
        case ov.CrankFound():
            return isinstance(told, ov.CrankFound | ov.CrankMoved)
        case ov.ConditionsDeclared():
            return isinstance(told, ov.ConditionsDeclared) and told.found.keys() <= data.found.keys()
        case ov.DoorMoved():
            return isinstance(told, ov.DoorMoved) and told.door == data.door
        case ov.Left():
            return isinstance(told, ov.Left) and told.entered == data.entered
        case _:
            return False


def _effect(state: Overhaul, line: Line) -> Overhaul:  # noqa: PLR0912 — one case for each kind of event
    data = line.data
    if isinstance(data, _OPENS_AGAIN) or (isinstance(data, ov.DoorMoved) and data.now == "open"):
        state = replace(state, seen={})
    match data:
        case ov.ScopeSet():
            return replace(state, scope=data.scope)
        case ov.ConditionsDeclared():
            return _declared(state, line, data)
        case ov.Isolated():
            now = IsolationNow(line.seq, line.done_at, line.done_by, data.point, data.lock, data.permit, data.run)
            return replace(state, isolations={**state.isolations, data.point: now})
        case ov.Lifted():
            test = Test(line.seq, line.at, line.by, data.points, data.test, data.guards)
            return replace(_lift(state, data.points, line.seq), tests=(*state.tests, test))
        case ov.GearFreed():
            return _gear_freed(state, line, data)
        case ov.GearLocked():
            return _put_back(state, data.freed)
        case ov.PutBack():
            return _put_back(state, data.lifted)
        case ov.Restored():
            return _restored(state, data.point)
        case ov.LockHung():
            return replace(
                state, locks=(*state.locks, PersonalLock(line.seq, line.id, line.done_at, line.done_by, data.lock))
            )
        case ov.LockOff():
            return replace(state, locks=tuple(k for k in state.locks if k.seq != data.hung))
        case ov.DoorMoved():
            door = DoorNow(line.seq, line.done_at, line.done_by, data.now == "open")
            return replace(state, doors={**state.doors, data.door: door})
        case ov.Entered():
            return replace(state, inside=(*state.inside, _inside(line, data)))
        case ov.Left():
            return replace(state, inside=tuple(i for i in state.inside if i.seq != data.entered))
        case ov.AttendantRelieved():
            return replace(state, inside=tuple(_relieved(one, data) for one in state.inside))
        case ov.AirTested():
            air = Air(line.at, line.by, data.oxygen_pct, data.gas_pct)
            return replace(state, air={**state.air, data.space: air})
        case ov.HotWorkBegan():
            return replace(state, hot_work=(*state.hot_work, HotWork(line.seq, line.at, line.by, data)))
        case ov.HotWorkEnded():
            return replace(state, hot_work=tuple(one for one in state.hot_work if one.seq != data.began))
        case ov.TabletAnswered():
            return replace(state, answered={**state.answered, data.tablet: data.heard_at})
        case ov.EngineStopped():
            return replace(state, stop=_latest(state.stop, Stop(line.seq, data.stopped_at, line.by, data.cause)))
        case ov.CrankFound():
            return replace(state, crank=CrankNow(line.seq, line.done_at, line.done_by, data.angle_deg, data.proof))
        case ov.CrankLost():
            return replace(state, crank=CrankNow(line.seq, line.at, line.by, None, data.words))
        case ov.CrankMoved():
            # Where a move has ended that was told later, nobody knows before it is read on the wheel.
            angle = data.to_deg if data.told is None else None
            crank = CrankNow(line.seq, line.done_at, line.done_by, angle, data.commander, data.run)
            return replace(state, crank=crank)
        case ov.AttitudeSet():
            return replace(state, attitude=data.attitude)
        case ov.CrankCarried():
            return replace(state, crank_carried=data.carried)
        case ov.DebtPaid():
            return replace(state, paid=state.paid | {(data.run, data.cell)})
        case ov.SeenTo():
            doors = {} if data.check == "doors" else state.doors
            return replace(_barred(state, line, data), seen={**state.seen, data.check: line}, doors=doors)
        case ov.DeflectionsRead():
            read = Deflections(line.seq, line.at, line.by, data)
            return replace(state, deflections={**state.deflections, data.when: read})
        case ov.Witnessed():
            return replace(state, witnesses=(*state.witnesses, data))
        case ov.RunIn():
            return replace(state, run_in={**state.run_in, data.stop: line})
        case ov.PlanTaken():
            return replace(state, plan=PlanInForce(line.seq, line.at, line.by, data))
        case ov.OverhaulClosed():
            return replace(state, status="closed", closed_at=line.at)
        case ov.Remarked() | ov.HandedOver() | ov.Opened() | ov.StruckOut() | ov.ToldConfirmed():
            return state


def _latest(known: Stop | None, said: Stop) -> Stop:
    """What an earlier stop would end sooner than the latest one does not count."""
    return said if known is None or said.at >= known.at else known


_OPENS_AGAIN: Final = (ov.ConditionsDeclared, ov.Isolated, ov.LockHung, ov.Entered, ov.HotWorkBegan)
"""After these the engine is worked on again: what was seen to before does not count any more."""


def _barred(state: Overhaul, line: Line, data: ov.SeenTo) -> Overhaul:
    """After two turns the crank stands where nobody has read it."""
    if data.check != "barred" or data.run is not None:
        return state
    return replace(state, crank=CrankNow(line.seq, line.at, line.by, None, data.words))


def _declared(state: Overhaul, line: Line, data: ov.ConditionsDeclared) -> Overhaul:
    found = dict(state.declared)
    for joint, condition in data.found.items():
        one = Declared(line.seq, line.done_at, line.done_by, condition, data.after.get(joint), data.words)
        found[joint] = (*found.get(joint, ()), one)
    return replace(state, declared=found)


def _restored(state: Overhaul, point: Isolation) -> Overhaul:
    """A turning gear that is taken out for good is freed for no move any more."""
    left = tuple(t for t in state.tests if not (t.moves_crank and point in t.points))
    return replace(state, isolations={k: v for k, v in state.isolations.items() if k != point}, tests=left)


def _gear_freed(state: Overhaul, line: Line, data: ov.GearFreed) -> Overhaul:
    points = (TURNING_GEAR,)
    freed = Test(line.seq, line.at, line.by, points, "", data.commander, moves_crank=True, run=data.run)
    return replace(_lift(state, points, line.seq), tests=(*state.tests, freed))


def _put_back(state: Overhaul, lifted: int) -> Overhaul:
    points = tuple(p for t in state.tests if t.seq == lifted for p in t.points)
    left = tuple(t for t in state.tests if t.seq != lifted)
    return replace(_lift(state, points, None), tests=left)


def _lift(state: Overhaul, points: tuple[Isolation, ...], by: int | None) -> Overhaul:
    now = {k: replace(v, lifted=by) if k in points else v for k, v in state.isolations.items()}
    return replace(state, isolations=now)


def _relieved(one: Inside, data: ov.AttendantRelieved) -> Inside:
    return replace(one, attendant=data.to.name, attended_by=data.to) if one.seq == data.entered else one


def _inside(line: Line, data: ov.Entered) -> Inside:
    return Inside(
        seq=line.seq,
        id=line.id,
        at=line.done_at,
        by=line.done_by,
        person=data.person,
        space=data.space,
        door=data.door,
        permit=data.permit,
        until_at=data.until_at,
        attendant=data.attendant,
        attended_by=data.attended_by,
        oxygen_pct=data.oxygen_pct,
        gas_pct=data.gas_pct,
        against=data.against,
    )
