"""Random pairs of acts at the same moment, from two servers: no order of them reaches what never may be."""

from __future__ import annotations

import random
from collections.abc import Callable, Iterator
from typing import Any
from uuid import UUID, uuid4

import pytest
from pydantic import TypeAdapter

from jorvek.core.overhaul.log import commands as oc
from jorvek.core.overhaul.log import events as ov
from jorvek.core.overhaul.log.fold import advance, begin, fold
from jorvek.core.overhaul.log.state import Overhaul
from jorvek.core.overhaul.rules.joint_conditions import ground_of
from jorvek.core.sheet.access import standing_together
from jorvek.local.demo import DEMO_PIN, actor
from jorvek.work.engine import overhauls
from jorvek.work.engine.overhauls import engine_now
from jorvek.work.runs import acts
from jorvek.work.workshop import Workshop
from tests.conftest import World
from tests.store.test_engine_as_a_whole import opened, tell
from tests.store.test_races import shelf, together, two_workshops

ROUNDS = 16
AIR = {"space": "crankcase", "door": "door-1", "permit": "P", "attendant": "Tam", "oxygen_pct": 20.9, "gas_pct": 0.0}
PARSE: TypeAdapter[oc.OverhaulCommand] = TypeAdapter(oc.OverhaulCommand)


def told(shop: Workshop, here: UUID, who: str, **said: Any) -> Callable[[], object]:
    command = PARSE.validate_python({"id": uuid4(), **said})
    pin = DEMO_PIN if command.kind == "leave" else None
    return lambda: overhauls.act(shop, actor(shop, who), here, command, pin)


def starts(shop: Workshop, joint: str, name: str) -> Callable[[], object]:
    start = acts.StartRun(
        id=uuid4(), run_id=uuid4(), engine_id="unit-2", joint_key=joint, procedure_hash=shelf(shop, name).hash
    )
    return lambda: acts.start_run(shop, actor(shop, "Bram Okafor"), start)


def any_act(shop: Workshop, here: UUID, dice: random.Random) -> Callable[[], object]:
    """One act of those that concern the engine as a whole, as somebody might press it now."""
    state = shop.overhauls.snapshot(here).state
    lio, bram = "Lio Sandvik", "Bram Okafor"
    inside, locks = [i.seq for i in state.inside], [k.seq for k in state.locks]
    tests = [t.seq for t in state.tests]
    who = dice.choice((lio, bram))
    move = {"to_deg": dice.randrange(720), "way": "ahead", "commander": "Bram", "looked_at": ["sweep"]}
    move["clear"] = ["door:door-1"]
    acts = [
        lambda: starts(shop, f"main-{dice.randrange(8)}", "tarnholt-7l34-main-loosen"),
        lambda: starts(shop, f"head-{dice.randrange(1, 8)}", "tarnholt-7l34-head-loosen"),
        lambda: told(shop, here, who, kind="enter", person=actor(shop, who).id, **AIR),
        lambda: told(shop, here, who, kind="leave", entered=dice.choice(inside or [99])),
        lambda: told(shop, here, who, kind="move_door", door="door-1", now="open"),
        lambda: told(shop, here, who, kind="move_door", door="door-1", now="shut"),
        lambda: told(shop, here, bram, kind="move_crank", **move),
        lambda: told(shop, here, bram, kind="isolate", point="turning_gear"),
        lambda: told(shop, here, bram, kind="restore_point", point="turning_gear"),
        lambda: told(shop, here, bram, kind="see_to", check="people", words="Counted"),
        lambda: told(shop, here, bram, kind="lift_for_test", points=["turning_gear"], test="Barring", guards="Tam"),
        lambda: told(shop, here, bram, kind="put_back_after_test", lifted=dice.choice(tests or [99])),
        lambda: told(shop, here, who, kind="hang_lock", lock="7"),
        lambda: told(shop, here, bram, kind="take_lock_off", hung=dice.choice(locks or [99]), words="Gone home"),
    ]
    return dice.choice(acts)()


def states(events: list[ov.OverhaulEvent]) -> Iterator[tuple[Overhaul, ov.OverhaulData]]:
    """Every event with the state that it met."""
    state = begin(events[0])
    for event in events[1:]:
        yield state, event.data
        state = advance(state, event)


def demand_never(before: Overhaul, data: ov.OverhaulData) -> None:
    """What hurts people never follows on what it must not."""
    match data:
        case ov.Entered():
            assert before.in_force("turning_gear") is not None, "in, with the gear free"
            assert not before.tests, "in, while isolations are lifted"
            assert before.doors["door-1"].open, "in by a door that is shut"
        case ov.DoorMoved(now="shut"):
            assert not before.inside, "shut on somebody"
        case ov.CrankMoved():
            assert not before.inside, "moved with somebody inside"
            assert before.in_force("turning_gear") is None, "moved by a gear that is locked"
        case ov.Lifted():
            assert not before.inside, f"{data.kind} with somebody inside"
        case ov.Restored():
            assert not before.inside, "given back with somebody inside"
            assert not before.locks, "given back under a lock"
            assert "people" in before.seen, "given back before anybody was counted"
        case _:
            pass


@pytest.mark.parametrize("seed", range(6))
def test_no_two_acts_at_the_same_moment_reach_what_never_may_be(world: World, seed: int) -> None:
    dice = random.Random(seed)
    shops = two_workshops(world)
    here = opened(world)
    tell(world, "Bram Okafor", {"kind": "isolate", "point": "turning_gear"})
    done = 0
    for _ in range(ROUNDS):
        first, second = (any_act(shop, here, dice) for shop in shops)
        done += together(first, second).count("done")
        now = engine_now(shops[1], shops[1].overhauls.snapshot(here).state)
        assert not list(standing_together(ground_of(now.overhaul, now.sheet, now.runs)))
        world.clock.forward(10)
    assert done > ROUNDS / 4, "much of it is allowed"
    events = [stored.event for stored in shops[0].overhauls.stored(here)]
    for before, data in states(events):
        demand_never(before, data)
    assert fold(events) == shops[1].overhauls.snapshot(here).state
