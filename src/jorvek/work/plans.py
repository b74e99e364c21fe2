"""A plan for an overhaul as it stands: made in a process of its own at the lowest priority, stopped when asked."""

from __future__ import annotations

import json
import multiprocessing
import os
import threading
import time
from collections.abc import Iterator
from dataclasses import dataclass, field
from datetime import datetime, timedelta
from functools import cached_property, partial
from pathlib import Path
from typing import Annotated, Final, Literal
from uuid import UUID
from zoneinfo import ZoneInfo

from pydantic import BaseModel, Field, ValidationError

from jorvek.core.canonical import canonical_text, sha256_hex
from jorvek.core.engine.layout import JointPlace
from jorvek.core.overhaul.rules.standing import ground_of, shown_condition
from jorvek.core.overhaul.views.engine import was_apart
from jorvek.core.overhaul.views.outage import SHUTDOWN, Crew, Run, problem_of
from jorvek.core.overhaul.views.phases import CRANE, phases_of
from jorvek.core.plan.problem import Problem, demand_sound
from jorvek.core.plan.result import Plan
from jorvek.core.plan.rule import first_come
from jorvek.core.procedure.metal_parts import Condition
from jorvek.core.procedure.options import Selection, selections
from jorvek.core.refusal import Refusal
from jorvek.core.rights import Act, demand
from jorvek.core.run.log.cells import Cell
from jorvek.core.run.log.definition import Definition, define
from jorvek.core.run.log.events import Person
from jorvek.core.run.views.labels import View
from jorvek.core.run.views.on_engine import OnEngine
from jorvek.planning.solve import plan
from jorvek.store.database import Database
from jorvek.store.registers import RevisionHead
from jorvek.work.overhauls import EngineNow, engine_now
from jorvek.work.workshop import Workshop

_LOOK_S: Final = 0.3


class PlanAsked(BaseModel):
    """Who is there, and how long a better plan is looked for."""

    people: Annotated[int, Field(ge=0, le=40)] = 4
    cranes: Annotated[int, Field(ge=0, le=8)] = 1
    from_min: Annotated[int, Field(ge=0, le=1440)] = 360
    to_min: Annotated[int, Field(ge=0, le=1440)] = 1320
    sets: dict[Annotated[str, Field(max_length=60)], Annotated[int, Field(ge=0, le=20)]] = Field(default={})
    seconds: Annotated[float, Field(ge=1, le=600)] = 20.0


