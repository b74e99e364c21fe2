"""A plan for a problem: checked, begun by rule, improved and proven by the solver as far as the time allows."""

from __future__ import annotations

import random
import time
from collections.abc import Callable, Mapping
from functools import partial
from typing import Final

from ortools.sat.python import cp_model

from jorvek.core.plan.bounds import bounds
from jorvek.core.plan.check import broken
from jorvek.core.plan.crew import Timed
from jorvek.core.plan.follow import follow
from jorvek.core.plan.least_turning import least_turning
from jorvek.core.plan.pins import demand_pins_hold
from jorvek.core.plan.problem import Problem, demand_sound
from jorvek.core.plan.result import Aim, BoundPart, Move, Placed, Plan
from jorvek.core.plan.rule import by_tail, first_come
from jorvek.core.plan.turning import Circle
from jorvek.core.refusal import Refusal
from jorvek.planning.timetable import Timetable
from jorvek.planning.visits import another_way, improve, reached

WORKERS: Final = 4
"""Ways of searching side by side; two of them do without the relaxation that long pairs make useless."""
_WAYS: Final = ("no_lp", "quick_restart_no_lp", "max_lp", "default_lp")
_SAME_DEG: Final = 1e-6
_FEW: Final = 24
"""Up to so many pieces that need the crank are planned in one model if moves need no crew, more by improvement."""


def plan(
    problem: Problem,
    aim: Aim = "earliest_finish",
    seconds: float = 20.0,
    told: Callable[[Plan], None] = lambda _: None,
    known: Plan | None = None,
) -> Plan:
    """Find a plan.

    Args:
        problem: what is asked.
        aim: what comes first.
        seconds: how long is looked for a better one.
        told: is told of each plan that is better than the one before.
        known: a plan that was made before, perhaps of something that has gone on since; its order is tried, too.

    Raises:
        Refusal: those of ``demand_sound`` and ``demand_pins_hold``; ``plan_never_ends`` where something can never
            start, ``plan_pins_not_met`` where no way was found to hold what is pinned.
    """
    demand_sound(problem)
    demand_pins_hold(problem)
    until = time.monotonic() + seconds
    if aim == "least_barring" and problem.bare:
        return _least_barring(problem)
    parts = bounds(problem, aim)
    start = _begun(problem, aim, until, known, lambda way: told(_made(problem, way, parts, aim)))
    first = _made(problem, start, parts, aim)
    told(first)
    if first.proven and aim == "earliest_finish":
        return first
    if problem.bare and sum(piece.crank is not None for piece in problem.work) <= _FEW:
        return _earliest(problem, start, parts, until)
    least = parts[0].value if aim == "earliest_finish" else 0.0
    found = improve(problem, start, until, least, WORKERS, lambda t: told(_made(problem, t, parts, aim)), aim)
    return _made(problem, _closed_up(problem, found, aim), parts, aim)


def _begun(problem: Problem, aim: Aim, until: float, known: Plan | None, soon: Callable[[Timed], None]) -> Timed:
    """Return the best timetable of a few that are made by rule; ``soon`` is told of the first.

    Raises:
        Refusal: ``plan_pins_not_met`` where none of them holds what is pinned.
    """
    ways: list[Timed] = []
    missed: list[str] = []
    rules: tuple[Callable[[], Timed], ...] = (
        partial(by_tail, problem),
        partial(by_tail, problem, turns="when_nothing_is_left_here"),
        partial(first_come, problem),
    )
    for made in rules:
        try:
            ways.append(_closed_up(problem, made(), aim))
            if len(ways) == 1:
                soon(ways[0])
        except Refusal as refusal:
            if refusal.code != "plan_pin_missed":
                raise
            missed.append(str(refusal.params["name"]))
    if known is not None:
        again = follow(problem, known.placed, known.moves)
        ways += [] if any(broken(problem, again)) else [again]
    dice = random.Random(1)  # noqa: S311 — the same plan again for the same question
    while not ways and time.monotonic() < until:
        way = another_way(problem, dice, aim)
        ways += [way] if way is not None else []
    if not ways:
        raise Refusal("plan_pins_not_met", names=", ".join(dict.fromkeys(missed)))
    return min(ways, key=lambda way: reached(way, aim))


def _closed_up(problem: Problem, found: Timed, aim: Aim) -> Timed:
    """Return a timetable in which nothing waits for nothing: so it is followed to the minute while nothing changes."""
    tight = follow(problem, found.placed, found.moves)
    if any(broken(problem, tight)) or reached(tight, aim) > reached(found, aim):
        return found
    return tight


