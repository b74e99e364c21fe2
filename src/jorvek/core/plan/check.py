"""Whether a plan holds: told from the plan alone, whoever made it."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator
from itertools import combinations
from typing import Protocol

from jorvek.core.plan.problem import DAY_MIN, HANDS, Problem
from jorvek.core.plan.result import Move, Placed
from jorvek.core.plan.turning import Circle


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
    yield from _shared(problem, plan, there)
    yield from _holds(problem, plan, there)
    yield from _spans(problem, there)
    yield from _turned(problem, there)
    yield from _moves(problem, plan, there)


def _pieces(problem: Problem, there: dict[str, Placed]) -> Iterator[str]:
    for piece in problem.work:
        mine = there[piece.id]
        if mine.end_min - mine.start_min != piece.minutes or mine.start_min < problem.not_before_min:
            yield f"{piece.id}: takes {mine.end_min - mine.start_min} min"
        if mine.start_min < piece.not_before_min or piece.pinned_min not in (None, mine.start_min):
            yield f"{piece.id}: not where it was put"
        for name in piece.after:
            if mine.start_min < there[name].end_min:
                yield f"{piece.id} before {name}"
        for name, minutes in piece.wait_after.items():
            if mine.start_min < there[name].end_min + minutes:
                yield f"{piece.id} too soon after {name}"
        if problem.shift is not None:
            begins = mine.start_min % DAY_MIN
            if begins < problem.shift[0] or begins + piece.minutes > problem.shift[1]:
                yield f"{piece.id} outside the shift"


def _shared(problem: Problem, plan: Laid, there: dict[str, Placed]) -> Iterator[str]:
    starts = {one.start_min for one in there.values()} | {m.start_min for m in plan.moves}
    for moment in sorted(starts | {a.from_min for a in problem.away}):
        on = [p for p in problem.work if there[p.id].start_min <= moment < there[p.id].end_min]
        turned = sum(problem.move_hands for m in plan.moves if m.start_min <= moment < m.end_min)
        for what in (HANDS, *problem.sets):
            away = sum(a.count for a in problem.away if a.what == what and a.from_min <= moment < a.to_min)
            used = sum(problem.taken(p).get(what, 0) for p in on)
            if used and used + away + (turned if what == HANDS else 0) > problem.there(what):
                yield f"{what}: too few at {moment}"


def _holds(problem: Problem, plan: Laid, there: dict[str, Placed]) -> Iterator[str]:
    """Where the crank is held from one piece to another, it is not moved and not turned through."""
    turns = {p.id for p in problem.work if p.turns}
    turned = [(m.start_min, m.end_min) for m in plan.moves]
    turned += [(there[name].start_min, there[name].end_min) for name in turns]
    for hold in problem.holds:
        one, other = there[hold.from_], there[hold.to]
        first = one.end_min if one.id in turns else one.start_min
        last = other.start_min if other.id in turns else other.end_min
        if any(start < last and first < end for start, end in turned):
            yield f"the crank is moved between {hold.from_} and {hold.to}"


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
        if not problem.shift[0] <= start % DAY_MIN <= problem.shift[1] - (end - start):
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
