"""What an overhaul remembers: facts that belong to the engine and to no joint."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated, Final, Literal, TypeAlias
from uuid import UUID

from pydantic import Field

from jorvek.core.engine.layout import Engine
from jorvek.core.procedure.metal_parts import Condition
from jorvek.core.procedure.parts import Isolation
from jorvek.core.run.log.events import Fact, Person, Words

OVERHAUL_SCHEMA_VERSION: Final = 1

JointKey: TypeAlias = Annotated[str, Field(min_length=1, max_length=60)]
Short: TypeAlias = Annotated[str, Field(min_length=1, max_length=60, pattern=r"\S")]
Degrees: TypeAlias = Annotated[float, Field(ge=0, lt=720, allow_inf_nan=False)]
Space: TypeAlias = Literal["crankcase", "scavenge"]
TurningWay: TypeAlias = Literal["ahead", "astern"]
Attitude: TypeAlias = Literal["upright", "on_left_side", "on_right_side", "on_end", "inverted"]


class Opened(Fact):
    """First event: which engine is overhauled, by which sheet, what is in the scope.

    Attributes:
        sheet: content address of the engine sheet; None for the default by layout.
        scope: joints that are to be worked on; the conditions of all others are watched all the same.
        took_over: runs that were open on the engine when the overhaul was opened.
        small: it was opened by the first start of a single job.
        hours: running hours as last read before; None where nobody has read them.
    """

    kind: Literal["opened"] = "opened"
    engine: Engine
    title: Short
    sheet: str | None = None
    scope: tuple[JointKey, ...] = ()
    took_over: tuple[UUID, ...] = ()
    small: bool = False
    hours: float | None = None


class ScopeSet(Fact):
    """The scope is another one from here on."""

    kind: Literal["scope_set"] = "scope_set"
    scope: tuple[JointKey, ...]


class ConditionsDeclared(Fact):
    """How joints were found, or what became of them without the tablet.

    Attributes:
        found: condition by joint.
        after: the newest run on each of these joints when it was declared; a later run speaks for itself.
        words: what was seen, by whoever saw it.
    """

    kind: Literal["conditions_declared"] = "conditions_declared"
    found: dict[JointKey, Condition] = Field(min_length=1, max_length=400)
    after: dict[JointKey, UUID] = Field(default={})
    words: Words


class Isolated(Fact):
    """A point was shut, locked or blanked.

    Attributes:
        run: run in which it was confirmed, with its call; None where it was done on the engine's own page.
    """

    kind: Literal["isolated"] = "isolated"
    point: Isolation
    lock: Short | None = None
    permit: Short | None = None
    run: UUID | None = None
    cell: str | None = None


class Lifted(Fact):
    """Isolations lifted for a named test, with everybody out."""

    kind: Literal["lifted"] = "lifted"
    points: tuple[Isolation, ...] = Field(min_length=1)
    test: Words
    guards: Words


class PutBack(Fact):
    """What was lifted for a test is isolated again. ``lifted`` is the sequence of the event that lifted it."""

    kind: Literal["put_back"] = "put_back"
    lifted: int


class Restored(Fact):
    """A point was given back for good."""

    kind: Literal["restored"] = "restored"
    point: Isolation
    run: UUID | None = None
    cell: str | None = None


class LockHung(Fact):
    """Somebody hung a lock of their own: they rely on the isolations."""

    kind: Literal["lock_hung"] = "lock_hung"
    lock: Short


class LockOff(Fact):
    """A personal lock came off. ``hung`` is the sequence of the event; a word is owed where another took it off."""

    kind: Literal["lock_off"] = "lock_off"
    hung: int
    words: Words | None = None


class Entered(Fact):
    """Somebody went into a confined space.

    Attributes:
        person: who, which is not always whoever enters it here.
        permit: number of the entry permit.
        attendant: who stands outside.
        oxygen_pct: oxygen read before, in % by volume.
        gas_pct: combustible gas read before, in % of the lower explosive limit.
    """

    kind: Literal["entered"] = "entered"
    person: Person
    space: Space
    permit: Short
    attendant: Short
    oxygen_pct: float = Field(ge=0, le=100, allow_inf_nan=False)
    gas_pct: float = Field(ge=0, le=100, allow_inf_nan=False)


class Left(Fact):
    """Somebody came out, by name. ``entered`` is the sequence of the event that let them in."""

    kind: Literal["left"] = "left"
    entered: int


class CrankFound(Fact):
    """The crank's angle was read.

    Attributes:
        angle_deg: after the firing dead centre of the first cylinder of the firing order.
        proof: what shows that it is the right one of two.
    """

    kind: Literal["crank_found"] = "crank_found"
    angle_deg: Degrees
    proof: Words


class CrankLost(Fact):
    """Nobody knows the angle any more: somebody turned it without the tablet."""

    kind: Literal["crank_lost"] = "crank_lost"
    words: Words


class CrankMoved(Fact):
    """The crank was moved.

    Attributes:
        from_deg: where it was, None where that was not known.
        to_deg: where it is now; None where the move has no stated end.
        commander: who commanded, with the pendant in sight of or in speech with the door.
        looked_at: what was looked at before.
        run: run whose call asked for it.
    """

    kind: Literal["crank_moved"] = "crank_moved"
    from_deg: Degrees | None
    to_deg: Degrees | None
    way: TurningWay
    commander: Short
    looked_at: tuple[Short, ...] = ()
    run: UUID | None = None
    cell: str | None = None


class AttitudeSet(Fact):
    """How a small engine lies on its stand."""

    kind: Literal["attitude_set"] = "attitude_set"
    attitude: Attitude


class CrankCarried(Fact):
    """The crank is carried by supports, or hangs in its bearings again."""

    kind: Literal["crank_carried"] = "crank_carried"
    carried: bool
    words: Words


class Remarked(Fact):
    """A remark."""

    kind: Literal["remarked"] = "remarked"
    words: Words


class DebtPaid(Fact):
    """Something carried over was put right without a procedure, by name.

    Attributes:
        run: run that left it.
        cell: where it arose.
    """

    kind: Literal["debt_paid"] = "debt_paid"
    run: UUID
    cell: str
    words: Words


class StruckOut(Fact):
    """An entry was wrong. ``entry`` is its sequence."""

    kind: Literal["struck_out"] = "struck_out"
    entry: int
    words: Words


class HandedOver(Fact):
    """The engine was handed over. ``to`` is whoever takes it over; both have signed."""

    kind: Literal["handed_over"] = "handed_over"
    to: Person
    words: Words | None = None


class OverhaulClosed(Fact):
    """The overhaul is finished and cannot change."""

    kind: Literal["overhaul_closed"] = "overhaul_closed"


OverhaulData: TypeAlias = Annotated[
    Opened
    | ScopeSet
    | ConditionsDeclared
    | Isolated
    | Lifted
    | PutBack
    | Restored
    | LockHung
    | LockOff
    | Entered
    | Left
    | CrankFound
    | CrankLost
    | CrankMoved
    | AttitudeSet
    | CrankCarried
    | Remarked
    | DebtPaid
    | StruckOut
    | HandedOver
    | OverhaulClosed,
    Field(discriminator="kind"),
]


class OverhaulEvent(Fact):
    """One event with its envelope, as a run's."""

    overhaul_id: UUID
    seq: int
    id: UUID
    schema_version: Literal[1] = OVERHAUL_SCHEMA_VERSION
    core_version: str
    at: datetime
    tablet_at: datetime | None = None
    author: Person
    command: str
    data: OverhaulData
