"""The least by which a crank has to be turned: exact where few orders matter, an honest bound where too many do.

Derived here. The crank passes from one angle that matters to the next. Whatever can be done where it stands is done at
once, for that never costs a degree; only what opens a span that others shut out is done now or left. What remains is
the shortest way through few states: which work is done, and where the crank stands.
"""

from __future__ import annotations

import heapq
from dataclasses import dataclass
from functools import cached_property
from typing import Final

from jorvek.core.plan.problem import Problem
from jorvek.core.plan.turning import Circle

_MOST_STATES: Final = 150_000


@dataclass(frozen=True)
class Turned:
    """The way of the crank.

    Attributes:
        bound_deg: it is turned by no less than this.
        order: work in its order, each with the index of its angle; None where no way was found within the limit.
    """

    bound_deg: float
    order: tuple[tuple[str, int], ...] | None


@dataclass(frozen=True)
class _Ways:
    problem: Problem

    @cached_property
    def circle(self) -> Circle:
        return Circle(self.problem)

    @cached_property
    def index(self) -> dict[str, int]:
        return {piece.id: k for k, piece in enumerate(self.problem.work)}

    @cached_property
    def before(self) -> list[int]:
        """Of every piece the set of those that come before it."""
        return [self._set((*p.after, *p.wait_after)) for p in self.problem.work]

    @cached_property
    def at(self) -> list[int]:
        """At every angle the set of what can be done there."""
        found = [0] * len(self.circle.points_deg)
        for k, piece in enumerate(self.problem.work):
            for point in range(len(found)) if piece.crank is None else self.circle.allowed(piece):
                found[point] |= 1 << k
        return found

    @cached_property
    def shut_out(self) -> dict[int, list[tuple[int, int]]]:
        """Of every piece that opens a span, those that open and close the spans which it must not meet."""
        spans = {span.id: (self.index[span.from_], self.index[span.to]) for span in self.problem.open_spans}
        found: dict[int, list[tuple[int, int]]] = {}
        for one, other in self.problem.never_open_together:
            if one in spans and other in spans:
                found.setdefault(spans[one][0], []).append(spans[other])
                found.setdefault(spans[other][0], []).append(spans[one])
        return found

    def _set(self, names: tuple[str, ...]) -> int:
        return sum(1 << k for k in {self.index[name] for name in names})

    def may(self, done: int, k: int) -> bool:
        if done >> k & 1 or self.before[k] & ~done:
            return False
        return not any(done >> a & 1 and not done >> b & 1 for a, b in self.shut_out.get(k, ()))

    def at_once(self, done: int, point: int) -> tuple[int, list[int]]:
        """Do what can be done where the crank stands, but for what opens a span that others shut out."""
        order: list[int] = []
        going = True
        while going:
            going = False
            left = self.at[point] & ~done
            while left:
                k = (left & -left).bit_length() - 1
                left &= left - 1
                if k not in self.shut_out and self.may(done, k):
                    done |= 1 << k
                    order.append(k)
                    going = True
        return done, order


def least_turning(problem: Problem, most_states: int = _MOST_STATES) -> Turned:
    """Return the least turning, or the best bound that so many states give.

    Args:
        problem: it is sound.
        most_states: how many states are looked at before only a bound is given.
    """
    ways = _Ways(problem)
    circle, every = ways.circle, (1 << len(problem.work)) - 1
    count = len(circle.points_deg)
    steps = (1,) if problem.direction == "forward" else (1, -1)
    done, order = ways.at_once(0, circle.start)
    first = (done, circle.start)
    best: dict[tuple[int, int], float] = {first: 0.0}
    came: dict[tuple[int, int], tuple[tuple[int, int] | None, list[int]]] = {first: (None, order)}
    queue: list[tuple[float, int, int]] = [(0.0, *first)]
    looked = 0
    cost = 0.0
    while queue:
        cost, done, point = heapq.heappop(queue)
        if cost > best[done, point] + 1e-9:
            continue
        if done == every:
            return Turned(cost, _way(problem, came, (done, point)))
        looked += 1
        if looked > most_states:
            return Turned(cost, None)
        following = [
            (cost, done | 1 << k, point, [k]) for k in ways.shut_out if ways.at[point] >> k & 1 and ways.may(done, k)
        ]
        following += [
            (cost + circle.turning_deg(point, (point + s) % count), done, (point + s) % count, [])
            for s in steps
            if count > 1
        ]
        for more, after, there, did in following:
            full, at_once = ways.at_once(after, there)
            if more < best.get((full, there), float("inf")) - 1e-9:
                best[full, there] = more
                came[full, there] = ((done, point), [*did, *at_once])
                heapq.heappush(queue, (more, full, there))
    return Turned(cost, None)


def _way(
    problem: Problem, came: dict[tuple[int, int], tuple[tuple[int, int] | None, list[int]]], end: tuple[int, int]
) -> tuple[tuple[str, int], ...]:
    order: list[tuple[str, int]] = []
    here: tuple[int, int] | None = end
    while here is not None:
        earlier, did = came[here]
        order += [(problem.work[k].id, here[1]) for k in reversed(did)]
        here = earlier
    return tuple(reversed(order))
