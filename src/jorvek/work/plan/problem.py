"""What a plan is asked for: an overhaul as it stands, who and what is there, and what people want of it."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass, field, replace
from datetime import datetime, timedelta
from functools import cached_property
from typing import Annotated, Final, Literal
from uuid import UUID
from zoneinfo import ZoneInfo

from pydantic import AwareDatetime, BaseModel, Field

from jorvek.core.engine.layout import JointPlace
from jorvek.core.overhaul.log.events import PlannedAway
from jorvek.core.overhaul.rules.joint_conditions import ground_of, shown_condition
from jorvek.core.overhaul.views.joints import was_apart
from jorvek.core.overhaul.views.minutes import Book, StepMinutes, step_minutes
from jorvek.core.overhaul.views.outage import Crew, Run, problem_of
from jorvek.core.overhaul.views.phases import CRANE, Phase, phases_of
from jorvek.core.plan.problem import DAY_MIN, Away, Problem
from jorvek.core.procedure.metal_parts import Condition
from jorvek.core.procedure.options import Selection, selections
from jorvek.core.refusal import Refusal
from jorvek.core.run.log.cells import Cell
from jorvek.core.run.log.definition import Definition, define
from jorvek.core.run.views.on_engine import RunOnEngine
from jorvek.store.registers import RevisionHead
from jorvek.store.run_summaries import RunSummary
from jorvek.work.engine.overhauls import ON_ENGINE, EngineNow, engine_now
from jorvek.work.library.revisions import on_offer
from jorvek.work.workshop import Workshop

Named = Annotated[str, Field(max_length=120)]


class PlanAsked(BaseModel):
    """Who and what is there, what is wanted first, and how long a better plan is looked for.

    Attributes:
        people: how many there are; those of ``who`` count instead, where any are named.
        who: people by name.
        sets: how many sets of a class of tool there are, where that is not what the register says.
        away: who and what is away, and when.
        pins: pieces that a person has put in their place.
        what_if: what another set, another person or another shift would change is looked for as well.
    """

    people: Annotated[int, Field(ge=0, le=40)] = 4
    who: Annotated[tuple[UUID, ...], Field(max_length=40)] = ()
    cranes: Annotated[int, Field(ge=0, le=8)] = 1
    from_min: Annotated[int, Field(ge=0, le=1440)] = 360
    to_min: Annotated[int, Field(ge=0, le=1440)] = 1320
    sets: dict[Annotated[str, Field(max_length=60)], Annotated[int, Field(ge=0, le=20)]] = Field(default={})
    aim: Literal["earliest_finish", "least_barring"] = "earliest_finish"
    away: Annotated[tuple[PlannedAway, ...], Field(max_length=40)] = ()
    pins: dict[Named, AwareDatetime] = Field(default={}, max_length=200)
    what_if: bool = True
    seconds: Annotated[float, Field(ge=1, le=600)] = 20.0

    @property
    def hands(self) -> int:
        """How many people it counts with."""
        return len(self.who) or self.people


class Piece(BaseModel):
    """A piece of work as one reads it.

    Attributes:
        known: where its minutes come from.
        nine_in_ten_min: within this it is done nine times out of ten.
    """

    joint: str
    label: str
    title: str
    known: Literal["stated", "learned", "usual"]
    nine_in_ten_min: int


@dataclass(frozen=True)
class Outage:
    """An overhaul as a problem for a plan.

    Attributes:
        midnight: the first midnight, from which minutes count.
        pieces: of every piece what it is called.
        left_out: joints for which no approved procedure leads all the way back.
        crank_assumed: nobody knows where the crank stands.
        sets: classes of tool that are used.
    """

    problem: Problem
    midnight: datetime
    pieces: dict[str, Piece]
    left_out: tuple[str, ...]
    crank_assumed: bool

    def at(self, minute: float) -> datetime:
        """Return a moment of the plan as a time."""
        return self.midnight + timedelta(minutes=minute)


_MINUTES: Final = RunSummary("step_minutes", StepMinutes, step_minutes)


def book_of(workshop: Workshop) -> Book:
    """Return what all runs of the site tell of how long steps take."""
    return Book.of(workshop.summaries.of(_MINUTES, workshop.registers.runs()).values())


def sets_there(workshop: Workshop, engine_id: str) -> dict[str, int]:
    """Return how many sets of each class of tool are there: not withdrawn, in date, not on another engine."""
    standings, today = workshop.tool_standings.now(), workshop.today()
    rows = {row.id: row for row in workshop.registers.runs() if row.open and row.engine_id != engine_id}
    elsewhere = {
        tool for run in workshop.summaries.of(ON_ENGINE, list(rows.values())).values() for tool in run.drawn
        if tool not in run.idle
    }  # fmt: skip
    found: dict[str, int] = {}
    for tool in workshop.registers.tools():
        standing = standings.get(tool.id)
        gone = (standing is not None and standing.withdrawn) or tool.out_of_date(today) or tool.id in elsewhere
        found[tool.tool_class] = found.get(tool.tool_class, 0) + (0 if gone else 1)
    return found


def midnight_of(workshop: Workshop, at: datetime) -> datetime:
    """Return the midnight of the site before a moment."""
    return at.astimezone(ZoneInfo(workshop.site_zone)).replace(hour=0, minute=0, second=0, microsecond=0)


def outage(workshop: Workshop, overhaul_id: UUID, asked: PlanAsked) -> Outage:
    """Return an overhaul as a problem for a plan.

    Raises:
        Refusal: ``no_such_overhaul``, ``plan_nothing_left``, ``plan_rule_broken``.
    """
    now = engine_now(workshop, workshop.overhauls.snapshot(overhaul_id).state)
    ground = ground_of(now.overhaul, now.sheet, now.runs)
    gathering = _Gathering(workshop, now, book_of(workshop))
    chains = {place.key: list(gathering.chain(place)) for place in ground.places}
    chains = {joint: runs for joint, runs in chains.items() if runs}
    if not chains:
        raise Refusal("plan_nothing_left")
    standing = {p.key: shown_condition(now.overhaul, p.key, list(now.runs)) for p in ground.places}
    begins = {joint: runs[0].begins for joint, runs in chains.items()}
    conditions = {key: c for key in standing if (c := begins.get(key) or standing[key]) is not None}
    at, crank = workshop.clock(), now.overhaul.crank
    midnight = midnight_of(workshop, at)
    problem = problem_of(
        ground,
        chains,
        conditions,
        _crew(asked, chains, sets_there(workshop, now.overhaul.opened.engine.id), midnight),
        crank.angle_deg if crank is not None and crank.angle_deg is not None else 0.0,
        round((at - midnight).total_seconds() / 60.0),
        round((at - now.overhaul.opened_at).total_seconds() / 60.0),
    )
    labels = {place.key: place.label for place in ground.places}
    pieces = {
        name: Piece(
            joint=run.joint,
            label=labels[run.joint],
            title=phase.title,
            known=phase.known,
            nine_in_ten_min=phase.nine_in_ten_min,
        )
        for runs in chains.values()
        for run in runs
        for name, phase in run.named
    }
    return Outage(
        problem=problem,
        midnight=midnight,
        pieces=pieces,
        left_out=tuple(labels[joint] for joint in gathering.stuck),
        crank_assumed=crank is None or crank.angle_deg is None,
    )


def _crew(asked: PlanAsked, chains: dict[str, list[Run]], there: dict[str, int], midnight: datetime) -> Crew:
    wanted = {one for runs in chains.values() for run in runs for phase in run.phases for one in phase.sets}
    sets = {one: asked.sets.get(one, there.get(one, 0)) for one in wanted}

    def minute(at: datetime) -> int:
        return max(0, round((at - midnight).total_seconds() / 60.0))

    known = {*sets, CRANE, "hands"}
    away = tuple(
        Away(what=a.what, from_min=minute(a.from_at), to_min=minute(a.to_at), count=a.count)
        for a in asked.away
        if a.what in known and a.to_at > midnight
    )
    shift = (asked.from_min, asked.to_min)
    pins = {name: minute(at) for name, at in asked.pins.items()}
    return Crew(asked.hands, sets, asked.cranes, None if shift == (0, DAY_MIN) else shift, away, pins)


_WHOLE: Final = {"piston": ("out", "in")}
"""In an overhaul a unit goes the whole way: the piston comes out and goes in again."""


@dataclass
class _Gathering:
    """What every joint of an engine still needs."""

    workshop: Workshop
    now: EngineNow
    book: Book
    known: dict[str, tuple[Definition, Selection]] = field(default_factory=dict)
    stuck: list[str] = field(default_factory=list)

    @cached_property
    def heads(self) -> list[RevisionHead]:
        """The procedures on offer for engines of the type."""
        return on_offer(self.workshop.registers.revisions(), self.now.overhaul.opened.engine.type)

    def chain(self, place: JointPlace) -> Iterator[Run]:
        """Yield the runs that a joint still needs: what is under way, down to open where it is undone, and back."""
        ladder = self.now.sheet.ladders.get(place.kind)
        mine = [run for run in self.now.runs if run.joint == place.key]
        condition = shown_condition(self.now.overhaul, place.key, mine)
        newest = mine[0] if mine else None
        if ladder is None or condition is None:
            return
        home = condition == ladder.undone[0]
        going_back = newest is not None and newest.open and newest.purpose == "tighten"
        going_apart = not going_back and (home or (newest is not None and newest.purpose == "loosen"))
        if newest is not None and newest.open:
            yield self._under_way(place, newest)
            condition = newest.leaves or condition
        elif home and (self._done(place, condition, mine) or place.key not in self.now.overhaul.scope):
            return
        if going_apart and condition != ladder.undone[-1]:
            for run in self._follow(place, condition, ladder.undone, "loosen"):
                condition = run.leaves or condition
                yield run
        for run in self._follow(place, condition, ladder.put_back, "tighten"):
            condition = run.leaves or condition
            yield run
        if condition != ladder.undone[0]:
            self.stuck.append(place.key)

    def _done(self, place: JointPlace, home: Condition, mine: list[RunOnEngine]) -> bool:
        return was_apart(self.now.overhaul, place.key, home, mine)

    def _under_way(self, place: JointPlace, run: RunOnEngine) -> Run:
        """What is left of a run that somebody is at; what it waits for already began with its last answer."""
        state = self.workshop.log.snapshot(run.run_id).state

        def left(cell: Cell) -> bool:
            return state.live(cell.key) is None

        phases = self._phases(state.definition, place, run.selection, left)
        if phases and phases[0].wait_min:
            waited = round((self.workshop.clock() - state.last_at).total_seconds() / 60.0)
            phases = (replace(phases[0], wait_min=max(0, phases[0].wait_min - waited)), *phases[1:])
        return Run(place.key, run.procedure, run.begins, run.leaves, phases or _CLOSING, run.selection)

    def _phases(
        self,
        definition: Definition,
        place: JointPlace,
        selection: Selection,
        left: Callable[[Cell], bool] = lambda _: True,
    ) -> tuple[Phase, ...]:
        engine, crank = self.now.overhaul.opened.engine, self.now.sheet.crank
        return phases_of(definition, engine, crank, place, selection, left, self.book)

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
            yield Run(place.key, fits.id, condition, fits.leaves, self._phases(definition, place, selection), selection)
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


_CLOSING: Final = (
    Phase(
        index=99_999,
        title="…",
        crank=None,
        through=False,
        minutes=5,
        nine_in_ten_min=5,
        known="usual",
        holds=False,
        stands=False,
        hands=1,
        sets=(),
        crane=False,
        wait_min=0,
        since_shutdown=False,
    ),
)
"""Everything is answered and the run is still to be closed."""
