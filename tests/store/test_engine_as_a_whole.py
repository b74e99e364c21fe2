"""The engine as a whole through the acts of the workshop: one transaction, one lock, what runs ask of each other."""

from __future__ import annotations

from datetime import timedelta
from functools import partial
from typing import Any
from uuid import UUID, uuid4

import pytest
import sqlalchemy as sa
from pydantic import TypeAdapter

from jorvek.core.overhaul.log import commands as oc
from jorvek.core.overhaul.log.state import Overhaul
from jorvek.core.procedure.options import selections
from jorvek.core.refusal import Refusal
from jorvek.core.run.log import events as ev
from jorvek.core.run.log.cells import Cell
from jorvek.core.run.log.commands import Late, RecordReading, SettleClaim, StrikeReading
from jorvek.core.run.log.events import RuleDeparted
from jorvek.core.run.rules.engine_effects import moves_crank
from jorvek.core.run.rules.progress import next_call
from jorvek.core.run.views.looking import Looking
from jorvek.core.run.views.offline_tasks import offline_tasks
from jorvek.local.demo import DEMO_PIN, actor
from jorvek.local.player import Player
from jorvek.store import tables as t
from jorvek.store.verify import verify
from jorvek.work.engine import overhauls, tools
from jorvek.work.engine.berth import berth
from jorvek.work.engine.page import engine_page, glance, sweep_for
from jorvek.work.runs import acts
from tests.conftest import World
from tests.store.test_races import held_open, one_inside_the_other, shelf, together, two_workshops

LOOSEN, LAND, CLOSE = "tarnholt-7l34-head-loosen", "tarnholt-7l34-head-land", "tarnholt-7l34-head-close"


def no(act: Any, *args: Any, **kwargs: Any) -> str:
    with pytest.raises(Refusal) as refused:
        act(*args, **kwargs)
    return refused.value.code


def overhaul_of(world: World, engine: str = "unit-2") -> Overhaul:
    found = overhauls.open_on(world.workshop, engine)
    assert found is not None
    return found


def tell(world: World, who: str, command: dict[str, Any], engine: str = "unit-2", **how: Any) -> Overhaul:
    parsed: oc.OverhaulCommand = TypeAdapter(oc.OverhaulCommand).validate_python({"id": uuid4(), **command})
    world.clock.forward(30)
    snapshot = overhauls.act(
        world.workshop, actor(world.workshop, who), overhaul_of(world, engine).overhaul_id, parsed, **how
    )
    return snapshot.state


def opened(world: World, engine: str = "unit-2", *scope: str) -> UUID:
    lead = actor(world.workshop, "Bram Okafor")
    command = overhauls.OpenOverhaul(
        id=uuid4(), overhaul_id=uuid4(), engine_id=engine, title="Outage", scope=scope, as_it_ran=True
    )
    overhauls.open_overhaul(world.workshop, lead, command)
    return command.overhaul_id


def begun(world: World, joint: str, name: str, who: str = "Bram Okafor", **options: str) -> Player:
    player = world.player(who)
    player.start("unit-2", joint, shelf(world.workshop, name).hash, options or None, find=False)
    return player


def at(player: Player, until: Any) -> Cell:
    cell = next_call(player.play(until))
    assert cell is not None
    return cell


def finished(world: World, player: Player) -> None:
    chief = actor(world.workshop, "Ines Halloran")
    while (asked := next_call(player.play())) is not None:
        assert asked.kind == "hold_point"
        player.sign(chief, DEMO_PIN)
    player.close(chief)


# ---- opening ---------------------------------------------------------------------------------------------------------


def test_a_single_job_opens_a_small_overhaul_with_its_first_start(world: World) -> None:
    bram = actor(world.workshop, "Lio Sandvik")
    revision = shelf(world.workshop, LOOSEN)
    command = acts.StartRun(
        id=uuid4(), run_id=uuid4(), engine_id="unit-4", joint_key="head-3", procedure_hash=revision.hash
    )
    assert no(acts.start_run, world.workshop, bram, command) == "conditions_unknown"
    assert overhauls.open_on(world.workshop, "unit-4") is None, "what is refused opens nothing"
    asked = command.model_copy(update={"as_it_ran": True})
    snapshot = acts.start_run(world.workshop, bram, asked)
    small = overhaul_of(world, "unit-4")
    assert small.opened.small
    assert snapshot.state.started.overhaul == small.overhaul_id
    assert acts.start_run(world.workshop, bram, asked).state.seq == 1, "the same start again changes nothing"
    assert len(world.workshop.overhauls.rows()) == 1


def test_an_engine_has_one_overhaul_at_a_time_and_a_mechanic_opens_none(world: World) -> None:
    opened(world)
    assert no(opened, world) == "engine_taken"
    command = overhauls.OpenOverhaul(id=uuid4(), overhaul_id=uuid4(), engine_id="unit-5", title="Mine")
    assert no(overhauls.open_overhaul, world.workshop, actor(world.workshop, "Lio Sandvik"), command) == (
        "not_your_right"
    )


