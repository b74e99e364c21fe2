"""What the sentences of a document seem to say, proposed to its author as typed fields.

Rules work by typed fields alone. A document written before a field existed says the same in a sentence, which only a
person can confirm. The words below are English; a sentence in another language gets no proposal.
"""

from __future__ import annotations

import re
from collections.abc import Iterator
from dataclasses import dataclass
from typing import Final, Literal

from jorvek.core.procedure.document import Procedure
from jorvek.core.procedure.steps import (
    ConfirmStep,
    CrankPositionStep,
    DisturbStep,
    Item,
    MakeSafeStep,
    Step,
)

Path = tuple[str | int, ...]
Seems = Literal["neighbours_shut", "people_clear", "zero_seen", "people_out", "fastener", "effort", "reverse"]


@dataclass(frozen=True)
class Proposal:
    """A sentence that seems to say what a typed field would say.

    Attributes:
        seems: what it seems to say; the catalogue has the question and the field to write.
        path: place of the sentence in the document.
        text: the sentence.
    """

    seems: Seems
    path: Path
    text: str

    @property
    def step(self) -> int:
        """Place of its step in the document."""
        return int(self.path[1])


def _pattern(words: str) -> re.Pattern[str]:
    return re.compile(words, re.IGNORECASE)


_POINTS: Final[tuple[tuple[Seems, re.Pattern[str]], ...]] = (
    (
        "neighbours_shut",
        _pattern(r"\bneighbou?r|\badjacent\b|\bnext bearing|\bbearings? (on )?(either|each|both) side"),
    ),
    ("people_clear", _pattern(r"\b(people|everybody|nobody)\b.*\b(clear|over|away)\b")),
    ("zero_seen", _pattern(r"\bzero\b.*\b(seen|proved)\b")),
)
_REVERSE: Final = _pattern(r"\b(in|the)\s+reverse\b|\breverse\s+(order|sequence)\s+of\s+(removal|dis)")
_PEOPLE: Final = _pattern(r"\b(people|persons?|everybody|everyone|nobody|anybody|no one)\b")
_FASTENER: Final = _pattern(r"\b(bolts?|studs?|nuts?|screws?)\b")
_EFFORT: Final = _pattern(r"\d\s*(N.?m|kN.?m|lbf|kgf|bar|MPa|psi|°|deg|flats?|turns?)\b")


def proposals(procedure: Procedure) -> tuple[Proposal, ...]:
    """Return what the sentences of a document seem to say and no typed field says, in the order of the document."""
    return tuple(one for i, step in enumerate(procedure.steps) for one in _of_step(("steps", i), step))


def _of_step(path: Path, step: Step) -> Iterator[Proposal]:
    if isinstance(step, ConfirmStep | MakeSafeStep):
        for k, item in enumerate(step.items):
            yield from _of_point((*path, "items", k), item)
    if isinstance(step, CrankPositionStep) and not step.people_out:
        for k, text in enumerate(step.off_first):
            if _PEOPLE.search(text):
                yield Proposal("people_out", (*path, "off_first", k), text)
    if isinstance(step, DisturbStep):
        yield from _of_disturbed(path, step)


def _of_point(path: Path, item: Item) -> Iterator[Proposal]:
    for seems, pattern in _POINTS:
        if item.establishes is None and pattern.search(item.text):
            yield Proposal(seems, path, item.text)
    if _REVERSE.search(item.text):
        yield Proposal("reverse", path, item.text)


def _of_disturbed(path: Path, step: DisturbStep) -> Iterator[Proposal]:
    if step.disturbs is None:
        for k, item in enumerate(step.items):
            if _FASTENER.search(item.text):
                yield Proposal("fastener", (*path, "items", k), item.text)
    if step.effort is None and _EFFORT.search(step.puts_right):
        yield Proposal("effort", (*path, "puts_right"), step.puts_right)
