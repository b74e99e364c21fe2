"""What people may ask of a run, and the event that answers."""

from __future__ import annotations

import json
from dataclasses import dataclass
from datetime import date, datetime
from typing import Annotated, Final, Literal, TypeAlias
from uuid import UUID

from pydantic import AwareDatetime, Field

from jorvek.core.canonical import canonical_text, sha256_hex
from jorvek.core.procedure.steps import HoldPointStep, ToolIssueStep, WantedTool
from jorvek.core.refusal import Refusal
from jorvek.core.rights import Act, demand, may_sign_as
from jorvek.core.run import events as ev
from jorvek.core.run.cells import Ask, Cell
from jorvek.core.run.judge import judge
from jorvek.core.run.progress import DebtKind, complete, debts, demand_open, demand_running
from jorvek.core.run.redo import demand_moment, redo_scope
from jorvek.core.run.state import RunState
from jorvek.core.tools import Tool, check_tool


class CommandBase(ev.Fact):
    """What every command carries.

    Attributes:
        id: made by the sender; sending the same command again changes nothing.
        tablet_at: the sender's own time.
    """

    id: UUID
    tablet_at: AwareDatetime | None = None


class RecordReading(CommandBase):
    """Fill a cell. ``attempt`` is the try the sender believes it is making."""

    kind: Literal["record"]
    cell: ev.CellKey
    attempt: int = Field(ge=1, le=1000)
    answer: ev.Answer


class StrikeReading(CommandBase):
    """Strike a reading; the reason may follow, but is owed before the stage closes."""

    kind: Literal["strike"]
    cell: ev.CellKey
    attempt: int = Field(ge=1, le=1000)
    reason: ev.Words | None = None


class GiveReason(CommandBase):
    """Give the reason owed for a strike."""

    kind: Literal["give_reason"]
    cell: ev.CellKey
    attempt: int = Field(ge=1, le=1000)
    reason: ev.Words


class Accept(CommandBase):
    """Accept by name a reading that is outside or too near its limits."""

    kind: Literal["accept"]
    cell: ev.CellKey
    attempt: int = Field(ge=1, le=1000)
    reason: ev.Words


class RedoWork(CommandBase):
    """Do work again; the scope shown beforehand must still be the scope."""

    kind: Literal["redo"]
    cell: ev.CellKey
    cells: tuple[ev.CellKey, ...] = Field(min_length=1, max_length=5000)
    reason: ev.Words


class Note(CommandBase):
    """Leave a remark."""

    kind: Literal["note"]
    text: ev.Words
    cell: ev.CellKey | None = None


class RaiseTrouble(CommandBase):
    """Say that something went wrong at a call; one touch, and one question."""

    kind: Literal["raise_trouble"]
    what: ev.TroubleKind
    cell: ev.CellKey


class EndTrouble(CommandBase):
    """Say how a trouble ended; a departure needs somebody who may accept one."""

    kind: Literal["end_trouble"]
    trouble: int = Field(ge=1)
    how: Literal["fixed", "done_again", "departure"]
    words: ev.Words


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
    | StrikeReading
    | GiveReason
    | Accept
    | RedoWork
    | Note
    | RaiseTrouble
    | EndTrouble
    | Pause
    | TakeOver
    | Close,
    Field(discriminator="kind"),
]


@dataclass(frozen=True)
class Facts:
    """What the core must be told because it cannot look.

    Attributes:
        actor: who asks, from the session.
        now: server time.
        today: date at the site, for calibrations.
        tools: register entries that the command names.
        pin_confirmed: whether the actor's PIN was asked for again with this command.
        tools_on: other joints of the engine on which a tool sits on a stud now.
    """

    actor: ev.Person
    now: datetime
    today: date
    tools: dict[str, Tool]
    pin_confirmed: bool = False
    tools_on: tuple[str, ...] = ()


class Conflict(Refusal):
    """Somebody else was first; what they recorded is in ``present``."""

    def __init__(self, cell: str, present: str, by: str) -> None:
        super().__init__("cell_taken", cell=cell, present=present, by=by)


def command_digest(command: CommandBase) -> str:
    """Return the fingerprint by which a retry is told from a re-used id."""
    return sha256_hex(canonical_text(json.loads(command.model_dump_json())))


