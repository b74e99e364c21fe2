"""What people may ask of an overhaul."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from datetime import datetime
from typing import Annotated, Literal, TypeAlias
from uuid import UUID

from pydantic import AwareDatetime, Field, model_validator
from pydantic_core import PydanticCustomError

from jorvek.core.overhaul.log import events as ov
from jorvek.core.procedure.metal_parts import Condition
from jorvek.core.procedure.parts import Isolation
from jorvek.core.run.log.commands import CommandBase
from jorvek.core.run.log.events import Fact, Person, PhotoName, Words
from jorvek.core.run.views.on_engine import RunOnEngine
from jorvek.core.sheet.document import EngineSheet


class Paper(Fact):
    """Where it stands on a list of paper: who wrote it, and when, by the list.

    Attributes:
        until: it was done by then at the latest, where only a span is known.
        why: why it is told later.
        photo: the photograph of the sheet on which it stands, by the digest of its content.
    """

    by: UUID
    at: AwareDatetime
    until: AwareDatetime | None = None
    why: Words | None = None
    photo: PhotoName | None = None


class ListedCommand(CommandBase):
    """What may be keyed in from a list of paper: it is done, whoever knows of it.

    Attributes:
        paper: None for what is said here and now.
    """

    paper: Paper | None = None


class SetScope(CommandBase):
    """Say which joints are worked on."""

    kind: Literal["set_scope"]
    scope: tuple[ov.JointKey, ...] = Field(max_length=400)


class DeclareConditions(ListedCommand):
    """Say how joints were found; told later, what became of them without the tablet."""

    kind: Literal["declare_conditions"]
    found: dict[ov.JointKey, Condition] = Field(min_length=1, max_length=400)
    words: Words


class Isolate(ListedCommand):
    """Shut, lock or blank a point."""

    kind: Literal["isolate"]
    point: Isolation
    lock: ov.Short | None = None
    permit: ov.Short | None = None


class LiftForTest(CommandBase):
    """Lift isolations for a named test."""

    kind: Literal["lift_for_test"]
    points: tuple[Isolation, ...] = Field(min_length=1, max_length=20)
    test: Words
    guards: Words


class FreeGear(CommandBase):
    """Take the lock of the turning gear off for a move of the crank.

    Attributes:
        commander: who commands the move.
        run: the run whose call asks for it; None for a move from the engine's own page.
    """

    kind: Literal["free_gear"]
    commander: ov.Short
    run: UUID | None = None


class PutBackAfterTest(CommandBase):
    """Isolate again what was lifted for a test, or lock the turning gear again after a move."""

    kind: Literal["put_back_after_test"]
    lifted: int = Field(ge=1)


class RestorePoint(ListedCommand):
    """Give a point back for good."""

    kind: Literal["restore_point"]
    point: Isolation


class HangLock(ListedCommand):
    """Hang a personal lock."""

    kind: Literal["hang_lock"]
    lock: ov.Short


class TakeLockOff(ListedCommand):
    """Take a personal lock off; another's only by a lead hand, with a word of why.

    Attributes:
        hung: the entry that hung it, by its sequence.
        entry: the same by the id of the command that made it.
    """

    kind: Literal["take_lock_off"]
    hung: int | None = Field(default=None, ge=1)
    entry: UUID | None = None
    words: Words | None = None


class Enter(ListedCommand):
    """Go in, or let somebody in by name.

    Attributes:
        door: door of the sheet by which they go in, so that whoever looks for them knows where; None where the space
            has no door of its own.
        until_at: how long the permit holds; None where not said.
        attended_by: who of the register stands outside.
        attendant: who does where it is nobody of the register, by name.
    """

    kind: Literal["enter"]
    person: UUID
    space: ov.Space
    door: ov.Short | None = None
    permit: ov.Short
    until_at: AwareDatetime | None = None
    attended_by: UUID | None = None
    attendant: ov.Short | None = None
    oxygen_pct: float = Field(ge=0, le=100, allow_inf_nan=False)
    gas_pct: float = Field(ge=0, le=100, allow_inf_nan=False)

    @model_validator(mode="after")
    def _one_attendant(self) -> Enter:
        if (self.attended_by is None) is (self.attendant is None):
            raise PydanticCustomError("one_attendant", "one attendant is named: 'attended_by', or 'attendant' in words")
        return self


class RelieveAttendant(CommandBase):
    """Somebody else stands outside from now on, for somebody who is inside.

    Attributes:
        entered: the entry, by its sequence.
        to: who.
    """

    kind: Literal["relieve_attendant"]
    entered: int = Field(ge=1)
    to: UUID


class MoveDoor(ListedCommand):
    """Say that a door was opened, or shut again.

    Attributes:
        door: as the engine sheet calls it.
        now: how it stands from then on.
    """

    kind: Literal["move_door"]
    door: ov.Short
    now: Literal["open", "shut"]


class Leave(ListedCommand):
    """Come out, by name.

    Attributes:
        entered: the entry, by its sequence.
        entry: the same by the id of the command that made it, from a tablet that has not heard of its sequence yet.
        seen: whoever says so of another has seen them outside and spoken to them.
    """

    kind: Literal["leave"]
    entered: int | None = Field(default=None, ge=1)
    entry: UUID | None = None
    seen: bool = False


class LookAtTold(CommandBase):
    """Say what one has found of something that was told later, having looked at the thing itself.

    Attributes:
        entry: what was told, by its sequence.
        words: what was found.
    """

    kind: Literal["look_at_told"]
    entry: int = Field(ge=1)
    words: Words


class TestAir(CommandBase):
    """Read the air of a confined space again."""

    kind: Literal["test_air"]
    space: ov.Space
    oxygen_pct: float = Field(ge=0, le=100, allow_inf_nan=False)
    gas_pct: float = Field(ge=0, le=100, allow_inf_nan=False)


class BeginHotWork(CommandBase):
    """Weld, cut or grind at the engine, by a permit of its own; never beside an open crankcase.

    Attributes:
        person: who does it.
        watch: who stands by with the extinguisher.
        gas_pct: combustible gas read at the place, in % of the lower explosive limit.
        shut: who looked that the crankcase is shut, and how.
    """

    kind: Literal["begin_hot_work"]
    person: UUID
    work: Words
    place: ov.Short
    watch: ov.Short
    permit: ov.Short
    until_at: AwareDatetime
    gas_pct: float = Field(ge=0, le=100, allow_inf_nan=False)
    shut: Words


class EndHotWork(CommandBase):
    """Say that hot work is over, and who saw the place cold. ``began`` is the entry that began it."""

    kind: Literal["end_hot_work"]
    began: int = Field(ge=1)
    words: Words


class AnswerForTablet(CommandBase):
    """Answer by name for a tablet that is silent."""

    kind: Literal["answer_for_tablet"]
    tablet: ov.Short
    words: Words


class FindCrank(ListedCommand):
    """Read the crank's angle."""

    kind: Literal["find_crank"]
    angle_deg: ov.Degrees
    proof: Words


