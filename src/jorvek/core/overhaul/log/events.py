"""What an overhaul remembers: facts that belong to the engine and to no joint."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated, Final, Literal, TypeAlias
from uuid import UUID

from pydantic import AwareDatetime, Field

from jorvek.core.engine.layout import Engine
from jorvek.core.procedure.metal_parts import Condition
from jorvek.core.procedure.parts import Isolation
from jorvek.core.run.log.events import Fact, OnPaper, Person, Words

OVERHAUL_SCHEMA_VERSION: Final = 1

JointKey: TypeAlias = Annotated[str, Field(min_length=1, max_length=60)]
Short: TypeAlias = Annotated[str, Field(min_length=1, max_length=60, pattern=r"\S")]
OpenPlace: TypeAlias = Annotated[str, Field(min_length=1, max_length=130)]
"""An open door or bore: the key of its joint, and of a door the part of the document by which it came off."""
Degrees: TypeAlias = Annotated[float, Field(ge=0, lt=720, allow_inf_nan=False)]
Space: TypeAlias = Literal["crankcase", "scavenge"]
TurningWay: TypeAlias = Literal["ahead", "astern"]
Attitude: TypeAlias = Literal["upright", "on_left_side", "on_right_side", "on_end", "inverted"]
Check: TypeAlias = Literal["people", "doors", "oil_seen", "barred", "blown_through"]
"""What is seen to on the way back: everybody out and tools counted; doors shut; oil at every bearing; barred two turns
with the cocks open; blown through on air."""
_Reading: TypeAlias = Annotated[float, Field(ge=-10, le=10, allow_inf_nan=False)]
MOVED_MEANWHILE: Final = "moved_meanwhile"
"""The crank was moved after somebody had gone in, and before anybody else knew."""
FiveReadings: TypeAlias = tuple[_Reading, _Reading, _Reading, _Reading, _Reading]


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


class Listed(Fact):
    """What may be kept on a list of paper, or on a tablet without a link, before the log hears of it.

    Attributes:
        paper: who wrote it on the list, and when, by the list.
        against: what would have spoken against it, had it been known: a refusal's code, or ``MOVED_MEANWHILE``.
        told: what it means that it was told later: it makes things less safe, and is in doubt until somebody looks;
            or safer, and counts once somebody has looked. None for anything else, and in logs from before the rule.
    """

    paper: OnPaper | None = None
    against: Short | None = None
    told: Literal["less_safe", "safer"] | None = None


class ConditionsDeclared(Listed):
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


class Isolated(Listed):
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


class GearFreed(Fact):
    """The lock of the turning gear was taken off for a move of the crank.

    Attributes:
        commander: who commands the move.
        run: the run whose call asks for it; None where it is moved from the engine's own page.
    """

    kind: Literal["gear_freed"] = "gear_freed"
    commander: Short
    run: UUID | None = None


class GearLocked(Fact):
    """The turning gear is locked again after a move. ``freed`` is the sequence of the event that freed it."""

    kind: Literal["gear_locked"] = "gear_locked"
    freed: int


class PutBack(Fact):
    """What was lifted for a test is isolated again. ``lifted`` is the sequence of the event that lifted it."""

    kind: Literal["put_back"] = "put_back"
    lifted: int


class Restored(Listed):
    """A point was given back for good."""

    kind: Literal["restored"] = "restored"
    point: Isolation
    run: UUID | None = None
    cell: str | None = None


class LockHung(Listed):
    """Somebody hung a lock of their own: they rely on the isolations."""

    kind: Literal["lock_hung"] = "lock_hung"
    lock: Short


class LockOff(Listed):
    """A personal lock came off. ``hung`` is the sequence of the event; a word is owed where another took it off."""

    kind: Literal["lock_off"] = "lock_off"
    hung: int
    words: Words | None = None


class DoorMoved(Listed):
    """A door was opened, or shut again.

    Attributes:
        door: as the engine sheet calls it.
        now: how it stands from then on.
        against: what would have spoken against it, had it been known at once; None where nothing did.
    """

    kind: Literal["door_moved"] = "door_moved"
    door: Short
    now: Literal["open", "shut"]
    against: str | None = None


class Entered(Listed):
    """Somebody went into a confined space.

    Attributes:
        person: who, which is not always whoever enters it here.
        door: door of the sheet by which they went in; None where nobody said.
        permit: number of the entry permit.
        until_at: how long the permit holds; None where nobody said.
        attendant: who stands outside, by name.
        attended_by: the same, where they are on the register.
        oxygen_pct: oxygen read before, in % by volume.
        gas_pct: combustible gas read before, in % of the lower explosive limit.
        late: it became known later: the tablet had no link.
    """

    kind: Literal["entered"] = "entered"
    person: Person
    space: Space
    door: Short | None = None
    permit: Short
    until_at: AwareDatetime | None = None
    attendant: Short
    attended_by: Person | None = None
    oxygen_pct: float = Field(ge=0, le=100, allow_inf_nan=False)
    gas_pct: float = Field(ge=0, le=100, allow_inf_nan=False)
    late: bool = False


class Left(Listed):
    """Somebody came out, by name. ``entered`` is the sequence of the event that let them in."""

    kind: Literal["left"] = "left"
    entered: int


class ToldConfirmed(Fact):
    """Somebody has looked at what was told later. ``entry`` is the sequence of the event that told it."""

    kind: Literal["told_confirmed"] = "told_confirmed"
    entry: int
    words: Words


class AttendantRelieved(Fact):
    """Somebody else stands outside from now on. ``entered`` is the sequence of the event that let somebody in."""

    kind: Literal["attendant_relieved"] = "attendant_relieved"
    entered: int
    to: Person


class AirTested(Fact):
    """The air of a confined space was read again, whatever it is like.

    Attributes:
        oxygen_pct: oxygen, in % by volume.
        gas_pct: combustible gas, in % of the lower explosive limit.
    """

    kind: Literal["air_tested"] = "air_tested"
    space: Space
    oxygen_pct: float = Field(ge=0, le=100, allow_inf_nan=False)
    gas_pct: float = Field(ge=0, le=100, allow_inf_nan=False)


class HotWorkBegan(Fact):
    """Somebody welds, cuts or grinds at the engine, by a permit of its own.

    Attributes:
        person: who.
        work: what is done.
        place: where.
        watch: who stands by with the extinguisher.
        permit: number of the hot work permit.
        until_at: how long the permit holds.
        gas_pct: combustible gas read at the place before, in % of the lower explosive limit.
        shut: who looked that the crankcase is shut, and how.
    """

    kind: Literal["hot_work_began"] = "hot_work_began"
    person: Person
    work: Words
    place: Short
    watch: Short
    permit: Short
    until_at: AwareDatetime
    gas_pct: float = Field(ge=0, le=100, allow_inf_nan=False)
    shut: Words


class HotWorkEnded(Fact):
    """Hot work is over. ``began`` is the sequence of the event that began it, ``words`` who saw the place cold."""

    kind: Literal["hot_work_ended"] = "hot_work_ended"
    began: int
    words: Words


class TabletAnswered(Fact):
    """Somebody answered by name for a tablet that is silent: nobody is inside whom it alone knows of.

    Attributes:
        tablet: which one.
        name: who is signed in on it.
        heard_at: when it was heard last; once it is heard again it may fall silent anew.
    """

    kind: Literal["tablet_answered"] = "tablet_answered"
    tablet: Short
    name: str = Field(max_length=120)
    heard_at: datetime
    words: Words


StopCause: TypeAlias = Literal["planned", "mist_alarm", "hot_bearing", "seizure", "unknown"]
"""Why an engine stopped: as planned; by an oil mist alarm; with a bearing that ran hot; seized; or nobody knows."""


class EngineStopped(Fact):
    """The engine stopped.

    Attributes:
        stopped_at: when, by whoever says so.
        cause: why; after an alarm, a hot bearing or a seizure it stands longer before it is opened.
    """

    kind: Literal["engine_stopped"] = "engine_stopped"
    stopped_at: AwareDatetime
    cause: StopCause
    words: Words | None = None


class CrankFound(Listed):
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


class CrankMoved(Listed):
    """The crank was moved.

    Attributes:
        from_deg: where it was, None where that was not known.
        to_deg: where it is now; None where the move has no stated end.
        commander: who commanded, with the pendant in sight of or in speech with the door.
        looked_at: what was looked at before.
        clear: open doors and bores that had answered "clear".
        run: run whose call asked for it.
    """

    kind: Literal["crank_moved"] = "crank_moved"
    from_deg: Degrees | None
    to_deg: Degrees | None
    way: TurningWay
    commander: Short
    looked_at: tuple[Short, ...] = ()
    clear: tuple[OpenPlace, ...] = ()
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


class SeenTo(Fact):
    """A check on the way back to a running engine was made: tools counted, doors shut, barred through, oil seen.

    Attributes:
        current_A: current of the turning gear, where it was barred through.
        run: run in which it was confirmed, with its call; None where it was done on the engine's own page.
    """

    kind: Literal["seen_to"] = "seen_to"
    check: Check
    words: Words
    current_A: float | None = Field(default=None, gt=0, le=1000, allow_inf_nan=False)
    run: UUID | None = None
    cell: str | None = None


class DeflectionsRead(Fact):
    """The web deflections of the whole shaft, read over one turn.

    Attributes:
        when: before anything was opened, or after everything was closed.
        throws_mm: by crankpin five readings of the dial in the order of ``READ_AT``, in mm, larger for a wider gap.
        engine_degC: temperature of the frame.
        draught: how a ship lies, fore and aft; None ashore.
        accepted: what the chief says of readings outside the limits; None where there are none.
    """

    kind: Literal["deflections_read"] = "deflections_read"
    when: Literal["before", "after"]
    throws_mm: dict[Short, FiveReadings] = Field(min_length=1, max_length=24)
    engine_degC: float = Field(ge=-40, le=120, allow_inf_nan=False)
    draught: Short | None = None
    accepted: Words | None = None


class Witnessed(Fact):
    """Somebody from outside attended. ``attends`` says for whom, ``name`` who it was."""

    kind: Literal["witnessed"] = "witnessed"
    attends: Short
    name: Short
    words: Words


class RunIn(Fact):
    """A stop of the running-in was made. ``stop`` is its name in the engine sheet, or ``FIRST_START``."""

    kind: Literal["run_in"] = "run_in"
    stop: Short
    words: Words


class PlannedPiece(Fact):
    """A piece of work in its place.

    Attributes:
        id: its name, as in every plan of the overhaul.
        label: what its joint is called.
        title: heading of its first step.
        who: people, by their number in the plan.
        sets: classes of tool whose set it takes.
        angle_deg: where the crank stands meanwhile; None where it does not matter.
    """

    id: str = Field(max_length=120)
    joint: JointKey
    label: str = Field(max_length=120)
    title: str = Field(max_length=400)
    start_at: datetime
    end_at: datetime
    hands: int = Field(ge=0, le=99)
    who: tuple[int, ...] = Field(default=(), max_length=99)
    sets: tuple[Short, ...] = ()
    crane: bool = False
    angle_deg: float | None = None


class PlannedMove(Fact):
    """A move of the crank; ``who`` commands it."""

    start_at: datetime
    end_at: datetime
    from_deg: float
    to_deg: float
    turning_deg: float
    who: tuple[int, ...] = ()


class PlannedAway(Fact):
    """Somebody or something is away for a while: ``hands``, ``crane``, or a class of tool."""

    what: Short
    from_at: AwareDatetime
    to_at: AwareDatetime
    count: int = Field(default=1, ge=1, le=40)


class PlanTaken(Fact):
    """A plan was taken: from here on it is the one that work goes by, and is held against what really happens.

    Attributes:
        made_at: when it was asked for.
        aim: what came first.
        gap_percent: by how much it may be above the best.
        hands: how many people it counts with.
        people: those of them who have a name.
        cranes: how many it counts with.
        from_min: minute of the day at which the shift begins.
        to_min: minute of the day at which it ends.
        sets: how many sets of a class of tool it counts with, where that is not what the register says.
        away: who and what is away, and when.
        pins: pieces that a person has put in their place.
    """

    kind: Literal["plan_taken"] = "plan_taken"
    made_at: datetime
    aim: Literal["earliest_finish", "least_barring"]
    finish_at: datetime
    barring_deg: float
    gap_percent: float
    hands: int
    people: tuple[Person, ...] = ()
    cranes: int = 1
    from_min: int = 360
    to_min: int = 1320
    sets: dict[Short, int] = Field(default={})
    away: tuple[PlannedAway, ...] = ()
    pieces: tuple[PlannedPiece, ...] = Field(min_length=1, max_length=600)
    moves: tuple[PlannedMove, ...] = ()
    pins: tuple[str, ...] = ()


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
    | GearFreed
    | GearLocked
    | GearFreed
    | GearLocked
    | PutBack
    | Restored
    | LockHung
    | LockOff
    | DoorMoved
    | Entered
    | Left
    | AirTested
    | HotWorkBegan
    | HotWorkEnded
    | TabletAnswered
    | ToldConfirmed
    | AttendantRelieved
    | EngineStopped
    | CrankFound
    | CrankLost
    | CrankMoved
    | AttitudeSet
    | CrankCarried
    | Remarked
    | SeenTo
    | DeflectionsRead
    | Witnessed
    | RunIn
    | PlanTaken
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
