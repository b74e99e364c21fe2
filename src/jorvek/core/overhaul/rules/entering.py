"""People in the confined spaces of an engine, and the locks they hang."""

from __future__ import annotations

from typing import Final
from uuid import UUID

from jorvek.core.overhaul.log import commands as oc
from jorvek.core.overhaul.log import events as ov
from jorvek.core.overhaul.log.state import TURNING_GEAR, Inside, Overhaul, PersonalLock
from jorvek.core.overhaul.rules.hot_work import demand_hours, demand_no_hot_work
from jorvek.core.overhaul.rules.late_entry import collect_objections, then
from jorvek.core.overhaul.rules.open_places import open_doors
from jorvek.core.overhaul.rules.stops import demand_stood
from jorvek.core.overhaul.rules.sweep import demand_no_doubt, demand_no_test, unanswered
from jorvek.core.overhaul.rules.told_late import demand_takes_off
from jorvek.core.refusal import Refusal
from jorvek.core.rights import Act, demand, may
from jorvek.core.run.log.events import Person
from jorvek.core.run.views.on_engine import RunOnEngine

MAY_WAIT: Final = (oc.Enter, oc.Leave, oc.HangLock, oc.TakeLockOff, oc.MoveDoor)
"""What a tablet without a link takes, too: it is done, whoever knows of it."""
_LEAST_OXYGEN_PCT: Final = 19.5
_MOST_OXYGEN_PCT: Final = 23.5
"""Air has 20.9 % of oxygen by volume; outside these bounds nobody goes in. Source: common practice for confined
spaces; the local rule decides where it is stricter."""
_MOST_GAS_PCT: Final = 10.0
"""Of the lower explosive limit; from there on nobody goes in. Source: as above."""


def go_or_come(
    state: Overhaul,
    command: oc.HangLock
    | oc.TakeLockOff
    | oc.MoveDoor
    | oc.Enter
    | oc.Leave
    | oc.TestAir
    | oc.AnswerForTablet
    | oc.RelieveAttendant,
    context: oc.EngineContext,
) -> ov.OverhaulData:
    """Let people in and out by name, and hang their locks.

    Raises:
        Refusal: ``not_your_right``, ``no_such_entry``; ``not_theirs_to_take_off``, ``not_seen`` and ``pin_needed`` for
            taking somebody off the board; ``anothers_lock`` and ``person_inside`` for a lock of somebody else;
            ``no_such_person``, ``inside_already``, ``gear_not_locked``, ``in_doubt``, ``test_under_way``,
            ``hot_work_there``, ``permit_hours``, ``air_not_good``, ``gas_there``, ``own_lock_first`` and
            ``no_such_door``, ``door_not_said`` and ``door_not_open`` for going in; ``no_such_door``, ``not_stood`` and
            ``person_inside`` for a door; ``attends_oneself``, ``attendant_inside``, ``attends_elsewhere``,
            ``attendant_works`` and ``attends_somebody`` for who stands outside; ``not_silent``.
    """
    match command:
        case oc.HangLock():
            demand(context.actor.role, Act.RECORD)
            return ov.LockHung(lock=command.lock)
        case oc.TakeLockOff():
            return _lock_off(state, command, context)
        case oc.MoveDoor():
            return _move_door(state, command, context)
        case oc.Enter():
            return _enter(state, command, context)
        case oc.Leave():
            return _leave(state, command, context)
        case oc.TestAir():
            # A bad air reading is stored like a good one; the board then calls everybody out.
            demand(context.actor.role, Act.RECORD)
            return ov.AirTested(space=command.space, oxygen_pct=command.oxygen_pct, gas_pct=command.gas_pct)
        case oc.AnswerForTablet():
            return _answer(state, command, context)
        case oc.RelieveAttendant():
            return _relieve(state, command, context)


