"""The engine as one looks at it: how every joint stands, what may start, who and what is in and on it."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from datetime import datetime, timedelta
from typing import Literal
from uuid import UUID

from jorvek.core.overhaul.log import commands as oc
from jorvek.core.overhaul.log import events as ov
from jorvek.core.overhaul.log.state import Overhaul, PersonalLock, Test
from jorvek.core.overhaul.rules.closing import HoldUp, held_up
from jorvek.core.overhaul.rules.joint_conditions import ground_of, owed
from jorvek.core.overhaul.rules.open_places import open_doors
from jorvek.core.overhaul.rules.return_to_service import CHECKS
from jorvek.core.overhaul.rules.stops import stood
from jorvek.core.overhaul.rules.sweep import unanswered
from jorvek.core.overhaul.views.close_out import CloseOut, close_out
from jorvek.core.overhaul.views.crank import CrankView, crank_view
from jorvek.core.overhaul.views.joints import JointNow, Known, joints_now, next_up
from jorvek.core.overhaul.views.log_lines import AT_FIRST, LogLine, LogPage, entry_of, log_page
from jorvek.core.overhaul.views.permits import HotWorkNow, InsideNow, hot_work_now, inside_now
from jorvek.core.procedure.metal_parts import Condition
from jorvek.core.procedure.parts import Isolation
from jorvek.core.run.views.labels import View
from jorvek.core.run.views.on_engine import Carried, RunOnEngine
from jorvek.core.sheet.document import EngineSheet


class JointStands(View):
    """How a joint stands, as far as somebody who declares its condition has to know."""

    key: str
    label: str
    condition: Condition | None
    ladder: tuple[Condition, ...]
    under_way: bool


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
    """A test, or a move of the crank, for which isolations are lifted; a move is told apart and has no words."""

    entry: int
    by: str
    at: datetime
    points: tuple[Isolation, ...]
    test: str
    guards: str
    moves_crank: bool


class LockNow(View):
    """A personal lock; ``command`` is the id of the command that hung it."""

    entry: int
    command: UUID
    by: str
    by_id: UUID
    at: datetime
    lock: str


class TabletNow(View):
    """A tablet that has not been heard for a while, with who is signed in on it.

    Attributes:
        at: joint whose run it showed when it was heard last; None at the board.
        held: what its person has open: joints of their runs, permit of an entry, lock.
    """

    tablet: str
    person: str
    heard_at: datetime
    at: str | None
    held: tuple[str, ...]


class DoorOf(View):
    """A door of a space that people go into, with the cylinders that are reached through it.

    Attributes:
        open: the log knows it to be open.
        by_hand: somebody said so; None where it is shut, or was taken off by the work on a joint.
    """

    id: str
    space: Literal["crankcase", "scavenge"]
    cylinders: tuple[str, ...]
    open: bool
    by_hand: str | None


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


class StopNow(View):
    """The latest stop of the engine.

    Attributes:
        entry: its place in the log.
        until_at: before this it is not opened, by its sheet.
    """

    entry: int
    at: datetime
    by: str
    cause: ov.StopCause
    until_at: datetime


def _stop(overhaul: Overhaul, sheet: EngineSheet) -> StopNow | None:
    since, stop = stood(overhaul, sheet), overhaul.stop
    if since is None or stop is None:
        return None
    until = since.at + timedelta(seconds=since.least_s)
    return StopNow(entry=stop.seq, at=stop.at, by=stop.by.name, cause=stop.cause, until_at=until)


class EngineView(View):
    """An engine in an overhaul.

    Attributes:
        default_sheet: it is worked on by the default by layout, having no sheet of its own.
        under_pressure: joints on which a tool is under pressure.
        hung: parts that hang.
        told: what was told later and nobody has looked at yet.
        next: the joints whose work is next, in working order.
        log: its newest lines.
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
    joints: tuple[JointStands, ...]
    next: tuple[str, ...]
    points: tuple[PointNow, ...]
    tests: tuple[TestNow, ...]
    locks: tuple[LockNow, ...]
    inside: tuple[InsideNow, ...]
    hot_work: tuple[HotWorkNow, ...]
    doors: tuple[DoorOf, ...]
    silent: tuple[TabletNow, ...]
    told: tuple[LogLine, ...]
    crank: CrankView
    attitude: str
    crank_carried: bool
    hours: float | None
    stop: StopNow | None
    under_pressure: tuple[str, ...]
    hung: tuple[str, ...]
    owed: tuple[CarriedOver, ...]
    held_up: tuple[HeldUpBy, ...]
    close_out: CloseOut
    log: LogPage


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
        joints=tuple(_stands(joint) for joint in joints),
        next=tuple(joint.key for joint in next_up(ground_of(overhaul, sheet, runs), joints)),
        points=tuple(_points(overhaul, sheet)),
        tests=tuple(_test(test) for test in overhaul.tests),
        locks=tuple(_lock(lock) for lock in overhaul.locks),
        inside=tuple(inside_now(overhaul, now)),
        hot_work=tuple(hot_work_now(overhaul, now)),
        doors=_doors(overhaul, sheet, runs),
        silent=tuple(_tablet(one) for one in unanswered(overhaul, silent)),
        told=tuple(entry_of(line, open_still=True) for line in overhaul.told),
        crank=crank_view(overhaul, sheet, runs, silent),
        attitude=overhaul.attitude,
        crank_carried=overhaul.crank_carried,
        hours=overhaul.opened.hours,
        stop=_stop(overhaul, sheet),
        under_pressure=tuple(run.label for run in pressed if run.under_pressure),
        hung=tuple(f"{run.label}: {part.called}" for run in pressed for part in run.hung),
        owed=tuple(_carried_over(titles, run, debt) for run, debt in owed(overhaul, runs)),
        held_up=tuple(HeldUpBy(why=h.why, what=h.what) for h in held_up(overhaul, context)),
        close_out=close_out(overhaul, sheet, runs),
        log=log_page(overhaul, AT_FIRST),
    )


