"""A whole engine: the crank goes through a row of visits, and the solver fits the work between them.

The row comes from a timetable that is known. Which work is done at which visit, and when, is the solver's; a visit that
nobody needs falls away, and the next round begins with a shorter row. Moves are pieces of time of their own: nothing
that needs a standing crank overlaps them, they take their commander, and lie within a shift where that is asked.
"""

from __future__ import annotations

import random
import time
from collections.abc import Callable
from dataclasses import dataclass, field
from itertools import pairwise
from typing import Final

from ortools.sat.python import cp_model

from jorvek.core.plan.check import broken
from jorvek.core.plan.crew import Timed, Turns
from jorvek.core.plan.problem import DAY_MIN, HANDS, Away, Held, PieceOfWork, Problem
from jorvek.core.plan.result import Aim, Move, Placed
from jorvek.core.plan.rule import by_tail
from jorvek.core.plan.turning import Circle
from jorvek.core.refusal import Refusal

_ALL: Final = 1000
"""Shares in a standing crank, more than there is work: whoever turns it takes all."""
_FIRST_ROUND_S: Final = 4.0
_ROUND_S: Final = 10.0
"""A round is built anew with a shorter row; the first ends soon, so that there is something better to look at."""
_SPREAD: Final = 0.5
_MANY: Final = 100
"""With more pairs than this that may not stand open together a round is long, and first keeps their order."""


@dataclass
class Row:
    """The row of visits: the angle of each, by index, the first where the crank stands."""

    points: list[int]

    @staticmethod
    def of(problem: Problem, found: Timed) -> Row:
        """Return the row of a timetable that is known."""
        circle = Circle(problem)
        return Row([circle.start, *(circle.nearest(move.to_deg) for move in found.moves)])


