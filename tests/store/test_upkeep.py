"""What is due on the engines later: by the clock, by hours run since, and done once."""

from __future__ import annotations

from datetime import date, timedelta
from uuid import uuid4

import pytest

from jorvek.core.overhaul.log import commands as oc
from jorvek.core.refusal import Refusal
from jorvek.core.run.rules.progress import next_call
from jorvek.local.demo import DEMO_PIN, actor
from jorvek.local.player import Player
from jorvek.work.engine import overhauls
from jorvek.work.upkeep import hours_and_due
from tests.conftest import World
from tests.store.test_engine_as_a_whole import tell
from tests.store.test_races import shelf


def closed(world: World, name: str, engine: str, joint: str) -> Player:
    """A run played to its end."""
    player, chief = world.player("Dessa Marlow"), actor(world.workshop, "Ines Halloran")
    player.start(engine, joint, shelf(world.workshop, name).hash)
    while next_call(player.play()) is not None:
        player.sign(chief, DEMO_PIN)
    player.close(chief)
    return player


def read(world: World, hours: float, on: date = date(2026, 11, 23)) -> None:
    hours_and_due.read_hours(world.workshop, actor(world.workshop, "Lio Sandvik"), "unit-2", hours, on)


def test_a_look_after_fifty_running_hours_is_due_when_they_have_run_and_done_once(world: World) -> None:
    run = closed(world, "tarnholt-7l34-head-close", "unit-2", "head-4")
    world.clock.forward(60)
    (due,) = hours_and_due.due_work(world.workshop)
    assert (due.joint, due.hours_left, due.over) == ("Head 4", 50.0, False)
    read(world, 18461.5)
    assert hours_and_due.due_work(world.workshop)[0].hours_left == pytest.approx(0.5)
    read(world, 18462)
    assert hours_and_due.due_work(world.workshop)[0].over
    lio = actor(world.workshop, "Lio Sandvik")
    with pytest.raises(Refusal) as refused:
        hours_and_due.follow_up(world.workshop, lio, run.run_id, "nothing", "Dry")
    assert refused.value.code == "nothing_to_follow"
    hours_and_due.follow_up(world.workshop, lio, run.run_id, due.step, "Dry at every joint")
    assert hours_and_due.due_work(world.workshop) == []
    with pytest.raises(Refusal) as refused:
        hours_and_due.follow_up(world.workshop, lio, run.run_id, due.step, "Dry again")
    assert refused.value.code == "followed_up"


def test_running_hours_never_run_back_in_figure_or_in_date(world: World) -> None:
    with pytest.raises(Refusal):
        read(world, 18411)
    read(world, 18412)
    world.clock.forward(3 * 24 * 3600)
    read(world, 18412, date(2026, 11, 24))
    for hours, on in ((18411.9, date(2026, 11, 25)), (18500, date(2026, 11, 23))):
        with pytest.raises(Refusal) as refused:
            read(world, hours, on)
        assert refused.value.code == "hours_run_back"
    assert world.workshop.upkeep.hours("unit-2")[-1].hours == 18412


@pytest.mark.parametrize(
    ("hours", "on", "code"),
    [
        (1_000_000.0, date(2026, 11, 23), "hours_too_many"),
        (400_001.0, date(2026, 11, 23), "hours_too_many"),
        (18_412.0, date(2020, 1, 1), "hours_when"),
        (18_412.0, date(2026, 11, 24), "hours_when"),
    ],
)
def test_hours_that_no_engine_has_run_and_days_that_nobody_reads_on_are_refused(
    world: World, hours: float, on: date, code: str
) -> None:
    with pytest.raises(Refusal) as refused:
        read(world, hours, on)
    assert refused.value.code == code
    assert world.workshop.upkeep.hours("unit-2") == []


def test_an_engine_runs_no_faster_than_the_clock(world: World) -> None:
    read(world, 18_500)
    world.clock.forward(2 * 24 * 3600)
    with pytest.raises(Refusal) as refused:
        read(world, 18_500 + 72.5, date(2026, 11, 25))
    assert refused.value.code == "hours_too_many"
    read(world, 18_500 + 72, date(2026, 11, 25))


def test_an_open_run_asks_for_nothing_yet_and_no_run_is_no_run(world: World) -> None:
    player = world.player("Dessa Marlow")
    player.start("unit-2", "head-4", shelf(world.workshop, "tarnholt-7l34-head-close").hash)
    player.play()
    assert hours_and_due.due_work(world.workshop) == []
    with pytest.raises(Refusal) as refused:
        hours_and_due.follow_up(world.workshop, player.hands, uuid4(), "after", "Dry")
    assert refused.value.code == "no_such_run"


def test_after_the_closing_the_running_in_is_due_stop_by_stop(world: World) -> None:
    """The demo's tender was closed in summer; here a closed engine starts again for the first time."""
    lead, chief = actor(world.workshop, "Bram Okafor"), actor(world.workshop, "Ines Halloran")
    opening = overhauls.OpenOverhaul(
        id=uuid4(), overhaul_id=uuid4(), engine_id="unit-2", title="Outage", as_it_ran=True
    )
    overhauls.open_overhaul(world.workshop, lead, opening)
    for check in ("people", "doors", "oil_seen", "barred", "blown_through"):
        said = {"check": check, "words": "Seen", "current_A": 14.0 if check == "barred" else None}
        tell(world, "Bram Okafor", {"kind": "see_to", **said})
    assert hours_and_due.due_work(world.workshop) == []
    tell(world, "Ines Halloran", {"kind": "close_overhaul"}, pin=DEMO_PIN)
    (first,) = hours_and_due.due_work(world.workshop)
    assert (first.overhaul_id, first.step, first.due_at, first.over) == (
        opening.overhaul_id,
        "first-start",
        None,
        False,
    )

    def note(stop: str) -> None:
        command = oc.NoteRunIn(kind="note_run_in", id=uuid4(), stop=stop, words="Cool")
        overhauls.act(world.workshop, chief, opening.overhaul_id, command)

    note("first-start")
    started = world.clock.now
    (stop,) = hours_and_due.due_work(world.workshop)
    assert stop.due_at == started + timedelta(minutes=5)
    world.clock.forward(5 * 60)
    assert hours_and_due.due_work(world.workshop)[0].over
    for name in ("five-minutes", "one-hour", "one-shift"):
        note(name)
    assert hours_and_due.due_work(world.workshop) == []
    state = world.workshop.overhauls.snapshot(opening.overhaul_id).state
    assert state.status == "closed"
    assert overhauls.open_on(world.workshop, "unit-2") is None, "the engine is free for the next overhaul"
