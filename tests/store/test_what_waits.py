"""What waits for somebody is known to them alone, and on every engine."""

from __future__ import annotations

import pytest

from jorvek.local.demo import actor
from jorvek.work.engine.berth import berth, mine
from tests.conftest import World

SIGNED = "chief-sees/sign"


def waits(world: World, name: str) -> list[tuple[str, str]]:
    shop = world.workshop
    found = mine(shop, actor(shop, name)).waiting
    assert found == berth(shop, actor(shop, name)).waiting, "every screen says what the Berth says"
    return [(one.joint, one.what) for one in found]


@pytest.mark.parametrize(("hands", "asked"), [("Bram Okafor", [("Head 4", "sign")]), ("Ines Halloran", [])])
def test_a_signature_waits_for_a_chief_who_did_not_do_the_work(
    world: World, hands: str, asked: list[tuple[str, str]]
) -> None:
    player = world.started(hands, "head-4")
    assert waits(world, "Ines Halloran") == []
    player.play(lambda cell: cell.key == SIGNED)
    assert waits(world, "Ines Halloran") == asked
    for other in ("Bram Okafor", "Lio Sandvik", "Tam Pereira"):
        assert waits(world, other) == [], "below the rank that signs"
    (in_hand,) = mine(world.workshop, actor(world.workshop, hands)).runs
    assert (in_hand.run_id, in_hand.waits) == (player.run_id, "sign")
