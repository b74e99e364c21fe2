"""A timetable by rule, as a crew does it without a plan: quick, always possible, and a start for something better.

At every moment what can start is started, by the rule's order. When nothing more can be done where the crank stands,
it is turned: to the first piece of work that waits (first come), or to the angle where most waits (by the tail).
"""

from __future__ import annotations

import heapq
import random
from collections.abc import Callable
from dataclasses import dataclass, field
from functools import cached_property
from typing import Final

from jorvek.core.plan.problem import PieceOfWork, Problem
from jorvek.core.plan.result import Move, Placed
from jorvek.core.plan.turning import Circle
from jorvek.core.refusal import Refusal

DAY_MIN: Final = 1440
_FAR_MIN: Final = 3 * 366 * DAY_MIN
"""Nothing that can be done at all takes so long."""


@dataclass(frozen=True)
class Timed:
    """A timetable: every piece in its place, and the moves between."""

    placed: tuple[Placed, ...]
    moves: tuple[Move, ...]
    at: dict[str, int]

    @property
    def finish_min(self) -> int:
        """When the last piece ends."""
        return max(one.end_min for one in self.placed)


@dataclass
class _Crew:
    """One day after the other, as it goes."""

    problem: Problem
    weight: Callable[[PieceOfWork], float]
    first_come: bool
    now: int = 0
    hands: int = 0
    sets: dict[str, int] = field(default_factory=dict)
    point: int = 0
    turned_until: int = 0
    holding: int = 0
    running: list[tuple[int, str]] = field(default_factory=list)
    ends: dict[str, int] = field(default_factory=dict)
    begun: dict[str, int] = field(default_factory=dict)
    at: dict[str, int] = field(default_factory=dict)
    moves: list[Move] = field(default_factory=list)
    promised: PieceOfWork | None = None
    turning: bool = False

    def __post_init__(self) -> None:
        self.circle = Circle(self.problem)
        self.allowed = {p.id: frozenset(self.circle.allowed(p)) for p in self.problem.work}
        self.hands, self.sets, self.point = self.problem.hands, dict(self.problem.sets), self.circle.start
        self.now = self.problem.not_before_min
        self.left = sorted(self.problem.work, key=lambda p: -self.weight(p))

    @cached_property
    def against(self) -> dict[str, list[tuple[str, str]]]:
        """Of every piece that opens a span, start and end of those that it must not meet."""
        spans = {span.id: (span.from_, span.to) for span in self.problem.open_spans}
        found: dict[str, list[tuple[str, str]]] = {}
        for one, other in self.problem.never_open_together:
            if one in spans and other in spans:
                found.setdefault(spans[one][0], []).append(spans[other])
                found.setdefault(spans[other][0], []).append(spans[one])
        return found

    def ready(self, piece: PieceOfWork) -> bool:
        """Tell whether a piece could start now, hands, sets and crank aside."""
        if any(self.ends.get(n, _FAR_MIN) > self.now for n in piece.after):
            return False
        if any(self.ends.get(n, _FAR_MIN) + m > self.now for n, m in piece.wait_after.items()):
            return False
        if any(a in self.begun and self.ends.get(b, _FAR_MIN) > self.now for a, b in self.against.get(piece.id, ())):
            return False
        shift = self.problem.shift
        return shift is None or shift[0] <= self.now % DAY_MIN <= shift[1] - piece.minutes

    def free(self, piece: PieceOfWork) -> bool:
        return piece.hands <= self.hands and all(self.sets[s] >= n for s, n in piece.uses.items())

    def start(self, piece: PieceOfWork) -> None:
        self.begun[piece.id], self.ends[piece.id] = self.now, self.now + piece.minutes
        self.keep(piece, 1)
        self.holding += piece.crank is not None
        self.turning = self.turning or piece.turns
        if piece.crank is not None:
            self.at[piece.id] = self.point
        heapq.heappush(self.running, (self.now + piece.minutes, piece.id))
        self.left.remove(piece)

    def keep(self, piece: PieceOfWork, share: int) -> None:
        """Take hands and sets for a piece, or give them back; while the crank is turned they are kept for it."""
        self.hands -= share * piece.hands
        for name, count in piece.uses.items():
            self.sets[name] -= share * count

    def start_all(self) -> None:
        if self.promised is not None and self.turned_until <= self.now:
            piece, self.promised = self.promised, None
            self.keep(piece, -1)
            if self.ready(piece) and self.lets(piece):
                self.start(piece)
        for piece in [p for p in self.left if p is not self.promised]:
            if self.lets(piece) and self.ready(piece) and self.free(piece):
                self.start(piece)

    def lets(self, piece: PieceOfWork) -> bool:
        """Tell whether the crank lets a piece start."""
        stands = self.turned_until <= self.now and not self.turning
        if piece.turns:
            return stands and not self.holding
        return piece.crank is None or (stands and self.point in self.allowed[piece.id])

    def turn(self) -> None:
        """Turn the crank to where the rule says, once nothing holds it."""
        if self.holding or self.turning or self.promised is not None or self.turned_until > self.now:
            return
        elsewhere = [p for p in self.left if p.crank is not None and self.point not in self.allowed[p.id]]
        waiting = [p for p in elsewhere if self.soon(p) and self.free(p) and self.fits(p)]
        if not waiting:
            return
        point = self._first(waiting) if self.first_come else self._best(waiting)
        length = self.circle.move_min(self.point, point)
        if not self._may_move(length):
            return
        points = self.circle.points_deg
        turning = self.circle.turning_deg(self.point, point)
        move = Move(
            start_min=self.now,
            end_min=self.now + length,
            from_deg=points[self.point],
            to_deg=points[point],
            turning_deg=turning,
        )
        self.moves.append(move)
        self.point, self.turned_until = point, self.now + length
        self.promised = max((p for p in waiting if point in self.allowed[p.id]), key=self.weight)
        self.keep(self.promised, 1)

    def _may_move(self, length: int) -> bool:
        """Tell whether a move of a length lies within a shift, where that is asked; who commands it is of its crew."""
        shift = self.problem.shift
        minute = self.now % DAY_MIN
        return not self.problem.moves_in_shift or shift is None or shift[0] <= minute <= shift[1] - length

    def soon(self, piece: PieceOfWork) -> bool:
        """Tell whether a piece waits for nothing but hands, a set, the crank or the morning."""
        before = all(self.ends.get(n, _FAR_MIN) <= self.now for n in piece.after)
        before = before and all(self.ends.get(n, _FAR_MIN) + m <= self.now for n, m in piece.wait_after.items())
        return before and not any(
            a in self.begun and self.ends.get(b, _FAR_MIN) > self.now for a, b in self.against.get(piece.id, ())
        )

    def fits(self, piece: PieceOfWork) -> bool:
        """Tell whether a shift has time for a piece once the crank is there; the night is for turning, too."""
        shift = self.problem.shift
        if shift is None:
            return True
        there = self.now + min(self.circle.move_min(self.point, k) for k in self.allowed[piece.id])
        return there % DAY_MIN < shift[0] or shift[0] <= there % DAY_MIN <= shift[1] - piece.minutes

    def _first(self, waiting: list[PieceOfWork]) -> int:
        return min(self.allowed[waiting[0].id], key=lambda k: self.circle.move_min(self.point, k))

    def _best(self, waiting: list[PieceOfWork]) -> int:
        def worth(point: int) -> float:
            there = [p for p in waiting if point in self.allowed[p.id]]
            return sum(self.weight(p) for p in there) / (60.0 + self.circle.move_min(self.point, point))

        points = sorted({k for p in waiting for k in self.allowed[p.id]})
        return max(points, key=worth)

    def wait(self) -> None:
        """Let time pass until something changes."""
        following = [end for end, _ in self.running[:1]]
        if self.turned_until > self.now:
            following.append(self.turned_until)
        for piece in self.left:
            following += [
                self.ends[n] + m
                for n, m in piece.wait_after.items()
                if self.ends.get(n, _FAR_MIN) + m > self.now and n in self.ends
            ]
        shift = self.problem.shift
        if shift is not None:
            following.append(self.now + (shift[0] - self.now - 1) % DAY_MIN + 1)
        self.now = min(following, default=_FAR_MIN)
        while self.running and self.running[0][0] <= self.now:
            _, name = heapq.heappop(self.running)
            piece = next(p for p in self.problem.work if p.id == name)
            self.keep(piece, -1)
            self.holding -= piece.crank is not None
            self.turning = self.turning and not piece.turns

    def work(self) -> Timed:
        while self.left:
            self.start_all()
            self.turn()
            if self.turned_until <= self.now:
                self.start_all()
            if not self.left:
                break
            self.wait()
            if self.now >= _FAR_MIN:
                raise Refusal("plan_never_ends", name=self.left[0].id)
        points = self.circle.points_deg
        placed = tuple(
            Placed(
                id=p.id,
                start_min=self.begun[p.id],
                end_min=self.ends[p.id],
                angle_deg=points[self.at[p.id]] if p.id in self.at else None,
            )
            for p in self.problem.work
        )
        return Timed(placed, tuple(self.moves), self.at)


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


def first_come(problem: Problem) -> Timed:
    """Return the timetable of a crew that takes the work as the list has it, and turns to whatever is first."""
    order = {piece.id: -float(k) for k, piece in enumerate(problem.work)}
    return _Crew(problem, lambda p: order[p.id], first_come=True).work()


def by_tail(problem: Problem, dice: random.Random | None = None, spread: float = 0.0) -> Timed:
    """Return the timetable by the rule: what has the longest chain behind it first, the crank to where most waits.

    Args:
        problem: it is sound.
        dice: for a start that differs; None for the plain rule.
        spread: by how much of itself the weight of a piece may differ.
    """
    known = tails(problem)
    weights = {name: float(t) * (1.0 + (dice.uniform(-spread, spread) if dice else 0.0)) for name, t in known.items()}
    return _Crew(problem, lambda p: weights[p.id], first_come=False).work()
