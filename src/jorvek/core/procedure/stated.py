"""What a step states, in print: the one formatter of a document's values."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Final

from pydantic import BaseModel

from jorvek.core.procedure.measure import Measure, PureNumber
from jorvek.core.procedure.parts import Item
from jorvek.core.procedure.steps import Step
from jorvek.core.procedure.steps.fitting import LengthTally, Port
from jorvek.core.procedure.steps.measuring import PartChoice, StripMark

HEADINGS: Final = frozenset({"id", "kind", "title", "why", "cautions", "only", "source", "sources", "order", "covers"})
"""Fields that are shown at the head of a step, not among what it states."""


def printed(value: object) -> str:
    """Return a value of a document as one line, the same on screen and on paper."""
    match value:
        case Measure():
            return value.shown
        case PureNumber():
            return value.text
        case Item():
            return value.text if value.place is None else f"{value.text} — {value.place}"
        case Port():
            return f"{value.name}, {value.colour}"
        case LengthTally():
            return f"{value.code}, {value.length.shown}: {', '.join(value.positions)}"
        case PartChoice():
            thick = f" ({value.thickness.shown})" if value.thickness else ""
            return f"{value.above.shown} < … ≤ {value.up_to.shown}: {value.part}{thick}"
        case StripMark():
            return f"{value.width.shown} → {value.clearance.shown}"
        case BaseModel():
            return ", ".join(printed(inner) for _, inner in value if inner is not None)
        case tuple():
            return " · ".join(printed(inner) for inner in value)
        case _:
            return str(value)


def _fields(part: BaseModel) -> dict[str, object]:
    """Return the fields of a step, those of its parts among them."""
    found: dict[str, object] = {}
    for name, value in part:
        if isinstance(value, BaseModel):
            found |= _fields(value)
        elif name not in HEADINGS and value is not None:
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
            lines[name] = tuple(printed(entry) for entry in value)
        elif isinstance(value, str | Measure):
            details[name] = printed(value)
    return Stated(details, lines)