def test_in_mid_outage_open_runs_are_taken_over_and_go_on_while_the_rest_waits_for_a_word(world: World) -> None:
    before = world.started()
    with world.workshop.database.engine.begin() as connection:
        # As a site has it that worked before there were overhauls.
        for table in (t.overhaul_event, t.overhaul):
            connection.execute(table.delete())
    world.workshop.overhauls._cache.clear()
    before.play(lambda cell: cell.step == "seat")
    lead = actor(world.workshop, "Bram Okafor")
    taking = overhauls.OpenOverhaul(id=uuid4(), overhaul_id=uuid4(), engine_id="unit-2", title="Taken over")
    overhauls.open_overhaul(world.workshop, lead, taking)
    assert overhaul_of(world).opened.took_over == (before.run_id,)
    before.play(lambda cell: cell.step == "tools-off")
    assert no(begun, world, "head-5", LOOSEN) == "access_own" or no(begun, world, "head-5", LOOSEN) == "access_unknown"
    tell(world, "Bram Okafor", {"kind": "declare_conditions", "found": {"head-5": "closed_up"}, "words": "Seen"})
    assert no(begun, world, "head-5", LOOSEN) == "access_unknown", "its liner was not spoken of yet"
    tell(world, "Bram Okafor", {"kind": "declare_conditions", "found": {"liner-5": "landed"}, "words": "Seen"})
    begun(world, "head-5", LOOSEN)


# ---- access ----------------------------------------------------------------------------------------------------------


def test_a_joint_is_begun_from_the_condition_that_its_last_run_left(world: World) -> None:
    opened(world)
    assert no(begun, world, "head-4", LAND) == "access_own"
    finished(world, begun(world, "head-4", LOOSEN))
    assert no(begun, world, "head-4", "tarnholt-7l34-head-tighten") == "access_own", "it was not landed"
    finished(world, begun(world, "head-4", LAND))
    begun(world, "head-4", "tarnholt-7l34-head-tighten")
    assert no(begun, world, "liner-4", "tarnholt-7l34-liner-draw") == "access_under_way"


def test_a_departure_passes_no_rule_that_hurts_and_is_written_into_the_run(world: World) -> None:
    opened(world)
    tell(world, "Bram Okafor", {"kind": "declare_conditions", "found": {"main-3": "open"}, "words": "Off on paper"})
    draw = RuleDeparted(rule="neighbouring-mains", joint="main-3", reason="Only for a look")
    assert no(_start, world, "Bram Okafor", "main-4", "tarnholt-7l34-main-loosen", draw) == "access_rule"
    tell(world, "Bram Okafor", {"kind": "declare_conditions", "found": {"rod-3": "open"}, "words": "Open on paper"})
    rule = RuleDeparted(rule="mains-before-rod", joint="main-3", reason="Trial closing, opened again today")
    assert no(_start, world, "Bram Okafor", "rod-3", "tarnholt-7l34-rod-tighten") == "access_rule"
    assert no(_start, world, "Lio Sandvik", "rod-3", "tarnholt-7l34-rod-tighten", rule) == "not_your_right"
    state = _start(world, "Bram Okafor", "rod-3", "tarnholt-7l34-rod-tighten", rule)
    assert state.started.departures == (rule,)


def _start(world: World, who: str, joint: str, name: str, *departures: RuleDeparted) -> Any:
    revision = shelf(world.workshop, name)
    procedure = revision.procedure
    command = acts.StartRun(
        id=uuid4(),
        run_id=uuid4(),
        engine_id="unit-2",
        joint_key=joint,
        procedure_hash=revision.hash,
        selection=next((way for way in selections(procedure) if way.get("piston") != "in"), {}),
        observed=tuple(ev.Observed(key=k.id, value=k.values[0], evidence=k.evidence) for k in procedure.variants),
        departures=departures,
    )
    return acts.start_run(world.workshop, actor(world.workshop, who), command).state


# ---- made safe once --------------------------------------------------------------------------------------------------


def test_what_one_run_made_safe_the_next_is_not_asked_again(world: World) -> None:
    opened(world)
    first = begun(world, "head-4", LOOSEN)
    at(first, lambda cell: cell.kind != "make_safe")
    isolated = set(overhaul_of(world).isolations)
    assert {"starting_air", "turning_gear", "fuel"} <= isolated
    second = begun(world, "head-5", LOOSEN, "Lio Sandvik")
    state = second.state()
    held = {one.cell for one in state.started.in_force}
    made_safe = [c for c in state.definition.cells if c.kind == "make_safe"]
    assert held == {c.key for c in made_safe}
    answer = state.live(made_safe[0].key)
    assert answer is not None
    assert (answer.by.name, answer.source) == ("Bram Okafor", "engine"), "shown with whoever did it"
    assert next_call(state).kind != "make_safe"  # type: ignore[union-attr]  # a run that has just begun has a call