class LoseCrank(CommandBase):
    """Say that nobody knows the angle any more."""

    kind: Literal["lose_crank"]
    words: Words


class MoveCrank(ListedCommand):
    """Move the crank; what is in its way refuses it.

    Attributes:
        to_deg: where to; None for turning it through.
        clear: open doors and bores that have answered "clear", as the view of the crank names them.
        stays: depressurised tools on heads, out of the sweep, stay by a lead hand's word.
    """

    kind: Literal["move_crank"]
    to_deg: ov.Degrees | None
    way: ov.TurningWay
    commander: ov.Short
    looked_at: tuple[ov.Short, ...] = Field(min_length=1, max_length=20)
    clear: tuple[ov.OpenPlace, ...] = Field(default=(), max_length=80)
    stays: Words | None = None


class SetAttitude(CommandBase):
    """Lay the engine another way."""

    kind: Literal["set_attitude"]
    attitude: ov.Attitude


class CarryCrank(CommandBase):
    """Say that the crank is carried by supports, or no more."""

    kind: Literal["carry_crank"]
    carried: bool
    words: Words


class Remark(CommandBase):
    """Leave a remark."""

    kind: Literal["remark"]
    words: Words


class SeeTo(CommandBase):
    """Make a check on the way back to a running engine."""

    kind: Literal["see_to"]
    check: ov.Check
    words: Words
    current_A: float | None = Field(default=None, gt=0, le=1000, allow_inf_nan=False)


