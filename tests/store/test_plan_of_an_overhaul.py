"""The plan of an overhaul as it stands: what is left of it, looked for beside everything else, stopped when asked."""

from __future__ import annotations

import time
from collections.abc import Callable
from uuid import UUID

import pytest

from jorvek.core.overhaul.rules.standing import ground_of
from jorvek.core.overhaul.views.outage import SHUTDOWN
from jorvek.core.plan.check import broken
from jorvek.core.plan.problem import demand_sound
from jorvek.core.refusal import Refusal
from jorvek.local.demo import actor
from jorvek.planning.solve import plan
from jorvek.work import plans, tools
from jorvek.work.overhauls import engine_now
from jorvek.work.plan_problem import PlanAsked
from jorvek.work.plan_problem import outage as problem_now
from jorvek.work.plan_shown import PlanShown, plan_now
from tests.conftest import World
from tests.store.test_engine_as_a_whole import overhaul_of, tell

PATIENCE_S = 600.0


def unit_2(world: World) -> UUID:
    return overhaul_of(world).overhaul_id


def until(look: Callable[[], PlanShown], good: Callable[[PlanShown], bool]) -> PlanShown:
    patient = time.monotonic() + PATIENCE_S
    while not good(shown := look()):
        assert time.monotonic() < patient, shown.state
        time.sleep(0.2)
    return shown


def test_what_is_left_is_planned_and_nothing_else(morning: World) -> None:
    asked = problem_now(morning.workshop, unit_2(morning), PlanAsked())
    problem, pieces = asked.problem, asked.pieces
    demand_sound(problem)
    joints = {piece.joint for piece in pieces.values()}
    assert {"head-4", "liner-7", "rod-5", "main-3", "main-5"} <= joints
    assert "head-1" not in joints, "closed up again"
    assert "main-4" not in joints, "not in the scope"
    assert "rod-1" not in joints, "closed on paper"
    under_way = [piece.label for piece in pieces.values() if piece.joint == "head-3"]
    assert under_way, "of a run under way what is left of it"
    made = plan(problem, seconds=3.0)
    assert not list(broken(problem, made))
    now = engine_now(morning.workshop, morning.workshop.overhauls.snapshot(unit_2(morning)).state)
    first = min(
        (p for p in made.placed if p.id != SHUTDOWN and pieces[p.id].joint == "main-3"), key=lambda p: p.start_min
    )
    assert first.start_min >= problem.not_before_min
    assert ground_of(now.overhaul, now.sheet, now.runs).stand("main-3").work is None


def test_a_plan_is_looked_for_beside_everything_else_and_is_old_once_the_engine_goes_on(world: World) -> None:
    world.found("unit-2", head_4="open", liner_4="open", rod_4="open")
    shop, bram = world.workshop, actor(world.workshop, "Bram Okafor")
    here = unit_2(world)
    assert plan_now(shop, here).state == "none"
    with pytest.raises(Refusal) as refused:
        plans.begin_plan(shop, actor(shop, "Lio Sandvik"), here, PlanAsked())
    assert refused.value.code == "not_your_right"
    plans.begin_plan(shop, bram, here, PlanAsked(seconds=2.0))
    shown = until(lambda: plan_now(shop, here), lambda p: p.state == "ready")
    assert {work.label for work in shown.work} == {"Head 4", "Liner 4", "Rod 4"}
    assert shown.finish_at is not None
    assert shown.first_come_at is not None
    assert shown.finish_at <= shown.first_come_at
    assert [w.start_at for w in shown.work] == sorted(w.start_at for w in shown.work)
    order = [work.label for work in shown.work]
    assert order.index("Rod 4") > len(order) - 1 - order[::-1].index("Liner 4"), "into a liner that is home"
    assert not shown.old
    tell(world, "Bram Okafor", {"kind": "remark", "words": "Crane away on Thursday"})
    assert plan_now(shop, here).old


def test_what_speaks_against_any_plan_is_said_by_name(world: World) -> None:
    world.found("unit-2", head_4="landed")
    shop, bram = world.workshop, actor(world.workshop, "Bram Okafor")
    here = unit_2(world)
    plans.begin_plan(shop, bram, here, PlanAsked(people=1))
    shown = until(lambda: plan_now(shop, here), lambda p: p.state == "failed")
    assert (shown.refused, shown.refused_with.get("there")) == ("plan_no_hands", "1")
    for number in ("HT-52", "HT-53"):
        tools.withdraw_tool(shop, bram, number, "Leaks")
    plans.begin_plan(shop, bram, here, PlanAsked())
    shown = until(lambda: plan_now(shop, here), lambda p: p.state == "failed" and p.refused != "plan_no_hands")
    assert (shown.refused, shown.refused_with["set"]) == ("plan_no_set", "tensioner-m52")


def test_looking_is_stopped_when_asked_and_what_was_found_stays(morning: World) -> None:
    shop, bram = morning.workshop, actor(morning.workshop, "Bram Okafor")
    here = unit_2(morning)
    plans.begin_plan(shop, bram, here, PlanAsked(seconds=300.0))
    found = until(lambda: plan_now(shop, here), lambda p: p.finish_at is not None)
    assert found.state == "looking"
    plans.stop_plan(shop, bram, here)
    stopped = plan_now(shop, here)
    assert stopped.state == "stopped"
    assert stopped.finish_at is not None
    time.sleep(1.0)
    assert plan_now(shop, here).state == "stopped", "nobody writes after that"
