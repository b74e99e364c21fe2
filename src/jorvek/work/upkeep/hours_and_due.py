"""Running hours, and what is due on the engines: by the clock, or by hours run since."""

from __future__ import annotations

from collections.abc import Iterator
from datetime import date, datetime, timedelta
from typing import Final
from uuid import UUID

from jorvek.core.overhaul.log.state import Overhaul
from jorvek.core.overhaul.rules.running_in import next_stop
from jorvek.core.refusal import Refusal
from jorvek.core.rights import Act, demand
from jorvek.core.run.log.events import Person
from jorvek.core.run.views.follow_ups import FollowUp, FollowUps, follow_ups
from jorvek.core.run.views.labels import View
from jorvek.core.sheet.document import FIRST_START
from jorvek.store.run_summaries import RunSummary
from jorvek.store.upkeep import Hours
from jorvek.work.engine.overhauls import engine_of, sheet_for
from jorvek.work.workshop import Workshop

FOLLOW_UPS: Final = RunSummary("follow_ups", FollowUps, follow_ups)


class DueWork(View):
    """Work of a later day on an engine, as it stands now.

    Attributes:
        run_id: run that asked for it; None where the closed overhaul of the engine did.
        overhaul_id: that overhaul; None where a run did.
        step: name of the step, or of the stop of the running-in.
        due_at: by the clock; None by running hours, and for a first start.
        hours_left: running hours to go, below zero when it is over; None by the clock, or where nobody has read any.
        latest_at: end of its window by the clock; None where it has none.
        latest_left: running hours to the end of its window, below zero when it is late.
        over: it is due, or past it.
        late: it is past the end of its window, or due and has none.
        again: a run can be started for it: steps of the procedure are done again.
        under_way: the run that is at it now; None while nobody is.
        by: who is at it.
    """

    run_id: UUID | None
    overhaul_id: UUID | None
    step: str
    engine_id: str
    engine: str
    joint: str
    title: str
    due_at: datetime | None
    hours_left: float | None
    latest_at: datetime | None
    latest_left: float | None
    over: bool
    late: bool
    state: str
    method: str
    again: bool = False
    under_way: UUID | None = None
    by: str | None = None


_LONGEST_LIFE_H: Final = 400_000.0
"""Running hours of half a century without a stop: no counter shows more."""
_LONG_AGO: Final = timedelta(days=366)


def read_hours(workshop: Workshop, actor: Person, engine_id: str, hours: float, on: date) -> None:
    """Enter running hours as read.

    Raises:
        Refusal: ``not_your_right``, ``no_such_engine``; ``hours_run_back`` for less than was read before;
            ``hours_when`` for a day to come or long gone; ``hours_too_many`` for more than the clock has gone on since
            they were read last, or than any engine has run.
    """
    demand(actor.role, Act.RECORD)
    engine, today = engine_of(workshop, engine_id), workshop.today()
    if not today - _LONG_AGO <= on <= today:
        raise Refusal("hours_when", earliest=(today - _LONG_AGO).isoformat(), latest=today.isoformat())

    def forward(before: list[Hours]) -> None:
        least = before[-1].hours if before else engine.running_hours
        late = bool(before) and on < before[-1].on
        if hours < least or late:
            raise Refusal("hours_run_back", got=hours, before=least)
        # Of the day itself nobody knows the hour, on either side.
        most = before[-1].hours + 24.0 * ((on - before[-1].on).days + 1) if before else _LONGEST_LIFE_H
        if hours > most:
            raise Refusal("hours_too_many", got=hours, high=most)

    workshop.upkeep.read_hours(engine_id, Hours(hours, on, workshop.clock()), actor.id, forward)


def _follows(one: FollowUps) -> bool:
    """Tell whether a run asks for work of a later day, or is such work."""
    return bool(one.asked) or one.of_run is not None


def due_work(workshop: Workshop) -> list[DueWork]:
    """Return all work of a later day that is not done yet, what is due first."""
    every = list(workshop.summaries.mattering(FOLLOW_UPS, workshop.registers.run_index, _follows).values())
    carried = {(one.of_run, one.of_step): one for one in every if one.of_run is not None}
    done = workshop.upkeep.done() | {key for key, one in carried.items() if one.closed_at is not None}
    found: list[DueWork] = []
    readings: dict[str, list[Hours]] = {}
    for asked in every:
        for one in asked.asked:
            if (asked.run_id, one.step) not in done:
                read = readings.setdefault(asked.engine_id, workshop.upkeep.hours(asked.engine_id))
                found.append(_due(workshop, asked, one, read, carried.get((asked.run_id, one.step))))
    found.extend(_run_in(workshop))
    return sorted(
        found, key=lambda d: (not d.late, not d.over, d.due_at or datetime.max.replace(tzinfo=workshop.clock().tzinfo))
    )