def test_a_struck_isolation_is_asked_again_where_it_was_made_and_wherever_it_was_relied_on(world: World) -> None:
    opened(world)
    first = begun(world, "head-4", LOOSEN)
    at(first, lambda cell: cell.kind != "make_safe")
    second = begun(world, "head-5", LOOSEN, "Lio Sandvik")
    cell = next(c for c in first.state().definition.cells if c.key == "make-safe/fuel")
    first.send(StrikeReading(kind="strike", id=uuid4(), cell=cell.key, attempt=1, reason="It was the other valve"))
    assert overhaul_of(world).in_force("fuel") is None
    asked = next_call(second.state())
    assert asked is not None
    assert asked.key == "make-safe/fuel"
    assert second.state().redos[-1].reason.startswith("The isolation: Bram Okafor")


def test_no_correction_takes_an_isolation_from_under_somebody_inside(world: World) -> None:
    opened(world)
    run = begun(world, "head-4", LOOSEN)
    at(run, lambda cell: cell.kind != "make_safe")
    lio = actor(world.workshop, "Lio Sandvik")
    tell(world, "Lio Sandvik", {"kind": "move_door", "door": "door-4", "now": "open"})
    entry = {"kind": "enter", "person": lio.id, "space": "crankcase", "permit": "P", "attendant": "T"}
    state = tell(world, "Lio Sandvik", {**entry, "door": "door-4", "oxygen_pct": 20.9, "gas_pct": 0.0})
    strike = StrikeReading(kind="strike", id=uuid4(), cell="make-safe/turning-gear", attempt=1, reason="Wrong valve")
    assert no(run.send, strike) == "person_inside"
    assert overhaul_of(world).in_force("turning_gear") is not None
    tell(world, "Lio Sandvik", {"kind": "leave", "entered": state.inside[0].seq}, pin=DEMO_PIN)
    run.send(strike)
    assert overhaul_of(world).in_force("turning_gear") is None


def test_what_was_made_safe_without_a_link_isolates_once_it_is_taken_in(world: World) -> None:
    opened(world)
    run = begun(world, "head-4", LOOSEN)
    run.pause()
    tick = RecordReading(kind="record", id=uuid4(), cell="make-safe/starting-air", attempt=1, answer=ev.TickAnswer())
    late = Late(batch=uuid4(), saw=1, kept_s=30.0)
    claimed = acts.act(world.workshop, run.hands, run.run_id, tick, late=late)
    assert len(claimed.state.claims) == 1
    assert not overhaul_of(world).isolations, "nobody has said yet that it counts"
    run.take_over(run.hands)
    run.send(SettleClaim(kind="settle_claim", id=uuid4(), claim=claimed.state.claims[0].seq, take=True))
    now = overhaul_of(world).in_force("starting_air")
    assert now is not None
    assert now.run == run.run_id


def test_what_others_rely_on_is_not_given_back_by_the_job_that_thought_it_was_the_last(world: World) -> None:
    opened(world)
    tell(world, "Bram Okafor", {"kind": "declare_conditions", "found": {"head-2": "open"}, "words": "Off"})
    tell(world, "Bram Okafor", {"kind": "declare_conditions", "found": {"head-1": "tight"}, "words": "Tight on paper"})
    for point in ("starting_air", "fuel", "turning_gear", "coolant"):
        tell(world, "Bram Okafor", {"kind": "isolate", "point": point})
    closing = begun(world, "head-1", CLOSE)
    cell = at(closing, lambda cell: cell.kind == "restore")
    tick = RecordReading(kind="record", id=uuid4(), cell=cell.key, attempt=1, answer=ev.TickAnswer())
    assert no(acts.act, world.workshop, closing.hands, closing.run_id, tick) == "isolation_relied_on"
    finished(world, closing)
    assert {"starting_air", "fuel", "turning_gear", "coolant"} <= set(overhaul_of(world).isolations)
    owed = [one.text for one in _page(world).owed if one.joint == "Head 1"]
    assert any("Water outlet" in text for text in owed), "the look under water waits for whoever is last"


