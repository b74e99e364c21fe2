"""The plan of an overhaul as it stands: what is left of it, looked for beside everything else, stopped when asked."""

from __future__ import annotations

import csv
import io
import multiprocessing
import os
import signal
import threading
import time
from collections.abc import Callable
from datetime import timedelta
from typing import TypeVar
from uuid import UUID, uuid4

import pytest
from icalendar import Calendar
from pypdf import PdfReader

from jorvek.core.overhaul.log import commands as oc
from jorvek.core.overhaul.rules.joint_conditions import ground_of
from jorvek.core.overhaul.views.outage import SHUTDOWN
from jorvek.core.plan.check import broken
from jorvek.core.plan.problem import demand_sound
from jorvek.core.refusal import Refusal
from jorvek.core.run.log.cells import InputType
from jorvek.core.run.rules.progress import next_call
from jorvek.local.demo import DEMO_PIN, actor
from jorvek.planning.solve import plan
from jorvek.work.engine import tools
from jorvek.work.engine.overhauls import engine_now
from jorvek.work.helpers import SOLVING
from jorvek.work.plan import files, papers, search
from jorvek.work.plan.current import plan_now
from jorvek.work.plan.files import Made
from jorvek.work.plan.problem import PlanAsked
from jorvek.work.plan.problem import outage as problem_now
from jorvek.work.plan.today import today_for
from jorvek.work.plan.views import PlanShown
from tests.conftest import World
from tests.store.test_engine_as_a_whole import overhaul_of, tell

PATIENCE_S = 600.0


def unit_2(world: World) -> UUID:
    return overhaul_of(world).overhaul_id


SeenT = TypeVar("SeenT")


def until(look: Callable[[], SeenT], good: Callable[[SeenT], bool]) -> SeenT:
    patient = time.monotonic() + PATIENCE_S
    while not good(shown := look()):
        assert time.monotonic() < patient, shown
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
        search.begin_plan(shop, actor(shop, "Lio Sandvik"), here, PlanAsked())
    assert refused.value.code == "not_your_right"
    search.begin_plan(shop, bram, here, PlanAsked(seconds=2.0))
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
    search.begin_plan(shop, bram, here, PlanAsked(people=1))
    shown = until(lambda: plan_now(shop, here), lambda p: p.state == "failed")
    assert (shown.refused, shown.refused_with.get("there")) == ("plan_no_hands", "1")
    for number in ("HT-52", "HT-53"):
        tools.withdraw_tool(shop, bram, number, "Leaks")
    search.begin_plan(shop, bram, here, PlanAsked())
    shown = until(lambda: plan_now(shop, here), lambda p: p.state == "failed" and p.refused != "plan_no_hands")
    assert (shown.refused, shown.refused_with["set"]) == ("plan_no_set", "tensioner-m52")


def test_looking_is_stopped_when_asked_and_what_was_found_stays(morning: World) -> None:
    shop, bram = morning.workshop, actor(morning.workshop, "Bram Okafor")
    here = unit_2(morning)
    search.begin_plan(shop, bram, here, PlanAsked(seconds=300.0))
    found = until(lambda: plan_now(shop, here), lambda p: p.finish_at is not None)
    assert found.state == "looking"
    search.stop_plan(shop, bram, here)
    stopped = plan_now(shop, here)
    assert stopped.state == "stopped"
    assert stopped.finish_at is not None
    time.sleep(1.0)
    assert plan_now(shop, here).state == "stopped", "nobody writes after that"


# ---- the plan in force -----------------------------------------------------------------------------------------------


