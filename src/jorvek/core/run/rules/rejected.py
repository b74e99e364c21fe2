"""Fasteners known by the mark on them: a rejected one is refused everywhere from then on."""

from __future__ import annotations

from collections.abc import Mapping
from datetime import datetime

from jorvek.core.refusal import Refusal
from jorvek.core.run.log import events as ev
from jorvek.core.run.log.cells import Cell, InputType
from jorvek.core.run.log.state import RunState

_GOES_OUT = "replace"


def plain_mark(text: str) -> str:
    """Return a mark without what is easily read or written in another way: case, blanks, strokes."""
    return "".join(ch for ch in text.casefold() if ch.isalnum())


def rejected_in(state: RunState) -> dict[str, str]:
    """Return the marks of the fasteners that stand rejected in a run, each with where that was."""
    found: dict[str, str] = {}
    for attempt in (one for tries in state.attempts.values() for one in tries):
        if attempt.rejected is not None:
            out = attempt.rejected
            found[plain_mark(out.piece)] = _where(state, out.at, out.by.name)
    for attempt in state.counting.values():
        answer = attempt.answer
        if isinstance(answer, ev.ChoiceAnswer) and answer.choice == _GOES_OUT and answer.piece is not None:
            found[plain_mark(answer.piece)] = _where(state, attempt.at, attempt.by.name)
    return found


def _where(state: RunState, at: datetime, by: str) -> str:
    return f"{state.started.engine.name}, {state.started.joint_label}, {at:%Y-%m-%d}, {by}"


def wants_mark(cell: Cell) -> bool:
    """Tell whether a piece that could have gone back has to be named when it does not."""
    return cell.fastener is not None and "reuse" in cell.choices


def named_mark(cell: Cell, answer: ev.Answer) -> str | None:
    """Return the mark, in its plain form, of the piece that an answer names; None when it names none."""
    match answer:
        case ev.ChoiceAnswer() if cell.ask is InputType.CHOICE:
            mark = answer.piece
        case ev.WordsAnswer() if cell.traits.names_pieces:
            mark = answer.text
        case _:
            mark = None
    return plain_mark(mark) if mark else None


def demand_not_rejected(cell: Cell, answer: ev.Answer, rejected: Mapping[str, str]) -> None:
    """Refuse a fastener or part that was rejected before, and a rejection that leaves no mark.

    Raises:
        Refusal: ``piece_rejected`` naming where; ``mark_wanted`` when a fastener that could have been
            used again goes out and nobody says which it is.
    """
    mark = named_mark(cell, answer)
    if isinstance(answer, ev.ChoiceAnswer) and cell.ask is InputType.CHOICE and answer.choice == _GOES_OUT:
        if mark is None and wants_mark(cell):
            raise Refusal("mark_wanted", fastener=cell.fastener)
        return
    where = rejected.get(mark) if mark is not None else None
    if where is not None:
        raise Refusal("piece_rejected", mark=_as_written(answer), where=where)


def _as_written(answer: ev.Answer) -> str | None:
    match answer:
        case ev.ChoiceAnswer():
            return answer.piece
        case ev.WordsAnswer():
            return answer.text
        case _:
            return None
