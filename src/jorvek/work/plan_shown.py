"""A plan as one looks at it: what was found, what is in force, how it goes, and what is next for whom."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Final, Literal
from uuid import UUID

from pydantic import Field

from jorvek.core.overhaul.log import events as ov
from jorvek.core.overhaul.log.state import PlanInForce
from jorvek.core.overhaul.views.outage import SHUTDOWN, job_of
from jorvek.core.overhaul.views.phases import CRANE
from jorvek.core.plan.crew import Timed
from jorvek.core.plan.follow import follow
from jorvek.core.plan.people import named
from jorvek.core.plan.problem import demand_sound
from jorvek.core.plan.why import Why, WhyCode, reasons
from jorvek.core.refusal import Refusal
from jorvek.core.run.log.events import Person
from jorvek.core.run.views.labels import View
from jorvek.work.overhauls import open_on, runs_on
from jorvek.work.plan_files import Made, WhatIf, file_of, read, seal_of
from jorvek.work.plan_problem import Outage, PlanAsked, outage, sets_there
from jorvek.work.plans import minutes_of
from jorvek.work.workshop import Workshop


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


class InForce(View):
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
    in_force: InForce | None = None
    moved: tuple[Moved, ...] = ()
    causes: tuple[Cause, ...] = ()
    earlier_min: int | None = None


_MOVED_MIN: Final = 30
"""What is elsewhere by less is the same for whoever works by it."""
_LONGER_MIN: Final = 30
_STAYS_MIN: Final = 30
"""So long people stay for what would else lie until tomorrow."""


@dataclass(frozen=True)
class _Forecast:
    """The plan in force as it goes: what is left of it, followed from now on."""

    asked: Outage
    laid: Timed
    who: dict[str, tuple[int, ...]]
    moves_who: tuple[tuple[int, ...], ...]
    why: dict[str, Why]


_forecasts: dict[tuple[UUID, str, int], _Forecast | Refusal] = {}
_KEPT: Final = 16


def forecast(workshop: Workshop, overhaul_id: UUID, taken: ov.PlanTaken) -> _Forecast:
    """Return how the plan in force goes from now on; the same within a minute while nothing happens.

    Raises:
        Refusal: those of ``outage``, ``demand_sound`` and ``follow``.
    """
    minute = int(workshop.clock().timestamp() // 60)
    standing = ",".join(f"{s.tool_id}{s.withdrawn}" for s in workshop.tool_standings.now().values())
    key = overhaul_id, seal_of(workshop, overhaul_id) + standing, minute
    found = _forecasts.get(key)
    if found is None:
        try:
            found = _followed(workshop, overhaul_id, taken)
        except Refusal as refusal:
            found = refusal
        while len(_forecasts) >= _KEPT:
            _forecasts.pop(next(iter(_forecasts)), None)
        _forecasts[key] = found
    if isinstance(found, Refusal):
        raise found
    return found


def asked_of(taken: ov.PlanTaken, made: Made | None) -> PlanAsked:
    """Return for whom and what a plan in force was made."""
    if made is not None and made.made_at == taken.made_at:
        return made.asked.model_copy(update={"pins": {}, "sets": {}})
    return PlanAsked(people=taken.hands, who=tuple(p.id for p in taken.people))


def _followed(workshop: Workshop, overhaul_id: UUID, taken: ov.PlanTaken) -> _Forecast:
    asked = outage(workshop, overhaul_id, asked_of(taken, read(file_of(workshop, overhaul_id))))
    demand_sound(asked.problem)
    known = minutes_of(taken, asked)
    laid = follow(asked.problem, known.placed, known.moves, _STAYS_MIN)
    before = {job_of(piece.id): piece.who for piece in taken.pieces if piece.who}
    who, moves_who = named(asked.problem, laid, job_of, before)
    return _Forecast(asked, laid, dict(who), moves_who, dict(reasons(asked.problem, laid)))


def plan_now(workshop: Workshop, overhaul_id: UUID) -> PlanShown:
    """Return the plan of an overhaul: what was found last, or, once that was taken, the one in force as it goes.

    Raises:
        Refusal: ``no_such_overhaul``.
    """
    state = workshop.overhauls.snapshot(overhaul_id).state
    made, taken = read(file_of(workshop, overhaul_id)), state.plan
    in_force = None if taken is None else _in_force(workshop, overhaul_id, taken)
    if taken is not None and (made is None or made.made_at == taken.plan.made_at):
        shown = _as_it_goes(workshop, overhaul_id, taken, made)
    elif made is None:
        shown = PlanShown(state="none", asked=PlanAsked())
    else:
        shown = _found(workshop, made, old=made.seal != seal_of(workshop, overhaul_id))
        if taken is not None and shown.finish_at is not None:
            shown = shown.model_copy(update=_against(workshop, overhaul_id, taken, shown, in_force))
    return shown.model_copy(update={"in_force": in_force})


def _found(workshop: Workshop, made: Made, *, old: bool) -> PlanShown:
    shown = PlanShown(
        state=made.state,
        asked=made.asked,
        refused=made.refused,
        refused_with=made.refused_with,
        made_at=made.made_at,
        old=old,
        left_out=made.left_out,
        crank_assumed=made.crank_assumed,
        what_if=made.what_if,
        wondering=made.wondering,
        people=_names(workshop, made.asked.who),
        hands=made.asked.hands,
        sets={} if made.problem is None else {k: n for k, n in made.problem.sets.items() if k != CRANE},
    )
    if made.plan is None or made.problem is None or made.midnight is None:
        return shown
    asked = Outage(made.problem, made.midnight, made.pieces, made.left_out, crank_assumed=made.crank_assumed)
    laid = Timed(made.plan.placed, made.plan.moves, {})
    return shown.model_copy(
        update={
            "finish_at": asked.at(made.plan.finish_min),
            "first_come_at": None if made.first_come_min is None else asked.at(made.first_come_min),
            "barring_deg": made.plan.barring_deg,
            "proven": made.plan.proven,
            "gap_percent": round(100 * made.plan.gap, 1),
            "bounds": tuple(_bound(asked, b.code, b.value, b.what) for b in made.plan.bound_parts[:3]),
            "work": tuple(_work(asked, laid, made.who, made.reasons, set(made.asked.pins))),
            "moves": tuple(_moves(asked, laid, made.moves_who)),
        }
    )


def _bound(
    asked: Outage,
    code: Literal["longest_chain", "hands", "set", "turning", "solver"],
    value: float,
    what: tuple[str, ...],
) -> BoundShown:
    turning = code == "turning"
    labels = tuple(dict.fromkeys(asked.pieces[one].label if one in asked.pieces else one for one in what))
    return BoundShown(
        code=code,
        finish_at=None if turning else asked.at(value),
        turning_deg=value if turning else None,
        what=tuple(one for one in labels if one != SHUTDOWN),
    )


def _names(workshop: Workshop, who: tuple[UUID, ...]) -> tuple[str, ...]:
    known = {p.id: p.name for p in workshop.registers.people()}
    return tuple(known[one] for one in who if one in known)


def _why(asked: Outage, why: Why | None) -> WhyShown | None:
    if why is None:
        return None
    labels = (asked.pieces[one].label if one in asked.pieces else one for one in why.what if one != SHUTDOWN)
    return WhyShown(code=why.code, what=tuple(dict.fromkeys(labels)))


def _work(
    asked: Outage, laid: Timed, who: dict[str, tuple[int, ...]], why: dict[str, Why], pins: set[str]
) -> Iterator[PlannedWork]:
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
            why=_why(asked, why.get(one.id)),
            pinned=one.id in pins,
            known=named_.known,
            late_min=max(0, named_.nine_in_ten_min - piece.minutes),
        )


def _moves(asked: Outage, laid: Timed, who: tuple[tuple[int, ...], ...]) -> Iterator[PlannedMove]:
    for k, move in enumerate(laid.moves):
        yield PlannedMove(
            start_at=asked.at(move.start_min),
            end_at=asked.at(move.end_min),
            from_deg=move.from_deg,
            to_deg=move.to_deg,
            turning_deg=move.turning_deg,
            who=who[k] if k < len(who) else (),
        )


# ---- the plan in force -----------------------------------------------------------------------------------------------


def _as_it_goes(workshop: Workshop, overhaul_id: UUID, taken: PlanInForce, made: Made | None) -> PlanShown:
    plan = taken.plan
    shown = PlanShown(
        state="in_force",
        asked=asked_of(plan, made),
        made_at=plan.made_at,
        hands=plan.hands,
        people=tuple(p.name for p in plan.people),
        gap_percent=plan.gap_percent,
        what_if=() if made is None else made.what_if,
        wondering=made is not None and made.wondering,
    )
    try:
        goes = forecast(workshop, overhaul_id, plan)
    except Refusal as refusal:
        with_ = {name: str(value) for name, value in refusal.params.items()}
        there = sets_there(workshop, workshop.overhauls.snapshot(overhaul_id).state.opened.engine.id)
        sets = {one: there.get(one, 0) for piece in plan.pieces for one in piece.sets}
        return shown.model_copy(
            update={"refused": refusal.code, "refused_with": with_, "sets": sets, **_as_taken(plan)}
        )
    return shown.model_copy(
        update={
            "finish_at": goes.asked.at(goes.laid.finish_min),
            "barring_deg": goes.laid.barring_deg,
            "work": tuple(_work(goes.asked, goes.laid, goes.who, goes.why, set(plan.pins))),
            "moves": tuple(_moves(goes.asked, goes.laid, goes.moves_who)),
            "left_out": goes.asked.left_out,
            "crank_assumed": goes.asked.crank_assumed,
            "sets": {k: n for k, n in goes.asked.problem.sets.items() if k != CRANE},
        }
    )


def _as_taken(plan: ov.PlanTaken) -> dict[str, object]:
    """Where nobody can tell how it goes on, it is shown as it was taken."""
    return {
        "finish_at": plan.finish_at,
        "barring_deg": plan.barring_deg,
        "work": tuple(
            PlannedWork(
                **{name: getattr(p, name) for name in ("id", "joint", "label", "title", "start_at", "end_at", "hands")},
                angle_deg=p.angle_deg,
                sets=p.sets,
                crane=p.crane,
                who=p.who,
                why=None,
                pinned=p.id in plan.pins,
                known=None,
                late_min=0,
            )
            for p in plan.pieces
        ),
        "moves": tuple(PlannedMove(**move.model_dump()) for move in plan.moves),
    }


def _in_force(workshop: Workshop, overhaul_id: UUID, taken: PlanInForce) -> InForce:
    plan = taken.plan
    goes: _Forecast | None = None
    refused, refused_with = None, dict[str, str]()
    try:
        goes = forecast(workshop, overhaul_id, plan)
    except Refusal as refusal:
        if refusal.code != "plan_nothing_left":
            refused = refusal.code
            refused_with = {name: str(value) for name, value in refusal.params.items()}
    return InForce(
        by=taken.by.name,
        at=taken.at,
        made_at=plan.made_at,
        finish_at=plan.finish_at,
        forecast_at=None if goes is None else goes.asked.at(goes.laid.finish_min),
        refused=refused,
        refused_with=refused_with,
        jobs=tuple(_jobs(workshop, overhaul_id, plan, goes)),
    )


def _jobs(workshop: Workshop, overhaul_id: UUID, plan: ov.PlanTaken, goes: _Forecast | None) -> Iterator[Job]:
    """Yield every job of a plan in force, with when it really began and ended, or will."""
    engine = workshop.overhauls.snapshot(overhaul_id).state.opened.engine
    real = {f"{run.joint} {run.procedure}": run for run in reversed(runs_on(workshop, engine.id))
            if run.overhaul == overhaul_id}  # fmt: skip
    planned: dict[str, list[ov.PlannedPiece]] = {}
    for piece in plan.pieces:
        planned.setdefault(job_of(piece.id), []).append(piece)
    to_come = {} if goes is None else _by_job(goes)
    for job, pieces in planned.items():
        run = real.get(job)
        there = to_come.get(job)
        closed_at = None
        if run is not None and not run.open:
            closed_at = workshop.log.snapshot(run.run_id).state.closed_at
        began = None if run is None else datetime.fromisoformat(run.started)
        yield Job(
            id=job,
            joint=pieces[0].joint,
            label=pieces[0].label,
            title=pieces[0].title,
            planned_start_at=min(p.start_at for p in pieces),
            planned_end_at=max(p.end_at for p in pieces),
            state="to_come" if run is None else "under_way" if run.open else "done",
            run_id=run.run_id if run else None,
            start_at=began or (there[0] if there else None),
            end_at=closed_at or (there[1] if there else None),
        )


def _by_job(goes: _Forecast) -> dict[str, tuple[datetime, datetime]]:
    found: dict[str, tuple[datetime, datetime]] = {}
    for one in goes.laid.placed:
        start, end = goes.asked.at(one.start_min), goes.asked.at(one.end_min)
        first, last = found.get(job_of(one.id), (start, end))
        found[job_of(one.id)] = min(first, start), max(last, end)
    return found


def _against(
    workshop: Workshop, overhaul_id: UUID, taken: PlanInForce, shown: PlanShown, in_force: InForce | None
) -> dict[str, object]:
    """Return what a plan that was found changes against the one in force, and what has become otherwise since."""
    now: dict[str, PlannedWork] = {}
    for work in shown.work:
        now.setdefault(job_of(work.id), work)
    jobs = {job.id: job for job in (in_force.jobs if in_force else ()) if job.state == "to_come"}
    moved = []
    for key in dict.fromkeys((*jobs, *now)):
        job, work_now = jobs.get(key), now.get(key)
        before = None if job is None else job.start_at or job.planned_start_at
        after = None if work_now is None else work_now.start_at
        under_way = job is None and any(j.id == key for j in (in_force.jobs if in_force else ()))
        if under_way or (before and after and abs(after - before) < timedelta(minutes=_MOVED_MIN)):
            continue
        called = job or work_now
        assert called is not None
        moved.append(Moved(label=called.label, title=called.title, before_at=before, after_at=after))
    earlier = None
    if in_force is not None and in_force.forecast_at is not None and shown.finish_at is not None:
        earlier = round((in_force.forecast_at - shown.finish_at).total_seconds() / 60.0)
    return {"moved": tuple(moved), "causes": tuple(_causes(workshop, taken, in_force)), "earlier_min": earlier}


def _causes(workshop: Workshop, taken: PlanInForce, in_force: InForce | None) -> Iterator[Cause]:
    used = {one for piece in taken.plan.pieces for one in piece.sets}
    classes = {tool.id: tool.tool_class for tool in workshop.registers.tools()}
    for standing in workshop.tool_standings.now().values():
        if standing.withdrawn and standing.at > taken.at and classes.get(standing.tool_id) in used:
            yield Cause(code="tool_withdrawn", what=f"{standing.tool_id}: {standing.words}", minutes=0)
    for job in in_force.jobs if in_force else ():
        if job.state == "to_come" or job.start_at is None or job.end_at is None:
            continue
        took = (job.end_at - job.start_at) - (job.planned_end_at - job.planned_start_at)
        minutes = round(took.total_seconds() / 60.0)
        if abs(minutes) >= _LONGER_MIN:
            yield Cause(code="longer" if minutes > 0 else "shorter", what=job.label, minutes=abs(minutes))


# ---- today for me ----------------------------------------------------------------------------------------------------


class ForMe(View):
    """What is next for somebody by the plans in force; ``others`` are there with them."""

    engine_id: str
    engine: str
    overhaul_id: UUID
    work: PlannedWork
    others: tuple[str, ...]


_THINGS: Final = 3


def today_for(workshop: Workshop, actor: Person) -> tuple[ForMe, ...]:
    """Return the next few things for somebody by the plans in force, the soonest first."""
    found: list[ForMe] = []
    for engine in workshop.registers.engines():
        overhaul = open_on(workshop, engine.id)
        if overhaul is None or overhaul.plan is None:
            continue
        people = overhaul.plan.plan.people
        mine = next((k for k, person in enumerate(people) if person.id == actor.id), None)
        if mine is None:
            continue
        for work in _todo(workshop, overhaul.overhaul_id, overhaul.plan.plan):
            if mine in work.who:
                others = tuple(people[k].name for k in work.who if k != mine and k < len(people))
                found.append(
                    ForMe(
                        engine_id=engine.id,
                        engine=engine.name,
                        overhaul_id=overhaul.overhaul_id,
                        work=work,
                        others=others,
                    )
                )
    return tuple(sorted(found, key=lambda one: one.work.start_at)[:_THINGS])


def _todo(workshop: Workshop, overhaul_id: UUID, plan: ov.PlanTaken) -> tuple[PlannedWork, ...]:
    try:
        goes = forecast(workshop, overhaul_id, plan)
    except Refusal:
        return ()
    return tuple(_work(goes.asked, goes.laid, goes.who, goes.why, set(plan.pins)))
