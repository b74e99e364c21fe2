"""A crew at work, minute by minute: what can start is started by a rule, and the crank is turned when it has to be.

Nobody looks ahead but for what a person has put in its place: what is pinned keeps its hands, its sets and its angle.
"""

from __future__ import annotations

import heapq
from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass, field
from functools import cached_property
from typing import Final, Literal, TypeAlias

from jorvek.core.plan.problem import DAY_MIN, HANDS, PieceOfWork, Problem
from jorvek.core.plan.result import Move, Placed
from jorvek.core.plan.turning import Circle
from jorvek.core.refusal import Refusal

_FAR_MIN: Final = 3 * 366 * DAY_MIN
"""Nothing that can be done at all takes so long."""
Turns: TypeAlias = Literal["to_the_first", "where_most_waits", "when_nothing_is_left_here"]
"""When the crank is turned, and where to."""


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

    @property
    def barring_deg(self) -> float:
        """By how much the crank is turned in all."""
        return sum(move.turning_deg for move in self.moves)


@dataclass
class Crew:
    """A crew at one moment.

    Attributes:
        weight: what has more of it is started first.
        turns: when the crank is turned.
    """

    problem: Problem
    weight: Callable[[PieceOfWork], float]
    turns: Turns
    now: int = 0
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
    busy: dict[str, int] = field(default_factory=dict)

    def __post_init__(self) -> None:
        self.circle = Circle(self.problem)
        self.pieces = {p.id: p for p in self.problem.work}
        self.taken = {p.id: self.problem.taken(p) for p in self.problem.work}
        self.allowed = {p.id: frozenset(self.circle.allowed(p)) for p in self.problem.work}
        self.point, self.now = self.circle.start, self.problem.not_before_min
        self.left = sorted(self.problem.work, key=lambda p: -self.weight(p))
        self.pinned = [p for p in self.problem.work if p.pinned_min is not None]

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

    @cached_property
    def holds(self) -> tuple[dict[str, int], dict[str, int]]:
        """Of every piece how many holds of the crank begin with it, and how many end."""
        begin, end = dict[str, int](), dict[str, int]()
        for hold in self.problem.holds:
            begin[hold.from_] = begin.get(hold.from_, 0) + 1
            end[hold.to] = end.get(hold.to, 0) + 1
        return begin, end

    # ---- what may start ----------------------------------------------------------------------------------------

    def soon(self, piece: PieceOfWork) -> bool:
        """Tell whether a piece waits for nothing but hands, a set, the crank or the morning."""
        if self.now < max(piece.not_before_min, piece.pinned_min or 0):
            return False
        if any(self.ends.get(n, _FAR_MIN) > self.now for n in piece.after):
            return False
        if any(self.ends.get(n, _FAR_MIN) + m > self.now for n, m in piece.wait_after.items()):
            return False
        return not any(
            a in self.begun and self.ends.get(b, _FAR_MIN) > self.now for a, b in self.against.get(piece.id, ())
        )

    def ready(self, piece: PieceOfWork) -> bool:
        """Tell whether a piece could start now, hands, sets and crank aside."""
        shift = self.problem.shift
        return self.soon(piece) and (shift is None or shift[0] <= self.now % DAY_MIN <= shift[1] - piece.minutes)

    def free(self, piece: PieceOfWork) -> bool:
        """Tell whether there are hands and sets for a piece, until it is done."""
        until = self.now + piece.minutes
        if not self._there(self.taken[piece.id], until):
            return False
        return not any(self._in_the_way(piece, until, other) for other in self.pinned if other.id not in self.begun)

    def _there(self, wanted: Mapping[str, int], until: int) -> bool:
        """Tell whether something is there from now to a moment, as far as anybody knows now."""
        for what, count in wanted.items():
            spare = self.problem.there(what) - count
            moments = [self.now, *(a.from_min for a in self.problem.away if a.what == what)]
            if any(self.used(what, at) > spare for at in moments if self.now <= at < max(until, self.now + 1)):
                return False
        return True

    def used(self, what: str, at: int) -> int:
        """Return how many of something are in use at a moment, or away, as far as anybody knows now."""
        away = sum(a.count for a in self.problem.away if a.what == what and a.from_min <= at < a.to_min)
        kept = self.taken[self.promised.id].get(what, 0) if self.promised is not None else 0
        if what == HANDS and self.turned_until > at:
            # The person who commands a move belongs to the crew that asked for it.
            kept = max(kept, self.problem.move_hands)
        if at == self.now:
            return away + kept + self.busy.get(what, 0)
        return away + kept + sum(self.taken[name].get(what, 0) for end, name in self.running if end > at)

    def _busy(self, piece: PieceOfWork, share: int) -> None:
        for what, count in self.taken[piece.id].items():
            self.busy[what] = self.busy.get(what, 0) + share * count

    def _in_the_way(self, piece: PieceOfWork, until: int, other: PieceOfWork) -> bool:
        """Tell whether a piece that starts now would keep a pinned one from its place."""
        pin = other.pinned_min or 0
        if other.id == piece.id or pin < self.now:
            return False
        if until > pin:
            for what, count in self.taken[other.id].items():
                mine = self.taken[piece.id].get(what, 0)
                if mine and self.used(what, pin) + mine + count > self.problem.there(what):
                    return True
        crank = piece.crank is not None or piece.turns
        return crank and bool(self.allowed[other.id]) and until > self._latest(self.point, other)

    def _way(self, point: int, piece: PieceOfWork) -> int:
        """Return the time of the shortest move to where a piece can be done."""
        return min((self.circle.move_min(point, k) for k in self.allowed[piece.id]), default=0)

    def lets(self, piece: PieceOfWork) -> bool:
        """Tell whether the crank lets a piece start."""
        stands = self.turned_until <= self.now and not self.turning
        if piece.turns:
            # Work that keeps the crank still until this move does so only until then.
            return stands and self.holding == self.holds[1].get(piece.id, 0)
        if piece.crank is None:
            return stands or not self.holds[0].get(piece.id)
        return stands and self.point in self.allowed[piece.id]

    def start(self, piece: PieceOfWork) -> None:
        """Start a piece now."""
        self.begun[piece.id], self.ends[piece.id] = self.now, self.now + piece.minutes
        begin, end = (one.get(piece.id, 0) for one in self.holds)
        self.holding += (piece.crank is not None) + (-end if piece.turns else begin)
        self.turning = self.turning or piece.turns
        if piece.crank is not None:
            self.at[piece.id] = self.point
        heapq.heappush(self.running, (self.now + piece.minutes, piece.id))
        self._busy(piece, 1)
        self.left = [other for other in self.left if other is not piece]

    def start_all(self) -> None:
        """Start whatever can start now, by the rule's order."""
        if self.promised is not None and self.turned_until <= self.now:
            piece, self.promised = self.promised, None
            if self.ready(piece) and self.lets(piece) and self.free(piece):
                self.start(piece)
        for piece in [p for p in self.left if p is not self.promised]:
            if self.lets(piece) and self.ready(piece) and self.free(piece):
                self.start(piece)

    # ---- the crank ---------------------------------------------------------------------------------------------

    def turn(self) -> None:
        """Turn the crank to where the rule says, once nothing holds it."""
        if self.holding or self.turning or self.promised is not None or self.turned_until > self.now:
            return
        waiting = [p for p in self._pressing() if self.point not in self.allowed[p.id]]
        if not waiting:
            if self.turns == "when_nothing_is_left_here" and self._more_here():
                return
            waiting = [p for p in self.left if p.crank is not None and self.point not in self.allowed[p.id]]
            waiting = [p for p in waiting if self.soon(p) and self.free(p) and self.fits(p)]
        points = sorted({k for p in waiting for k in self.allowed[p.id] if self._keeps_pins(p, k)})
        if not points:
            return
        point = self._chosen(waiting, points)
        length = self.circle.move_min(self.point, point)
        if self._may_move(length) and self._there({HANDS: self.problem.move_hands}, self.now + length):
            self._move(point, length)
            self.promised = max((p for p in waiting if point in self.allowed[p.id]), key=self.weight)

    def _move(self, point: int, length: int) -> None:
        points = self.circle.points_deg
        move = Move(
            start_min=self.now,
            end_min=self.now + length,
            from_deg=points[self.point],
            to_deg=points[point],
            turning_deg=self.circle.turning_deg(self.point, point),
        )
        self.moves.append(move)
        self.point, self.turned_until = point, self.now + length

    def _latest(self, point: int, piece: PieceOfWork) -> int:
        """Return when the crank has to be turned from an angle at the latest for a pinned piece, within a shift."""
        length, pin = self._way(point, piece), piece.pinned_min or 0
        latest, shift = pin - length, self.problem.shift
        if not length or shift is None or not self.problem.moves_in_shift or latest % DAY_MIN >= shift[0]:
            return latest
        return latest - latest % DAY_MIN - DAY_MIN + shift[1] - length

    @property
    def _still_pinned(self) -> list[PieceOfWork]:
        return [p for p in self.pinned if p.id not in self.begun and p.crank is not None]

    def _pressing(self) -> list[PieceOfWork]:
        """What is pinned and needs the crank turned by now, if it is to be there in time."""
        return [p for p in self._still_pinned if self.now >= self._latest(self.point, p)]

    def _keeps_pins(self, piece: PieceOfWork, point: int) -> bool:
        """Tell whether the crank, turned for a piece, can be where something pinned wants it in time."""
        there = self.now + self.circle.move_min(self.point, point)
        return all(
            other is piece or point in self.allowed[other.id] or there <= self._latest(point, other)
            for other in self._still_pinned
        )

    def _may_move(self, length: int) -> bool:
        """Tell whether a move of a length lies within a shift, where that is asked; who commands it is of its crew."""
        shift = self.problem.shift
        minute = self.now % DAY_MIN
        return not self.problem.moves_in_shift or shift is None or shift[0] <= minute <= shift[1] - length

    def fits(self, piece: PieceOfWork) -> bool:
        """Tell whether a shift has time for a piece once the crank is there; the night is for turning, too."""
        shift = self.problem.shift
        if shift is None:
            return True
        there = self.now + self._way(self.point, piece)
        return there % DAY_MIN < shift[0] or shift[0] <= there % DAY_MIN <= shift[1] - piece.minutes

    def _chosen(self, waiting: list[PieceOfWork], points: list[int]) -> int:
        if self.turns == "to_the_first":
            first = next(p for p in waiting if self.allowed[p.id] & set(points))
            return min(self.allowed[first.id] & set(points), key=lambda k: self.circle.move_min(self.point, k))
        if self.turns == "when_nothing_is_left_here":
            return min(points, key=lambda k: (self.circle.turning_deg(self.point, k), -self._worth(waiting, k)))
        return max(points, key=lambda k: self._worth(waiting, k))

    def _worth(self, waiting: list[PieceOfWork], point: int) -> float:
        there = sum(self.weight(p) for p in waiting if point in self.allowed[p.id])
        return there / (60.0 + self.circle.move_min(self.point, point))

    def _more_here(self) -> bool:
        """Tell whether anything can still be done where the crank stands, if one only waits for it."""
        done, found = set(self.ends), False
        rest = [p for p in self.left if p.crank is None or self.point in self.allowed[p.id]]
        if not self.running and not any(at > self.now for at in self._coming()) and not any(map(self.soon, rest)):
            return False
        while True:
            more = [p for p in rest if p.id not in done and {*p.after, *p.wait_after} <= done]
            if not more:
                return found
            done |= {p.id for p in more}
            found = found or any(p.crank is not None or p.turns for p in more)

    # ---- time --------------------------------------------------------------------------------------------------

    def _coming(self) -> Iterator[int]:
        """Yield moments at which something may change, shifts aside."""
        yield from (end for end, _ in self.running[:1])
        yield self.turned_until
        for piece in self.left:
            yield from (self.ends[n] + m for n, m in piece.wait_after.items() if n in self.ends)
            yield piece.not_before_min
            if piece.pinned_min is not None:
                yield piece.pinned_min
                yield self._latest(self.point, piece)
        yield from (a.to_min for a in self.problem.away)

    def wait(self) -> None:
        """Let time pass until something changes."""
        following = [at for at in self._coming() if at > self.now]
        shift = self.problem.shift
        if shift is not None:
            following.append(self.now + (shift[0] - self.now - 1) % DAY_MIN + 1)
        self.now = min(following, default=_FAR_MIN)
        while self.running and self.running[0][0] <= self.now:
            piece = self.pieces[heapq.heappop(self.running)[1]]
            self._busy(piece, -1)
            begin, end = (one.get(piece.id, 0) for one in self.holds)
            self.holding -= (piece.crank is not None) + (-begin if piece.turns else end)
            self.turning = self.turning and not piece.turns
        for piece in self.left:
            if piece.pinned_min is not None and piece.pinned_min < self.now:
                raise Refusal("plan_pin_missed", name=piece.id)

    def work(self) -> Timed:
        """Work until everything is done.

        Raises:
            Refusal: ``plan_never_ends`` where something can never start; ``plan_pin_missed`` where a pinned piece
                cannot start at its moment.
        """
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
