"""What an overhaul's events add up to."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from datetime import datetime
from typing import Final, Literal
from uuid import UUID

from jorvek.core.engine.layout import Engine
from jorvek.core.overhaul.log import events as ov
from jorvek.core.procedure.metal_parts import Condition
from jorvek.core.procedure.parts import Isolation
from jorvek.core.rights import Role
from jorvek.core.run.log.events import OnPaper, Person

TURNING_GEAR: Final[Isolation] = "turning_gear"


@dataclass(frozen=True)
class Declared:
    """How a joint was found: the condition, and the run after which it holds."""

    seq: int
    at: datetime
    by: Person
    condition: Condition
    after: UUID | None
    words: str


@dataclass(frozen=True)
class IsolationNow:
    """A point that is isolated.

    Attributes:
        lifted: sequence of the event that lifted it for a test; None while it is in force.
    """

    seq: int
    at: datetime
    by: Person
    point: Isolation
    lock: str | None
    permit: str | None
    run: UUID | None
    lifted: int | None = None


@dataclass(frozen=True)
class Test:
    """A test, or a move of the crank, for which isolations were lifted and are not put back yet.

    Attributes:
        test: what is tested; empty for a move.
        guards: who stands guard; whoever commands the move.
        moves_crank: the turning gear was freed for a move of the crank.
        run: the run whose call asks for the move.
    """

    seq: int
    at: datetime
    by: Person
    points: tuple[Isolation, ...]
    test: str
    guards: str
    moves_crank: bool = False
    run: UUID | None = None


@dataclass(frozen=True)
class PersonalLock:
    """A lock that somebody hung."""

    seq: int
    id: UUID
    at: datetime
    by: Person
    lock: str


@dataclass(frozen=True)
class DoorNow:
    """A door of which somebody has said that it was opened, or shut again."""

    seq: int
    at: datetime
    by: Person
    open: bool


@dataclass(frozen=True)
class Inside:
    """Somebody in a confined space."""

    seq: int
    id: UUID
    at: datetime
    by: Person
    person: Person
    space: ov.Space
    door: str | None
    permit: str
    until_at: datetime | None
    attendant: str
    attended_by: Person | None
    oxygen_pct: float
    gas_pct: float
    against: str | None


@dataclass(frozen=True)
class Air:
    """The air of a confined space as it was read again: oxygen in % by volume, gas in % of the explosive limit."""

    at: datetime
    by: Person
    oxygen_pct: float
    gas_pct: float


@dataclass(frozen=True)
class HotWork:
    """Hot work that is under way."""

    seq: int
    at: datetime
    by: Person
    began: ov.HotWorkBegan


@dataclass(frozen=True)
class Stop:
    """A stop of the engine: when, why, and who says so."""

    seq: int
    at: datetime
    by: Person
    cause: ov.StopCause


@dataclass(frozen=True)
class CrankNow:
    """Where the crank is; ``angle_deg`` is None while nobody knows."""

    seq: int
    at: datetime
    by: Person
    angle_deg: float | None
    words: str
    run: UUID | None = None


@dataclass(frozen=True)
class Deflections:
    """Web deflections as read, before or after."""

    seq: int
    at: datetime
    by: Person
    read: ov.DeflectionsRead


@dataclass(frozen=True)
class PlanInForce:
    """The plan that work goes by."""

    seq: int
    at: datetime
    by: Person
    plan: ov.PlanTaken


@dataclass(frozen=True)
class Line:
    """One event as a line of the log, with what became of it."""

    seq: int
    id: UUID
    at: datetime
    by: Person
    data: ov.OverhaulData
    struck_by: int | None = None

    @property
    def paper(self) -> OnPaper | None:
        """Who wrote it on a list of paper, and when; None for what was entered here."""
        return getattr(self.data, "paper", None)

    @property
    def done_at(self) -> datetime:
        """When it was done."""
        return self.at if self.paper is None else self.paper.at

    @property
    def done_by(self) -> Person:
        """Whoever did it."""
        return self.by if self.paper is None else self.paper.by


@dataclass(frozen=True)
class Overhaul:
    """An overhaul as it stands after an event.

    Attributes:
        declared: by joint, the declarations that stand, oldest first.
        isolations: by point.
        doors: by door of the sheet, what was said of it last; empty once every door was seen shut.
        air: by space, the air as it was read again last.
        hot_work: what is welded, cut or ground at the engine.
        answered: by tablet that somebody has answered for, when it was heard last before.
        paid: what was put right without a procedure: run and call.
        seen: by check, the entry that made it; what opens the engine again takes them away.
        deflections: those before and those after.
        witnesses: who attended, by entry.
        run_in: by stop of the running-in, the entry that made it.
        plan: the one that was taken last; None where none was.
        struck: sequences of entries that were struck.
        told: what was told later and nobody has looked at yet, oldest first.
        lines: all events.
    """

    overhaul_id: UUID
    opened: ov.Opened
    opened_at: datetime
    opened_by: Person
    seq: int
    last_at: datetime
    status: Literal["open", "closed"] = "open"
    scope: tuple[str, ...] = ()
    declared: Mapping[str, tuple[Declared, ...]] = field(default_factory=dict)
    isolations: Mapping[Isolation, IsolationNow] = field(default_factory=dict)
    tests: tuple[Test, ...] = ()
    locks: tuple[PersonalLock, ...] = ()
    doors: Mapping[str, DoorNow] = field(default_factory=dict)
    inside: tuple[Inside, ...] = ()
    air: Mapping[ov.Space, Air] = field(default_factory=dict)
    hot_work: tuple[HotWork, ...] = ()
    answered: Mapping[str, datetime] = field(default_factory=dict)
    stop: Stop | None = None
    crank: CrankNow | None = None
    attitude: ov.Attitude = "upright"
    crank_carried: bool = False
    paid: frozenset[tuple[UUID, str]] = frozenset()
    seen: Mapping[str, Line] = field(default_factory=dict)
    deflections: Mapping[Literal["before", "after"], Deflections] = field(default_factory=dict)
    witnesses: tuple[ov.Witnessed, ...] = ()
    run_in: Mapping[str, Line] = field(default_factory=dict)
    plan: PlanInForce | None = None
    struck: frozenset[int] = frozenset()
    told: tuple[Line, ...] = ()
    lines: tuple[Line, ...] = ()
    closed_at: datetime | None = None

    @property
    def photo_names(self) -> frozenset[str]:
        """Names of the photographs of sheets of paper from which lines were keyed in."""
        papers = (line.paper for line in self.lines)
        return frozenset(paper.photo for paper in papers if paper is not None and paper.photo is not None)

    @property
    def gear_freed(self) -> Test | None:
        """The move of the crank for which the turning gear is free; None while it is locked."""
        return next((test for test in self.tests if test.moves_crank), None)

    def in_force(self, point: Isolation) -> IsolationNow | None:
        """Return the isolation of a point while it holds."""
        now = self.isolations.get(point)
        return now if now is not None and now.lifted is None else None

    def line(self, seq: int) -> Line | None:
        """Return one event."""
        return self.lines[seq - 1] if 0 < seq <= len(self.lines) else None


def nothing_said(engine: Engine, at: datetime) -> Overhaul:
    """Return an engine of which nobody has said anything: it has no overhaul."""
    nobody = Person(id=UUID(int=0), name="", role=Role.TRAINEE)
    return Overhaul(UUID(int=0), ov.Opened(engine=engine, title="-"), at, nobody, 0, at)