def taken(world: World, *names: str, engine: str = "unit-2", seconds: float = 1.0) -> PlanShown:
    """A plan for people by name, found and taken."""
    shop, bram = world.workshop, actor(world.workshop, "Bram Okafor")
    here = overhaul_of(world, engine).overhaul_id
    who = tuple(actor(shop, name).id for name in names)
    search.begin_plan(shop, bram, here, PlanAsked(who=who, seconds=seconds, what_if=False))
    shown = until(lambda: plan_now(shop, here), lambda p: p.state in ("ready", "failed"))
    assert shown.made_at is not None, shown.refused
    search.take_plan(shop, bram, here, oc.TakePlan(kind="take_plan", id=uuid4(), made_at=shown.made_at))
    return shown


def left_looking(world: World, *, again: bool) -> Made:
    """A plan that a server was looking for when it was killed: the file says so, and nobody gives a sign of life."""
    seal, made_at = files.seal_of(world.workshop, unit_2(world)), world.workshop.clock()
    asked = PlanAsked(seconds=2.0, what_if=False)
    left = Made(state="looking", ticket=uuid4(), asked=asked, made_at=made_at, seal=seal, again=again)
    files.write(files.file_of(world.workshop, unit_2(world)), left)
    return left


def test_a_plan_whose_server_stopped_is_begun_again_once_and_says_so(morning: World) -> None:
    shop, overhaul = morning.workshop, unit_2(morning)
    left = left_looking(morning, again=False)
    assert not files.looks_still(shop, overhaul, left)
    threads = [threading.Thread(target=search.begin_again, args=(shop, overhaul)) for _ in range(6)]
    for one in threads:
        one.start()
    for one in threads:
        one.join()
    begun = files.read(files.file_of(shop, overhaul))
    assert begun is not None
    assert begun.ticket != left.ticket
    assert plan_now(shop, overhaul).again, "whoever looks is told"
    search.begin_again(shop, overhaul)
    still = files.read(files.file_of(shop, overhaul))
    assert still is not None
    assert still.ticket == begun.ticket, "somebody looks: nothing is begun beside it"
    assert until(lambda: plan_now(shop, overhaul), lambda shown: shown.state != "looking").state == "ready"


def test_a_plan_whose_server_stopped_twice_has_failed_and_may_be_asked_for_anew(morning: World) -> None:
    left_looking(morning, again=True)
    search.begin_again(morning.workshop, unit_2(morning))
    assert plan_now(morning.workshop, unit_2(morning)).state == "failed"


def test_a_helper_killed_in_the_middle_is_begun_again_once_then_the_plan_has_failed(morning: World) -> None:
    shop, overhaul = morning.workshop, unit_2(morning)
    search.begin_plan(shop, actor(shop, "Bram Okafor"), overhaul, PlanAsked(seconds=300.0, what_if=False))
    first = kill_helper(overhaul)
    anew = until(lambda: files.read(files.file_of(shop, overhaul)), lambda made: made is not None and made.again)
    assert anew is not None
    assert anew.state == "looking"
    kill_helper(overhaul, but=first)
    assert until(lambda: plan_now(shop, overhaul), lambda shown: shown.state != "looking").state == "failed"
    assert not SOLVING.holds(overhaul)


def kill_helper(overhaul: UUID, but: int | None = None) -> int:
    """Kill the process that looks for the plan of an overhaul, as a machine without memory would."""

    def pids() -> list[int]:
        turns = [one for one in SOLVING._turns if one.name == overhaul and one.runs]
        return [one.process.pid for one in turns if one.process.pid not in (None, but)]

    (pid,) = until(pids, bool)
    os.kill(pid, signal.SIGKILL)
    return pid


def test_the_plan_in_force_is_an_event_with_who_took_it_and_goes_as_planned_while_nothing_happens(
    world: World,
) -> None:
    world.found("unit-2", head_4="open", liner_4="open", rod_4="open")
    found = taken(world, "Bram Okafor", "Dessa Marlow")
    state = overhaul_of(world)
    assert state.plan is not None
    assert (state.plan.by.name, state.plan.plan.finish_at) == ("Bram Okafor", found.finish_at)
    assert [p.name for p in state.plan.plan.people] == ["Bram Okafor", "Dessa Marlow"]
    goes = plan_now(world.workshop, unit_2(world))
    assert (goes.state, goes.finish_at) == ("in_force", found.finish_at)
    assert [w.id for w in goes.work] == [w.id for w in found.work]
    assert [w.start_at for w in goes.work] == [w.start_at for w in found.work]
    assert goes.in_force is not None
    assert {job.state for job in goes.in_force.jobs} == {"to_come"}