def test_a_lone_job_gives_everything_back_and_its_engine_can_be_closed(world: World) -> None:
    opened(world)
    for name in (LOOSEN, LAND, "tarnholt-7l34-head-tighten", CLOSE):
        finished(world, begun(world, "head-4", name))
    assert not overhaul_of(world).isolations, "starting air came back when nothing relied on it any more"
    page = _page(world)
    assert not page.owed
    assert {(one.why, one.what) for one in page.held_up} <= {("check", one.point) for one in page.close_out.steps}
    for one in page.close_out.steps:
        if not one.done:
            current = 14.0 if one.point == "barred" else None
            if one.point == "barred" and overhaul_of(world).in_force("turning_gear") is not None:
                tell(world, "Bram Okafor", {"kind": "free_gear", "commander": "Bram"})
            tell(world, "Bram Okafor", {"kind": "see_to", "check": one.point, "words": "Seen", "current_A": current})
    assert no(tell, world, "Ines Halloran", {"kind": "close_overhaul"}) == "pin_needed"
    tell(world, "Ines Halloran", {"kind": "close_overhaul"}, pin=DEMO_PIN)
    assert overhauls.open_on(world.workshop, "unit-2") is None


def _page(world: World) -> Any:
    page = engine_page(world.workshop, actor(world.workshop, "Bram Okafor"), "unit-2").overhaul
    assert page is not None
    return page


# ---- the crank -------------------------------------------------------------------------------------------------------


def _two_rods(world: World) -> tuple[Player, Player]:
    opened(world)
    first = begun(world, "rod-1", "tarnholt-7l34-rod-loosen", piston="stay")
    at(first, lambda cell: cell.kind == "crank_position")
    second = begun(world, "rod-2", "tarnholt-7l34-rod-loosen", "Lio Sandvik", piston="stay")
    return first, second


def test_a_crank_barred_for_one_rod_is_asked_again_of_the_rod_that_relied_on_it(world: World) -> None:
    first, second = _two_rods(world)
    at(first, lambda cell: cell.kind not in ("crank_position", "make_safe"))
    first.lock_gear()
    crank = overhaul_of(world).crank
    assert crank is not None
    here = crank.angle_deg
    assert here is not None
    at(second, lambda cell: cell.kind == "crank_position" and cell.item == "reached")
    asked = next_call(first.state())
    assert asked is not None
    assert asked.traits.crank == "still", "nothing has moved yet"
    assert sweep_for(world.workshop, second.run_id).crank.concerned[0].joint == "Rod 1"  # type: ignore[union-attr]  # it is there
    second.play(lambda cell: cell.kind not in ("crank_position", "make_safe"))
    there = overhaul_of(world).crank
    assert there is not None
    assert there.angle_deg != pytest.approx(here)
    state = first.state()
    reached = next(c for c in state.definition.cells if c.kind == "crank_position" and c.item == "reached")
    assert state.live(reached.key) is None, "proved at its dead centre, barred away since: it asks again"
    assert "The crank" in state.redos[-1].reason


def test_nobody_knows_where_a_crank_stands_that_was_turned_by_hand_to_feel_for_tight_spots(world: World) -> None:
    opened(world)
    finished(world, begun(world, "rod-1", "tarnholt-7l34-rod-loosen", piston="stay"))
    rod = begun(world, "rod-1", "tarnholt-7l34-rod-tighten", piston="stayed", shell="after")
    at(rod, lambda cell: cell.kind == "turns_freely" and cell.item == "turned")
    before = [line for line in overhaul_of(world).lines if line.data.kind == "crank_moved"]
    rod.play(lambda cell: cell.kind != "turns_freely")
    after = [line for line in overhaul_of(world).lines if line.data.kind == "crank_moved"]
    assert len(after) == len(before) + 1
    crank = overhaul_of(world).crank
    assert crank is not None
    assert crank.angle_deg is None


def test_an_answer_that_was_lost_and_is_sent_again_asks_nobody_again(world: World) -> None:
    here = opened(world)
    first = begun(world, "rod-1", "tarnholt-7l34-rod-loosen", piston="stay")
    at(first, lambda cell: cell.kind == "crank_position")
    bram = actor(world.workshop, "Bram Okafor")
    fuel = oc.Remark(kind="remark", id=uuid4(), words="Rail drained")
    overhauls.act(world.workshop, bram, here, fuel)
    at(first, lambda cell: cell.kind not in ("crank_position", "make_safe"))
    assert overhaul_of(world).lines[-1].data.kind == "crank_moved", "the rod's own call, after the remark"
    before = first.state()
    again = overhauls.act(world.workshop, bram, here, fuel)
    assert again.state.lines[-1].data.kind == "crank_moved"
    assert first.state().seq == before.seq, "nothing has moved since: the dead centre stands"


