"""Why a plan cannot be better: the longest chain, the hands, each set, the turning; each named, the strongest first.

Derived here. All of them hold for every plan, whatever its order.
"""

from __future__ import annotations

from collections.abc import Iterator
from typing import Final

from jorvek.core.plan.least_turning import least_turning
from jorvek.core.plan.problem import DAY_MIN, Problem
from jorvek.core.plan.result import Aim, BoundPart

_MOST_STATES: Final = 10_000
"""So many are looked at in a second or two; whole engines are bounded by what they give."""


def bounds(problem: Problem, aim: Aim) -> tuple[BoundPart, ...]:
    """Return the reasons why a plan cannot be better than so, the strongest first."""
    if aim == "least_barring":
        # Rules about joints that are never open together only add moves: a bound without them still holds.
        apart = problem.model_copy(update={"never_open_together": ()})
        return (BoundPart(code="turning", value=least_turning(apart, _MOST_STATES).bound_deg),)
    found = [_chain(problem), *_shares(problem)]
    return tuple(sorted(found, key=lambda part: -part.value))


def _chain(problem: Problem) -> BoundPart:
    """Return when the last piece ends if each starts as soon as what it follows allows.

    Work lies in shifts, and no piece is broken off at the end of one; a wait needs nobody and goes on through the
    night.
    """
    pieces = {piece.id: piece for piece in problem.work}
    ends: dict[str, int] = {}
    held_by: dict[str, str | None] = {}

    def end_of(name: str) -> int:
        if name not in ends:
            piece = pieces[name]
            ready, holder = max(problem.not_before_min, piece.not_before_min, piece.pinned_min or 0), None
            follows = [(end_of(one), one) for one in piece.after]
            follows += [(end_of(one) + wait, one) for one, wait in piece.wait_after.items()]
            for at, one in follows:
                if at >= ready:
                    ready, holder = at, one
            ends[name] = _fits(problem, ready, piece.minutes) + piece.minutes
            held_by[name] = holder
        return ends[name]

    last = max(pieces, key=end_of)
    chain: list[str] = [last]
    while (before := held_by[chain[-1]]) is not None:
        chain.append(before)
    return BoundPart(code="longest_chain", value=float(ends[last]), what=tuple(reversed(chain)))


def _fits(problem: Problem, ready: int, minutes: int) -> int:
    """Return when a piece may start at the earliest that is not broken off at the end of a shift."""
    if problem.shift is None or minutes == 0:
        return ready
    start, end = problem.shift
    day, of_day = divmod(ready, DAY_MIN)
    begins = max(of_day, start)
    return day * DAY_MIN + begins if begins + minutes <= end else (day + 1) * DAY_MIN + start


def _shares(problem: Problem) -> Iterator[BoundPart]:
    """What is taken in all, shared by those who are there."""
    if problem.hands:
        taken = sum(p.hands * p.minutes for p in problem.work)
        yield BoundPart(code="hands", value=float(on_the_clock(problem, -(-taken // problem.hands))))
    for name, there in problem.sets.items():
        used = sum(p.uses.get(name, 0) * p.minutes for p in problem.work)
        if used and there:
            value = float(on_the_clock(problem, -(-used // there)))
            yield BoundPart(code="set", value=value, what=(name,))


def on_the_clock(problem: Problem, minutes: int) -> int:
    """Return when so many minutes of work are over at the earliest, counted from the first midnight."""
    if problem.shift is None:
        return problem.not_before_min + minutes
    start, end = problem.shift
    today = max(start, problem.not_before_min)
    left = max(0, end - today)
    if minutes <= left:
        return today + minutes
    days, rest = divmod(minutes - left, end - start)
    return days * DAY_MIN + end if rest == 0 else (days + 1) * DAY_MIN + start + rest