def test_whoever_loses_half_a_day_sees_it_at_once_and_what_is_done_is_held_against_the_plan(world: World) -> None:
    world.found("unit-2", head_4="landed")
    taken(world, "Dessa Marlow", "Lio Sandvik")
    world.clock.forward(2 * 3600)
    late = plan_now(world.workshop, unit_2(world)).in_force
    assert late is not None
    assert late.forecast_at is not None
    assert late.forecast_at >= late.finish_at + timedelta(hours=1, minutes=30)
    player = world.player("Dessa Marlow")
    player.start("unit-2", "head-4", world.procedure, find=False)
    under_way = plan_now(world.workshop, unit_2(world)).in_force
    assert under_way is not None
    first = next(job for job in under_way.jobs if job.joint == "head-4")
    assert (first.state, first.run_id, first.start_at) == ("under_way", player.run_id, world.clock.now)
    chief = actor(world.workshop, "Ines Halloran")
    while next_call(player.play()) is not None:
        player.sign(chief, DEMO_PIN)
    player.close(chief)
    done = plan_now(world.workshop, unit_2(world)).in_force
    assert done is not None
    first = next(job for job in done.jobs if job.id == first.id)
    assert (first.state, first.end_at) == ("done", world.clock.now)


def test_a_set_that_is_withdrawn_is_told_and_named_as_the_cause_of_the_next_plan(world: World) -> None:
    world.found("unit-2", head_4="landed", head_5="landed")
    taken(world, "Bram Okafor", "Dessa Marlow")
    shop, bram, here = world.workshop, actor(world.workshop, "Bram Okafor"), unit_2(world)
    world.clock.forward(60)
    for number in ("HT-52", "HT-53"):
        tools.withdraw_tool(shop, bram, number, "Leaks")
    stuck = plan_now(shop, here)
    assert stuck.refused == "plan_no_set"
    assert stuck.work, "shown as it was taken, where nobody can tell how it goes on"
    search.begin_plan(shop, bram, here, PlanAsked(sets={"tensioner-m52": 1}, seconds=1.0, what_if=False))
    anew = until(lambda: plan_now(shop, here), lambda p: p.state == "ready")
    assert {cause.code for cause in anew.causes} == {"tool_withdrawn"}
    assert {cause.what.partition(":")[0] for cause in anew.causes} == {"HT-52", "HT-53"}


def test_what_is_next_is_told_to_those_who_are_in_it_and_to_nobody_else(world: World) -> None:
    world.found("unit-2", head_4="landed")
    taken(world, "Dessa Marlow", "Lio Sandvik")
    shop = world.workshop
    dessa = today_for(shop, actor(shop, "Dessa Marlow"))
    assert 1 <= len(dessa) <= 3
    assert [one.work.start_at for one in dessa] == sorted(one.work.start_at for one in dessa)
    assert {one.engine for one in dessa} == {"Unit 2"}
    assert not today_for(shop, actor(shop, "Bram Okafor"))


def test_a_plan_that_was_not_looked_at_is_not_taken_and_only_a_lead_hand_takes_one(world: World) -> None:
    world.found("unit-2", head_4="landed")
    shop, here = world.workshop, unit_2(world)
    never = oc.TakePlan(kind="take_plan", id=uuid4(), made_at=world.clock.now)
    with pytest.raises(Refusal) as refused:
        search.take_plan(shop, actor(shop, "Bram Okafor"), here, never)
    assert refused.value.code == "plan_gone"
    shown = taken(world, "Bram Okafor", "Dessa Marlow")
    assert shown.made_at is not None
    again = oc.TakePlan(kind="take_plan", id=uuid4(), made_at=shown.made_at)
    with pytest.raises(Refusal) as refused:
        search.take_plan(shop, actor(shop, "Lio Sandvik"), here, again)
    assert refused.value.code == "not_your_right"