def test_the_crank_waits_for_whoever_is_inside_from_a_runs_own_call_too(world: World) -> None:
    first, _ = _two_rods(world)
    lio = actor(world.workshop, "Lio Sandvik")
    tell(world, "Lio Sandvik", {"kind": "move_door", "door": "door-4", "now": "open"})
    entry = {"kind": "enter", "person": lio.id, "space": "crankcase", "permit": "P", "attendant": "T"}
    state = tell(world, "Lio Sandvik", {**entry, "door": "door-4", "oxygen_pct": 20.9, "gas_pct": 0.0})
    cell = next_call(first.state())
    assert cell is not None
    tick = RecordReading(kind="record", id=uuid4(), cell=cell.key, attempt=1, answer=ev.TickAnswer())
    assert no(acts.act, world.workshop, first.hands, first.run_id, tick) == "sweep_blocked"
    assert glance(world.workshop, first.run_id).inside == ("Lio Sandvik",)
    out = {"kind": "leave", "entered": state.inside[0].seq, "seen": True}
    assert no(tell, world, "Tam Pereira", out, pin=DEMO_PIN) == "not_theirs_to_take_off"
    assert no(tell, world, "Ines Halloran", out) == "pin_needed"
    tell(world, "Ines Halloran", out, pin=DEMO_PIN)
    acts.act(world.workshop, first.hands, first.run_id, tick)
    moving = at(first, lambda cell: moves_crank(first.state(), cell))
    read = ev.ValueAnswer(text=f"{moving.target:.0f}", unit=moving.unit or "")
    turned = RecordReading(kind="record", id=uuid4(), cell=moving.key, attempt=1, answer=read)
    assert no(acts.act, world.workshop, first.hands, first.run_id, turned) == "sweep_blocked", "its gear is locked"
    first.free_gear()
    acts.act(world.workshop, first.hands, first.run_id, turned)


def test_freed_for_one_rods_call_the_gear_stops_all_other_work_until_it_is_locked_again(world: World) -> None:
    first, second = _two_rods(world)
    head = begun(world, "head-6", LOOSEN, "Dessa Marlow")
    first.free_gear()
    assert (glance(world.workshop, head.run_id).gear_free, glance(world.workshop, head.run_id).lifted) == (
        first.hands.name,
        None,
    )
    for other in (second, head):
        waiting = next_call(other.state())
        assert waiting is not None
        tick = RecordReading(kind="record", id=uuid4(), cell=waiting.key, attempt=1, answer=ev.TickAnswer())
        assert no(acts.act, world.workshop, other.hands, other.run_id, tick) == "gear_freed"
    assert no(begun, world, "head-5", LOOSEN) == "gear_freed", "nothing is begun meanwhile"
    door = {"kind": "move_door", "door": "door-4", "now": "open"}
    tell(world, "Lio Sandvik", door)
    entry = {"kind": "enter", "person": first.hands.id, "space": "crankcase", "permit": "P", "attendant": "T"}
    air = {"oxygen_pct": 20.9, "gas_pct": 0.0}
    assert no(tell, world, "Bram Okafor", {**entry, "door": "door-4", **air}) == "gear_not_locked"
    before = first.state().seq
    at(first, lambda cell: cell.kind != "crank_position")
    assert first.state().gear is not None
    assert first.state().seq > before
    first.play(lambda cell: first.state().gear is None)
    assert second.state().gear is None, "locked again: whoever waited goes on by themselves"
    kinds = [line.data.kind for line in overhaul_of(world).lines]
    assert kinds[-1] == "gear_locked"
    assert kinds.count("gear_freed") == 1
    verify(world.workshop.database)


def test_a_press_sent_twice_frees_the_gear_once_and_tells_each_run_once(world: World) -> None:
    first, second = _two_rods(world)
    free = oc.FreeGear(kind="free_gear", id=uuid4(), commander="Bram", run=first.run_id)
    for _ in range(2):
        overhauls.act(world.workshop, first.hands, overhaul_of(world).overhaul_id, free)
    told = [e for e in world.workshop.log.stored(second.run_id) if e.event.data.kind == "gear_told"]
    assert len(told) == 1


def test_a_door_is_not_shut_on_somebody_inside_nor_without_a_link(world: World) -> None:
    opened(world)
    player = begun(world, "rod-4", "tarnholt-7l34-rod-loosen", piston="stay")
    finished(world, player)
    back = begun(world, "rod-4", "tarnholt-7l34-rod-tighten", piston="stayed", shell="after")
    at(back, lambda cell: cell.step_id == "door")
    back.sign(actor(world.workshop, "Ines Halloran"), DEMO_PIN)
    door = at(back, lambda cell: cell.step_id == "door")
    ahead = offline_tasks(back.state(), Looking(back.hands.id, back.hands.role, world.clock.now))
    assert ahead.step == "door"
    assert not ahead.calls, "nobody shuts a door without knowing who is inside"
    entry = {"kind": "enter", "person": back.hands.id, "space": "crankcase", "permit": "P", "attendant": "T"}
    state = tell(world, "Lio Sandvik", {**entry, "door": "door-4", "oxygen_pct": 20.9, "gas_pct": 0.0})
    tick = RecordReading(kind="record", id=uuid4(), cell=door.key, attempt=1, answer=ev.TickAnswer())
    assert no(acts.act, world.workshop, back.hands, back.run_id, tick) == "person_inside"
    tell(world, "Bram Okafor", {"kind": "leave", "entered": state.inside[0].seq}, pin=DEMO_PIN)
    assert acts.act(world.workshop, back.hands, back.run_id, tick).state.live(door.key) is not None


