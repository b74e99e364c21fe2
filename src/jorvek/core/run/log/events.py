"""What a run remembers: the kinds of event and their contents."""

from __future__ import annotations

from datetime import datetime
from enum import StrEnum
from typing import Annotated, Final, Literal, TypeAlias
from uuid import UUID

from pydantic import BaseModel, ConfigDict, Field, model_validator

from jorvek.core.engine.layout import Engine
from jorvek.core.procedure.follow import Safety
from jorvek.core.rights import Role
from jorvek.core.tools import Tool

SCHEMA_VERSION: Final = 1
"""Version of the event contents written now; every stored event names its own."""

Words: TypeAlias = Annotated[str, Field(min_length=1, max_length=1000, pattern=r"\S")]
CellKey: TypeAlias = Annotated[str, Field(min_length=1, max_length=200)]
StepKey: TypeAlias = Annotated[str, Field(min_length=1, max_length=80)]
PieceMark: TypeAlias = Annotated[str, Field(min_length=1, max_length=40, pattern=r"[^\W_]")]
"""What is stamped or written on a piece, by which it is known."""
PositionWord: TypeAlias = Annotated[str, Field(min_length=1, max_length=20)]


class Fact(BaseModel):
    """Base of everything stored in an event: frozen, no unknown keys."""

    model_config = ConfigDict(frozen=True, extra="forbid")


class Verdict(StrEnum):
    """What a reading is worth."""

    NOTED = "noted"
    IN_BAND = "in_band"
    OUT_OF_BAND = "out_of_band"
    TOO_NEAR = "too_near"
    LEFT_OUT = "left_out"


class Person(Fact):
    """Who did something, as they were then."""

    id: UUID
    name: str
    role: Role


class TickAnswer(Fact):
    """Done and seen."""

    type: Literal["tick"] = "tick"


class ValueAnswer(Fact):
    """A value as read, in the unit it was read in.

    ``sure``: it was asked about as unlikely, looked at again, and stands.
    """

    type: Literal["value"] = "value"
    text: Annotated[str, Field(min_length=1, max_length=24)]
    unit: Annotated[str, Field(min_length=1, max_length=12)]
    sure: Literal[True] | None = None


class FeelerAnswer(Fact):
    """Whether the blade went in."""

    type: Literal["feeler"] = "feeler"
    enters: bool


class ToolAnswer(Fact):
    """A tool taken from the register.

    ``handed_on``: it was drawn for another joint, lies idle there, and is handed on by name.
    """

    type: Literal["tool"] = "tool"
    tool_id: Annotated[str, Field(min_length=1, max_length=20)]
    override_reason: Words | None = None
    handed_on: bool = False


class SeenAnswer(Fact):
    """A figure that the core worked out, seen by a person."""

    type: Literal["seen"] = "seen"


class SignatureAnswer(Fact):
    """A signature; the PIN was asked for again and was right."""

    type: Literal["signature"] = "signature"


class ChoiceAnswer(Fact):
    """One of the answers that a call offers; some owe a word of why or where.

    ``piece`` is the mark on the fastener that the decision is about; a rejected one is known by it.
    """

    type: Literal["choice"] = "choice"
    choice: Annotated[str, Field(min_length=1, max_length=120)]
    note: Words | None = None
    piece: PieceMark | None = None


class WordsAnswer(Fact):
    """Something written down as read: a batch, an identity, a name."""

    type: Literal["words"] = "words"
    text: Words


class CountAnswer(Fact):
    """Pieces counted."""

    type: Literal["count"] = "count"
    count: int = Field(ge=0, le=10_000)


class PullOutcome(StrEnum):
    """What a pull to a torque did."""

    MOVED = "moved"
    STILL = "still"
    BROKEN_OFF = "broken_off"
    TURNED_ON = "turned_on"


class PullAnswer(Fact):
    """One pull: whether the fastener moved before the click, and how far where it was measured.

    ``sure``: it was asked about as unlikely, looked at again, and stands.
    """

    type: Literal["pull"] = "pull"
    outcome: PullOutcome
    moved: Annotated[str, Field(min_length=1, max_length=12)] | None = None
    unit: Annotated[str, Field(min_length=1, max_length=12)] = "deg"
    sure: Literal[True] | None = None


class TurnAnswer(Fact):
    """An angle: turned to the mark, which is seen and not measured; or in measured bites, which add up.

    ``sure``: it was asked about as unlikely, looked at again, and stands.
    """

    type: Literal["turn"] = "turn"
    bites: tuple[Annotated[str, Field(min_length=1, max_length=12)], ...] = Field(default=(), max_length=24)
    unit: Annotated[str, Field(min_length=1, max_length=12)] = "deg"
    to_mark: bool = False
    sure: Literal[True] | None = None

    @model_validator(mode="after")
    def _one_or_the_other(self) -> TurnAnswer:
        if self.to_mark == bool(self.bites):
            raise ValueError("either to the mark, or the bites that were measured")
        return self


