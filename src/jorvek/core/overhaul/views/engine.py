"""The engine as one looks at it: how every joint stands, what may start, who and what is in and on it."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from dataclasses import dataclass, replace
from datetime import datetime
from typing import Literal, TypeAlias
from uuid import UUID

from jorvek.core.engine.layout import JointKind, JointPlace
from jorvek.core.overhaul.log import commands as oc
from jorvek.core.overhaul.log import events as ov
from jorvek.core.overhaul.log.state import Line, Overhaul
from jorvek.core.overhaul.rules.closing import HoldUp, held_up
from jorvek.core.overhaul.rules.joint_conditions import declared_now, ground_of, owed, shown_condition
from jorvek.core.overhaul.rules.return_to_service import CHECKS
from jorvek.core.overhaul.rules.starting import may_be_departed
from jorvek.core.overhaul.rules.sweep import unanswered
from jorvek.core.overhaul.views.close_out import CloseOut, close_out
from jorvek.core.overhaul.views.crank import CrankView, crank_view
from jorvek.core.overhaul.views.permits import HotWorkNow, InsideNow, hot_work_now, inside_now
from jorvek.core.procedure.metal_parts import Condition
from jorvek.core.procedure.parts import Isolation
from jorvek.core.run.views.labels import View
from jorvek.core.run.views.on_engine import Carried, RunOnEngine
from jorvek.core.sheet.access import Ground, InTheWay, Stand, Work, in_the_way
from jorvek.core.sheet.document import EngineSheet
from jorvek.core.sheet.relations import cylinders_of

When: TypeAlias = Literal["now", "later", "done"]


@dataclass(frozen=True)
class Known:
    """An approved procedure as a list knows it.

    Attributes:
        hash: content address of the revision.
        id: name of the procedure.
    """

    hash: str
    id: str
    title: str
    revision: str
    joint: JointKind
    purpose: str
    begins: Condition | None
    leaves: Condition | None


class Barrier(View):
    """Something that stands in the way of work.

    Attributes:
        why: as in ``InTheWay``.
        joint: key of the joint that stands in the way.
        label: what that joint is called.
        stands: conditions in which it may be.
        wanted: conditions in which it would be out of the way.
        rule: name of the rule.
        reason: why.
        departable: a lead hand may let it be, by name.
    """

    why: Literal["own_condition", "rule", "under_way", "gate", "unknown", "relied_on"]
    joint: str
    label: str
    stands: tuple[Condition, ...]
    wanted: tuple[Condition, ...]
    rule: str | None
    reason: str
    departable: bool


class Offer(View):
    """A procedure for a joint, in working order.

    Attributes:
        when: it begins where the joint stands now; later; or it was done in this overhaul.
        barriers: what stands in its way; empty where it may be started.
        pays: what it puts right of what earlier work has left.
    """

    hash: str
    id: str
    title: str
    revision: str
    purpose: str
    begins: Condition | None
    leaves: Condition | None
    when: When
    barriers: tuple[Barrier, ...]
    pays: tuple[str, ...]


class JointNow(View):
    """A joint as it stands.

    Attributes:
        slot: place along the section, in cylinder pitches.
        condition: what it is like; None where nobody knows.
        ladder: conditions that it can be in, from closed up on.
        home: its condition is the closed one.
        told_by: whoever said so, for a condition that was declared.
        told_at: when.
        in_scope: it is worked on in this overhaul.
        run_id: the newest run on it in this overhaul.
        under_way: that run is open.
        by: who works on it.
        going: which way the work under way takes it.
        done: it was worked on and is closed again.
        offers: what can be done with it, in working order.
    """

    key: str
    kind: JointKind
    label: str
    name: str
    slot: float
    condition: Condition | None
    ladder: tuple[Condition, ...]
    home: bool
    told_by: str | None
    told_at: datetime | None
    in_scope: bool
    run_id: UUID | None
    under_way: bool
    by: str | None
    going: Literal["undone", "put_back"] | None
    done: bool
    offers: tuple[Offer, ...]


class PointNow(View):
    """An isolation point as it stands."""

    point: Isolation
    text: str
    place: str | None
    locks: bool
    for_test: bool
    state: Literal["open", "isolated", "lifted"]
    entry: int | None
    by: str | None
    at: datetime | None
    lock: str | None
    permit: str | None


class TestNow(View):
    """A test for which isolations are lifted."""

    entry: int
    by: str
    at: datetime
    points: tuple[Isolation, ...]
    test: str
    guards: str


class LockNow(View):
    """A personal lock; ``command`` is the id of the command that hung it."""

    entry: int
    command: UUID
    by: str
    by_id: UUID
    at: datetime
    lock: str


class TabletNow(View):
    """A tablet that has not been heard for a while, with who is signed in on it."""

    tablet: str
    person: str
    heard_at: datetime


class DoorOf(View):
    """A door of a space that people go into, with the cylinders that are reached through it."""

    id: str
    space: Literal["crankcase", "scavenge"]
    cylinders: tuple[str, ...]


class CarriedOver(View):
    """Something that a run has left for others."""

    run_id: UUID
    cell: str
    joint: str
    text: str
    to: str | None
    disturbed: bool


class HeldUpBy(View):
    """Something that keeps the overhaul open."""

    why: HoldUp
    what: str


class LogLine(View):
    """One line of the engine's log.

    Attributes:
        moment: a moment that it speaks of: the end of a permit's hours, when a plan is done; None where it names none.
        written_by: who wrote it on a list of paper from which it was keyed in; None for what was entered here.
        written_at: when, by the list.
        against: what would have spoken against it, had it been known before; None where nothing did.
    """

    seq: int
    kind: str
    by: str
    at: datetime
    params: dict[str, str]
    moment: datetime | None
    struck: bool
    written_by: str | None
    written_at: datetime | None
    against: str | None


class EngineView(View):
    """An engine in an overhaul.

    Attributes:
        default_sheet: it is worked on by the default by layout, having no sheet of its own.
        under_pressure: joints on which a tool is under pressure.
        hung: parts that hang.
        next: the joints whose work is next, in working order.
    """

    overhaul_id: UUID
    seq: int
    title: str
    small: bool
    status: Literal["open", "closed"]
    opened_at: datetime
    opened_by: str
    sheet_title: str
    default_sheet: bool
    scope: tuple[str, ...]
    joints: tuple[JointNow, ...]
    next: tuple[str, ...]
    points: tuple[PointNow, ...]
    tests: tuple[TestNow, ...]
    locks: tuple[LockNow, ...]
    inside: tuple[InsideNow, ...]
    hot_work: tuple[HotWorkNow, ...]
    doors: tuple[DoorOf, ...]
    silent: tuple[TabletNow, ...]
    crank: CrankView
    attitude: str
    crank_carried: bool
    hours: float | None
    under_pressure: tuple[str, ...]
    hung: tuple[str, ...]
    owed: tuple[CarriedOver, ...]
    held_up: tuple[HeldUpBy, ...]
    close_out: CloseOut
    log: tuple[LogLine, ...]


def engine_view(
    overhaul: Overhaul,
    sheet: EngineSheet,
    runs: tuple[RunOnEngine, ...],
    known: Iterable[Known],
    silent: tuple[oc.SilentTablet, ...],
    now: datetime,
) -> EngineView:
    """Return an engine as one looks at it.

    Args:
        overhaul: the overhaul as it stands.
        sheet: its sheet.
        runs: the runs that count for it, newest first.
        known: the approved procedures for engines of its type.
        silent: tablets that have not been heard for a while.
        now: server time.
    """
    listed = list(known)
    joints, titles = joints_now(overhaul, sheet, runs, listed), {one.id: one.title for one in listed}
    context = oc.EngineContext(overhaul.opened_by, now, sheet, runs)
    pressed = [run for run in runs if run.open]
    return EngineView(
        overhaul_id=overhaul.overhaul_id,
        seq=overhaul.seq,
        title=overhaul.opened.title,
        small=overhaul.opened.small,
        status=overhaul.status,
        opened_at=overhaul.opened_at,
        opened_by=overhaul.opened_by.name,
        sheet_title=sheet.title,
        default_sheet=overhaul.opened.sheet is None,
        scope=overhaul.scope,
        joints=joints,
        next=tuple(joint.key for joint in next_up(ground_of(overhaul, sheet, runs), joints)),
        points=tuple(_points(overhaul, sheet)),
        tests=tuple(
            TestNow(entry=t.seq, by=t.by.name, at=t.at, points=t.points, test=t.test, guards=t.guards)
            for t in overhaul.tests
        ),
        locks=tuple(
            LockNow(entry=k.seq, command=k.id, by=k.by.name, by_id=k.by.id, at=k.at, lock=k.lock)
            for k in overhaul.locks
        ),
        inside=tuple(inside_now(overhaul, now)),
        hot_work=tuple(hot_work_now(overhaul, now)),
        doors=tuple(DoorOf(id=d.id, space=d.space, cylinders=d.cylinders) for d in sheet.doors),
        silent=tuple(
            TabletNow(tablet=t.id, person=t.person, heard_at=t.heard_at) for t in unanswered(overhaul, silent)
        ),
        crank=crank_view(overhaul, sheet, runs, silent),
        attitude=overhaul.attitude,
        crank_carried=overhaul.crank_carried,
        hours=overhaul.opened.hours,
        under_pressure=tuple(run.label for run in pressed if run.under_pressure),
        hung=tuple(f"{run.label}: {part.called}" for run in pressed for part in run.hung),
        owed=tuple(
            CarriedOver(
                run_id=r.run_id, cell=d.cell, joint=r.label, text=d.text, to=_title(titles, d.to), disturbed=d.disturbed
            )
            for r, d in owed(overhaul, runs)
        ),
        held_up=tuple(HeldUpBy(why=h.why, what=h.what) for h in held_up(overhaul, context)),
        close_out=close_out(overhaul, sheet, runs),
        log=tuple(entry_of(line) for line in reversed(overhaul.lines)),
    )


def _title(titles: dict[str, str], procedure: str | None) -> str | None:
    """Return what a procedure is called; its name in the document where nobody has approved one."""
    return None if procedure is None else titles.get(procedure, procedure)


def joints_now(
    overhaul: Overhaul, sheet: EngineSheet, runs: tuple[RunOnEngine, ...], known: Iterable[Known]
) -> tuple[JointNow, ...]:
    """Return every joint of an engine as it stands, with what can be done with it in working order."""
    ground, listed = ground_of(overhaul, sheet, runs), list(known)
    debts = list(owed(overhaul, runs))
    return tuple(
        _joint(overhaul, ground, place, runs, listed, [d for r, d in debts if r.joint == place.key])
        for place in ground.places
    )


def _joint(
    overhaul: Overhaul,
    ground: Ground,
    place: JointPlace,
    runs: tuple[RunOnEngine, ...],
    known: list[Known],
    debts: list[Carried],
) -> JointNow:
    mine = [run for run in runs if run.joint == place.key]
    ladder = ground.sheet.ladders.get(place.kind)
    condition = shown_condition(overhaul, place.key, mine)
    said = declared_now(overhaul, place.key, mine)
    newest = mine[0] if mine else None
    home = ladder is not None and condition == ladder.undone[0]
    under_way = newest is not None and newest.open
    return JointNow(
        key=place.key,
        kind=place.kind,
        label=place.label,
        name=place.name,
        slot=place.slot,
        condition=condition,
        ladder=ladder.conditions if ladder else (),
        home=home,
        told_by=said.by.name if said and not under_way else None,
        told_at=said.at if said and not under_way else None,
        in_scope=place.key in overhaul.scope,
        run_id=newest.run_id if newest else None,
        under_way=under_way,
        by=newest.by if newest and under_way else None,
        going=("undone" if newest.purpose == "loosen" else "put_back") if newest and under_way else None,
        done=home and not under_way and was_apart(overhaul, place.key, condition, mine),
        offers=tuple(_offers(ground, place, condition, mine, known, debts)),
    )


def was_apart(overhaul: Overhaul, joint: str, home: Condition | None, mine: list[RunOnEngine]) -> bool:
    """Tell whether a joint was apart in this overhaul, by its runs or by somebody's word."""
    by_word = any(said.condition != home for said in overhaul.declared.get(joint, ()))
    return by_word or (bool(mine) and mine[0].purpose == "tighten")


