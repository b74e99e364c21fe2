"""Tablets at an engine: heard again and again, silent after a while, forgotten with the sign-out."""

from __future__ import annotations

from uuid import uuid4

from jorvek.core.run.log import events as ev
from jorvek.core.run.log.commands import Pause, RecordReading
from jorvek.core.run.rules.progress import next_call
from jorvek.local.demo import DEMO_PIN, actor
from jorvek.work.engine import overhauls
from jorvek.work.engine.silent_tablets import SILENT_AFTER, here
from jorvek.work.people import accounts
from jorvek.work.runs import acts
from tests.conftest import World
from tests.store.test_engine_as_a_whole import at, begun, no, opened, overhaul_of, tell

MOVE = {"kind": "move_crank", "to_deg": 90.0, "way": "ahead", "commander": "Bram", "looked_at": ["sweep"]}


def signed_in(world: World, name: str = "Lio Sandvik") -> str:
    who = actor(world.workshop, name)
    token, _ = accounts.sign_in(world.workshop, who.id, DEMO_PIN)
    here(world.workshop, who, token, "unit-2")
    return token


def silent(world: World, engine: str = "unit-2") -> list[str]:
    found = overhauls.open_on(world.workshop, engine)
    return [] if found is None else [tablet.person for tablet in overhauls.engine_now(world.workshop, found).silent]


def test_a_tablet_is_silent_after_a_while_and_not_once_it_is_heard_or_signed_out(world: World) -> None:
    opened(world)
    token = signed_in(world)
    world.clock.forward(SILENT_AFTER.total_seconds())
    assert not silent(world), "heard just so long ago"
    world.clock.forward(1)
    assert silent(world) == ["Lio Sandvik"]
    assert not silent(world, "unit-4"), "it was used elsewhere"
    here(world.workshop, actor(world.workshop, "Lio Sandvik"), token, "unit-2")
    assert not silent(world)
    world.clock.forward(60 * 60 * 24)
    assert silent(world), "the end of a session says nothing of who is inside"
    overhauls.leave_engine(world.workshop, token)
    assert not silent(world)


def test_one_line_a_person_and_a_newer_sign_in_elsewhere_is_the_end_of_a_look(world: World) -> None:
    opened(world)
    for _ in range(4):
        signed_in(world)
        world.clock.forward(1)
    world.clock.forward(SILENT_AFTER.total_seconds())
    assert silent(world) == ["Lio Sandvik"], "four tablets, one person"
    accounts.sign_in(world.workshop, actor(world.workshop, "Lio Sandvik").id, DEMO_PIN)
    assert not silent(world), "he signed in at the desk, with nothing open at the engine"


def test_with_a_run_or_an_entry_open_nobody_leaves_in_silence(world: World) -> None:
    opened(world)
    rod = begun(world, "rod-1", "tarnholt-7l34-rod-loosen", piston="stay")
    token, _ = accounts.sign_in(world.workshop, rod.hands.id, DEMO_PIN)
    here(world.workshop, rod.hands, token, "unit-2", rod.run_id)
    overhauls.leave_engine(world.workshop, token)
    world.clock.forward(SILENT_AFTER.total_seconds() + 1)
    accounts.sign_in(world.workshop, rod.hands.id, DEMO_PIN)
    overhaul = overhauls.open_on(world.workshop, "unit-2")
    assert overhaul is not None
    (tablet,) = overhauls.engine_now(world.workshop, overhaul).silent
    label = next(run.label for run in overhauls.runs_on(world.workshop, "unit-2") if run.run_id == rod.run_id)
    assert (tablet.person, tablet.at, tablet.held) == (rod.hands.name, label, (label,))
    acts.act(world.workshop, rod.hands, rod.run_id, Pause(kind="pause", id=uuid4()))
    assert not silent(world), "handed over, and signed in elsewhere since"


def test_a_silent_tablet_keeps_the_crank_still_for_the_engine_and_for_every_run(world: World) -> None:
    opened(world)
    rod = begun(world, "rod-1", "tarnholt-7l34-rod-loosen", piston="stay")
    at(rod, lambda cell: cell.kind == "crank_position")
    signed_in(world)
    world.clock.forward(200)
    assert no(tell, world, "Bram Okafor", MOVE) == "sweep_blocked"
    cell = next_call(rod.state())
    assert cell is not None
    tick = RecordReading(kind="record", id=uuid4(), cell=cell.key, attempt=1, answer=ev.TickAnswer())
    assert no(acts.act, world.workshop, rod.hands, rod.run_id, tick) == "sweep_blocked"
    (tablet,) = overhauls.engine_now(world.workshop, overhaul_of(world)).silent
    tell(world, "Bram Okafor", {"kind": "answer_for_tablet", "tablet": tablet.id, "words": "He is at the desk"})
    rod.free_gear()
    acts.act(world.workshop, rod.hands, rod.run_id, tick)
    assert overhaul_of(world).answered == {tablet.id: tablet.heard_at}


def test_what_waited_on_a_tablet_is_told_when_it_is_back(world: World) -> None:
    opened(world)
    tell(world, "Bram Okafor", MOVE)
    tell(world, "Bram Okafor", {"kind": "isolate", "point": "turning_gear"})
    lio, went_in = actor(world.workshop, "Lio Sandvik"), uuid4()
    entry = {"permit": "P-1", "attendant": "Tam", "oxygen_pct": 20.9, "gas_pct": 0.0, "space": "crankcase"}
    opening = {"kind": "move_door", "door": "door-4", "now": "open"}
    tell(world, "Lio Sandvik", opening, kept_s=3700.0)
    told = tell(
        world,
        "Lio Sandvik",
        {"kind": "enter", "door": "door-4", "id": went_in, "person": lio.id, **entry},
        kept_s=3600.0,
    )
    assert told.inside[0].against == "moved_meanwhile", "he was in there while it turned: loudly"
    told = tell(world, "Lio Sandvik", {"kind": "leave", "entry": went_in}, kept_s=3000.0)
    assert told.lines[-1].data.kind == "left"
    assert told.inside, "out by what a tablet tells later: the board waits for a PIN"
    told = tell(world, "Lio Sandvik", {"kind": "leave", "entry": went_in}, pin=DEMO_PIN)
    assert not told.inside
    assert not told.told