class LeftOutAnswer(Fact):
    """Nothing was done here, by somebody's authority and for a reason."""

    type: Literal["left_out"] = "left_out"
    reason: Words


class LeftToEngineAnswer(Fact):
    """Nothing was given back here, because others on the engine still rely on it: whoever is last gives it back."""

    type: Literal["left_to_engine"] = "left_to_engine"


Answer: TypeAlias = Annotated[
    TickAnswer
    | ValueAnswer
    | FeelerAnswer
    | ToolAnswer
    | SeenAnswer
    | SignatureAnswer
    | ChoiceAnswer
    | WordsAnswer
    | CountAnswer
    | PullAnswer
    | TurnAnswer
    | LeftOutAnswer
    | LeftToEngineAnswer,
    Field(discriminator="type"),
]


class Reason(Fact):
    """One reason of a verdict: a code of the message catalogue with its figures."""

    code: str
    params: dict[str, float | str] = {}


class Judgement(Fact):
    """What was decided about an answer, and from what.

    Attributes:
        verdict: the outcome.
        reasons: why.
        value: the value read, in the glossary unit, uncorrected.
        correction: added to ``value`` by the instrument's calibration.
        corrected: value plus correction: what was judged, or what the figure below rests on.
        uncertainty: expanded uncertainty (k = 2) of ``judged``.
        judged: the figure held against the limits when it is not the corrected value itself
            (stretch, growth, spread), same unit.
        lower: lower limit used.
        upper: upper limit used.
        clamp_kN: load in the stud that this answer speaks for.
    """

    verdict: Verdict
    reasons: tuple[Reason, ...] = ()
    value: float | None = None
    correction: float | None = None
    corrected: float | None = None
    uncertainty: float | None = None
    judged: float | None = None
    lower: float | None = None
    upper: float | None = None
    clamp_kN: float | None = None


class Observed(Fact):
    """A variant key as it was found on the engine, and what showed it."""

    key: Annotated[str, Field(max_length=60)]
    value: Annotated[str, Field(min_length=1, max_length=120)]
    evidence: Words


class IsolationInForce(Fact):
    """A point of making safe that the engine's isolation answers: it was shut before this run began.

    Attributes:
        cell: the call that asks for it.
        isolation: sequence in the overhaul's log of the event that isolated it.
        by: who isolated it.
        at: when.
    """

    cell: CellKey
    isolation: int
    by: Person
    at: datetime


class RuleDeparted(Fact):
    """A rule of the engine sheet that this run departs from, by name.

    Attributes:
        rule: its name.
        joint: the joint that stood in the way.
        reason: why it may be so.
    """

    rule: Annotated[str, Field(max_length=60)]
    joint: Annotated[str, Field(max_length=60)]
    reason: Words


class Again(Fact):
    """Which follow-up of which run a run carries out, and how the engine is kept standing meanwhile."""

    run: UUID
    step: str
    safety: Safety


class RunStarted(Fact):
    """First event: what is being done, on what, by which revision, in which of its ways.

    Attributes:
        selection: the choice made for each option.
        observed: what decides the numbers, as found.
        first_lengths: length in mm at 20 °C of each stud when it was first measured in this joint, by name.
        uses: how often each fastener was tightened in this joint before, by name.
        overhaul: the overhaul of the engine that it belongs to; None for one from before there were any.
        in_force: what the engine's isolations answer.
        departures: rules of the engine sheet that it departs from.
        again: the follow-up that it carries out; None for a whole procedure.
    """

    kind: Literal["run_started"] = "run_started"
    procedure_hash: str
    cells_hash: str
    joint_key: str
    joint_label: str
    engine: Engine
    selection: dict[str, str] = {}
    observed: tuple[Observed, ...] = ()
    first_lengths: dict[str, float] = {}
    uses: dict[str, int] = {}
    overhaul: UUID | None = None
    in_force: tuple[IsolationInForce, ...] = ()
    departures: tuple[RuleDeparted, ...] = ()
    again: Again | None = None


class OnPaper(Fact):
    """Who wrote something on paper, and when, by the paper.

    Attributes:
        until: it was done by then at the latest, where only a span is known.
        why: why it is told later.
        photo: the photograph of the sheet on which it stands, by the digest of its content.
    """

    by: Person
    at: datetime
    until: datetime | None = None
    why: str | None = None
    photo: str | None = None


class Done(Fact):
    """Work that may have waited on a tablet without a link: ``kept_s`` says for how many seconds."""

    kept_s: float | None = None


