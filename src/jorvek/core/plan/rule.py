"""A timetable by rule, as a crew does it without a plan: quick, always possible, and a start for something better."""

from __future__ import annotations

import random
from collections.abc import Mapping

from jorvek.core.plan.crew import Crew, Timed, Turns
from jorvek.core.plan.problem import PieceOfWork, Problem


def tails(problem: Problem) -> dict[str, int]:
    """Return of every piece the length of the longest chain that begins with it, in minutes."""
    following: dict[str, list[tuple[str, int]]] = {p.id: [] for p in problem.work}
    for piece in problem.work:
        for name in piece.after:
            following[name].append((piece.id, 0))
        for name, minutes in piece.wait_after.items():
            following[name].append((piece.id, minutes))
    length = {p.id: p.minutes for p in problem.work}
    found: dict[str, int] = {}

    def tail(name: str) -> int:
        if name not in found:
            found[name] = length[name] + max((wait + tail(other) for other, wait in following[name]), default=0)
        return found[name]

    return {p.id: tail(p.id) for p in problem.work}


_PINNED = 1e7
"""What a pinned piece waits for is never left for later."""


def _weights(problem: Problem, own: Mapping[str, float]) -> dict[str, float]:
    """Return the weights of pieces, with what leads to a pinned one before everything else."""
    before = {p.id: (*p.after, *p.wait_after) for p in problem.work}
    pressed: set[str] = set()
    todo = [p.id for p in problem.work if p.pinned_min is not None]
    while todo:
        name = todo.pop()
        if name not in pressed:
            pressed.add(name)
            todo.extend(before[name])
    return {name: weight + (_PINNED if name in pressed else 0.0) for name, weight in own.items()}


def _done(problem: Problem, own: Mapping[str, float], turns: Turns) -> Timed:
    weights = _weights(problem, own)

    def weight(piece: PieceOfWork) -> float:
        return weights[piece.id]

    return Crew(problem, weight, turns).work()


def first_come(problem: Problem) -> Timed:
    """Return the timetable of a crew that takes the work as the list has it, and turns to whatever is first.

    Raises:
        Refusal: ``plan_never_ends``, ``plan_pin_missed``.
    """
    return _done(problem, {piece.id: -float(k) for k, piece in enumerate(problem.work)}, "to_the_first")


def by_tail(
    problem: Problem, dice: random.Random | None = None, spread: float = 0.0, turns: Turns = "where_most_waits"
) -> Timed:
    """Return the timetable by the rule: what has the longest chain behind it first, the crank to where most waits.

    Args:
        problem: it is sound.
        dice: for a start that differs; None for the plain rule.
        spread: by how much of itself the weight of a piece may differ.
        turns: when the crank is turned, and where to.

    Raises:
        Refusal: ``plan_never_ends``, ``plan_pin_missed``.
    """
    own = {n: float(t) * (1.0 + (dice.uniform(-spread, spread) if dice else 0.0)) for n, t in tails(problem).items()}
    return _done(problem, own, turns)
