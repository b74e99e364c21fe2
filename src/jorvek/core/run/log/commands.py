"""What people may ask of a run, and the event that answers."""

from __future__ import annotations

import json
from collections.abc import Mapping
from dataclasses import dataclass, field
from datetime import date, datetime
from typing import Annotated, Final, Literal, TypeAlias
from uuid import UUID

from pydantic import AwareDatetime, Field

from jorvek.core.canonical import canonical_text, sha256_hex
from jorvek.core.refusal import Refusal
from jorvek.core.run.log import events as ev
from jorvek.core.tools import Tool


class CommandBase(ev.Fact):
    """What every command carries.

    Attributes:
        id: made by the sender; sending the same command again changes nothing.
        tablet_at: the sender's own time.
    """

    id: UUID
    tablet_at: AwareDatetime | None = None


class RecordReading(ev.ReadingWork, CommandBase):
    """Fill a cell. ``attempt`` is the try the sender believes it is making."""


class KeyIn(CommandBase):
    """Fill a cell from a work sheet: what stands there, who wrote it, and the time as on paper.

    ``sure``: it was asked about as unlikely, and the sheet does say so.
    """

    kind: Literal["key_in"]
    cell: ev.CellKey
    attempt: int = Field(ge=1)
    text: Annotated[str, Field(max_length=200)]
    unit: Annotated[str, Field(max_length=12)] | None = None
    sure: bool = False
    written_by: UUID
    written_at: AwareDatetime


class StrikeReading(ev.StrikeWork, CommandBase):
    """Strike a reading; the reason may follow, but is owed before the stage closes."""


class GiveReason(CommandBase):
    """Give the reason owed for a strike."""

    kind: Literal["give_reason"]
    cell: ev.CellKey
    attempt: int = Field(ge=1)
    reason: ev.Words


class Accept(CommandBase):
    """Accept by name a reading that is outside or too near its limits."""

    kind: Literal["accept"]
    cell: ev.CellKey
    attempt: int = Field(ge=1)
    reason: ev.Words


class RejectFastener(CommandBase):
    """Take the fastener of a reading out for good: its mark is refused everywhere from then on."""

    kind: Literal["reject_fastener"]
    cell: ev.CellKey
    attempt: int = Field(ge=1)
    piece: ev.PieceMark
    reason: ev.Words


class TryPressure(CommandBase):
    """Bring the shared pressure of a loosening step to another figure of the gauge."""

    kind: Literal["try_pressure"]
    step: ev.StepKey
    text: Annotated[str, Field(min_length=1, max_length=24)]
    unit: Annotated[str, Field(min_length=1, max_length=12)]


class ReportStuck(CommandBase):
    """Say that a nut will not move, and whether the blade found a gap under it."""

    kind: Literal["report_stuck"]
    cell: ev.CellKey
    gap: bool


class DecideStuck(CommandBase):
    """Say how to go on with a nut that will not move, by the authority that the document names."""

    kind: Literal["decide_stuck"]
    stuck: int = Field(ge=1)
    words: ev.Words


class RedoWork(CommandBase):
    """Do work again; the scope shown beforehand must still be the scope."""

    kind: Literal["redo"]
    cell: ev.CellKey
    cells: tuple[ev.CellKey, ...] = Field(min_length=1, max_length=5000)
    reason: ev.Words


class Note(ev.NoteWork, CommandBase):
    """Leave a remark."""


class RaiseTrouble(ev.TroubleWork, CommandBase):
    """Say that something went wrong at a call; one touch, and one question."""


class EndTrouble(CommandBase):
    """Say how a trouble ended; a departure needs somebody who may accept one."""

    kind: Literal["end_trouble"]
    trouble: int = Field(ge=1)
    how: Literal["fixed", "done_again", "departure"]
    words: ev.Words


class AnswerAge(CommandBase):
    """Say what became of something past its time: still good, or done again."""

    kind: Literal["answer_age"]
    step: ev.StepKey
    good: bool
    words: ev.Words


class TakeOutOfTurn(CommandBase):
    """Let a fastener be taken before its turn, by authority."""

    kind: Literal["out_of_turn"]
    cell: ev.CellKey
    reason: ev.Words


class NameCause(CommandBase):
    """Name a cause that may be there on joints of the same kind, too; their check opens again."""

    kind: Literal["name_cause"]
    cell: ev.CellKey
    cause: ev.Words


class AskSister(CommandBase):
    """Carry a cause to a joint of the same kind; made by the server, never by a tablet."""

    kind: Literal["ask_sister"] = "ask_sister"
    origin: UUID
    joint: str
    cell: ev.CellKey
    cause: ev.Words