def _move_door(state: Overhaul, command: oc.MoveDoor, context: oc.EngineContext) -> ov.DoorMoved:
    """No door is opened before the engine has stood, and none is shut on anybody."""
    demand(context.actor.role, Act.RECORD)
    door = next((one for one in context.sheet.doors if one.id == command.door), None)
    if door is None:
        raise Refusal("no_such_door", got=command.door, allowed=", ".join(one.id for one in context.sheet.doors))

    def may() -> None:
        was = then(state, context)
        if command.now == "open":
            demand_stood(was, context.sheet, context.happened_at or context.now)
            return
        there = [i.person.name for i in was.inside if i.space == door.space]
        if there:
            raise Refusal("person_inside", name=", ".join(there))

    return ov.DoorMoved(door=door.id, now=command.now, against=collect_objections(context, may))


def _leave(state: Overhaul, command: oc.Leave, context: oc.EngineContext) -> ov.Left:
    demand(context.actor.role, Act.RECORD)
    inside = next((i for i in state.inside if _meant(i, command.entered, command.entry)), None)
    if inside is None:
        raise Refusal("no_such_entry", entry=command.entered or str(command.entry))

    # Told later it takes nobody off the board before somebody has looked.
    if context.happened_at is None:
        demand_takes_off(inside, context.actor)
        if context.actor.id != inside.person.id and not command.seen:
            raise Refusal("not_seen", name=inside.person.name)
        if not context.pin_confirmed:
            raise Refusal("pin_needed")
    return ov.Left(entered=inside.seq)


def _meant(one: Inside | PersonalLock, seq: int | None, entry: UUID | None) -> bool:
    return one.seq == seq or one.id == entry


def _answer(state: Overhaul, command: oc.AnswerForTablet, context: oc.EngineContext) -> ov.TabletAnswered:
    demand(context.actor.role, Act.START_RUN)
    tablet = next((t for t in unanswered(state, context.silent) if t.id == command.tablet), None)
    if tablet is None:
        raise Refusal("not_silent")
    return ov.TabletAnswered(tablet=tablet.id, name=tablet.person, heard_at=tablet.heard_at, words=command.words)


def _lock_off(state: Overhaul, command: oc.TakeLockOff, context: oc.EngineContext) -> ov.LockOff:
    lock = next((k for k in state.locks if _meant(k, command.hung, command.entry)), None)
    if lock is None:
        raise Refusal("no_such_entry", entry=command.hung or str(command.entry))
    against = collect_objections(context, lambda: _demand_own_lock(then(state, context), lock, command, context))
    return ov.LockOff(hung=lock.seq, words=command.words, against=against)


def _demand_own_lock(state: Overhaul, lock: PersonalLock, command: oc.TakeLockOff, context: oc.EngineContext) -> None:
    if lock.by.id == context.actor.id:
        return
    if not may(context.actor.role, Act.LEAD_OVERHAUL) or command.words is None:
        raise Refusal("anothers_lock", by=lock.by.name)
    if any(i.person.id == lock.by.id for i in state.inside):
        raise Refusal("person_inside", name=lock.by.name)


def _enter(state: Overhaul, command: oc.Enter, context: oc.EngineContext) -> ov.Entered:
    demand(context.actor.role, Act.RECORD)
    person = context.people.get(command.person)
    if person is None:
        raise Refusal("no_such_person")
    if any(i.person.id == person.id for i in state.inside):
        raise Refusal("inside_already", name=person.name)
    outside = None if command.attended_by is None else context.people.get(command.attended_by)
    if command.attended_by is not None and outside is None:
        raise Refusal("no_such_person")

    def may() -> None:
        was = then(state, context)
        _demand_may_enter(was, context, command)
        if context.sheet.own_lock and not any(k.by.id == person.id for k in was.locks):
            raise Refusal("own_lock_first", name=person.name)
        _demand_outside(was, context.runs, person, outside, command.space)

    against = collect_objections(context, may)
    return ov.Entered(
        person=person,
        space=command.space,
        door=command.door,
        permit=command.permit,
        until_at=command.until_at,
        attendant=outside.name if outside is not None else command.attendant or "",
        attended_by=outside,
        oxygen_pct=command.oxygen_pct,
        gas_pct=command.gas_pct,
        late=context.happened_at is not None and command.paper is None,
        against=ov.MOVED_MEANWHILE if _moved_since(state, context) else against,
    )