@dataclass
class _Model:
    """What the solver is asked.

    Attributes:
        known: what may not stand open together keeps the order it has there; None where the solver may change it.
    """

    problem: Problem
    row: Row
    horizon: int
    known: Timed | None
    model: cp_model.CpModel = field(default_factory=cp_model.CpModel)

    def __post_init__(self) -> None:
        self.circle = Circle(self.problem)
        self.allowed = {p.id: frozenset(self.circle.allowed(p)) for p in self.problem.work}
        self.pieces = {p.id: p for p in self.problem.work}
        model, horizon = self.model, self.horizon
        self.starts = {n: self._start(n, p.minutes) for n, p in self.pieces.items()}
        for name, piece in self.pieces.items():
            model.add(self.starts[name] >= piece.not_before_min)
            if piece.pinned_min is not None:
                model.add(self.starts[name] == piece.pinned_min)
        self.on = {
            n: model.new_fixed_size_interval_var(self.starts[n], p.minutes, f"on {n}") for n, p in self.pieces.items()
        }
        count = len(self.row.points)
        self.opens = [model.new_int_var(0, horizon, f"opens {v}") for v in range(count)]
        self.shuts = [model.new_int_var(0, horizon, f"shuts {v}") for v in range(count)]
        self.finish = model.new_int_var(0, horizon, "finish")
        self.at: dict[tuple[str, int], cp_model.IntVar] = {}
        self._visits()
        self._wait()
        self._share()
        self._open()
        model.minimize(self.finish)

    def _start(self, name: str, minutes: int, *, always: bool = True) -> cp_model.IntVar:
        start = self.model.new_int_var(self.problem.not_before_min, self.horizon - minutes, f"start {name}")
        shift = self.problem.shift
        if shift is not None and always:
            day = self.model.new_int_var(0, self.horizon // DAY_MIN, "")
            minute = self.model.new_int_var(shift[0], shift[1] - minutes, "")
            self.model.add(start == day * DAY_MIN + minute)
        return start

    def whole(self, piece: PieceOfWork) -> bool:
        """The crank only has to stand still, wherever it is."""
        return piece.crank is not None and len(self.allowed[piece.id]) == len(self.circle.points_deg)

    def _visits(self) -> None:
        points = self.row.points
        self.moves: list[cp_model.IntVar] = []
        self.turning: list[cp_model.IntervalVar] = []
        for v in range(len(points) - 1):
            length = self.circle.move_min(points[v], points[v + 1])
            start = self._start(f"move {v}", length, always=self.problem.moves_in_shift)
            self.moves.append(start)
            self.turning.append(self.model.new_fixed_size_interval_var(start, length, f"move {v}"))
            self.model.add(start >= self.shuts[v])
            self.model.add(self.opens[v + 1] >= start + length)
        for v in range(len(points)):
            self.model.add(self.shuts[v] >= self.opens[v])
        for name, piece in self.pieces.items():
            self.model.add(self.finish >= self.starts[name] + piece.minutes)
            if piece.crank is None or self.whole(piece):
                continue
            fits = [v for v, point in enumerate(points) if point in self.allowed[name]]
            for v in fits:
                here = self.model.new_bool_var(f"{name} at {v}")
                self.at[name, v] = here
                self.model.add(self.starts[name] >= self.opens[v]).only_enforce_if(here)
                self.model.add(self.starts[name] + piece.minutes <= self.shuts[v]).only_enforce_if(here)
            self.model.add_exactly_one(self.at[name, v] for v in fits)

    def _wait(self) -> None:
        for name, piece in self.pieces.items():
            for other in piece.after:
                self.model.add(self.starts[name] >= self.starts[other] + self.pieces[other].minutes)
            for other, minutes in piece.wait_after.items():
                self.model.add(self.starts[name] >= self.starts[other] + self.pieces[other].minutes + minutes)

    def _share(self) -> None:
        names = list(self.pieces)
        for what in (HANDS, *self.problem.sets):
            there = self.problem.there(what)
            users = [(self.on[n], self.problem.taken(self.pieces[n]).get(what, 0)) for n in names]
            if what == HANDS and self.problem.move_hands:
                users += [(move, self.problem.move_hands) for move in self.turning]
            users += [(self._away(one), one.count) for one in self.problem.away if one.what == what]
            users = [(interval, count) for interval, count in users if count]
            if sum(count for _, count in users) > there:
                self.model.add_cumulative([interval for interval, _ in users], [count for _, count in users], there)
        still = [self.on[n] for n in names if self.pieces[n].crank is not None]
        still += [self._hold(hold) for hold in self.problem.holds]
        turning = [self.on[n] for n in names if self.pieces[n].turns] + self.turning
        self.model.add_cumulative([*still, *turning], [1] * len(still) + [_ALL] * len(turning), _ALL)

    def _away(self, one: Away) -> cp_model.IntervalVar:
        return self.model.new_fixed_size_interval_var(one.from_min, one.to_min - one.from_min, f"{one.what} away")

    def _hold(self, hold: Held) -> cp_model.IntervalVar:
        """The crank stays where it is from the start of one piece to the end of another; see ``Held``."""
        one, other = self.pieces[hold.from_], self.pieces[hold.to]
        start = self.starts[one.id] + (one.minutes if one.turns else 0)
        end = self.starts[other.id] + (0 if other.turns else other.minutes)
        length = self.model.new_int_var(0, self.horizon, "")
        return self.model.new_interval_var(start, length, end, f"hold {hold.from_}")

    def _open(self) -> None:
        spans = {s.id: s for s in self.problem.open_spans}
        known = {} if self.known is None else {one.id: one.start_min for one in self.known.placed}
        for one, other in self.problem.never_open_together:
            if one not in spans or other not in spans:
                continue
            a, b = spans[one], spans[other]
            ends = {s: self.starts[s.to] + self.pieces[s.to].minutes for s in (a, b)}
            if known:
                a, b = sorted((a, b), key=lambda s: known[s.from_])
                self.model.add(self.starts[b.from_] >= ends[a])
                continue
            first = self.model.new_bool_var("")
            self.model.add(self.starts[b.from_] >= ends[a]).only_enforce_if(first)
            self.model.add(self.starts[a.from_] >= ends[b]).only_enforce_if(~first)

    def hint(self, found: Timed) -> None:
        """Begin with a timetable that has this row."""
        spans = [0, *(m.end_min for m in found.moves)], [*(m.start_min for m in found.moves), self.horizon]
        for one in found.placed:
            self.model.add_hint(self.starts[one.id], one.start_min)
            for v in range(len(self.row.points)):
                if (one.id, v) in self.at:
                    inside = spans[0][v] <= one.start_min and one.end_min <= spans[1][v]
                    self.model.add_hint(self.at[one.id, v], int(inside))
        for v, move in enumerate(found.moves):
            self.model.add_hint(self.moves[v], move.start_min)

    def read(self, solver: cp_model.CpSolver, *, thin: bool) -> Timed:
        """Return the timetable found.

        Args:
            solver: it has found one.
            thin: without the visits that nobody needs; the longer way past them may not have room then.
        """
        points, circle = self.circle.points_deg, self.circle
        visit = {name: v for (name, v), here in self.at.items() if solver.value(here)}
        used = [0, *sorted(set(visit.values()) - {0})] if thin else list(range(len(self.row.points)))
        moves = []
        for before, v in pairwise(used):
            one, other = self.row.points[before], self.row.points[v]
            if one == other:
                continue
            length, begins = circle.move_min(one, other), solver.value(self.moves[before])
            moves.append(
                Move(
                    start_min=begins,
                    end_min=begins + length,
                    from_deg=points[one],
                    to_deg=points[other],
                    turning_deg=circle.turning_deg(one, other),
                )
            )
        at = {name: self.row.points[v] for name, v in visit.items()}
        placed = []
        for name, piece in self.pieces.items():
            start = solver.value(self.starts[name])
            angle = points[at[name]] if name in at else self._standing(moves, start) if piece.crank else None
            placed.append(Placed(id=name, start_min=start, end_min=start + piece.minutes, angle_deg=angle))
        return Timed(tuple(placed), tuple(moves), at)

    def _standing(self, moves: list[Move], at_min: int) -> float:
        """Return where the crank stands at a moment."""
        gone = [m.to_deg for m in moves if m.end_min <= at_min]
        return gone[-1] if gone else self.circle.points_deg[self.circle.start]


def reached(found: Timed, aim: Aim) -> tuple[float, float]:
    """Return what a timetable comes to: the figure that is aimed at, then the other one."""
    if aim == "least_barring":
        return found.barring_deg, float(found.finish_min)
    return float(found.finish_min), found.barring_deg


def another_way(problem: Problem, dice: random.Random, aim: Aim) -> Timed | None:
    """Return a timetable by rule that differs from the plain one; None where what is pinned does not fit into it."""
    turns: Turns = "when_nothing_is_left_here" if aim == "least_barring" else "where_most_waits"
    try:
        return by_tail(problem, dice, _SPREAD, turns)
    except Refusal:
        return None


def improve(
    problem: Problem,
    start: Timed,
    until: float,
    least: float,
    workers: int,
    told: Callable[[Timed], None],
    aim: Aim = "earliest_finish",
) -> Timed:
    """Improve a timetable round by round until the time is over or nothing better is possible.

    Args:
        problem: it is sound.
        start: a timetable that is known.
        until: by the monotonic clock.
        least: no timetable is better than this.
        workers: ways of searching side by side.
        told: is told of each that is better.
        aim: what comes first.
    """
    best, other, improved = start, start, False
    many = len(problem.never_open_together) > _MANY
    kept = many
    dice = random.Random(1)  # noqa: S311 — the same plan again for the same question
    while time.monotonic() < until and best.finish_min > least:
        longest = _ROUND_S if improved or many else _FIRST_ROUND_S
        ends = min(until, time.monotonic() + longest)
        found = _round(problem, other, max(best.finish_min, other.finish_min), workers, ends, kept=kept)
        if found is not None and reached(found, aim) < reached(best, aim):
            best, other, improved = found, found, True
            told(best)
            kept = many and not kept
            continue
        if kept:
            # In the order that is known nothing better was found in time: the same once more, free to change it.
            kept = False
            continue
        kept = many
        # Nothing better from here: another crew's way, or the best once more.
        ways = [way for way in (another_way(problem, dice, aim) for _ in range(2)) if way is not None]
        other = min(ways, key=lambda way: reached(way, aim), default=best)
    return best


def _round(problem: Problem, known: Timed, horizon: int, workers: int, until: float, *, kept: bool) -> Timed | None:
    """Fit the work anew between the visits of a timetable; without those that nobody needs, where there is room."""
    model = _Model(problem, Row.of(problem, known), horizon, known if kept else None)
    model.hint(known)
    solver = cp_model.CpSolver()
    solver.parameters.num_workers = workers
    solver.parameters.max_time_in_seconds = max(0.05, until - time.monotonic())
    if solver.solve(model.model) not in (cp_model.OPTIMAL, cp_model.FEASIBLE):
        return None
    thin = model.read(solver, thin=True)
    return thin if not any(broken(problem, thin)) else model.read(solver, thin=False)