def decide(state: RunState, command: Command, facts: Facts) -> ev.EventData:
    """Decide on a command: the event that answers it, or a refusal that changes nothing.

    Raises:
        Refusal: naming what was wrong; ``Conflict`` when another person was first.
    """
    if state.status == "closed":
        raise Refusal("run_closed")
    match command:
        case RecordReading():
            return _record(state, command, facts)
        case StrikeReading():
            return _strike(state, command, facts)
        case GiveReason():
            return _give_reason(state, command, facts)
        case Accept():
            return _accept(state, command, facts)
        case RedoWork():
            return _redo(state, command, facts)
        case Note():
            return _note(state, command, facts)
        case RaiseTrouble():
            return _raise_trouble(state, command, facts)
        case EndTrouble():
            return _end_trouble(state, command, facts)
        case Pause():
            demand(facts.actor.role, Act.RECORD)
            demand_running(state)
            return ev.Paused()
        case TakeOver():
            return _take_over(state, facts)
        case Close():
            return _close(state, facts)


def _record(state: RunState, command: RecordReading, facts: Facts) -> ev.Recorded:
    known = state.definition.by_key.get(command.cell)
    if known is not None and known.ask is Ask.SIGNATURE:
        _check_signer(state, known, facts)
    else:
        demand(facts.actor.role, Act.RECORD)
    _check_attempt(state, command)
    cell = demand_open(state, command.cell)
    if cell.kind in _MOVES_THE_CRANK:
        _check_free_to_bar(state, facts)
    tool = state.tool(cell.tool_role)
    if isinstance(command.answer, ev.ToolAnswer) and cell.ask is Ask.TOOL:
        tool = _drawn_tool(state, cell, command.answer, facts)
    elif tool is not None and cell.ask is Ask.VALUE:
        _check_still_calibrated(state, cell, tool, facts)
    judgement = judge(state, cell, command.answer, facts.now)
    return ev.Recorded(cell=cell.key, attempt=command.attempt, answer=command.answer, judgement=judgement, tool=tool)


_MOVES_THE_CRANK: Final = frozenset({"crank_position", "inch", "turns_freely"})


def _check_free_to_bar(state: RunState, facts: Facts) -> None:
    """The crank is never moved while a tool sits on a stud, here or on another joint of the engine."""
    here = any(d.kind is DebtKind.TOOL_ON for d in debts(state))
    where = state.started.joint_label if here else next(iter(facts.tools_on), None)
    if where is not None:
        raise Refusal("tool_on_stud", joint=where)


def _check_attempt(state: RunState, command: RecordReading) -> None:
    tries = state.tries(command.cell)
    if tries and (tries[-1].live or command.attempt <= len(tries)):
        last = tries[-1]
        raise Conflict(command.cell, answer_words(last.answer), last.by.name)
    if command.attempt != len(tries) + 1:
        raise Refusal("wrong_attempt", cell=command.cell, expected=len(tries) + 1, got=command.attempt)


def answer_words(answer: ev.Answer) -> str:
    """Return an answer in a few plain words, for messages."""
    match answer:
        case ev.ValueAnswer():
            return f"{answer.text} {answer.unit}"
        case ev.FeelerAnswer():
            return "enters" if answer.enters else "does not enter"
        case ev.ToolAnswer():
            return answer.tool_id
        case ev.ChoiceAnswer():
            return answer.choice
        case ev.WordsAnswer():
            return answer.text
        case ev.CountAnswer():
            return str(answer.count)
        case ev.PullAnswer():
            return answer.outcome.value
        case ev.TurnAnswer():
            return f"{' + '.join(answer.bites)} {answer.unit}"
        case _:
            return answer.type


def _wanted_tool(state: RunState, cell: Cell) -> WantedTool:
    for step in state.definition.procedure.steps:
        if isinstance(step, ToolIssueStep) and step.id == cell.step_id:
            return next(t for t in step.tools if t.role == cell.tool_role)
    raise Refusal("no_such_cell", cell=cell.key)


def _drawn_tool(state: RunState, cell: Cell, answer: ev.ToolAnswer, facts: Facts) -> Tool:
    tool = facts.tools.get(answer.tool_id)
    if tool is None:
        raise Refusal("no_such_tool", tool=answer.tool_id)
    check_tool(tool, _wanted_tool(state, cell))
    if tool.out_of_date(facts.today):
        if answer.override_reason is None:
            raise Refusal("tool_out_of_date", tool=tool.id, due=tool.calibration_due.isoformat())
        demand(facts.actor.role, Act.OVERRIDE_TOOL)
    return tool


def _check_still_calibrated(state: RunState, cell: Cell, tool: Tool, facts: Facts) -> None:
    """A calibration may run out between the drawing of a tool and its use."""
    drawn = next(
        (
            a
            for c in state.definition.cells
            if c.kind == "tool_issue" and c.tool_role == cell.tool_role
            for a in (state.live(c.key),)
            if a is not None
        ),
        None,
    )
    overridden = drawn is not None and isinstance(drawn.answer, ev.ToolAnswer) and drawn.answer.override_reason
    if tool.out_of_date(facts.today) and not overridden:
        raise Refusal("tool_out_of_date", tool=tool.id, due=tool.calibration_due.isoformat())


