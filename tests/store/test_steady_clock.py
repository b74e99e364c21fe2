"""A server clock that is set back: time stands still, nothing is written before what stands there, and it is said."""

from __future__ import annotations

import json
from dataclasses import replace
from datetime import UTC, datetime, timedelta
from typing import Never
from uuid import uuid4

import pytest
import sqlalchemy as sa

from jorvek.core.overhaul.log import commands as oc
from jorvek.local.demo import DEMO_PIN, actor
from jorvek.local.player import SetClock
from jorvek.store import tables as t
from jorvek.store.eventlog import newest_moment
from jorvek.store.sitelog import CLOCK, SiteLog
from jorvek.store.verify import verify
from jorvek.work.engine import overhauls
from jorvek.work.people import accounts
from jorvek.work.sealing import sealed, seen
from jorvek.work.steady_clock import SteadyClock
from jorvek.work.workshop import DatabaseAwayError
from tests.conftest import World
from tests.store.test_engine_as_a_whole import opened


def raises(*_: object) -> Never:
    raise DatabaseAwayError("away")


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


def test_set_forward_it_is_followed_and_said_for_a_day() -> None:
    source, counter = SetClock(NOON), SetClock(NOON)

    def counted_s() -> float:
        return (counter() - NOON).total_seconds()

    clock = SteadyClock(source, counter_s=counted_s)

    def pass_by(seconds: float) -> datetime:
        source.forward(seconds)
        counter.forward(seconds)
        return clock()

    assert pass_by(8 * 3600) == NOON + timedelta(hours=8), "a night without a look is no jump"
    source.forward(30)
    clock()
    assert clock.forward_s is None, "so much is a clock that is kept right"
    source.forward(31)
    clock()
    assert clock.forward_s == 31.0
    assert clock.jumps == ("server clock set forward by 31 s, to 2026-11-23T20:01:01+00:00",)
    pass_by(24 * 3600)
    assert clock.forward_s == 31.0
    pass_by(1)
    assert clock.forward_s is None
    source.forward(3600)
    clock()
    source.forward(-3600)
    clock()
    assert (clock.forward_s, clock.behind_s) == (None, 3600.0), "set right again, it stands still until it is caught up"


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


def test_that_it_was_set_back_is_an_entry_of_the_site_log_once_and_verify_finds_nothing(world: World) -> None:
    opened(world)
    early = replace(world.workshop, clock=SteadyClock(world.clock))
    sealed(early)
    world.clock.forward(-24 * 3600)
    early.clock()
    failing = pytest.MonkeyPatch()
    with failing.context() as away:
        away.setattr(SiteLog, "take_in", raises)
        assert sealed(early) is None, "the database is away: it is said later"
    for _ in range(3):
        sealed(early)
    world.clock.forward(24 * 3600 + 60)
    early.clock()
    world.clock.forward(-3600)
    early.clock()
    sealed(early)
    with early.database.reading() as connection:
        bodies = connection.execute(sa.select(t.site_entry.c.body).where(t.site_entry.c.kind == CLOCK)).scalars().all()
    assert [json.loads(body)["words"].split(";")[0] for body in bodies] == [
        "server clock set back by 86400 s",
        "server clock set back by 3600 s",
    ]
    assert verify(early.database, early.site_key).alterations == ()


def test_another_server_whose_clock_is_behind_writes_no_earlier_moment(world: World) -> None:
    shop, here = world.workshop, opened(world)
    last = shop.overhauls.snapshot(here).state.last_at
    world.clock.forward(-300)
    overhauls.act(shop, actor(shop, "Bram Okafor"), here, oc.Remark(kind="remark", id=uuid4(), words="Late"))
    assert shop.overhauls.snapshot(here).state.last_at == last