def flame(world: World) -> dict[str, Any]:
    """Hot work that Lio asks for, everything in order."""
    until = world.clock.now + timedelta(hours=4)
    said = {"work": "Bracket welded", "place": "Exhaust", "watch": "Tam", "permit": "HW-7", "shut": "Ines has looked"}
    lio = actor(world.workshop, "Lio Sandvik")
    return {"kind": "begin_hot_work", "person": lio.id, "until_at": until, "gas_pct": 0.0, **said}


def test_an_angle_told_later_asks_the_runs_again_once_somebody_has_looked_and_not_before(world: World) -> None:
    opened(world)
    rod = begun(world, "rod-1", "tarnholt-7l34-rod-loosen", piston="stay")
    rod.play(lambda cell: cell.kind != "crank_position" and rod.state().live("crank/moved") is not None)
    holds = next(run.crank_cell for run in overhauls.runs_on(world.workshop, "unit-2") if run.run_id == rod.run_id)
    assert holds is not None
    paper = {"by": actor(world.workshop, "Bram Okafor").id, "at": world.clock.now}
    found = {"kind": "find_crank", "angle_deg": 33.0, "proof": "Mark and cam", "paper": paper}
    told = tell(world, "Bram Okafor", found).lines[-1]
    assert rod.state().live(holds) is not None, "only told: it changes nothing"
    look = {"kind": "look_at_told", "entry": told.seq, "words": "Read on the wheel"}
    tell(world, "Ines Halloran", look, pin=DEMO_PIN)
    assert rod.state().live(holds) is None, "it counts: whoever relied on the angle is asked again"


def test_whoever_stands_outside_begins_no_other_work(world: World) -> None:
    opened(world)
    tell(world, "Bram Okafor", {"kind": "isolate", "point": "turning_gear"})
    lio, dessa = actor(world.workshop, "Lio Sandvik"), actor(world.workshop, "Dessa Marlow")
    tell(world, "Bram Okafor", {"kind": "move_door", "door": "door-4", "now": "open"})
    entry = {
        "space": "crankcase",
        "door": "door-4",
        "permit": "P",
        "attended_by": dessa.id,
        "oxygen_pct": 20.9,
        "gas_pct": 0,
    }
    inside = tell(world, "Lio Sandvik", {"kind": "enter", "person": lio.id, **entry}).inside[0]
    begin = partial(begun, world, "rod-1", "tarnholt-7l34-rod-loosen", who="Dessa Marlow", piston="stay")
    assert no(begin) == "attending_now"
    theirs = begun(world, "rod-2", "tarnholt-7l34-rod-loosen", who="Bram Okafor", piston="stay")
    theirs.pause()
    assert no(theirs.take_over, actor(world.workshop, "Dessa Marlow")) == "attending_now", "nor goes on with another's"
    bram = actor(world.workshop, "Bram Okafor")
    tell(world, "Dessa Marlow", {"kind": "relieve_attendant", "entered": inside.seq, "to": bram.id})
    begin()


def test_the_berth_says_when_a_permit_for_hot_work_has_run_out(world: World) -> None:
    opened(world)
    tell(world, "Bram Okafor", flame(world))

    def said() -> tuple[tuple[str, ...], tuple[str, ...]]:
        strip = next(
            one for one in berth(world.workshop, actor(world.workshop, "Bram Okafor")).engines if one.id == "unit-2"
        )
        return strip.hot_work, strip.hot_work_out

    assert said() == (("Exhaust",), ())
    world.clock.forward(4 * 3600)
    assert said() == ((), ("Exhaust",))


def door_off(player: Player) -> RecordReading:
    door = at(player, lambda cell: cell.step_id == "door")
    return RecordReading(kind="record", id=uuid4(), cell=door.key, attempt=1, answer=ev.TickAnswer())


def test_no_door_is_opened_beside_a_flame_nor_a_flame_lit_beside_an_open_door(world: World) -> None:
    opened(world)
    player = begun(world, "rod-4", "tarnholt-7l34-rod-loosen", piston="stay")
    tick = door_off(player)
    ahead = offline_tasks(player.state(), Looking(player.hands.id, player.hands.role, world.clock.now))
    assert tick.cell not in {one.call.cell for one in ahead.calls}, "nobody opens it without knowing who welds"
    began = tell(world, "Bram Okafor", flame(world)).hot_work[0]
    assert no(acts.act, world.workshop, player.hands, player.run_id, tick) == "hot_work_there"
    tell(world, "Bram Okafor", {"kind": "end_hot_work", "began": began.seq, "words": "Cold"})
    assert acts.act(world.workshop, player.hands, player.run_id, tick).state.live(tick.cell) is not None
    assert no(tell, world, "Bram Okafor", flame(world)) == "crankcase_open"
    finished(world, player)
    assert no(tell, world, "Bram Okafor", flame(world)) == "crankcase_open", "closing the run has shut no door"
    back = begun(world, "rod-4", "tarnholt-7l34-rod-tighten", piston="stayed", shell="after")
    at(back, lambda cell: cell.step_id == "door")
    assert no(tell, world, "Bram Okafor", flame(world)) == "crankcase_open"
    finished(world, back)
    assert tell(world, "Bram Okafor", flame(world)).hot_work


