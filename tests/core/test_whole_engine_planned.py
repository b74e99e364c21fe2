"""Whole engines planned: the rules of the engine sheet would refuse nothing of what any plan contains."""

from __future__ import annotations

from dataclasses import replace

import pytest

from jorvek.core.overhaul.views.outage import Run
from jorvek.core.plan.check import Laid, broken
from jorvek.core.plan.problem import demand_sound
from jorvek.core.plan.rule import by_tail, first_come
from jorvek.core.sheet.access import Ground, Stand, in_the_way, standing_together
from jorvek.planning.solve import plan
from tests.core.whole_engine import Chains, Conditions, complete


def played(ground: Ground, chains: Chains, now: Conditions, made: Laid) -> int:
    """Begin and end every run as the plan has it; each time the rules are asked. Return how many were begun."""
    there = {one.id: one for one in made.placed}
    runs = [run for every in chains.values() for run in every]
    # Where one ends when another begins, it is over: ends come first.
    moments = [(there[run.first].start_min, 1, run) for run in runs]
    moments += [(there[run.last].end_min, 0, run) for run in runs]
    conditions, under_way = dict(now), dict[str, Run]()
    for _, begins, run in sorted(moments, key=lambda m: (m[0], m[1])):
        stands = {
            key: Stand(frozenset(ground.path(under_way[key].work)), under_way[key].work)
            if key in under_way
            else Stand(frozenset({condition}))
            for key, condition in conditions.items()
        }
        here = replace(ground, stands=stands)
        if begins:
            assert not in_the_way(here, run.work), f"{run.first} is refused"
            under_way[run.joint] = run
        else:
            del under_way[run.joint]
            assert run.leaves is not None
            conditions[run.joint] = run.leaves
        assert not list(standing_together(here))
    assert conditions == now, "everything is closed up again"
    return len(runs)


@pytest.mark.parametrize(
    ("name", "runs"), [("unit-2", 72), ("unit-5", 36), ("tender", 42)], ids=["in line", "vee", "two-stroke"]
)
def test_no_plan_contains_what_the_rules_would_refuse(name: str, runs: int) -> None:
    ground, chains, now, problem = complete(name)
    demand_sound(problem)
    tried = (by_tail(problem), first_come(problem), plan(problem, seconds=6.0))
    for made in tried:
        assert not list(broken(problem, made))
        assert played(ground, chains, now, made) == runs
    assert tried[-1].finish_min <= min(made.finish_min for made in tried)


def test_a_plan_that_opens_a_neighbour_is_caught_by_the_play() -> None:
    """The play can fail: two neighbouring mains at once are refused."""
    ground, chains, now, problem = complete("unit-2")
    made = by_tail(problem)
    there = {one.id: one for one in made.placed}
    earlier, later = sorted((chains["main-3"][0], chains["main-4"][0]), key=lambda run: there[run.first].start_min)
    at, first = there[earlier.first].start_min, later.first
    moved = there[first].model_copy(update={"start_min": at + 1})
    wrong = replace(made, placed=tuple(moved if p.id == first else p for p in made.placed))
    with pytest.raises(AssertionError, match="is refused"):
        played(ground, chains, now, wrong)
