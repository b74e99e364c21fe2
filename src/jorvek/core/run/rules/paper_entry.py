"""Readings that come from a work sheet: what a pencil wrote, read as an answer, and judged like any other."""

from __future__ import annotations

from dataclasses import replace
from datetime import datetime, timedelta
from typing import Final

from jorvek.core.refusal import Refusal
from jorvek.core.rights import Act, demand, demand_may_name
from jorvek.core.run.log import events as ev
from jorvek.core.run.log.cells import Cell, InputType
from jorvek.core.run.log.commands import Context, KeyIn, RecordReading
from jorvek.core.run.log.state import RunState
from jorvek.core.run.rules.asked_first import as_sure
from jorvek.core.run.rules.recording import record

NOT_FROM_PAPER: Final = frozenset({InputType.SIGNATURE, InputType.TOOL})
"""Signatures are given with a PIN, tools are drawn from the register: neither is keyed in."""
_YES: Final = frozenset({"", "y", "x", "1", "+"})
_NO: Final = frozenset({"n", "0", "-"})
WITHIN: Final = timedelta(days=14)
"""A sheet is keyed in within a fortnight; later nobody can ask anybody any more."""


def key_in(state: RunState, command: KeyIn, context: Context) -> ev.Recorded:
    """Take a reading from a sheet: judged like any other, with who wrote it and when.

    Raises:
        Refusal: ``not_your_right``, ``no_such_cell``, ``not_from_paper``, ``no_such_person`` for an unknown writer,
            ``no_writer``, ``writer_above``, ``written_when`` for a time that cannot be, ``written_how`` for a sign that
            is no answer here; those of ``record``.
    """
    demand(context.actor.role, Act.RECORD)
    cell = state.definition.by_key.get(command.cell)
    if cell is None:
        raise Refusal("no_such_cell", cell=command.cell)
    if cell.ask in NOT_FROM_PAPER:
        raise Refusal("not_from_paper")
    writer = context.writers.get(command.written_by)
    if writer is None:
        raise Refusal("no_such_person")
    demand_may_name(context.actor.role, writer.role, writer.name)
    _check_time(state, cell, command.written_at, context.now)
    written = read_written(cell, command.text.strip(), command.unit)
    reading = RecordReading(
        kind="record",
        id=command.id,
        tablet_at=command.tablet_at,
        cell=cell.key,
        attempt=command.attempt,
        answer=as_sure(written) if command.sure else written,
    )
    taken = record(state, reading, replace(context, now=command.written_at))
    return taken.model_copy(update={"source": "paper", "paper": ev.OnPaper(by=writer, at=command.written_at)})


def _check_time(state: RunState, cell: Cell, written_at: datetime, now: datetime) -> None:
    """A sheet's time lies after the start of the run and what the call needed, not in the future, not weeks ago.

    Paper knows minutes, not seconds: the minute of what was needed is late enough.
    """
    needed = [a.done_at for a in (state.live(key) for key in cell.needs) if a is not None]
    earliest = max([now - WITHIN, state.started_at, *needed]).replace(second=0, microsecond=0)
    if not earliest <= written_at <= now:
        raise Refusal("written_when", earliest=earliest.isoformat(), latest=now.isoformat())


def read_written(cell: Cell, text: str, unit: str | None) -> ev.Answer:
    """Return what a pencil wrote as an answer to a cell.

    Args:
        cell: the cell.
        text: what stands on the sheet; empty for a tick.
        unit: unit of a value; the author's when None.

    Raises:
        Refusal: ``written_how`` naming what may stand there.
    """
    sign = text.casefold()
    match cell.ask:
        case InputType.TICK | InputType.SEEN if sign in _YES:
            return ev.TickAnswer() if cell.ask is InputType.TICK else ev.SeenAnswer()
        case InputType.FEELER if sign in _YES | _NO and sign != "":
            return ev.FeelerAnswer(enters=sign in _YES)
        case InputType.VALUE if text:
            return ev.ValueAnswer(text=text, unit=unit or cell.unit or "")
        case InputType.WORDS if text:
            return ev.WordsAnswer(text=text)
        case InputType.COUNT if text.isdigit():
            return ev.CountAnswer(count=int(text))
        case InputType.CHOICE:
            return _choice(cell, text)
        case InputType.PULL:
            return _pull(sign, unit)
        case InputType.TURN if sign == "x":
            return ev.TurnAnswer(to_mark=True)
        case InputType.TURN if text:
            return ev.TurnAnswer(bites=tuple(text.split("+")), unit=unit or "deg")
        case _:
            raise Refusal("written_how", allowed=_allowed(cell))


def _choice(cell: Cell, text: str) -> ev.ChoiceAnswer:
    """Read a choice by its name or number; a word after it says why or where, a mark after # which piece."""
    head, _, note = text.partition(" ")
    named = head
    if head.isdigit() and 1 <= int(head) <= len(cell.choices):
        named = cell.choices[int(head) - 1]
    elif text in cell.choices:
        named, note = text, ""
    if named not in cell.choices:
        raise Refusal("written_how", allowed=_allowed(cell))
    said, _, piece = note.partition("#")
    return ev.ChoiceAnswer(choice=named, note=said.strip() or None, piece=piece.strip() or None)


def _pull(sign: str, unit: str | None) -> ev.PullAnswer:
    """Read a pull: a sign says whether it moved, a number how far; 1 is one degree and no tick."""
    if sign in _YES and not sign.isdigit():
        return ev.PullAnswer(outcome=ev.PullOutcome.MOVED)
    if sign in _NO:
        return ev.PullAnswer(outcome=ev.PullOutcome.STILL)
    return ev.PullAnswer(outcome=ev.PullOutcome.MOVED, moved=sign, unit=unit or "deg")


_SIGNS: Final = {
    InputType.TICK: "x",
    InputType.SEEN: "x",
    InputType.FEELER: "y, n",
    InputType.PULL: "x, 0, 17",
    InputType.TURN: "x, 105, 60+45",
    InputType.COUNT: "0 … 9",
}


def _allowed(cell: Cell) -> str:
    if cell.ask is InputType.CHOICE:
        return ", ".join(f"{k} {choice}" for k, choice in enumerate(cell.choices, 1))
    return _SIGNS.get(cell.ask, "…")