def _demand_outside(
    state: Overhaul, runs: tuple[RunOnEngine, ...], person: Person, outside: Person | None, space: ov.Space
) -> None:
    """Whoever attends is somebody else, stays outside, and has one space to attend and no other work."""
    theirs = next((i for i in state.inside if i.attended_by is not None and i.attended_by.id == person.id), None)
    if theirs is not None:
        raise Refusal("attends_somebody", name=person.name, whom=theirs.person.name)
    if outside is None:
        return
    if outside.id == person.id:
        raise Refusal("attends_oneself", name=person.name)
    if any(i.person.id == outside.id for i in state.inside):
        raise Refusal("attendant_inside", name=outside.name)
    busy = next((run for run in runs if run.in_hand and run.by_id == outside.id), None)
    if busy is not None:
        raise Refusal("attendant_works", name=outside.name, joint=busy.label)
    others = (i for i in state.inside if i.attended_by is not None and i.attended_by.id == outside.id)
    if any(i.space != space for i in others):
        raise Refusal("attends_elsewhere", name=outside.name)


def _relieve(state: Overhaul, command: oc.RelieveAttendant, context: oc.EngineContext) -> ov.AttendantRelieved:
    demand(context.actor.role, Act.RECORD)
    inside = next((i for i in state.inside if i.seq == command.entered), None)
    if inside is None:
        raise Refusal("no_such_entry", entry=command.entered)
    to = context.people.get(command.to)
    if to is None:
        raise Refusal("no_such_person")
    _demand_outside(state, context.runs, inside.person, to, inside.space)
    return ov.AttendantRelieved(entered=inside.seq, to=to)


def _demand_door(state: Overhaul, context: oc.EngineContext, command: oc.Enter) -> None:
    """Whoever goes in goes by a door that the log knows to be open, where the space has doors."""
    doors = [door.id for door in context.sheet.doors if door.space == command.space]
    if command.door is not None and command.door not in doors:
        raise Refusal("no_such_door", got=command.door, allowed=", ".join(doors))
    if doors and command.door is None:
        raise Refusal("door_not_said", allowed=", ".join(doors))
    if doors and command.door not in open_doors(state, context.sheet, context.runs):
        raise Refusal("door_not_open", door=command.door)


def _demand_may_enter(state: Overhaul, context: oc.EngineContext, command: oc.Enter) -> None:
    if state.in_force(TURNING_GEAR) is None:
        raise Refusal("gear_not_locked")
    demand_no_doubt(state)
    demand_no_test(state)
    demand_no_hot_work(state)
    demand_stood(state, context.sheet, context.happened_at or context.now)
    if command.until_at is not None:
        demand_hours(command.until_at, context.happened_at or context.now)
    _demand_air(command.oxygen_pct, command.gas_pct)
    _demand_door(state, context, command)


def _demand_air(oxygen_pct: float, gas_pct: float) -> None:
    if not _LEAST_OXYGEN_PCT <= oxygen_pct <= _MOST_OXYGEN_PCT:
        raise Refusal("air_not_good", got=oxygen_pct, low=_LEAST_OXYGEN_PCT, high=_MOST_OXYGEN_PCT)
    if gas_pct >= _MOST_GAS_PCT:
        raise Refusal("gas_there", got=gas_pct, high=_MOST_GAS_PCT)


def is_good(oxygen_pct: float, gas_pct: float) -> bool:
    """Tell whether people may be in such air: oxygen in % by volume, gas in % of the lower explosive limit."""
    try:
        _demand_air(oxygen_pct, gas_pct)
    except Refusal:
        return False
    return True


def _moved_since(state: Overhaul, context: oc.EngineContext) -> bool:
    """Tell whether the crank was moved since somebody went in of whom nobody knew."""
    went_in = context.happened_at
    return went_in is not None and any(
        isinstance(line.data, ov.CrankMoved) and line.struck_by is None and line.done_at >= went_in
        for line in state.lines
    )


def demand_no_attendant(state: Overhaul, actor: Person) -> None:
    """Refuse other work to whoever stands outside for somebody.

    Raises:
        Refusal: ``attending_now``.
    """
    inside = next((i for i in state.inside if i.attended_by is not None and i.attended_by.id == actor.id), None)
    if inside is not None:
        raise Refusal("attending_now", name=actor.name, whom=inside.person.name)