class ReadDeflections(CommandBase):
    """Enter the web deflections of the whole shaft."""

    kind: Literal["read_deflections"]
    when: Literal["before", "after"]
    throws_mm: dict[ov.Short, ov.FiveReadings] = Field(min_length=1, max_length=24)
    engine_degC: float = Field(ge=-40, le=120, allow_inf_nan=False)
    draught: ov.Short | None = None
    accepted: Words | None = None


class Witness(CommandBase):
    """Say that somebody from outside attended."""

    kind: Literal["witness"]
    attends: ov.Short
    name: ov.Short
    words: Words


class NoteStop(CommandBase):
    """Say when the engine stopped, and why."""

    kind: Literal["note_stop"]
    stopped_at: AwareDatetime
    cause: ov.StopCause
    words: Words | None = None


class NoteRunIn(CommandBase):
    """Say that a stop of the running-in was made."""

    kind: Literal["note_run_in"]
    stop: ov.Short
    words: Words


class TakePlan(CommandBase):
    """Take the plan that was found: work goes by it. ``made_at`` says which one was looked at."""

    kind: Literal["take_plan"]
    made_at: AwareDatetime


class PayDebt(CommandBase):
    """Say that something carried over was put right without a procedure."""

    kind: Literal["pay_debt"]
    run: UUID
    cell: Annotated[str, Field(max_length=200)]
    words: Words


class StrikeEntry(CommandBase):
    """Strike a wrong entry."""

    kind: Literal["strike_entry"]
    entry: int = Field(ge=2)
    words: Words


class HandOverEngine(CommandBase):
    """Hand the engine over to somebody, who signs with their own PIN."""

    kind: Literal["hand_over_engine"]
    to: UUID
    words: Words | None = None


class CloseOverhaul(CommandBase):
    """Finish the overhaul for good."""

    kind: Literal["close_overhaul"]


OverhaulCommand: TypeAlias = Annotated[
    SetScope
    | DeclareConditions
    | Isolate
    | LiftForTest
    | FreeGear
    | PutBackAfterTest
    | RestorePoint
    | HangLock
    | TakeLockOff
    | MoveDoor
    | Enter
    | Leave
    | TestAir
    | BeginHotWork
    | EndHotWork
    | AnswerForTablet
    | LookAtTold
    | RelieveAttendant
    | FindCrank
    | LoseCrank
    | MoveCrank
    | SetAttitude
    | CarryCrank
    | Remark
    | SeeTo
    | ReadDeflections
    | Witness
    | NoteStop
    | NoteRunIn
    | TakePlan
    | PayDebt
    | StrikeEntry
    | HandOverEngine
    | CloseOverhaul,
    Field(discriminator="kind"),
]


@dataclass(frozen=True)
class SilentTablet:
    """A tablet with which somebody worked at the engine, or went in, and that has not been heard for a while.

    Attributes:
        person: who.
        heard_at: when it was heard last.
        at: label of the joint whose run it showed then; None at the board.
        held: what its person has open: joints of their runs, permit of an entry, lock.
    """

    id: str
    person: str
    heard_at: datetime
    at: str | None = None
    held: tuple[str, ...] = ()


@dataclass(frozen=True)
class EngineContext:
    """What the core must be told because it cannot look.

    Attributes:
        actor: who asks, from the session.
        now: server time.
        sheet: the engine's sheet.
        runs: all runs on the engine that count for this overhaul, newest first.
        people: people on the register, by id.
        pin_confirmed: the actor's PIN was asked for again.
        other_pin_confirmed: so was that of whoever takes over.
        silent: tablets of which nobody knows what is pressed on them.
        happened_at: when it was done, for what is done already, whoever knows of it: kept on a tablet without a link,
            or on a list of paper; None for what is asked now.
        plan: the plan that was found last; None where none was.
    """

    actor: Person
    now: datetime
    sheet: EngineSheet
    runs: tuple[RunOnEngine, ...] = ()
    people: Mapping[UUID, Person] = field(default_factory=dict)
    pin_confirmed: bool = False
    other_pin_confirmed: bool = False
    silent: tuple[SilentTablet, ...] = ()
    happened_at: datetime | None = None
    plan: ov.PlanTaken | None = None
