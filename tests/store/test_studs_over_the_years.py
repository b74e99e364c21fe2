"""One head through its overhauls: each stud keeps its own first length until it goes out."""

from __future__ import annotations

from jorvek.core.run.log import events as ev
from jorvek.core.run.log.cells import InputType
from jorvek.core.run.rules.progress import next_call
from jorvek.core.run.rules.studs import free_lengths
from jorvek.local.demo import DEMO_PIN, actor
from jorvek.local.player import Player
from jorvek.work.runs.studs import newest_of_stud, stud_history
from tests.conftest import World


def overhaul(world: World, name: str, **instead: ev.Answer) -> Player:
    """Work a head whole and close it; some of its calls are answered otherwise."""
    player = world.player("Bram Okafor")
    digest = next(r.hash for r in world.workshop.registers.revisions() if r.id == name)
    player.start("unit-2", "head-5", digest)
    for key, answer in instead.items():
        state = player.play(lambda cell, key=key: cell.key == key)  # type: ignore[misc]  # bound now
        player.answer(state.definition.by_key[key], answer)
    chief = actor(world.workshop, "Ines Halloran")
    while (asked := next_call(player.play())) is not None and asked.ask is InputType.SIGNATURE:
        player.sign(chief, DEMO_PIN)
    player.close(chief)
    return player


def test_first_lengths_are_kept_through_overhauls_and_go_out_with_their_studs(world: World) -> None:
    shop = world.workshop
    assert stud_history(shop, "unit-2", "head-5").first_lengths == {}
    first = overhaul(world, "tarnholt-7l34-head-tighten")
    measured = free_lengths(first.state())
    assert set(measured) == {"1", "2", "3", "4"}
    assert stud_history(shop, "unit-2", "head-5").first_lengths == measured

    out = ev.ChoiceAnswer(choice="replace", note="Nick in the thread", piece="S-3")
    second = overhaul(world, "tarnholt-7l34-head-loosen", **{"look/decision/3": out})
    assert second.state().started.first_lengths == measured, "the next run begins with them"
    left = stud_history(shop, "unit-2", "head-5").first_lengths
    assert left == {name: length for name, length in measured.items() if name != "3"}

    third = overhaul(world, "tarnholt-7l34-head-tighten")
    assert third.state().started.first_lengths == left
    fresh = free_lengths(third.state())
    assert fresh["1"] != measured["1"], "measured anew"
    assert stud_history(shop, "unit-2", "head-5").first_lengths == {**left, "3": fresh["3"]}
    assert next_call(third.state()) is None
    assert stud_history(shop, "unit-2", "head-5").uses == {"1": 2, "2": 2, "3": 1, "4": 2}, "3 is a new one"
    assert third.state().started.uses == {"1": 1, "2": 1, "4": 1}
    assert stud_history(shop, "unit-2", "head-4").first_lengths == {}, "another head has its own studs"


def test_a_stud_is_found_where_it_was_last_measured_or_tightened(world: World) -> None:
    shop = world.workshop
    assert newest_of_stud(shop, "unit-2", "head-5", "3") is None
    first = overhaul(world, "tarnholt-7l34-head-tighten")
    second = world.player("Bram Okafor")
    digest = next(r.hash for r in shop.registers.revisions() if r.id == "tarnholt-7l34-head-loosen")
    second.start("unit-2", "head-5", digest)
    assert newest_of_stud(shop, "unit-2", "head-5", "3") == (first.run_id, "3"), "nobody has touched it since"
    assert newest_of_stud(shop, "unit-2", "head-5", "9") is None
    assert newest_of_stud(shop, "unit-2", "head-4", "3") is None