def _check_signer(state: RunState, cell: Cell, facts: Facts) -> None:
    step = state.definition.steps_by_id[cell.step_id]
    assert isinstance(step, HoldPointStep)
    if not may_sign_as(facts.actor.role, step.signed_by):
        raise Refusal("not_your_signature", role=facts.actor.role.value, wanted=step.signed_by.value)
    covered = set(cell.uses)
    if any(a.by.id == facts.actor.id for key in covered for a in state.tries(key)):
        raise Refusal("own_work", name=facts.actor.name)
    if not facts.pin_confirmed:
        raise Refusal("pin_needed")


def _attempt(state: RunState, key: str, number: int) -> None:
    if key not in state.definition.by_key:
        raise Refusal("no_such_cell", cell=key)
    if number > len(state.tries(key)):
        raise Refusal("no_such_reading", cell=key, attempt=number)


def _strike(state: RunState, command: StrikeReading, facts: Facts) -> ev.Struck:
    demand(facts.actor.role, Act.RECORD)
    demand_running(state)
    _attempt(state, command.cell, command.attempt)
    cell = state.definition.by_key[command.cell]
    live = state.live(command.cell)
    if live is None or live.number != command.attempt:
        raise Refusal("not_standing", cell=command.cell)
    demand_moment(state, cell)
    falls = tuple(key for key in state.definition.users[cell.key] if state.live(key) is not None)
    return ev.Struck(cell=cell.key, attempt=command.attempt, reason=command.reason, falls=falls)


def _give_reason(state: RunState, command: GiveReason, facts: Facts) -> ev.ReasonGiven:
    demand(facts.actor.role, Act.RECORD)
    demand_running(state)
    _attempt(state, command.cell, command.attempt)
    struck = state.tries(command.cell)[command.attempt - 1].struck
    if struck is None or struck.reason is not None:
        raise Refusal("no_reason_owed", cell=command.cell)
    return ev.ReasonGiven(cell=command.cell, attempt=command.attempt, reason=command.reason)


def _accept(state: RunState, command: Accept, facts: Facts) -> ev.Accepted:
    demand(facts.actor.role, Act.ACCEPT)
    demand_running(state)
    _attempt(state, command.cell, command.attempt)
    live = state.live(command.cell)
    if live is None or live.number != command.attempt or live.settled:
        raise Refusal("nothing_to_accept", cell=command.cell)
    return ev.Accepted(cell=command.cell, attempt=command.attempt, reason=command.reason)


def _redo(state: RunState, command: RedoWork, facts: Facts) -> ev.Reopened:
    demand(facts.actor.role, Act.RECORD)
    demand_running(state)
    scope = redo_scope(state, command.cell)
    if scope != command.cells:
        raise Refusal("scope_changed", cell=command.cell)
    return ev.Reopened(cell=command.cell, cells=scope, reason=command.reason)


def _note(state: RunState, command: Note, facts: Facts) -> ev.Noted:
    demand(facts.actor.role, Act.RECORD)
    if command.cell is not None and command.cell not in state.definition.by_key:
        raise Refusal("no_such_cell", cell=command.cell)
    return ev.Noted(text=command.text, cell=command.cell)


def _raise_trouble(state: RunState, command: RaiseTrouble, facts: Facts) -> ev.TroubleRaised:
    demand(facts.actor.role, Act.RECORD)
    demand_running(state)
    if command.cell not in state.definition.by_key:
        raise Refusal("no_such_cell", cell=command.cell)
    return ev.TroubleRaised(what=command.what, cell=command.cell)


def _end_trouble(state: RunState, command: EndTrouble, facts: Facts) -> ev.TroubleEnded:
    demand(facts.actor.role, Act.ACCEPT if command.how == "departure" else Act.RECORD)
    demand_running(state)
    if not any(t.seq == command.trouble and t.how is None for t in state.troubles):
        raise Refusal("no_such_trouble", seq=command.trouble)
    return ev.TroubleEnded(trouble=command.trouble, how=command.how, words=command.words)


def _take_over(state: RunState, facts: Facts) -> ev.TakenOver:
    demand(facts.actor.role, Act.RECORD)
    if state.status == "open" and state.watches[-1].by.id == facts.actor.id:
        raise Refusal("already_yours")
    return ev.TakenOver()


def _close(state: RunState, facts: Facts) -> ev.Closed:
    demand(facts.actor.role, Act.CLOSE_RUN)
    demand_running(state)
    if not complete(state):
        holes = [c.key for c in state.definition.cells if state.live(c.key) is None]
        owed = [d.cell for d in debts(state)]
        raise Refusal("not_complete", holes=len(holes), owed=len(owed), first=(holes + owed)[0])
    return ev.Closed()