def _least_barring(problem: Problem) -> Plan:
    """One piece after the other, the crank turned as little as can be."""
    turned = least_turning(problem)
    if turned.order is None:
        raise Refusal("plan_too_many_orders")
    circle = Circle(problem)
    points = circle.points_deg
    placed, moves, here = [], list[Move](), circle.start
    pieces = {piece.id: piece for piece in problem.work}
    for k, (name, point) in enumerate(turned.order):
        needs = pieces[name].crank is not None
        if needs and point != here:
            turning = circle.turning_deg(here, point)
            moves.append(Move(start_min=k, end_min=k, from_deg=points[here], to_deg=points[point], turning_deg=turning))
            here = point
        placed.append(Placed(id=name, start_min=k, end_min=k + 1, angle_deg=points[point] if needs else None))
    part = BoundPart(code="turning", value=turned.bound_deg)
    return Plan(
        aim="least_barring",
        placed=tuple(placed),
        moves=tuple(moves),
        finish_min=len(placed),
        barring_deg=sum(move.turning_deg for move in moves),
        bound=turned.bound_deg,
        bound_parts=(part,),
        proven=True,
    )


def _earliest(problem: Problem, start: Timed, parts: tuple[BoundPart, ...], until: float) -> Plan:
    circle = Circle(problem)
    angles = {piece.id: circle.allowed(piece) for piece in problem.work}
    table = Timetable(problem, start.finish_min, angles)
    table.model.add(table.finish >= int(parts[0].value))
    table.hint({one.id: one.start_min for one in start.placed}, start.at)
    solver = solver_for(until)
    status = solver.solve(table.model)
    if status not in (cp_model.OPTIMAL, cp_model.FEASIBLE):
        return _made(problem, start, parts, "earliest_finish")
    found = read(problem, table, solver)
    bound = BoundPart(code="solver", value=float(round(solver.best_objective_bound)))
    every = tuple(sorted((*parts, bound), key=lambda part: -part.value))
    return _made(problem, found, every, "earliest_finish")


def solver_for(until: float) -> cp_model.CpSolver:
    """Return a solver that ends in time."""
    solver = cp_model.CpSolver()
    solver.parameters.num_workers = WORKERS
    solver.parameters.subsolvers.extend(_WAYS)
    solver.parameters.max_time_in_seconds = max(0.05, until - time.monotonic())
    return solver


def read(problem: Problem, table: Timetable, solver: cp_model.CpSolver) -> Timed:
    """Return the timetable that a solver has found."""
    at = {name: k for (name, k), literal in table.at.items() if isinstance(literal, int) or solver.value(literal)}
    starts = {piece.id: solver.value(table.starts[piece.id]) for piece in problem.work}
    return timed(problem, starts, at)


def timed(problem: Problem, starts: Mapping[str, int], at: Mapping[str, int]) -> Timed:
    """Return a timetable with the moves between its pieces, each as late as it may be."""
    circle = Circle(problem)
    points = circle.points_deg
    placed = tuple(
        Placed(
            id=piece.id,
            start_min=starts[piece.id],
            end_min=starts[piece.id] + piece.minutes,
            angle_deg=points[at[piece.id]] if piece.id in at else None,
        )
        for piece in problem.work
    )
    moves, here = list[Move](), circle.start
    for one in sorted((p for p in placed if p.id in at), key=lambda p: (p.start_min, p.end_min)):
        there = at[one.id]
        if there != here:
            length, turning = circle.move_min(here, there), circle.turning_deg(here, there)
            begins = one.start_min - length
            moves.append(
                Move(
                    start_min=begins,
                    end_min=one.start_min,
                    from_deg=points[here],
                    to_deg=points[there],
                    turning_deg=turning,
                )
            )
            here = there
    return Timed(placed, tuple(moves), dict(at))


def _made(problem: Problem, found: Timed, parts: tuple[BoundPart, ...], aim: Aim) -> Plan:
    value = reached(found, aim)[0]
    return Plan(
        aim=aim,
        placed=found.placed,
        moves=found.moves,
        finish_min=found.finish_min,
        barring_deg=found.barring_deg,
        bound=parts[0].value,
        bound_parts=parts,
        # A plan proves no bound: it is the best where a bound that rests on no plan says so, and it breaks no rule.
        proven=abs(value - parts[0].value) <= _SAME_DEG and not any(broken(problem, found)),
        since_min=problem.not_before_min if aim == "earliest_finish" else 0,
    )