class PlannedWork(View):
    """A piece of work in its place.

    Attributes:
        joint: key of its joint.
        label: what the joint is called.
        title: heading of its first step.
        angle_deg: where the crank stands meanwhile; None where it does not matter.
        sets: classes of tool whose set it takes.
        crane: it takes the crane.
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


class PlannedMove(View):
    """A move of the crank."""

    start_at: datetime
    end_at: datetime
    from_deg: float
    to_deg: float
    turning_deg: float


class BoundShown(View):
    """Why it cannot be better: what it rests on, and when all would be finished at the earliest."""

    code: Literal["longest_chain", "hands", "set", "turning", "solver"]
    finish_at: datetime
    what: tuple[str, ...]


class PlanShown(View):
    """A plan as one looks at it.

    Attributes:
        state: never asked for; looked for; ended; stopped; gone wrong.
        asked: for whom and what it was made.
        refused: code of what speaks against any plan, with its parameters; None where nothing does.
        made_at: when it was asked for.
        old: the overhaul has gone on since.
        gap_percent: no plan is earlier by more than this share.
        first_come_at: when a crew would finish that takes the work as the list has it.
    """

    state: Literal["none", "looking", "ready", "stopped", "failed"]
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


class _Made(BaseModel):
    """What lies on the disk: the plan as found so far, and what it was found for."""

    state: Literal["looking", "ready", "stopped", "failed"]
    asked: PlanAsked
    made_at: datetime
    seal: str
    problem: Problem | None = None
    titles: dict[str, tuple[str, str, str]] = Field(default={})
    plan: Plan | None = None
    first_come_min: int | None = None
    refused: str | None = None
    refused_with: dict[str, str] = Field(default={})


def sets_there(workshop: Workshop) -> dict[str, int]:
    """Return how many sets of each class of tool are there and not withdrawn."""
    standings = workshop.tool_standings.now()
    found: dict[str, int] = {}
    for tool in workshop.registers.tools():
        standing = standings.get(tool.id)
        if standing is None or not standing.withdrawn:
            found[tool.tool_class] = found.get(tool.tool_class, 0) + 1
    return found


def outage(workshop: Workshop, overhaul_id: UUID, asked: PlanAsked) -> tuple[Problem, dict[str, tuple[str, str, str]]]:
    """Return what a plan is asked for, and of every piece its joint, what that is called, and its heading.

    Raises:
        Refusal: ``no_such_overhaul``, ``plan_nothing_left``, ``plan_rule_broken``; those of ``demand_sound``.
    """
    now = engine_now(workshop, workshop.overhauls.snapshot(overhaul_id).state)
    ground = ground_of(now.overhaul, now.sheet, now.runs)
    gathering = _Gathering(workshop, now)
    chains = {place.key: list(gathering.chain(place)) for place in ground.places}
    chains = {joint: runs for joint, runs in chains.items() if runs}
    if not chains:
        raise Refusal("plan_nothing_left")
    standing = {p.key: shown_condition(now.overhaul, p.key, list(now.runs)) for p in ground.places}
    begins = {joint: runs[0].begins for joint, runs in chains.items()}
    conditions = {key: c for key in standing if (c := begins.get(key) or standing[key]) is not None}
    at = workshop.clock().astimezone(ZoneInfo(workshop.site_zone))
    wanted = {one for runs in chains.values() for run in runs for phase in run.phases for one in phase.sets}
    there = {**sets_there(workshop), **asked.sets}
    crank = now.overhaul.crank
    problem = problem_of(
        ground,
        chains,
        conditions,
        Crew(asked.people, {one: there.get(one, 0) for one in wanted}, asked.cranes, (asked.from_min, asked.to_min)),
        crank.angle_deg if crank is not None and crank.angle_deg is not None else 0.0,
        at.hour * 60 + at.minute,
        round((workshop.clock() - now.overhaul.opened_at).total_seconds() / 60.0),
    )
    labels = {place.key: place.label for place in ground.places}
    titles = {
        run.name(k): (run.joint, labels[run.joint], phase.title)
        for runs in chains.values()
        for run in runs
        for k, phase in enumerate(run.phases)
    }
    demand_sound(problem)
    return problem, titles


_WHOLE: Final = {"piston": ("out", "in")}
"""In an overhaul a unit goes the whole way: the piston comes out and goes in again."""


@dataclass
class _Gathering:
    """What every joint of an engine still needs."""

    workshop: Workshop
    now: EngineNow
    known: dict[str, tuple[Definition, Selection]] = field(default_factory=dict)

    @cached_property
    def heads(self) -> list[RevisionHead]:
        """The approved procedures for engines of the type."""
        kind = self.now.overhaul.opened.engine.type
        return [h for h in self.workshop.registers.revisions() if h.status == "approved" and h.engine_type == kind]

    def chain(self, place: JointPlace) -> Iterator[Run]:
        """Yield the runs that a joint still needs: what is under way, down to open where it is undone, and back."""
        ladder = self.now.sheet.ladders.get(place.kind)
        mine = [run for run in self.now.runs if run.joint == place.key]
        condition = shown_condition(self.now.overhaul, place.key, mine)
        newest = mine[0] if mine else None
        if ladder is None or condition is None:
            return
        home = condition == ladder.undone[0]
        going_apart = home or (newest is not None and newest.purpose == "loosen")
        if newest is not None and newest.open:
            yield self._under_way(place, newest)
            condition = newest.leaves or condition
        elif home and (self._done(place, condition, mine) or place.key not in self.now.overhaul.scope):
            return
        if going_apart and condition != ladder.undone[-1]:
            for run in self._follow(place, condition, ladder.undone, "loosen"):
                condition = run.leaves or condition
                yield run
        yield from self._follow(place, condition, ladder.put_back, "tighten")

    def _done(self, place: JointPlace, home: Condition, mine: list[OnEngine]) -> bool:
        return was_apart(self.now.overhaul, place.key, home, mine)

    def _under_way(self, place: JointPlace, run: OnEngine) -> Run:
        """What is left of a run that somebody is at."""
        state = self.workshop.log.snapshot(run.run_id).state

        def left(cell: Cell) -> bool:
            return state.live(cell.key) is None

        phases = phases_of(state.definition, self.now.overhaul.opened.engine, self.now.sheet.crank, place, left)
        return Run(place.key, run.procedure, run.begins, run.leaves, phases, run.selection)

    def _follow(
        self, place: JointPlace, condition: Condition, way: tuple[Condition, ...], purpose: str
    ) -> Iterator[Run]:
        """Yield the approved procedures that take a joint on from a condition, one after the other."""
        mine = [h for h in self.heads if h.joint is place.kind and h.purpose == purpose and h.leaves in way]
        while condition in way:
            fits = next((h for h in mine if h.begins == condition), None)
            if fits is None or fits.leaves is None or way.index(fits.leaves) <= way.index(condition):
                return
            definition, selection = self._definition(fits.hash)
            phases = phases_of(definition, self.now.overhaul.opened.engine, self.now.sheet.crank, place)
            yield Run(place.key, fits.id, condition, fits.leaves, phases, selection)
            condition = fits.leaves

    def _definition(self, digest: str) -> tuple[Definition, Selection]:
        if digest not in self.known:
            revision = self.workshop.registers.revision(digest)
            if revision is None:
                raise Refusal("no_such_procedure", hash=digest)
            ways = selections(revision.procedure)
            whole = [w for w in ways if any(w.get(option) in choices for option, choices in _WHOLE.items())]
            selection = (whole or ways)[0]
            self.known[digest] = define(revision.procedure, selection), selection
        return self.known[digest]


def _place(workshop: Workshop, overhaul_id: UUID) -> tuple[Path, Path]:
    """Return where the plan lies, and what asks for it to be stopped."""
    place = workshop.photo_dir.parent / "plans"
    place.mkdir(parents=True, exist_ok=True)
    return place / f"{overhaul_id}.json", place / f"{overhaul_id}.stop"


def _seal(workshop: Workshop, overhaul_id: UUID) -> str:
    snapshot = workshop.overhauls.snapshot(overhaul_id)
    rows = workshop.registers.runs(snapshot.state.opened.engine.id)
    return sha256_hex(snapshot.head_hash, *(row.head_hash for row in rows))


def begin_plan(workshop: Workshop, actor: Person, overhaul_id: UUID, asked: PlanAsked) -> PlanShown:
    """Begin to look for a plan; one that is looked for already is stopped first.

    Raises:
        Refusal: ``not_your_right``, ``no_such_overhaul``.
    """
    demand(actor.role, Act.LEAD_OVERHAUL)
    found, stop = _place(workshop, overhaul_id)
    made = _Made(state="looking", asked=asked, made_at=workshop.clock(), seal=_seal(workshop, overhaul_id))
    before = _read(found)
    if before is not None and before.state == "looking":
        # Whoever looks already sees it within this time, and writes no more.
        stop.touch()
        time.sleep(2 * _LOOK_S)
    stop.unlink(missing_ok=True)
    _write(found, made)
    url = workshop.database.engine.url.render_as_string(hide_password=False)
    rest = (workshop.site_zone, str(workshop.photo_dir), str(overhaul_id), str(found), str(stop))
    multiprocessing.get_context("spawn").Process(target=_look_for, args=(url, *rest), daemon=True).start()
    return plan_now(workshop, overhaul_id)


def stop_plan(workshop: Workshop, actor: Person, overhaul_id: UUID) -> PlanShown:
    """Stop looking; what was found so far stays.

    Raises:
        Refusal: ``not_your_right``, ``no_such_overhaul``.
    """
    demand(actor.role, Act.LEAD_OVERHAUL)
    found, stop = _place(workshop, overhaul_id)
    made = _read(found)
    if made is not None and made.state == "looking":
        stop.touch()
        _write(found, made.model_copy(update={"state": "stopped"}))
    return plan_now(workshop, overhaul_id)


def _write(place: Path, made: _Made) -> None:
    half = place.with_suffix(".part")
    half.write_text(canonical_text(json.loads(made.model_dump_json(by_alias=True))))
    half.replace(place)


def _read(place: Path) -> _Made | None:
    try:
        return _Made.model_validate_json(place.read_text())
    except (OSError, ValidationError):
        return None


def _look_for(url: str, zone: str, photo_dir: str, overhaul_id: str, place: str, stop: str) -> None:
    """Run in the other process: gather, look, and write down whatever is better than before."""
    os.nice(19)
    found, ends = Path(place), Path(stop)
    made = _read(found)
    if made is None:
        return
    asked_at = made.made_at
    shop = Workshop(Database(url), lambda: asked_at, site_zone=zone, photo_dir=Path(photo_dir))

    def watch() -> None:
        while not ends.exists():
            time.sleep(_LOOK_S)
        os._exit(0)

    threading.Thread(target=watch, daemon=True).start()
    try:
        problem, titles = outage(shop, UUID(overhaul_id), made.asked)
        quick = first_come(problem).finish_min
        made = made.model_copy(update={"problem": problem, "titles": titles, "first_come_min": quick})
        best = plan(problem, seconds=made.asked.seconds, told=partial(_tell, found, ends, made))
        made = made.model_copy(update={"state": "ready", "plan": best})
    except Refusal as refusal:
        with_ = {name: str(value) for name, value in refusal.params.items()}
        made = made.model_copy(update={"state": "failed", "refused": refusal.code, "refused_with": with_})
    except Exception:
        _write(found, made.model_copy(update={"state": "failed"}))
        raise
    if not ends.exists():
        _write(found, made)


def _tell(found: Path, ends: Path, made: _Made, better: Plan) -> None:
    if not ends.exists():
        _write(found, made.model_copy(update={"plan": better}))


def plan_now(workshop: Workshop, overhaul_id: UUID) -> PlanShown:
    """Return the plan of an overhaul as found so far.

    Raises:
        Refusal: ``no_such_overhaul``.
    """
    seal = _seal(workshop, overhaul_id)
    made = _read(_place(workshop, overhaul_id)[0])
    if made is None:
        return PlanShown(state="none", asked=PlanAsked(), sets=sets_there(workshop))
    zone = ZoneInfo(workshop.site_zone)
    midnight = made.made_at.astimezone(zone).replace(hour=0, minute=0, second=0, microsecond=0)

    def at(minute: float) -> datetime:
        return midnight + timedelta(minutes=minute)

    shown = PlanShown(
        state=made.state,
        asked=made.asked,
        refused=made.refused,
        refused_with=made.refused_with,
        made_at=made.made_at,
        old=made.seal != seal,
        first_come_at=None if made.first_come_min is None else at(made.first_come_min),
        sets={} if made.problem is None else {k: n for k, n in made.problem.sets.items() if k != CRANE},
    )
    if made.plan is None or made.problem is None:
        return shown
    found, pieces = made.plan, {piece.id: piece for piece in made.problem.work}
    placed = sorted((p for p in found.placed if p.id != SHUTDOWN), key=lambda p: (p.start_min, p.end_min, p.id))
    return shown.model_copy(
        update={
            "finish_at": at(found.finish_min),
            "barring_deg": found.barring_deg,
            "proven": found.proven,
            "gap_percent": round(100 * found.gap, 1),
            "bounds": tuple(BoundShown(code=b.code, finish_at=at(b.value), what=b.what) for b in found.bound_parts[:3]),
            "work": tuple(
                PlannedWork(
                    id=one.id,
                    joint=made.titles[one.id][0],
                    label=made.titles[one.id][1],
                    title=made.titles[one.id][2],
                    start_at=at(one.start_min),
                    end_at=at(one.end_min),
                    hands=pieces[one.id].hands,
                    angle_deg=one.angle_deg,
                    sets=tuple(s for s in pieces[one.id].uses if s != CRANE),
                    crane=CRANE in pieces[one.id].uses,
                )
                for one in placed
            ),
            "moves": tuple(
                PlannedMove(
                    start_at=at(m.start_min),
                    end_at=at(m.end_min),
                    from_deg=m.from_deg,
                    to_deg=m.to_deg,
                    turning_deg=m.turning_deg,
                )
                for m in found.moves
            ),
        }
    )