def _offers(
    ground: Ground,
    place: JointPlace,
    condition: Condition | None,
    mine: list[RunOnEngine],
    known: list[Known],
    debts: list[Carried],
) -> Iterator[Offer]:
    done = {run.procedure for run in mine if not run.open}
    for one in _in_order(condition, [k for k in known if k.joint is place.kind]):
        when: When = "now" if one.begins == condition else "done" if one.id in done else "later"
        work = Work(place.key, one.begins, one.leaves)
        barriers = in_the_way(ground, work) if when == "now" else ()
        yield Offer(
            hash=one.hash,
            id=one.id,
            title=one.title,
            revision=one.revision,
            purpose=one.purpose,
            begins=one.begins,
            leaves=one.leaves,
            when=when,
            barriers=tuple(_barrier(ground, b) for b in barriers),
            pays=tuple(d.text for d in debts if d.to == one.id),
        )


def _in_order(condition: Condition | None, known: list[Known]) -> list[Known]:
    """Return procedures as they follow on each other from a condition; those that do not follow on come last."""
    found: list[Known] = []
    reached = [condition]
    for at in reached:
        for one in known:
            if one.begins == at and one not in found:
                found.append(one)
                if one.leaves is not None and one.leaves not in reached:
                    reached.append(one.leaves)
    return found + [one for one in known if one not in found]


