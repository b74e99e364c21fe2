"""What people have put in its place, held against everything else that is asked: the fewest that cannot all hold.

Derived here. What is named is proven: whoever looks for a plan need not look. What is not named may still be
impossible.
"""

from __future__ import annotations

from collections.abc import Iterator
from itertools import combinations

from jorvek.core.plan.problem import DAY_MIN, HANDS, PieceOfWork, Problem
from jorvek.core.plan.turning import Circle
from jorvek.core.refusal import Refusal


def demand_pins_hold(problem: Problem) -> None:
    """Refuse pins of which it is proven that they cannot all be held.

    Raises:
        Refusal: ``plan_pin_past``, ``plan_pin_shift``, ``plan_pin_away`` for one by itself; ``plan_pins_chain`` for a
            pinned piece and what lies between it and another, or now; ``plan_pins_share``, ``plan_pins_crank`` and
            ``plan_pins_apart`` for two that shut each other out.
    """
    pinned = [p for p in problem.work if p.pinned_min is not None]
    for found in (*(_alone(problem, p) for p in pinned), *(_chained(problem, p) for p in pinned)):
        for refusal in found:
            raise refusal
    for one, other in combinations(sorted(pinned, key=_pin), 2):
        for refusal in _both(problem, one, other):
            raise refusal


def _pin(piece: PieceOfWork) -> int:
    assert piece.pinned_min is not None
    return piece.pinned_min


def _alone(problem: Problem, piece: PieceOfWork) -> Iterator[Refusal]:
    pin, shift = _pin(piece), problem.shift
    if pin < problem.not_before_min or pin < piece.not_before_min:
        yield Refusal("plan_pin_past", name=piece.id)
    if shift is not None and not shift[0] <= pin % DAY_MIN <= shift[1] - piece.minutes:
        yield Refusal("plan_pin_shift", name=piece.id)
    for what, count in problem.taken(piece).items():
        away = [a for a in problem.away if a.what == what and a.from_min < pin + piece.minutes and pin < a.to_min]
        if any(a.count + count > problem.there(what) for a in away):
            yield Refusal("plan_pin_away", name=piece.id, what=what)


def _chained(problem: Problem, piece: PieceOfWork) -> Iterator[Refusal]:
    """What comes before a pinned piece takes longer than there is time, from now or from another pinned one."""
    pieces = {p.id: p for p in problem.work}
    ends: dict[str, tuple[int, str | None]] = {}

    def end(name: str) -> tuple[int, str | None]:
        """When a piece ends at the earliest, and the pinned one from which that counts."""
        if name not in ends:
            mine = pieces[name]
            least, since = max(problem.not_before_min, mine.not_before_min), None
            for other in (*mine.after, *mine.wait_after):
                at, of = end(other)
                if at + mine.wait_after.get(other, 0) > least:
                    least, since = at + mine.wait_after.get(other, 0), of
            if mine.pinned_min is not None:
                least, since = mine.pinned_min, name
            ends[name] = least + mine.minutes, since
        return ends[name]

    for other in (*piece.after, *piece.wait_after):
        at, since = end(other)
        if at + piece.wait_after.get(other, 0) > _pin(piece):
            yield Refusal("plan_pins_chain", name=piece.id, since=since or "", over=at - _pin(piece), last=other)


def _both(problem: Problem, one: PieceOfWork, other: PieceOfWork) -> Iterator[Refusal]:
    together = _pin(other) < _pin(one) + one.minutes
    if together:
        for what, count in problem.taken(one).items():
            more = problem.taken(other).get(what, 0)
            if more and count + more > problem.there(what):
                yield Refusal("plan_pins_share", one=one.id, other=other.id, what="" if what == HANDS else what)
    if one.crank is not None and other.crank is not None:
        circle = Circle(problem)
        mine, theirs = circle.allowed(one), circle.allowed(other)
        least = min((circle.move_min(k, m) for k in mine for m in theirs), default=0)
        if not set(mine) & set(theirs) and _pin(other) < _pin(one) + one.minutes + least:
            yield Refusal("plan_pins_crank", one=one.id, other=other.id)
    spans = {s.id: s for s in problem.open_spans}
    for a, b in problem.never_open_together:
        if a in spans and b in spans and {spans[a].from_, spans[b].from_} == {one.id, other.id}:
            first = spans[a] if spans[a].from_ == one.id else spans[b]
            if first.to == one.id and together:
                yield Refusal("plan_pins_apart", one=one.id, other=other.id)
