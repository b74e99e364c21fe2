"""What a step states, for the call to show beside what it asks."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Final

from pydantic import BaseModel

from jorvek.core.procedure.measure import Measure
from jorvek.core.procedure.parts import Item
from jorvek.core.procedure.steps import Step
from jorvek.core.procedure.steps.fitting import LengthTally, Port
from jorvek.core.procedure.steps.measuring import PartChoice
from jorvek.core.run.cells import Cell

WORDED_KINDS: Final = frozenset({"confirm", "vent", "tool_issue"})
"""Kinds whose cells have always carried the author's words, without saying so."""


def in_author_words(cell: Cell) -> bool:
    """Tell whether the author's words say what a cell asks for, not the catalogue."""
    return cell.worded or cell.kind in WORDED_KINDS


_ELSEWHERE: Final = frozenset(
    {"id", "kind", "title", "why", "cautions", "only", "source", "sources", "order", "covers"}
)


def _line(value: object) -> str:
    match value:
        case Measure():
            return value.shown
        case Item():
            return value.text
        case Port():
            return f"{value.name}, {value.colour}"
        case LengthTally():
            return f"{value.code}, {value.length.shown}: {len(value.positions)}"
        case PartChoice():
            return f"{value.above.shown} < … ≤ {value.up_to.shown}: {value.part}"
        case _:
            return str(value)


def _fields(part: BaseModel) -> dict[str, object]:
    """Return the fields of a step, those of its parts among them."""
    found: dict[str, object] = {}
    for name, value in part:
        if isinstance(value, BaseModel):
            found |= _fields(value)
        elif name not in _ELSEWHERE and value is not None:
            found[name] = value
    return found


@dataclass(frozen=True)
class Stated:
    """What a step states.

    Attributes:
        details: single things by field, numbers with their printed unit.
        lines: lists by field.
    """

    details: dict[str, str]
    lines: dict[str, tuple[str, ...]]


def stated(step: Step) -> Stated:
    """Return what a step states, by the names of its fields and of those of its parts."""
    details: dict[str, str] = {}
    lines: dict[str, tuple[str, ...]] = {}
    for name, value in _fields(step).items():
        if isinstance(value, tuple):
            lines[name] = tuple(_line(entry) for entry in value)
        elif isinstance(value, str | Measure):
            details[name] = _line(value)
    return Stated(details, lines)