def _barrier(ground: Ground, one: InTheWay) -> Barrier:
    return Barrier(
        why=one.why,
        joint=one.joint,
        label=ground.by_key[one.joint].label,
        stands=tuple(sorted(one.stands)),
        wanted=one.wanted,
        rule=one.rule,
        reason=one.reason,
        departable=may_be_departed(one),
    )


def next_up(ground: Ground, joints: Iterable[JointNow]) -> list[JointNow]:
    """Return the joints whose work is next: what is apart and can go on first, then what waits to be opened.

    A joint is not put back over another of the scope that would be barred by it and is still to be done.
    """
    every = list(joints)
    apart = {cylinder for j in every if not j.home for cylinder in cylinders_of(ground.engine, ground.by_key[j.key])}
    listed = [j for j in every if not j.under_way and not j.done and (j.in_scope or not j.home) and _ready(j)]
    ready = [j for j in listed if not any(_would_bar(ground, j, other) for other in listed if other.in_scope)]

    def waits(joint: JointNow) -> bool:
        return joint.home and not cylinders_of(ground.engine, ground.by_key[joint.key]) & apart

    return sorted(ready, key=lambda j: (waits(j), not j.in_scope))


def _ready(joint: JointNow) -> Offer | None:
    return next((offer for offer in joint.offers if offer.when == "now" and not offer.barriers), None)


