"""How long the steps of a procedure take: stated by its author, learned from earlier runs, or the usual figure.

Derived here. A step takes the time between the answer before its first one and its last; a pause is nobody's work, so
an answer that came long after the one before counts as the usual one. A step whose answers follow on each other faster
than anybody works was typed in afterwards, and tells nothing.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field
from statistics import median, quantiles
from typing import Final, Literal, TypeAlias
from uuid import UUID

from jorvek.core.run.log.cells import Cell, InputType
from jorvek.core.run.log.definition import Definition
from jorvek.core.run.log.state import RunState
from jorvek.core.run.views.labels import View

USUAL_MIN: Final[dict[InputType, float]] = {
    InputType.TICK: 1.5,
    InputType.VALUE: 2.0,
    InputType.FEELER: 2.0,
    InputType.TOOL: 3.0,
    InputType.SEEN: 3.0,
    InputType.SIGNATURE: 10.0,
    InputType.CHOICE: 1.0,
    InputType.WORDS: 2.0,
    InputType.COUNT: 1.5,
    InputType.PULL: 5.0,
    InputType.TURN: 5.0,
}
"""Minutes of a call where nobody has stated or learned any: what it asks for says how long it takes, roughly."""
HEAVY: Final = frozenset({"lift", "land", "park"})
"""Kinds of step that lift, land or park."""
_HEAVY_MIN: Final = 20.0
_PAUSE_MIN: Final = 60.0
"""Whoever has not answered for so long was elsewhere."""
_TYPED: Final = 0.25
"""Below this share of the usual time nobody has done the work between the answers."""
ENOUGH_RUNS: Final = 3
"""From so many earlier runs on their median is taken."""

Known: TypeAlias = Literal["stated", "learned", "usual"]


class StepMinutes(View):
    """What a closed run tells of its steps: minutes of each, by name."""

    procedure: str
    minutes: dict[str, float]


@dataclass(frozen=True)
class Taken:
    """How long something takes.

    Attributes:
        minutes: the figure that is planned with.
        nine_in_ten: within this it is done nine times out of ten; the same where nobody knows of any spread.
        known: where the figure comes from.
    """

    minutes: float
    nine_in_ten: float
    known: Known


def usual_minutes(cell: Cell) -> float:
    """Return how long a call usually takes, in minutes."""
    return _HEAVY_MIN if cell.kind in HEAVY else USUAL_MIN[cell.ask]


def step_minutes(_: UUID, state: RunState) -> StepMinutes:
    """Return how long each step of a closed run took; an open one tells nothing yet, nor does one from paper."""
    found: dict[str, float] = {}
    if state.status != "closed":
        return StepMinutes(procedure=state.definition.procedure.id, minutes=found)
    live = [(state.live(cell.key), cell) for cell in state.definition.cells]
    answered = sorted(
        ((attempt.done_at, cell) for attempt, cell in live if attempt is not None and attempt.source != "paper"),
        key=lambda pair: pair[0],
    )
    before = state.started_at
    for at, cell in answered:
        took = (at - before).total_seconds() / 60.0
        found[cell.step_id] = found.get(cell.step_id, 0.0) + (took if took <= _PAUSE_MIN else usual_minutes(cell))
        before = at
    usual: dict[str, float] = {}
    for cell in (cell for _at, cell in answered):
        usual[cell.step_id] = usual.get(cell.step_id, 0.0) + usual_minutes(cell)
    worked = {step: minutes for step, minutes in found.items() if minutes >= _TYPED * usual[step]}
    return StepMinutes(procedure=state.definition.procedure.id, minutes=worked)


@dataclass(frozen=True)
class Book:
    """What earlier runs tell: by procedure and step the minutes of each run."""

    runs: Mapping[tuple[str, str], tuple[float, ...]] = field(default_factory=dict)

    @staticmethod
    def of(told: Iterable[StepMinutes]) -> Book:
        """Return the book of some runs."""
        found: dict[tuple[str, str], list[float]] = {}
        for run in told:
            for step, minutes in run.minutes.items():
                found.setdefault((run.procedure, step), []).append(minutes)
        return Book({key: tuple(sorted(minutes)) for key, minutes in found.items()})

    def taken(self, definition: Definition, cell: Cell) -> Taken:
        """Return how long a call takes: its share of its step."""
        cells = definition.by_step[cell.step]
        stated = definition.steps_by_id[cell.step_id].minutes
        if stated is not None:
            minutes = stated.value / 60.0 / len(cells)
            return Taken(minutes, minutes, "stated")
        # The minutes of a repeated step are those of all its repetitions together.
        rounds = sum(c.step_id == cell.step_id for c in definition.cells)
        told = self.runs.get((definition.procedure.id, cell.step_id), ())
        if len(told) >= ENOUGH_RUNS:
            return Taken(median(told) / rounds, quantiles(told, n=10, method="inclusive")[-1] / rounds, "learned")
        usual = usual_minutes(cell)
        return Taken(usual, usual, "usual")