class Recorded(Done):
    """An answer was given in a cell.

    ``paper`` says who wrote it down, when it was keyed in from a sheet. ``falls`` names what is done anew with it:
    a pull whose pressure was let off before it was finished begins again where people stand clear.
    """

    kind: Literal["recorded"] = "recorded"
    cell: CellKey
    attempt: int
    answer: Answer
    judgement: Judgement
    tool: Tool | None = None
    source: Literal["typed", "paper", "claim"] = "typed"
    paper: OnPaper | None = None
    falls: tuple[CellKey, ...] = ()


class Struck(Done):
    """A reading was struck: writing is corrected, metal is not.

    ``falls`` names the readings that rested on it and are asked for again.
    """

    kind: Literal["struck"] = "struck"
    cell: CellKey
    attempt: int
    reason: Words | None = None
    falls: tuple[CellKey, ...] = ()


class ReasonGiven(Fact):
    """The reason owed for a strike."""

    kind: Literal["reason_given"] = "reason_given"
    cell: CellKey
    attempt: int
    reason: Words


class Accepted(Fact):
    """A reading outside or too near its limits, accepted by name."""

    kind: Literal["accepted"] = "accepted"
    cell: CellKey
    attempt: int
    reason: Words


class PressureTried(Fact):
    """The shared pressure of a loosening step was brought to another figure.

    Attributes:
        value: what the gauge shows, in bar.
        true_bar: the oil's pressure, by the gauge's correction.
    """

    kind: Literal["pressure_tried"] = "pressure_tried"
    step: StepKey
    text: Annotated[str, Field(min_length=1, max_length=24)]
    unit: Annotated[str, Field(min_length=1, max_length=12)]
    value: float
    true_bar: float


class NutStuck(Fact):
    """A nut would not move at the pressure tried last; what the blade under it found."""

    kind: Literal["nut_stuck"] = "nut_stuck"
    cell: CellKey
    gap: bool
    true_bar: float | None


class StuckDecided(Fact):
    """How to go on with a nut that would not move. ``stuck`` is the sequence of the event that reported it."""

    kind: Literal["stuck_decided"] = "stuck_decided"
    stuck: int
    words: Words
    falls: tuple[CellKey, ...] = ()


class FastenerRejected(Fact):
    """The fastener of a reading comes out for good, by name; what another in its place needs opens again."""

    kind: Literal["fastener_rejected"] = "fastener_rejected"
    cell: CellKey
    attempt: int
    piece: PieceMark
    reason: Words
    falls: tuple[CellKey, ...] = ()


class Reopened(Fact):
    """Work is done again: the cells of the scope open once more."""

    kind: Literal["reopened"] = "reopened"
    cell: CellKey
    cells: tuple[CellKey, ...]
    reason: Words


class GearTold(Fact):
    """What the engine's log says of the turning gear: free for a move of the crank, or locked again.

    Attributes:
        commander: who commands the move; None when it is locked again.
        own: a call of this very run asks for the move.
    """

    kind: Literal["gear_told"] = "gear_told"
    commander: Words | None
    own: bool = False


class Noted(Done):
    """A remark."""

    kind: Literal["noted"] = "noted"
    text: Words
    cell: CellKey | None = None


class TroubleKind(StrEnum):
    """What can go wrong at a fastener."""

    NO_CLICK = "no_click"
    CLICKED_AT_ONCE = "clicked_at_once"
    CREAK_OR_BANG = "creak_or_bang"
    OUT_OF_SWING = "out_of_swing"
    CROSS_THREAD = "cross_thread"
    DIRT = "dirt"
    TOOL_SLIPPED = "tool_slipped"
    OTHER = "other"


class TroubleRaised(Done):
    """Something went wrong; it stays open until it ends in a fix, a redo, or a departure by name."""

    kind: Literal["trouble_raised"] = "trouble_raised"
    what: TroubleKind
    cell: CellKey


class TroubleEnded(Fact):
    """How a trouble ended. ``trouble`` is the sequence of the event that raised it."""

    kind: Literal["trouble_ended"] = "trouble_ended"
    trouble: int
    how: Literal["fixed", "done_again", "departure"]
    words: Words


class AgeAnswered(Fact):
    """Something that ages was looked at again after its time and found good."""

    kind: Literal["age_answered"] = "age_answered"
    step: StepKey
    words: Words


class OutOfTurn(Fact):
    """A fastener is taken before its turn, by authority."""

    kind: Literal["out_of_turn"] = "out_of_turn"
    cell: CellKey
    reason: Words


class CauseNamed(Fact):
    """A cause was found that may be there on joints of the same kind, too."""

    kind: Literal["cause_named"] = "cause_named"
    cell: CellKey
    cause: Words


class SisterAsked(Fact):
    """A cause was found on a joint of the same kind: the same check is open here again, also after closing.

    Attributes:
        origin: run in which it was found.
        joint: where, in words.
        cell: the check, as a cell of this run.
    """

    kind: Literal["sister_asked"] = "sister_asked"
    origin: UUID
    joint: Annotated[str, Field(max_length=120)]
    cell: CellKey
    cause: Words


