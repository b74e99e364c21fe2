"""Whole engines planned, and their plans played through the metal: what each call does to the parts of its joint."""

from __future__ import annotations

from collections.abc import Iterator
from functools import lru_cache

import pytest

from jorvek.core.metal.planned_moves import PlannedMoves
from jorvek.core.metal.proof import advance, beginning
from jorvek.core.metal.state import JointState
from jorvek.core.overhaul.views.outage import Run
from jorvek.core.plan.check import Laid
from jorvek.core.plan.rule import by_tail, first_come
from jorvek.core.run.log.definition import Definition, define
from jorvek.planning.solve import plan
from tests.core.paper_run import shipped
from tests.core.whole_engine import Chains, complete

Way = tuple[tuple[str, str], ...]


@lru_cache
def defined(name: str, way: Way) -> tuple[Definition, PlannedMoves]:
    procedure = shipped(name)
    return define(procedure, dict(way)), PlannedMoves(procedure, dict(way))


@lru_cache
def metal_at(name: str, way: Way, ends: int) -> JointState:
    """What the joint is like after so many calls; a step of which a part is left was not done."""
    definition, planned = defined(name, way)
    metal = beginning(planned)
    for _, cells in definition.steps:
        if definition.place_of(cells[-1].key) < ends:
            metal = advance(planned, metal, definition.steps_by_id[cells[0].step_id])
    return metal


def in_the_sweep(run: Run, done: int) -> Iterator[str]:
    """What forbids that the crank moves after so many phases of a run, by the state of its parts."""
    way = tuple(sorted(run.selection.items()))
    _, planned = defined(run.procedure, way)
    metal = metal_at(run.procedure, way, run.phases[done].index)
    for name, part in planned.parts.items():
        hung = metal.where(name) == "hung" and part.kind in ("rod", "piston", "cap")
        if hung or (part.traits.in_sweep and metal.perhaps(name)):
            yield name
    yield from metal.seated
    if metal.pressure:
        yield "oil pressure"


def swept(chains: Chains, made: Laid) -> Iterator[str]:
    """Every move of the crank, and every piece that turns it through, against every run that is under way then."""
    there = {one.id: one for one in made.placed}
    runs = [run for every in chains.values() for run in every]
    moves = [(move.start_min, "") for move in made.moves]
    moves += [(there[piece].start_min, piece) for run in runs for piece, phase in run.named if phase.through]
    for moment, turning in moves:
        for run in runs:
            pieces = [piece for piece, _ in run.named]
            done = sum(there[piece].end_min <= moment for piece in pieces)
            if 0 < done < len(pieces) and turning not in pieces:
                yield from (f"{run.first} after {done}: {name}" for name in in_the_sweep(run, done))


@pytest.mark.parametrize("name", ["unit-2", "unit-5", "tender"], ids=["in line", "vee", "two-stroke"])
def test_the_crank_moves_in_no_plan_while_something_stands_in_its_sweep(name: str) -> None:
    _, chains, _, problem = complete(name)
    for made in (by_tail(problem), first_come(problem), plan(problem, seconds=3.0)):
        assert not set(swept(chains, made))
