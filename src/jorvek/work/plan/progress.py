"""The plan in force as it goes: what is left of it followed from now on, what is done held against it."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Final
from uuid import UUID

from jorvek.core.canonical import sha256_hex
from jorvek.core.overhaul.log import events as ov
from jorvek.core.overhaul.log.state import PlanInForce
from jorvek.core.overhaul.views.outage import job_of
from jorvek.core.plan.crew import Timed
from jorvek.core.plan.follow import follow
from jorvek.core.plan.people import named
from jorvek.core.plan.problem import demand_sound
from jorvek.core.plan.why import Why, reasons
from jorvek.core.refusal import Refusal
from jorvek.work.engine.overhauls import runs_on
from jorvek.work.plan.problem import Outage, PlanAsked, outage
from jorvek.work.plan.search import minutes_of
from jorvek.work.plan.views import Cause, Job, Moved, PlannedWork, PlanProgress, PlanShown
from jorvek.work.workshop import Workshop

_MOVED_MIN: Final = 30
"""What is elsewhere by less is the same for whoever works by it."""
_LONGER_MIN: Final = 30
_STAYS_MIN: Final = 30
"""So long people stay for what would else lie until tomorrow."""


@dataclass(frozen=True)
class Forecast:
    """The plan in force as it goes: what is left of it, followed from now on."""

    asked: Outage
    laid: Timed
    who: dict[str, tuple[int, ...]]
    moves_who: tuple[tuple[int, ...], ...]
    why: dict[str, Why]


_forecasts: dict[tuple[UUID, str, int], Forecast | Refusal] = {}
_KEPT: Final = 16
_LOOKED_S: Final = 300


def forecast(workshop: Workshop, overhaul_id: UUID, taken: ov.PlanTaken) -> Forecast:
    """Return how the plan in force goes from now on.

    It is worked out anew when work is begun, ended or found bad, when anything is entered of the engine or of a tool,
    and every few minutes. A reading by itself changes nothing of it: it would be worked out for every one.

    Raises:
        Refusal: those of ``outage``, ``demand_sound`` and ``follow``.
    """
    key = overhaul_id, _standing(workshop, overhaul_id), int(workshop.clock().timestamp() // _LOOKED_S)
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


def _standing(workshop: Workshop, overhaul_id: UUID) -> str:
    """Return what a forecast rests on, readings aside."""
    snapshot = workshop.overhauls.snapshot(overhaul_id)
    runs = (
        f"{run.run_id}{run.open}{run.gates_bad}{run.condition}"
        for run in runs_on(workshop, snapshot.state.opened.engine.id)
    )
    tools = (f"{one.tool_id}{one.withdrawn}" for one in workshop.tool_standings.now().values())
    return sha256_hex(snapshot.head_hash, *runs, *tools)


def asked_of(taken: ov.PlanTaken) -> PlanAsked:
    """Return for whom and what a plan in force was made."""
    return PlanAsked(
        people=taken.hands,
        who=tuple(p.id for p in taken.people),
        cranes=taken.cranes,
        from_min=taken.from_min,
        to_min=taken.to_min,
        sets=taken.sets,
        aim=taken.aim,
        away=taken.away,
        pins={piece.id: piece.start_at for piece in taken.pieces if piece.id in taken.pins},
    )


def _followed(workshop: Workshop, overhaul_id: UUID, taken: ov.PlanTaken) -> Forecast:
    asked = outage(workshop, overhaul_id, asked_of(taken))
    demand_sound(asked.problem)
    known = minutes_of(taken, asked)
    laid = follow(asked.problem, known.placed, known.moves, _STAYS_MIN)
    before = {job_of(piece.id): piece.who for piece in taken.pieces if piece.who}
    who, moves_who = named(asked.problem, laid, job_of, before)
    return Forecast(asked, laid, dict(who), moves_who, dict(reasons(asked.problem, laid)))


def in_force_now(workshop: Workshop, overhaul_id: UUID, taken: PlanInForce) -> PlanProgress:
    """Return the plan that was taken, with how it goes."""
    plan = taken.plan
    goes: Forecast | None = None
    refused, refused_with = None, dict[str, str]()
    try:
        goes = forecast(workshop, overhaul_id, plan)
    except Refusal as refusal:
        if refusal.code != "plan_nothing_left":
            refused = refusal.code
            refused_with = {name: str(value) for name, value in refusal.params.items()}
    return PlanProgress(
        by=taken.by.name,
        at=taken.at,
        made_at=plan.made_at,
        finish_at=plan.finish_at,
        forecast_at=None if goes is None else goes.asked.at(goes.laid.finish_min),
        refused=refused,
        refused_with=refused_with,
        jobs=tuple(jobs_of(workshop, overhaul_id, plan, goes)),
    )


def jobs_of(workshop: Workshop, overhaul_id: UUID, plan: ov.PlanTaken, goes: Forecast | None) -> Iterator[Job]:
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


def _by_job(goes: Forecast) -> dict[str, tuple[datetime, datetime]]:
    found: dict[str, tuple[datetime, datetime]] = {}
    for one in goes.laid.placed:
        start, end = goes.asked.at(one.start_min), goes.asked.at(one.end_min)
        first, last = found.get(job_of(one.id), (start, end))
        found[job_of(one.id)] = min(first, start), max(last, end)
    return found


def against(
    workshop: Workshop, overhaul_id: UUID, taken: PlanInForce, shown: PlanShown, in_force: PlanProgress | None
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


def _causes(workshop: Workshop, taken: PlanInForce, in_force: PlanProgress | None) -> Iterator[Cause]:
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