@pytest.mark.parametrize("servers", [1, 2])
def test_no_flame_is_lit_at_the_moment_in_which_a_door_is_opened(
    world: World, monkeypatch: pytest.MonkeyPatch, servers: int
) -> None:
    opened(world)
    player = begun(world, "rod-4", "tarnholt-7l34-rod-loosen", piston="stay")
    tick = door_off(player)
    first, second = two_workshops(world) if servers == 2 else (world.workshop, world.workshop)
    lead, command = (
        actor(second, "Bram Okafor"),
        TypeAdapter(oc.OverhaulCommand).validate_python({"id": uuid4(), **flame(world)}),
    )
    here = overhaul_of(world).overhaul_id
    ends = one_inside_the_other(
        monkeypatch,
        player,
        lambda: acts.act(first, player.hands, player.run_id, tick),
        lambda: overhauls.act(second, lead, here, command),
    )
    assert ends == ("done", "crankcase_open")


@pytest.mark.parametrize("servers", [1, 2])
def test_nobody_goes_in_at_the_moment_in_which_the_crank_moves(
    world: World, monkeypatch: pytest.MonkeyPatch, servers: int
) -> None:
    first, second = two_workshops(world) if servers == 2 else (world.workshop, world.workshop)
    here = opened(world)
    lio, bram = actor(first, "Lio Sandvik"), actor(first, "Bram Okafor")
    # Nobody goes in before the gear is locked, and with the gear locked nothing moves.
    lock = oc.Isolate(kind="isolate", id=uuid4(), point="turning_gear")
    move = oc.MoveCrank(kind="move_crank", id=uuid4(), to_deg=90.0, way="ahead", commander="Bram", looked_at=("sweep",))
    held_open(monkeypatch, overhauls, "decide")
    ends = together(lambda: overhauls.act(first, bram, here, lock), lambda: overhauls.act(second, bram, here, move))
    moved = second.overhauls.snapshot(here).state.crank is not None
    # Whoever is first: either the gear is locked and the crank stands, or it had moved before that.
    assert ends in (["done", "sweep_blocked"], ["done", "done"])
    assert moved == (ends == ["done", "done"])
    tell(world, "Lio Sandvik", {"kind": "move_door", "door": "door-1", "now": "open"})
    entry = {
        "person": lio.id,
        "space": "crankcase",
        "door": "door-1",
        "permit": "P",
        "attendant": "Tam",
        "oxygen_pct": 20.9,
        "gas_pct": 0,
    }
    state = tell(world, "Lio Sandvik", {"kind": "enter", **entry})
    assert state.inside
    kinds = [line.data.kind for line in state.lines]
    assert not moved or kinds.index("crank_moved") < kinds.index("isolated")


# ---- tools -----------------------------------------------------------------------------------------------------------


def test_a_set_on_the_studs_is_not_drawn_elsewhere_and_one_that_lies_idle_is_handed_on(world: World) -> None:
    opened(world)
    found = {f"head-{n}": "landed" for n in (3, 4, 6)}
    tell(world, "Bram Okafor", {"kind": "declare_conditions", "found": found, "words": "Landed on paper"})
    tighten = "tarnholt-7l34-head-tighten"
    first = begun(world, "head-3", tighten)
    draw = at(first, lambda cell: cell.item == "tensioners")
    first.answer(draw, ev.ToolAnswer(tool_id="HT-52"))
    second = begun(world, "head-4", tighten, "Lio Sandvik")
    cell = at(second, lambda cell: cell.item == "tensioners")
    asked = RecordReading(kind="record", id=uuid4(), cell=cell.key, attempt=1, answer=ev.ToolAnswer(tool_id="HT-52"))
    assert no(acts.act, world.workshop, second.hands, second.run_id, asked) == "tool_elsewhere"
    handed = asked.model_copy(update={"id": uuid4(), "answer": ev.ToolAnswer(tool_id="HT-52", handed_on=True)})
    acts.act(world.workshop, second.hands, second.run_id, handed)
    assert tools.places(world.workshop)["HT-52"].joint == "Head 4"
    again = next_call(first.state())
    assert again is not None
    assert again.key == draw.key, "head 3 draws another"
    first.answer(again, ev.ToolAnswer(tool_id="HT-53"))
    at(first, lambda cell: cell.kind == "tension")
    third = begun(world, "head-6", tighten)
    cell = at(third, lambda cell: cell.item == "tensioners")
    asked = RecordReading(
        kind="record", id=uuid4(), cell=cell.key, attempt=1, answer=ev.ToolAnswer(tool_id="HT-53", handed_on=True)
    )
    assert no(acts.act, world.workshop, third.hands, third.run_id, asked) == "tool_at_work"