class ReopenForEngine(CommandBase):
    """Open again what rested on something of the engine that has changed; made by the server, never by a tablet."""

    kind: Literal["reopen_for_engine"] = "reopen_for_engine"
    cells: tuple[ev.CellKey, ...]
    why: ev.Words


class TellGear(CommandBase):
    """Say that the turning gear is free for a move, or locked again; made by the server, never by a tablet."""

    kind: Literal["tell_gear"] = "tell_gear"
    commander: ev.Words | None
    own: bool


class AnswerSister(CommandBase):
    """Say what the check showed that a fault of a joint of the same kind asked for."""

    kind: Literal["answer_sister"]
    asked: int = Field(ge=1)
    found_too: bool
    words: ev.Words


class TakePart(CommandBase):
    """Take some of the fasteners for oneself; none gives them back."""

    kind: Literal["take_part"]
    fasteners: tuple[ev.PositionWord, ...] = Field(max_length=200)


class AddPhoto(CommandBase):
    """Put a kept photograph to a call."""

    kind: Literal["add_photo"]
    cell: ev.CellKey
    photo: ev.PhotoName
    words: ev.Words | None = None


class SettleClaim(CommandBase):
    """Take in work that had waited on a tablet, or leave it out for a reason."""

    kind: Literal["settle_claim"]
    claim: int = Field(ge=1)
    take: bool
    words: ev.Words | None = None


class Pause(CommandBase):
    """Leave the work."""

    kind: Literal["pause"]


class TakeOver(CommandBase):
    """Work on from where it stands."""

    kind: Literal["take_over"]


class Close(CommandBase):
    """Finish the run for good."""

    kind: Literal["close"]


Command: TypeAlias = Annotated[
    RecordReading
    | KeyIn
    | StrikeReading
    | GiveReason
    | Accept
    | RejectFastener
    | TryPressure
    | ReportStuck
    | DecideStuck
    | RedoWork
    | Note
    | RaiseTrouble
    | EndTrouble
    | AnswerAge
    | TakeOutOfTurn
    | NameCause
    | AnswerSister
    | TakePart
    | AddPhoto
    | SettleClaim
    | Pause
    | TakeOver
    | Close,
    Field(discriminator="kind"),
]


@dataclass(frozen=True)
class Stood:
    """Since when the engine stands, and for how many seconds it has to before it is opened."""

    at: datetime
    least_s: float


@dataclass(frozen=True)
class Context:
    """What the core must be told because it cannot look.

    Attributes:
        actor: who asks, from the session.
        now: server time.
        today: date at the site, for calibrations.
        tools: register entries that the command names.
        pin_confirmed: whether the actor's PIN was asked for again with this command.
        tools_on: other joints of the engine on which a tool sits on a stud now.
        rejected: marks of rejected fasteners, in their plain form, and where each was rejected.
        writers: people who may have written on a sheet, by id.
        relied_on: what else on the engine relies on its isolations now.
        stood: since when the engine stands, by its own log; None where nobody has said.
        photos: width and height in pixels of the kept photographs that the command names.
    """

    actor: ev.Person
    now: datetime
    today: date
    tools: dict[str, Tool]
    pin_confirmed: bool = False
    tools_on: tuple[str, ...] = ()
    rejected: Mapping[str, str] = field(default_factory=dict)
    photos: Mapping[str, tuple[int, int]] = field(default_factory=dict)
    writers: Mapping[UUID, ev.Person] = field(default_factory=dict)
    relied_on: tuple[str, ...] = ()
    stood: Stood | None = None


def photo_size(photo: str, context: Context) -> tuple[int, int]:
    """Return width and height of a photograph in pixels.

    Raises:
        Refusal: ``no_such_photo`` when none is kept under that name.
    """
    size = context.photos.get(photo)
    if size is None:
        raise Refusal("no_such_photo", photo=photo[:12])
    return size


LONGEST_KEPT_S: Final = 365 * 86_400
"""No tablet keeps anything for longer than a year."""


class Late(ev.Fact):
    """That a command waited on a tablet: in which stretch without a link, after which event, how long.

    Attributes:
        batch: made by the tablet when it lost the link.
        saw: sequence that the tablet had seen last.
        kept_s: seconds from press to sending, by the tablet; None when its clock cannot tell.
    """

    batch: UUID
    saw: int = Field(ge=0)
    kept_s: float | None = Field(default=None, ge=0, le=LONGEST_KEPT_S)


class Conflict(Refusal):
    """Somebody else was first; what they recorded is in ``present``."""

    def __init__(self, cell: str, present: str, by: str) -> None:
        super().__init__("cell_taken", cell=cell, present=present, by=by)


def command_digest(command: CommandBase) -> str:
    """Return the fingerprint by which a retry is told from a re-used id."""
    return sha256_hex(canonical_text(json.loads(command.model_dump_json())))
