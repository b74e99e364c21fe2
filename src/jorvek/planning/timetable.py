"""The timetable as a model of a constraint solver (OR-tools CP-SAT).

Pieces of work that need the crank stand at an angle of their own choice. Two of them stand at the same angle, and may
run side by side, or one comes first and a move lies between. Because no way round is shorter than the straight one,
holding that for every pair holds it for all.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from itertools import combinations

from ortools.sat.python import cp_model

from jorvek.core.plan.problem import DAY_MIN, PieceOfWork, Problem
from jorvek.core.plan.turning import Circle


def apart(angles: Mapping[str, tuple[int, ...]]) -> list[list[str]]:
    """Return groups of pieces of which no two share an angle: a few large ones that hold many pairs."""
    turned = [name for name, choices in angles.items() if choices]
    groups: list[list[str]] = []
    covered: set[frozenset[str]] = set()
    for first in turned:
        group = [first]
        # Those first whose pair is in no group yet.
        rest = sorted((n for n in turned if n != first), key=lambda n: frozenset((first, n)) in covered)
        for name in rest:
            if all(not set(angles[name]) & set(angles[other]) for other in group):
                group.append(name)
        if len(group) > 2:
            groups.append(group)
            covered |= {frozenset(pair) for pair in combinations(group, 2)}
    return groups


def follows(problem: Problem) -> frozenset[tuple[str, str]]:
    """Return all pairs of which the first has to end before the second begins, over others, too."""
    before = {piece.id: {*piece.after, *piece.wait_after} for piece in problem.work}
    found: dict[str, set[str]] = {}

    def all_before(name: str) -> set[str]:
        if name not in found:
            found[name] = set(before[name]).union(*(all_before(other) for other in before[name]))
        return found[name]

    return frozenset((other, piece.id) for piece in problem.work for other in all_before(piece.id))


@dataclass
class Timetable:
    """A model with its variables.

    Attributes:
        problem: what is asked.
        horizon: everything ends by then.
        angles: by name of a piece, the indices of angles it may choose; fewer than allowed where a start is improved.
        ahead: pairs of names whose order is settled: the first ends before the second begins.
    """

    problem: Problem
    horizon: int
    angles: Mapping[str, tuple[int, ...]]
    ahead: frozenset[tuple[str, str]] = frozenset()
    model: cp_model.CpModel = field(default_factory=cp_model.CpModel)
    starts: dict[str, cp_model.IntVar] = field(default_factory=dict)
    at: dict[tuple[str, int], cp_model.IntVar | int] = field(default_factory=dict)

    def __post_init__(self) -> None:
        self.circle = Circle(self.problem)
        self.pieces = {piece.id: piece for piece in self.problem.work}
        self.finish = self.model.new_int_var(0, self.horizon, "finish")
        self._place()
        self._wait()
        self._share()
        self._open()
        self._turn()
        self.model.minimize(self.finish)

    def _place(self) -> None:
        """Every piece lies within the shift of one day."""
        shift = self.problem.shift
        for name, piece in self.pieces.items():
            start = self.model.new_int_var(self.problem.not_before_min, self.horizon - piece.minutes, f"start {name}")
            self.starts[name] = start
            self.model.add(self.finish >= start + piece.minutes)
            if shift is not None:
                day = self.model.new_int_var(0, self.horizon // DAY_MIN, "")
                minute = self.model.new_int_var(shift[0], shift[1] - piece.minutes, "")
                self.model.add(start == day * DAY_MIN + minute)

    def end(self, name: str) -> cp_model.LinearExpr:
        """Return the end of a piece."""
        return self.starts[name] + self.pieces[name].minutes

    def _wait(self) -> None:
        for name, piece in self.pieces.items():
            for other in piece.after:
                self.model.add(self.starts[name] >= self.end(other))
            for other, minutes in piece.wait_after.items():
                self.model.add(self.starts[name] >= self.end(other) + minutes)
        known = follows(self.problem)
        for first, second in self.ahead - known:
            self.model.add(self.starts[second] >= self.end(first))
        self.ahead = self.ahead | known

    def _share(self) -> None:
        """Hands and sets."""
        length = {name: max(piece.minutes, 0) for name, piece in self.pieces.items()}
        intervals = {
            name: self.model.new_fixed_size_interval_var(self.starts[name], length[name], f"on {name}")
            for name in self.pieces
        }
        wanted = [piece.hands for piece in self.pieces.values()]
        self.model.add_cumulative([intervals[n] for n in self.pieces], wanted, self.problem.hands)
        for one, there in self.problem.sets.items():
            users = [(n, p.uses[one]) for n, p in self.pieces.items() if p.uses.get(one)]
            if sum(count for _, count in users) > there:
                self.model.add_cumulative([intervals[n] for n, _ in users], [count for _, count in users], there)

    def _open(self) -> None:
        spans = {span.id: span for span in self.problem.open_spans}
        for one, other in self.problem.never_open_together:
            if one not in spans or other not in spans:
                continue
            first = self.model.new_bool_var(f"{one} before {other}")
            a, b = spans[one], spans[other]
            self.model.add(self.starts[b.from_] >= self.end(a.to)).only_enforce_if(first)
            self.model.add(self.starts[a.from_] >= self.end(b.to)).only_enforce_if(~first)

    def _turn(self) -> None:
        turned = [piece for piece in self.pieces.values() if piece.crank is not None]
        for piece in turned:
            choices = self.angles[piece.id]
            for k in choices:
                self.at[piece.id, k] = 1 if len(choices) == 1 else self.model.new_bool_var(f"{piece.id} at {k}")
            self.model.add_exactly_one(self.at[piece.id, k] for k in choices)
            for k in choices:
                wait = self.problem.not_before_min + self.circle.move_min(self.circle.start, k)
                self._if(self.at[piece.id, k], self.starts[piece.id] >= wait)
        for one, other in combinations(turned, 2):
            self._pair(one, other)
        for group in apart(self.angles):
            self._one_after_the_other(group)

    def shares_nothing(self, one: PieceOfWork, other: PieceOfWork) -> bool:
        """Tell whether two pieces never run side by side, for want of hands or of a set."""
        if one.hands + other.hands > self.problem.hands:
            return True
        return any(one.uses.get(s, 0) + other.uses.get(s, 0) > there for s, there in self.problem.sets.items())

    def _one_after_the_other(self, group: list[str]) -> None:
        """Pieces that can never stand at one angle follow on each other, with at least the shortest move between.

        It says nothing that the pairs do not say, but says it of all at once, which makes for far better bounds.
        """
        held = []
        for name in group:
            ways = [
                self.circle.move_min(k, m) for other in group if other != name
                for k in self.angles[name] for m in self.angles[other]
            ]  # fmt: skip
            length = self.pieces[name].minutes + min(ways)
            held.append(self.model.new_fixed_size_interval_var(self.starts[name], length, f"held {name}"))
        self.model.add_no_overlap(held)

    def _if(self, literal: cp_model.IntVar | int, held: cp_model.BoundedLinearExpression | bool) -> None:
        constraint = self.model.add(held)
        if not isinstance(literal, int):
            constraint.only_enforce_if(literal)

    def _pair(self, one: PieceOfWork, other: PieceOfWork) -> None:
        mine, theirs = self.angles[one.id], self.angles[other.id]
        alone = self.shares_nothing(one, other)
        if len(mine) == 1 and mine == theirs and not alone:
            return
        if (one.id, other.id) in self.ahead:
            first: cp_model.IntVar | int = 1
            second: cp_model.IntVar | int = 0
        elif (other.id, one.id) in self.ahead:
            first, second = 0, 1
        else:
            first = self.model.new_bool_var(f"{one.id} before {other.id}")
            second = self.model.new_bool_var(f"{other.id} before {one.id}")
            if alone:
                self.model.add_exactly_one(first, second)
            else:
                self.model.add_at_most_one(first, second)
        for k in mine:
            for m in theirs:
                here = [x for x in (self.at[one.id, k], self.at[other.id, m]) if not isinstance(x, int)]
                if k == m and not alone:
                    continue
                self._order(first, here, other.id, self.end(one.id) + self.circle.move_min(k, m))
                self._order(second, here, one.id, self.end(other.id) + self.circle.move_min(m, k))
                if not alone:
                    # At two angles one of them is first.
                    self.model.add_bool_or(first, second, *(~x for x in here))

    def _order(
        self, literal: cp_model.IntVar | int, here: list[cp_model.IntVar], name: str, least: cp_model.LinearExpr
    ) -> None:
        if isinstance(literal, int):
            if literal == 0:
                return
            self.model.add(self.starts[name] >= least).only_enforce_if(here)
        else:
            self.model.add(self.starts[name] >= least).only_enforce_if([literal, *here])

    def hint(self, starts: Mapping[str, int], at: Mapping[str, int]) -> None:
        """Begin with a plan that is known."""
        for name, start in starts.items():
            self.model.add_hint(self.starts[name], start)
        for (name, k), literal in self.at.items():
            if not isinstance(literal, int) and name in at:
                self.model.add_hint(literal, int(at[name] == k))