def test_two_who_ask_at_once_get_one_plan_and_the_first_one_writes_no_more(world: World) -> None:
    world.found("unit-2", head_4="landed")
    shop, bram, here = world.workshop, actor(world.workshop, "Bram Okafor"), unit_2(world)
    before = set(multiprocessing.active_children())
    threads = [
        threading.Thread(
            target=search.begin_plan, args=(shop, bram, here, PlanAsked(people=n, seconds=2.0, what_if=False))
        )
        for n in (2, 3)
    ]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    # The other one is ended at once.
    until(lambda: set(multiprocessing.active_children()) - before, lambda working: len(working) == 1)
    asked = plan_now(shop, here).asked.people
    shown = until(lambda: plan_now(shop, here), lambda p: p.state == "ready")
    assert shown.asked.people == asked
    time.sleep(1.0)
    assert plan_now(shop, here).asked.people == asked


def test_the_plan_on_paper_as_a_table_and_in_a_diary(world: World) -> None:
    world.found("unit-2", head_4="landed")
    shown = taken(world, "Dessa Marlow", "Lio Sandvik")
    shop, here = world.workshop, unit_2(world)
    rows = list(csv.DictReader(io.StringIO(papers.plan_table(shop, here).decode())))
    assert len(rows) == len(shown.work) + len(shown.moves)
    assert {row["who"] for row in rows} <= {"Dessa Marlow", "Lio Sandvik", "Dessa Marlow, Lio Sandvik"}
    diary = Calendar.from_ical(papers.plan_diary(shop, here, 0))
    events = list(diary.walk("VEVENT"))
    assert len(events) == sum("Dessa Marlow" in row["who"] for row in rows)
    assert len({str(event["uid"]) for event in events}) == len(events), "each has a name of its own that stays"
    again = Calendar.from_ical(papers.plan_diary(shop, here, 0))
    assert [str(e["uid"]) for e in again.walk("VEVENT")] == [str(e["uid"]) for e in events]
    day = shown.work[0].start_at.date()
    pdf = PdfReader(io.BytesIO(papers.day_sheets(shop, here, day, None)))
    assert len(pdf.pages) == 2
    assert "Dessa Marlow" in pdf.pages[0].extract_text()
    world.found("unit-4", head_1="landed")
    with pytest.raises(Refusal) as refused:
        papers.plan_table(shop, overhaul_of(world, "unit-4").overhaul_id)
    assert refused.value.code == "plan_none"


def test_minutes_come_from_earlier_runs_once_there_are_enough(world: World) -> None:
    """Three heads closed up by hands that take their time; the fourth is planned with what they took."""
    world.found("unit-2", head_1="tight", head_2="tight", head_3="tight", head_4="tight")
    shop = world.workshop
    digest = next(h.hash for h in shop.registers.revisions() if h.id == "tarnholt-7l34-head-close")

    def known() -> set[str]:
        asked = problem_now(shop, unit_2(world), PlanAsked())
        return {piece.known for piece in asked.pieces.values() if piece.joint == "head-4"}

    assert known() == {"usual"}
    for joint in ("head-1", "head-2", "head-3"):
        player, chief = world.player("Dessa Marlow"), actor(shop, "Ines Halloran")
        player.start("unit-2", joint, digest, find=False)
        while (call := next_call(player.state())) is not None:
            world.clock.forward(150)
            if call.ask is InputType.SIGNATURE:
                player.sign(chief, DEMO_PIN)
            else:
                player.play(until=lambda other, key=call.key: other.key != key)  # type: ignore[misc]  # bound now
        player.close(chief)
    assert "learned" in known()