def test_a_withdrawn_tool_is_not_drawn_and_says_what_it_touched(world: World) -> None:
    opened(world)
    tell(world, "Bram Okafor", {"kind": "declare_conditions", "found": {"head-4": "landed"}, "words": "Landed"})
    lio, ines = actor(world.workshop, "Lio Sandvik"), actor(world.workshop, "Ines Halloran")
    player = begun(world, "head-4", "tarnholt-7l34-head-tighten")
    cell = at(player, lambda cell: cell.item == "tensioners")
    tools.withdraw_tool(world.workshop, lio, "HT-52", "Dropped from the platform")
    assert no(tools.withdraw_tool, world.workshop, lio, "HT-52", "Again") == "tool_withdrawn"
    asked = RecordReading(kind="record", id=uuid4(), cell=cell.key, attempt=1, answer=ev.ToolAnswer(tool_id="HT-52"))
    assert no(acts.act, world.workshop, player.hands, player.run_id, asked) == "tool_withdrawn"
    assert no(tools.take_tool_back, world.workshop, lio, "HT-52", "Looks good") == "not_your_right"
    tools.take_tool_back(world.workshop, ines, "HT-52", "Pressed to 1500 bar, no drop")
    assert no(tools.take_tool_back, world.workshop, ines, "HT-52", "Twice") == "tool_not_withdrawn"
    acts.act(world.workshop, player.hands, player.run_id, asked)
    assert [one.joint for one in tools.touched_by(world.workshop, "HT-52")] == ["Head 4"]
    assert tools.touched_by(world.workshop, "HT-53") == []
    assert no(tools.touched_by, world.workshop, "HT-99") == "no_such_tool"


# ---- the log ---------------------------------------------------------------------------------------------------------


def test_an_overhauls_log_is_sealed_like_a_runs_and_a_deleted_event_shows(world: World) -> None:
    here = opened(world)
    tell(world, "Bram Okafor", {"kind": "isolate", "point": "fuel"})
    tell(world, "Bram Okafor", {"kind": "isolate", "point": "gas"} | {"point": "coolant"})
    assert verify(world.workshop.database).alterations == ()
    with world.workshop.database.engine.begin() as connection:
        gone = t.overhaul_event.delete().where(t.overhaul_event.c.seq == 3)
        connection.execute(gone)
    found = verify(world.workshop.database).alterations
    assert [(a.what, a.seq) for a in found] == [(f"overhaul {here}", 3)]


def test_the_same_command_again_changes_nothing_and_its_id_belongs_to_it(world: World) -> None:
    here = opened(world)
    bram = actor(world.workshop, "Bram Okafor")
    fuel = oc.Isolate(kind="isolate", id=uuid4(), point="fuel")
    first = overhauls.act(world.workshop, bram, here, fuel)
    again = overhauls.act(world.workshop, bram, here, fuel)
    assert first.state.seq == again.state.seq
    other = oc.Isolate(kind="isolate", id=fuel.id, point="coolant")
    assert no(overhauls.act, world.workshop, bram, here, other) == "id_reused"
    with world.workshop.database.reading() as connection:
        count = connection.execute(sa.select(sa.func.count()).select_from(t.overhaul_event)).scalar_one()
    assert count == first.state.seq


def test_an_engine_is_handed_over_by_both_pins(world: World) -> None:
    opened(world)
    lio = actor(world.workshop, "Lio Sandvik")
    hand = {"kind": "hand_over_engine", "to": lio.id, "words": "Head 6 stands at zero"}
    assert no(tell, world, "Bram Okafor", hand, pin=DEMO_PIN) == "pin_needed"
    state = tell(world, "Bram Okafor", hand, pin=DEMO_PIN, other_pin=DEMO_PIN)
    assert state.lines[-1].data.kind == "handed_over"


def test_what_a_document_isolates_beyond_the_sheet_is_counted_among_the_points(world: World) -> None:
    summaries = {r.id: r.hash for r in world.workshop.registers.revisions()}
    player = world.player("Bram Okafor")
    player.start("unit-5", "head-a", summaries["corvane-v10-head-loosen"])
    player.play(lambda cell: cell.kind == "tool_issue")
    seen, overhaul = glance(world.workshop, player.run_id), overhauls.open_on(world.workshop, "unit-5")
    assert overhaul is not None
    assert seen.isolated == len(overhaul.isolations)
    assert 0 < seen.isolated <= seen.points, "ten of nine puzzle whoever has to go in"
