"""What stands in the way of a step."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from jorvek.core.metal.planned_moves import PlannedMoves
from jorvek.core.procedure.metal_parts import Act
from jorvek.core.procedure.steps import RoundStep


@dataclass(frozen=True)
class Obstacle:
    """One thing that keeps a step from being done as it is written.

    Attributes:
        code: what it is; the catalogue says it in words.
        part: part or fasteners that stand in the way, or that are missing; empty when it is none.
        cleared_by: what a step has to do so that it is gone.
        words: more, in the author's words.
    """

    code: str
    part: str = ""
    cleared_by: Act | str | None = None
    words: str = ""


def clearing(moves: PlannedMoves, obstacle: Obstacle, index: int) -> str | None:
    """Return the title of the step that would clear an obstacle if it stood before; None when no step does."""
    found = list(_clearing(moves, obstacle, index))
    later = [title for i, title in found if i > index]
    return next(iter(later or [title for _, title in found]), None)


def _clearing(moves: PlannedMoves, obstacle: Obstacle, index: int) -> Iterator[tuple[int, str]]:
    for i, step in moves.steps:
        if i == index or obstacle.cleared_by is None:
            continue
        by_part = obstacle.part in moves.touched(step) and moves.act(step) == obstacle.cleared_by
        names = set(obstacle.part.split(", "))
        round_it = isinstance(step, RoundStep) and names & set(moves.names(step))
        if by_part or step.kind == obstacle.cleared_by or (round_it and _does(step.kind, obstacle.cleared_by)):
            yield i, step.title


def _does(kind: str, wanted: str) -> bool:
    return wanted == kind or (wanted == "runs_down" and kind == "run_down")
