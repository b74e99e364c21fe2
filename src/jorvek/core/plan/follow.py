"""A plan followed: the same order and the same way of the crank, each thing as soon as what came before it lets it.

So a plan that was just made is followed to the minute; once something takes longer, or is away, what hangs on it moves,
and nothing else. Derived here.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field

from jorvek.core.plan.crew import Timed
from jorvek.core.plan.problem import DAY_MIN, HANDS, PieceOfWork, Problem
from jorvek.core.plan.result import Move, Placed
from jorvek.core.plan.turning import Circle
from jorvek.core.refusal import Refusal

_FAR_MIN = 3 * 366 * DAY_MIN


@dataclass
class _Day:
    """What is taken when, as far as it is laid out."""

    problem: Problem
    grace_min: int = 0
    taken: dict[str, list[tuple[int, int, int]]] = field(default_factory=dict)

    def __post_init__(self) -> None:
        for one in self.problem.away:
            self.take({one.what: one.count}, one.from_min, one.to_min)

    def take(self, what: Mapping[str, int], start: int, end: int) -> None:
        """Take something from one moment to another."""
        for name, count in what.items():
            self.taken.setdefault(name, []).append((start, end, count))

    def first(
        self, what: Mapping[str, int], minutes: int, least: int, *, in_shift: bool = True, planned_min: int = -1
    ) -> int:
        """Return the first moment from which on everything is there for so long.

        Args:
            what: what is taken.
            minutes: for how long.
            least: not before.
            in_shift: it lies within a shift.
            planned_min: when it was planned; on that day people stay for a little to end it.

        Raises:
            Refusal: ``plan_never_ends`` where it never is.
        """
        at = least
        while at < _FAR_MIN:
            later = self._into_shift(at, minutes, planned_min // DAY_MIN) if in_shift else at
            later = max(later, *(self._room(name, count, minutes, later) for name, count in what.items()), later)
            if later == at:
                return at
            at = later
        raise Refusal("plan_never_ends", name=", ".join(what))

    def _into_shift(self, at: int, minutes: int, planned_day: int) -> int:
        shift = self.problem.shift
        if shift is None:
            return at
        minute = at % DAY_MIN
        if minute < shift[0]:
            return at - minute + shift[0]
        stays = self.grace_min if at // DAY_MIN == planned_day else 0
        if minute < shift[1] and minute + minutes <= shift[1] + stays:
            return at
        return at - minute + DAY_MIN + shift[0]

    def _room(self, name: str, count: int, minutes: int, at: int) -> int:
        """Return a moment, not before the one given, at which it may be there: the end of what is in the way."""
        spans = [s for s in self.taken.get(name, ()) if s[1] > at and s[0] < at + max(minutes, 1)]
        for moment in (at, *(start for start, _, _ in spans if start > at)):
            on = [s for s in spans if s[0] <= moment < s[1]]
            if sum(c for _, _, c in on) + count > self.problem.there(name):
                return min((end for _, end, _ in on), default=_FAR_MIN)
        return at


@dataclass
class _Followed:
    problem: Problem
    day: _Day
    point: int = 0
    crank_free: int = 0
    """From here on nothing that was laid out needs the crank where it is."""
    crank_there: int = 0
    """Since then it stands where it does."""
    held: set[str] = field(default_factory=set)
    placed: dict[str, Placed] = field(default_factory=dict)
    at: dict[str, int] = field(default_factory=dict)
    moves: list[Move] = field(default_factory=list)

    def __post_init__(self) -> None:
        self.circle = Circle(self.problem)
        self.point = self.circle.start
        self.crank_there = self.crank_free = self.problem.not_before_min
        spans = {s.id: (s.from_, s.to) for s in self.problem.open_spans}
        self.against: dict[str, list[str]] = {}
        for one, other in self.problem.never_open_together:
            if one in spans and other in spans:
                self.against.setdefault(spans[one][0], []).append(spans[other][1])
                self.against.setdefault(spans[other][0], []).append(spans[one][1])

    def least(self, piece: PieceOfWork) -> int:
        """Return before which moment a piece cannot start, for what comes before it and what it must not meet."""
        found = [self.problem.not_before_min, piece.not_before_min, piece.pinned_min or 0]
        found += [self.placed[name].end_min for name in piece.after]
        found += [self.placed[name].end_min + wait for name, wait in piece.wait_after.items()]
        found += [self.placed[name].end_min for name in self.against.get(piece.id, ()) if name in self.placed]
        return max(found)

    def lay(self, piece: PieceOfWork, point: int | None, plan: Placed | None) -> None:
        """Lay a piece out; the crank is turned to where it wants it, if it is not there."""
        least = self.least(piece)
        if piece.crank is not None and point is not None and point != self.point:
            self._move(point)
        if piece.crank is not None or piece.id in self.held:
            least = max(least, self.crank_there)
        if piece.turns:
            least = max(least, self.crank_free, self.crank_there)
        taken = self.problem.taken(piece)
        start = self.day.first(taken, piece.minutes, least, planned_min=-1 if plan is None else plan.start_min)
        end = start + piece.minutes
        self.day.take(taken, start, end)
        on = piece.crank is not None
        if on:
            self.at[piece.id] = self.point
        if on or piece.id in self.held:
            self.crank_free = max(self.crank_free, end)
        if piece.turns:
            self.crank_there = self.crank_free = end
        angle = self.circle.points_deg[self.point] if on else None
        self.placed[piece.id] = Placed(id=piece.id, start_min=start, end_min=end, angle_deg=angle)

    def turn(self, move: Move, until: int, known: Mapping[str, Placed]) -> None:
        """Turn the crank as the plan does, if anything is still done where it goes before the next move."""
        point = self.circle.nearest(move.to_deg)
        wanted = any(
            move.end_min <= known[p.id].start_min < until and point in self.circle.allowed(p) and not self.whole(p)
            for p in self.problem.work
            if p.crank is not None and p.id in known and p.id not in self.placed
        )
        if wanted and point != self.point:
            self._move(point)

    def whole(self, piece: PieceOfWork) -> bool:
        """The crank only has to stand still, wherever it is."""
        return len(self.circle.allowed(piece)) == len(self.circle.points_deg)

    def _move(self, point: int) -> None:
        points, length = self.circle.points_deg, self.circle.move_min(self.point, point)
        taken = {HANDS: self.problem.move_hands} if self.problem.move_hands else {}
        least = max(self.crank_free, self.crank_there)
        start = self.day.first(taken, length, least, in_shift=self.problem.moves_in_shift)
        self.day.take(taken, start, start + length)
        self.moves.append(
            Move(
                start_min=start,
                end_min=start + length,
                from_deg=points[self.point],
                to_deg=points[point],
                turning_deg=self.circle.turning_deg(self.point, point),
            )
        )
        self.point, self.crank_there, self.crank_free = point, start + length, start + length


def follow(problem: Problem, order: Iterable[Placed], moves: Iterable[Move] = (), grace_min: int = 0) -> Timed:
    """Return the timetable of a crew that does a problem in the order of a plan.

    Args:
        problem: what is asked now; it is sound.
        order: the plan, or a timetable. What it does not know is done after the rest.
        moves: its moves of the crank, each in its turn; one that is not needed any more is left out.
        grace_min: by so much what was begun in time may run over the end of the shift: people stay for a little.

    Raises:
        Refusal: ``plan_never_ends`` where something is away for good.
    """
    known = {one.id: one for one in order}
    pieces = {p.id: p for p in problem.work}
    followed = _Followed(problem, _Day(problem, grace_min), held=_within_holds(problem))
    circle = followed.circle
    turns = sorted(moves, key=lambda m: m.start_min)
    for piece in _in_order(problem, known):
        plan, point = known.get(piece.id), None
        while plan is not None and turns and turns[0].start_min <= plan.start_min:
            followed.turn(turns.pop(0), turns[0].start_min if turns else _FAR_MIN, known)
        if piece.crank is not None:
            allowed = circle.allowed(piece)
            planned = circle.nearest(plan.angle_deg) if plan is not None and plan.angle_deg is not None else None
            if not followed.whole(piece):
                point = planned if planned in allowed else _nearest(circle, followed.point, allowed)
        followed.lay(piece, point, plan)
    moves = tuple(followed.moves)
    return Timed(tuple(followed.placed[name] for name in pieces), moves, dict(followed.at))


def _nearest(circle: Circle, here: int, allowed: tuple[int, ...]) -> int:
    return here if here in allowed else min(allowed, key=lambda k: circle.move_min(here, k))


def _in_order(problem: Problem, known: Mapping[str, Placed]) -> list[PieceOfWork]:
    """Return pieces as the plan has them, none before what it comes after."""
    rank = {p.id: (known[p.id].start_min, known[p.id].end_min) if p.id in known else (_FAR_MIN, k)
            for k, p in enumerate(problem.work)}  # fmt: skip
    pieces = {p.id: p for p in problem.work}
    done: dict[str, PieceOfWork] = {}

    def add(piece: PieceOfWork) -> None:
        if piece.id in done:
            return
        for name in (*piece.after, *piece.wait_after):
            add(pieces[name])
        done[piece.id] = piece

    for piece in sorted(problem.work, key=lambda p: rank[p.id]):
        add(piece)
    return list(done.values())


def _within_holds(problem: Problem) -> set[str]:
    """Return what lies within a hold: the crank is not free before it is over."""
    before = {p.id: {*p.after, *p.wait_after} for p in problem.work}

    def all_before(name: str) -> set[str]:
        found, todo = {name}, [name]
        while todo:
            more = before[todo.pop()] - found
            found |= more
            todo.extend(more)
        return found

    return {name for hold in problem.holds for name in all_before(hold.to) if hold.from_ in all_before(name)}