def _would_bar(ground: Ground, joint: JointNow, other: JointNow) -> bool:
    mine, theirs = _ready(joint), _ready(other)
    if joint.key == other.key or mine is None or theirs is None or mine.leaves is None:
        return False
    after = replace(ground, stands={**ground.stands, joint.key: Stand(frozenset({mine.leaves}))})
    work = Work(other.key, theirs.begins, theirs.leaves)
    return mine.purpose == "tighten" and any(o.joint == joint.key for o in in_the_way(after, work))


def _points(overhaul: Overhaul, sheet: EngineSheet) -> Iterator[PointNow]:
    for stated in sheet.isolations:
        if stated.point in CHECKS:
            continue
        now = overhaul.isolations.get(stated.point)
        yield PointNow(
            point=stated.point,
            text=stated.text,
            place=stated.place,
            locks=stated.locks,
            for_test=stated.for_test,
            state="open" if now is None else "isolated" if now.lifted is None else "lifted",
            entry=now.seq if now else None,
            by=now.by.name if now else None,
            at=now.at if now else None,
            lock=now.lock if now else None,
            permit=now.permit if now else None,
        )


_SAID = (
    *("point", "lock", "permit", "words", "test", "guards", "proof", "commander", "attitude", "title", "space"),
    *("check", "when", "attends", "name", "stop", "work", "place", "watch", "shut"),
)


def entry_of(line: Line) -> LogLine:
    """Return one event as a line of the log."""
    data = line.data
    params = {name: str(value) for name in _SAID if (value := getattr(data, name, None)) is not None}
    person = getattr(data, "person", None) or getattr(data, "to", None)
    if person is not None:
        params["person"] = person.name
    for name in ("angle_deg", "to_deg"):
        value = getattr(data, name, None)
        if value is not None:
            params["figure"] = f"{value:g}"
    if isinstance(data, ov.CrankMoved):
        params.setdefault("figure", "?")
    if getattr(data, "current_A", None) is not None:
        params["figure"] = f"{data.current_A:g} A"  # type: ignore[union-attr]  # just asked
    if getattr(data, "accepted", None) is not None:
        params["words"] = str(data.accepted)  # type: ignore[union-attr]  # just asked
    for name in ("oxygen_pct", "gas_pct"):
        value = getattr(data, name, None)
        if value is not None:
            params[name] = f"{value:g}"
    found = getattr(data, "found", None)
    if found is not None:
        params["joints"] = str(len(found))
    return LogLine(
        seq=line.seq,
        kind=data.kind,
        by=line.by.name,
        at=line.at,
        params=params,
        moment=data.finish_at if isinstance(data, ov.PlanTaken) else getattr(data, "until_at", None),
        struck=line.struck_by is not None,
        written_by=line.paper.by.name if line.paper else None,
        written_at=line.paper.at if line.paper else None,
        against=getattr(data, "against", None),
    )
