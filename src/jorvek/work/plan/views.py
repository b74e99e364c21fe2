"""What is shown of a plan: pieces, moves, bounds, jobs, and what one plan changes against another."""

from __future__ import annotations

from collections.abc import Iterator
from datetime import datetime
from typing import Literal
from uuid import UUID

from pydantic import Field

from jorvek.core.overhaul.views.outage import SHUTDOWN
from jorvek.core.overhaul.views.phases import CRANE
from jorvek.core.plan.crew import Timed
from jorvek.core.plan.why import Why, WhyCode
from jorvek.core.run.views.labels import View
from jorvek.work.plan.files import WhatIf
from jorvek.work.plan.problem import Outage, PlanAsked


class WhyShown(View):
    """Why a piece stands where it does, with names as people use them."""

    code: WhyCode
    what: tuple[str, ...]


class PlannedWork(View):
    """A piece of work in its place.

    Attributes:
        joint: key of its joint.
        label: what the joint is called.
        title: heading of its first step.
        angle_deg: where the crank stands meanwhile; None where it does not matter.
        sets: classes of tool whose set it takes.
        crane: it takes the crane.
        who: people, by their number in the plan.
        why: why it is not sooner; None where nobody has looked yet.
        pinned: a person has put it there.
        known: where its minutes come from; None where that is not kept.
        late_min: nine times out of ten it is done within so many minutes more.
    """

    id: str
    joint: str
    label: str
    title: str
    start_at: datetime
    end_at: datetime
    hands: int
    angle_deg: float | None
    sets: tuple[str, ...]
    crane: bool
    who: tuple[int, ...]
    why: WhyShown | None
    pinned: bool
    known: Literal["stated", "learned", "usual"] | None
    late_min: int


class PlannedMove(View):
    """A move of the crank, and who commands it."""

    start_at: datetime
    end_at: datetime
    from_deg: float
    to_deg: float
    turning_deg: float
    who: tuple[int, ...]


class BoundShown(View):
    """Why it cannot be better: what it rests on, and when all would be finished, or by how much the crank be turned."""

    code: Literal["longest_chain", "hands", "set", "turning", "solver"]
    finish_at: datetime | None
    turning_deg: float | None
    what: tuple[str, ...]


class Moved(View):
    """A job that another plan puts elsewhere; None where it is new, or not there any more."""

    label: str
    title: str
    before_at: datetime | None
    after_at: datetime | None


class Cause(View):
    """Why a plan is another one than before.

    Attributes:
        code: a tool was withdrawn; a job took longer than planned, or less.
        what: the tool, or the job.
        minutes: by how much longer.
    """

    code: Literal["tool_withdrawn", "longer", "shorter"]
    what: str
    minutes: int


class Job(View):
    """A run as planned, and as it goes.

    Attributes:
        state: still to come, under way, done.
        start_at: when it began, or will by what is known now.
        end_at: when it was done, or will be.
    """

    id: str
    joint: str
    label: str
    title: str
    planned_start_at: datetime
    planned_end_at: datetime
    state: Literal["to_come", "under_way", "done"]
    run_id: UUID | None
    start_at: datetime | None
    end_at: datetime | None


class PlanProgress(View):
    """The plan that was taken, and how it goes.

    Attributes:
        by: who took it.
        finish_at: as it was taken.
        forecast_at: when all is finished by what is known now; None where that cannot be told.
        refused: why it cannot be told, with its parameters.
        jobs: as planned and as they go.
    """

    by: str
    at: datetime
    made_at: datetime
    finish_at: datetime
    forecast_at: datetime | None
    refused: str | None
    refused_with: dict[str, str]
    jobs: tuple[Job, ...]