def _doors(overhaul: Overhaul, sheet: EngineSheet, runs: tuple[RunOnEngine, ...]) -> tuple[DoorOf, ...]:
    opened = open_doors(overhaul, sheet, runs)
    said = {door: now.by.name for door, now in overhaul.doors.items() if now.open}
    return tuple(
        DoorOf(id=d.id, space=d.space, cylinders=d.cylinders, open=d.id in opened, by_hand=said.get(d.id))
        for d in sheet.doors
    )


def _test(test: Test) -> TestNow:
    return TestNow(
        entry=test.seq,
        by=test.by.name,
        at=test.at,
        points=test.points,
        test=test.test,
        guards=test.guards,
        moves_crank=test.moves_crank,
    )


def _lock(lock: PersonalLock) -> LockNow:
    return LockNow(entry=lock.seq, command=lock.id, by=lock.by.name, by_id=lock.by.id, at=lock.at, lock=lock.lock)


def _tablet(silent: oc.SilentTablet) -> TabletNow:
    return TabletNow(tablet=silent.id, person=silent.person, heard_at=silent.heard_at, at=silent.at, held=silent.held)


def _carried_over(titles: dict[str, str], run: RunOnEngine, debt: Carried) -> CarriedOver:
    return CarriedOver(
        run_id=run.run_id,
        cell=debt.cell,
        joint=run.label,
        text=debt.text,
        to=_title(titles, debt.to),
        disturbed=debt.disturbed,
    )


def _stands(joint: JointNow) -> JointStands:
    return JointStands(
        key=joint.key,
        label=joint.label,
        condition=joint.condition,
        ladder=joint.ladder,
        under_way=joint.under_way,
    )


def _title(titles: dict[str, str], procedure: str | None) -> str | None:
    """Return what a procedure is called; its name in the document where nobody has approved one."""
    return None if procedure is None else titles.get(procedure, procedure)


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