def _run_in(workshop: Workshop) -> Iterator[DueWork]:
    """Yield the next stop of the running-in of every engine whose newest overhaul is closed."""
    seen: set[str] = set()
    for row in workshop.overhauls.rows():
        if row.engine_id in seen:
            continue
        seen.add(row.engine_id)
        if not row.open:
            state = workshop.overhauls.snapshot(row.id).state
            yield from _next_stop(workshop, state)


def _next_stop(workshop: Workshop, state: Overhaul) -> Iterator[DueWork]:
    engine = state.opened.engine
    sheet = sheet_for(workshop, engine, state.opened.sheet)
    stop = next_stop(state, sheet)
    if stop is None:
        return
    stated = next((one for one in sheet.running_in if one.id == stop), None)
    first = state.run_in.get(FIRST_START)
    due_at = None if first is None or stated is None else first.at + timedelta(seconds=stated.after.value)
    over = due_at is not None and due_at <= workshop.clock()
    yield DueWork(
        run_id=None,
        overhaul_id=state.overhaul_id,
        step=stop,
        engine_id=engine.id,
        engine=engine.name,
        joint=state.opened.title,
        title=stop,
        due_at=due_at,
        hours_left=None,
        latest_at=None,
        latest_left=None,
        over=over,
        late=over,
        state="",
        method=stated.text if stated is not None else "",
    )


def _due(workshop: Workshop, asked: FollowUps, one: FollowUp, read: list[Hours], at_it: FollowUps | None) -> DueWork:
    left = None if one.due_h is None else _hours_left(workshop, asked, one.due_h, read)
    latest = None if one.latest_h is None else _hours_left(workshop, asked, one.latest_h, read)
    over = _past(workshop, one.due_at, left)
    windowed = one.latest_at is not None or latest is not None
    return DueWork(
        run_id=asked.run_id,
        overhaul_id=None,
        step=one.step,
        engine_id=asked.engine_id,
        engine=asked.engine,
        joint=asked.joint,
        title=one.title,
        due_at=one.due_at,
        hours_left=left,
        latest_at=one.latest_at,
        latest_left=latest,
        over=over,
        late=_past(workshop, one.latest_at, latest) if windowed else over,
        state=one.state,
        method=one.method,
        again=bool(one.again),
        under_way=at_it.run_id if at_it else None,
        by=at_it.by if at_it else None,
    )


def _past(workshop: Workshop, at: datetime | None, left_h: float | None) -> bool:
    return (at is not None and at <= workshop.clock()) or (left_h is not None and left_h <= 0)


def _hours_left(workshop: Workshop, asked: FollowUps, due_h: float, read: list[Hours]) -> float:
    """Count from what was entered last before the run was closed; what the register says where there is none."""
    assert asked.closed_at is not None
    began = next((h.hours for h in reversed(read) if h.at <= asked.closed_at), None)
    register = next(e.running_hours for e in workshop.registers.engines() if e.id == asked.engine_id)
    first = began if began is not None else register
    now = read[-1].hours if read else register
    return due_h - (now - first)


def follow_up(workshop: Workshop, actor: Person, run_id: UUID, step: str, words: str) -> None:
    """Say that work which a run had asked for later was done.

    Raises:
        Refusal: ``not_your_right``, ``no_such_run``; ``nothing_to_follow`` when it did not ask for that;
            ``followed_up`` when it was done already; ``follow_up_under_way`` while its own run is open: that run
            says so once it is closed.
    """
    demand(actor.role, Act.RECORD)
    asked = follow_ups(run_id, workshop.log.snapshot(run_id).state)
    if not any(one.step == step for one in asked.asked):
        raise Refusal("nothing_to_follow", step=step)
    for one in workshop.summaries.mattering(FOLLOW_UPS, workshop.registers.run_index, _follows).values():
        if (one.of_run, one.of_step) == (run_id, step) and one.closed_at is None:
            raise Refusal("follow_up_under_way", by=one.by)
    workshop.upkeep.note_done(run_id, step, words, actor.id, workshop.clock())