class PlanShown(View):
    """A plan as one looks at it.

    Attributes:
        before: so many others are looked for first; 0 once it is looked for.
        again: the server that looked for it had stopped, and it was begun anew.
        state: never asked for; looked for; ended; stopped; gone wrong; or the one in force, as it goes.
        asked: for whom and what it was made.
        refused: code of what speaks against any plan, with its parameters; None where nothing does.
        made_at: when it was asked for.
        old: the overhaul has gone on since.
        gap_percent: no plan is better by more than this share.
        first_come_at: when a crew would finish that takes the work as the list has it.
        hands: how many people it counts with.
        people: those who have a name, in the order of their numbers.
        left_out: joints for which no approved procedure leads all the way back.
        crank_assumed: nobody knows where the crank stands; it is taken to be at 0.
        what_if: what one thing else would change.
        wondering: more of that is looked for.
        in_force: the plan that was taken; None where none was.
        moved: what is elsewhere than in the plan in force as it goes.
        causes: what has become otherwise since that was taken.
        earlier_min: by how much it is earlier than the plan in force, as that goes now.
        shift: minutes of the day; the same both for around the clock.
    """

    state: Literal["none", "looking", "ready", "stopped", "failed", "in_force"]
    asked: PlanAsked
    refused: str | None = None
    refused_with: dict[str, str] = Field(default={})
    made_at: datetime | None = None
    old: bool = False
    finish_at: datetime | None = None
    first_come_at: datetime | None = None
    barring_deg: float = 0.0
    proven: bool = False
    gap_percent: float = 0.0
    bounds: tuple[BoundShown, ...] = ()
    work: tuple[PlannedWork, ...] = ()
    moves: tuple[PlannedMove, ...] = ()
    sets: dict[str, int] = Field(default={})
    hands: int = 0
    people: tuple[str, ...] = ()
    left_out: tuple[str, ...] = ()
    crank_assumed: bool = False
    what_if: tuple[WhatIf, ...] = ()
    wondering: bool = False
    again: bool = False
    before: int = 0
    in_force: PlanProgress | None = None
    moved: tuple[Moved, ...] = ()
    causes: tuple[Cause, ...] = ()
    earlier_min: int | None = None


def bound_of(
    asked: Outage,
    code: Literal["longest_chain", "hands", "set", "turning", "solver"],
    value: float,
    what: tuple[str, ...],
) -> BoundShown:
    """Return a reason why it cannot be better, with names as people use them."""
    turning = code == "turning"
    labels = tuple(dict.fromkeys(asked.pieces[one].label if one in asked.pieces else one for one in what))
    return BoundShown(
        code=code,
        finish_at=None if turning else asked.at(value),
        turning_deg=value if turning else None,
        what=tuple(one for one in labels if one != SHUTDOWN),
    )


def why_of(asked: Outage, why: Why | None) -> WhyShown | None:
    """Return why a piece stands where it does, with names as people use them; None where nobody has looked yet."""
    if why is None:
        return None
    labels = (asked.pieces[one].label if one in asked.pieces else one for one in why.what if one != SHUTDOWN)
    return WhyShown(code=why.code, what=tuple(dict.fromkeys(labels)))


def work_of(
    asked: Outage, laid: Timed, who: dict[str, tuple[int, ...]], why: dict[str, Why], pins: set[str]
) -> Iterator[PlannedWork]:
    """Yield the pieces of a timetable as they are shown, the earliest first.

    Args:
        asked: what was asked.
        laid: the timetable.
        who: of every piece its people, by number.
        why: of every piece why it is not sooner.
        pins: those that a person has put in their place.
    """
    pieces = {piece.id: piece for piece in asked.problem.work}
    for one in sorted(laid.placed, key=lambda p: (p.start_min, p.end_min, p.id)):
        if one.id == SHUTDOWN:
            continue
        named_, piece = asked.pieces[one.id], pieces[one.id]
        yield PlannedWork(
            id=one.id,
            joint=named_.joint,
            label=named_.label,
            title=named_.title,
            start_at=asked.at(one.start_min),
            end_at=asked.at(one.end_min),
            hands=piece.hands,
            angle_deg=one.angle_deg,
            sets=tuple(s for s in piece.uses if s != CRANE),
            crane=CRANE in piece.uses,
            who=who.get(one.id, ()),
            why=why_of(asked, why.get(one.id)),
            pinned=one.id in pins,
            known=named_.known,
            late_min=max(0, named_.nine_in_ten_min - piece.minutes),
        )


def moves_of(asked: Outage, laid: Timed, who: tuple[tuple[int, ...], ...]) -> Iterator[PlannedMove]:
    """Yield the moves of a timetable as they are shown, each with whoever commands it."""
    for k, move in enumerate(laid.moves):
        yield PlannedMove(
            start_at=asked.at(move.start_min),
            end_at=asked.at(move.end_min),
            from_deg=move.from_deg,
            to_deg=move.to_deg,
            turning_deg=move.turning_deg,
            who=who[k] if k < len(who) else (),
        )