class SisterAnswered(Fact):
    """The check was made here. ``asked`` is the sequence of the event that asked for it."""

    kind: Literal["sister_answered"] = "sister_answered"
    asked: int
    found_too: bool
    words: Words


class PartTaken(Fact):
    """Somebody works on some of the fasteners, while others do the rest; none gives them back."""

    kind: Literal["part_taken"] = "part_taken"
    fasteners: tuple[PositionWord, ...] = Field(max_length=200)


PhotoName: TypeAlias = Annotated[str, Field(pattern=r"^[0-9a-f]{64}$")]
"""A photograph's name in the store: the hash of the picture."""


class PhotoAdded(Done):
    """A photograph belongs to a call; the picture itself is kept under its hash."""

    kind: Literal["photo_added"] = "photo_added"
    cell: CellKey
    photo: PhotoName
    width_px: int
    height_px: int
    words: Words | None = None


class ReadingWork(Fact):
    """An answer for a cell. ``attempt`` is the try its sender believes it is making."""

    kind: Literal["record"]
    cell: CellKey
    attempt: int = Field(ge=1)
    answer: Answer


class StrikeWork(Fact):
    """A reading to be struck; the reason may follow, but is owed before the stage closes."""

    kind: Literal["strike"]
    cell: CellKey
    attempt: int = Field(ge=1)
    reason: Words | None = None


class NoteWork(Fact):
    """A remark to be left."""

    kind: Literal["note"]
    text: Words
    cell: CellKey | None = None


class TroubleWork(Fact):
    """That something went wrong at a call."""

    kind: Literal["raise_trouble"]
    what: TroubleKind
    cell: CellKey


class PhotoWork(Fact):
    """A photograph to be put to a call."""

    kind: Literal["add_photo"]
    cell: CellKey
    photo: PhotoName
    width_px: int
    height_px: int
    words: Words | None = None


Work: TypeAlias = Annotated[ReadingWork | StrikeWork | NoteWork | TroubleWork | PhotoWork, Field(discriminator="kind")]
"""What a tablet may do without a link."""


class Claimed(Fact):
    """Work that waited on a tablet and could not be taken as it was when it arrived; a person decides on it.

    Attributes:
        work: what was done.
        batch: names one stretch of work without a link on one tablet.
        saw: sequence that the tablet had seen last.
        kept_s: how long it waited, in seconds; None when the tablet's clock cannot tell.
        why: what stood against it.
    """

    kind: Literal["claimed"] = "claimed"
    work: Work
    batch: UUID
    saw: int
    kept_s: float | None
    why: Reason


class ClaimSettled(Fact):
    """A claim was taken in, or left out for a reason.

    Attributes:
        claim: sequence of the event that holds the claim.
        led_to: what was taken in, in the name of whoever did the work.
    """

    kind: Literal["claim_settled"] = "claim_settled"
    claim: int
    words: Words | None = None
    led_to: Annotated[Recorded | Struck | Noted | TroubleRaised | PhotoAdded, Field(discriminator="kind")] | None = None


class Paused(Fact):
    """Work was left."""

    kind: Literal["paused"] = "paused"


class TakenOver(Fact):
    """Someone works on from where it stands."""

    kind: Literal["taken_over"] = "taken_over"


class Closed(Fact):
    """The run is finished and cannot change."""

    kind: Literal["closed"] = "closed"


EventData: TypeAlias = Annotated[
    RunStarted
    | Recorded
    | Struck
    | ReasonGiven
    | Accepted
    | FastenerRejected
    | PressureTried
    | NutStuck
    | StuckDecided
    | Reopened
    | GearTold
    | Noted
    | TroubleRaised
    | TroubleEnded
    | AgeAnswered
    | OutOfTurn
    | CauseNamed
    | SisterAsked
    | SisterAnswered
    | PartTaken
    | PhotoAdded
    | Claimed
    | ClaimSettled
    | Paused
    | TakenOver
    | Closed,
    Field(discriminator="kind"),
]


class Event(Fact):
    """One event with its envelope.

    Attributes:
        run_id: the run.
        seq: place in the run, from 1.
        id: made by whoever sent the command, so that a retry never doubles.
        schema_version: version of ``data``.
        core_version: version of the judgements.
        at: server time in UTC; orders events.
        tablet_at: the sender's own time.
        author: from the session, never from the sender.
        command: fingerprint of the command, to tell a retry from a re-used id.
        data: contents.
    """

    run_id: UUID
    seq: int
    id: UUID
    schema_version: Literal[1] = SCHEMA_VERSION
    core_version: str
    at: datetime
    tablet_at: datetime | None = None
    author: Person
    command: str
    data: EventData
