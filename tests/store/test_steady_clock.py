"""A server clock that is set back: time stands still, nothing is written before what stands there, and it is said."""

from __future__ import annotations

from dataclasses import replace
from datetime import UTC, datetime, timedelta
from uuid import uuid4

from jorvek.core.overhaul.log import commands as oc
from jorvek.local.demo import DEMO_PIN, actor
from jorvek.local.player import SetClock
from jorvek.store.eventlog import newest_moment
from jorvek.work.engine import overhauls
from jorvek.work.people import accounts
from jorvek.work.sealing import seen
from jorvek.work.steady_clock import SteadyClock
from tests.conftest import World
from tests.store.test_engine_as_a_whole import opened

NOON = datetime(2026, 11, 23, 12, 0, tzinfo=UTC)


def test_set_back_it_stands_still_and_goes_on_when_it_is_caught_up_with() -> None:
    source = SetClock(NOON)
    clock = SteadyClock(source)
    source.forward(60)
    assert clock() == NOON + timedelta(seconds=60)
    source.forward(-3600)
    assert clock() == NOON + timedelta(seconds=60)
    assert clock.behind_s == 3600.0
    source.forward(3601)
    assert clock() == NOON + timedelta(seconds=61)
    assert clock.behind_s is None


def test_a_hair_behind_is_no_jump() -> None:
    source = SetClock(NOON)
    clock = SteadyClock(source)
    source.forward(-2)
    assert clock() == NOON
    assert clock.behind_s is None
    source.forward(-1)
    clock()
    assert clock.behind_s == 3.0


def test_a_server_that_starts_a_day_early_goes_on_from_the_newest_entry_and_says_so(world: World) -> None:
    shop, here = world.workshop, opened(world)
    bram = actor(shop, "Bram Okafor")
    token, _ = accounts.sign_in(shop, bram.id, DEMO_PIN)
    world.clock.forward(accounts.SESSION_LIFE.total_seconds() + 1)
    overhauls.act(shop, bram, here, oc.Remark(kind="remark", id=uuid4(), words="Evening"))
    last = shop.overhauls.snapshot(here).state.last_at
    assert accounts.who(shop, token) is None
    world.clock.forward(-24 * 3600)
    early = replace(shop, clock=SteadyClock(world.clock, newest_moment(shop.database)))
    overhauls.act(early, bram, here, oc.Remark(kind="remark", id=uuid4(), words="Morning"))
    assert early.overhauls.snapshot(here).state.last_at == last
    assert accounts.who(early, token) is None, "what has ended does not live again"
    assert seen(early, None).clock_behind_s == 24 * 3600


def test_another_server_whose_clock_is_behind_writes_no_earlier_moment(world: World) -> None:
    shop, here = world.workshop, opened(world)
    last = shop.overhauls.snapshot(here).state.last_at
    world.clock.forward(-300)
    overhauls.act(shop, actor(shop, "Bram Okafor"), here, oc.Remark(kind="remark", id=uuid4(), words="Late"))
    assert shop.overhauls.snapshot(here).state.last_at == last
