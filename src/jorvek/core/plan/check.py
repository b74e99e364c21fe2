"""Whether a plan holds: told from the plan alone, whoever made it."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator
from itertools import combinations
from typing import Protocol

from jorvek.core.plan.problem import Problem
from jorvek.core.plan.result import Move, Placed
from jorvek.core.plan.turning import Circle

_DAY_MIN = 1440


class Laid(Protocol):
    """What is looked at of a plan, or of a timetable that is not one yet."""

    @property
    def placed(self) -> tuple[Placed, ...]:
        """Every piece in its place."""

    @property
    def moves(self) -> tuple[Move, ...]:
        """The moves of the crank."""


def broken(problem: Problem, plan: Laid) -> Iterator[str]:
    """Yield every demand that a plan does not hold, in words for a test; none where it holds."""
    there = {one.id: one for one in plan.placed}
    if Counter(one.id for one in plan.placed) != Counter(piece.id for piece in problem.work):
        yield "not every piece has one place"
        return
    yield from _pieces(problem, there)
    yield from _shared(problem, there)
    yield from _spans(problem, there)
    yield from _turned(problem, there)
    yield from _moves(problem, plan, there)


def _pieces(problem: Problem, there: dict[str, Placed]) -> Iterator[str]:
    for piece in problem.work:
        mine = there[piece.id]
        if mine.end_min - mine.start_min != piece.minutes or mine.start_min < problem.not_before_min:
            yield f"{piece.id}: takes {mine.end_min - mine.start_min} min"
        for name in piece.after:
            if mine.start_min < there[name].end_min:
                yield f"{piece.id} before {name}"
        for name, minutes in piece.wait_after.items():
            if mine.start_min < there[name].end_min + minutes:
                yield f"{piece.id} too soon after {name}"
        if problem.shift is not None:
            begins = mine.start_min % _DAY_MIN
            if begins < problem.shift[0] or begins + piece.minutes > problem.shift[1]:
                yield f"{piece.id} outside the shift"


def _shared(problem: Problem, there: dict[str, Placed]) -> Iterator[str]:
    for moment in sorted({one.start_min for one in there.values()}):
        on = [p for p in problem.work if there[p.id].start_min <= moment < there[p.id].end_min]
        if sum(p.hands for p in on) > problem.hands:
            yield f"too few hands at {moment}"
        for name, count in problem.sets.items():
            if sum(p.uses.get(name, 0) for p in on) > count:
                yield f"{name} twice at {moment}"


def _spans(problem: Problem, there: dict[str, Placed]) -> Iterator[str]:
    spans = {s.id: (there[s.from_].start_min, there[s.to].end_min) for s in problem.open_spans}
    for one, other in problem.never_open_together:
        if one in spans and other in spans and spans[one][0] < spans[other][1] and spans[other][0] < spans[one][1]:
            yield f"{one} and {other} open together"


def _moves(problem: Problem, plan: Laid, there: dict[str, Placed]) -> Iterator[str]:
    """While the crank is moved nothing relies on it or turns it, and it is moved within a shift where that is asked."""
    moved = [(m.start_min, m.end_min) for m in plan.moves]
    for piece in problem.work:
        mine = there[piece.id]
        on = piece.crank is not None or piece.turns
        if on and any(start < mine.end_min and mine.start_min < end for start, end in moved):
            yield f"{piece.id} while the crank is moved"
    for start, end in moved if problem.moves_in_shift and problem.shift is not None else ():
        assert problem.shift is not None
        if not problem.shift[0] <= start % _DAY_MIN <= problem.shift[1] - (end - start):
            yield f"a move outside the shift at {start}"


def _turned(problem: Problem, there: dict[str, Placed]) -> Iterator[str]:
    circle = Circle(problem)
    at: dict[str, int] = {}
    for piece in problem.work:
        angle = there[piece.id].angle_deg
        if piece.crank is None:
            continue
        if angle is None or circle.nearest(angle) not in circle.allowed(piece):
            yield f"{piece.id} at {angle}"
            continue
        at[piece.id] = circle.nearest(angle)
        if there[piece.id].start_min < problem.not_before_min + circle.move_min(circle.start, at[piece.id]):
            yield f"{piece.id} before the crank is there"
    for piece in problem.work:
        mine = there[piece.id]
        others = [there[n] for n in at] + [there[p.id] for p in problem.work if p.turns and p.id != piece.id]
        if piece.turns and any(o.start_min < mine.end_min and mine.start_min < o.end_min for o in others):
            yield f"{piece.id} turns the crank under others"
    for one, other in combinations(at, 2):
        first, second = sorted((one, other), key=lambda n: (there[n].start_min, there[n].end_min))
        if at[one] != at[other] and there[second].start_min < there[first].end_min + circle.move_min(
            at[first], at[second]
        ):
            yield f"{second} before the crank has left {first}"
