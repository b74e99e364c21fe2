"""Opening the workshop on the configured database, or on a private one."""

from __future__ import annotations

import fcntl
import sys
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from jorvek.core.refusal import Refusal
from jorvek.local.backup import dump_before_migration
from jorvek.local.mariadb import ServerFailedError, kept_running, url_of_running
from jorvek.messages import clock_zone, say
from jorvek.settings import Settings
from jorvek.store.database import Database
from jorvek.store.eventlog import newest_moment
from jorvek.store.serving import GONE_AFTER_S, at_work
from jorvek.store.shadow_schema import bring_up_to_date
from jorvek.store.site_key import SiteKey, SiteKeyError, kept_key
from jorvek.work.steady_clock import SteadyClock, counted_s
from jorvek.work.workshop import Workshop, system_clock


@contextmanager
def visit_workshop(settings: Settings) -> Iterator[Workshop]:
    """Give a workshop for one command: the running one's database, or else as ``open_workshop``.

    Raises:
        ServerFailedError: when the private server cannot run.
    """
    running = None if settings.database_url else url_of_running(settings.data / "db")
    if running is not None:
        if Database(running).behind() is not None:
            # Tables are replaced with nobody at work: what the running program writes meanwhile would be lost.
            raise ServerFailedError("the Jorvek that is running here is of an older version; stop it first")
        yield _workshop(settings, running)
        return
    with open_workshop(settings) as workshop:
        yield workshop


@contextmanager
def open_workshop(settings: Settings) -> Iterator[Workshop]:
    """Give a workshop on the configured database, migrated.

    Raises:
        ServerFailedError: when the private server cannot run.
    """
    if settings.database_url:
        yield _workshop(settings, settings.database_url)
        return
    with locked(settings.data), kept_running(settings.data / "db", _tell) as server:
        yield _workshop(settings, server.url)


def _tell(what: str) -> None:
    """Say it where whoever started the program looks."""
    print(what, file=sys.stderr, flush=True)


def _workshop(settings: Settings, url: str) -> Workshop:
    clock_zone.set(settings.site_zone)
    database = Database(url)
    database.check()
    _demand_alone(database)
    dump_before_migration(database, settings.data, system_clock())
    try:
        bring_up_to_date(database)
    except Refusal as refusal:
        raise ServerFailedError(say(f"refusal.{refusal.code}", refusal.params)) from refusal
    return Workshop(
        database,
        clock=SteadyClock(system_clock, newest_moment(database), counted_s),
        site_zone=settings.site_zone,
        base_url=settings.address(),
        photo_dir=settings.data / "photos",
        site_key=_key(settings),
    )


def _demand_alone(database: Database) -> None:
    """Refuse to replace tables that other servers are at work on: what they write meanwhile would be lost."""
    if database.behind() is None:
        return
    others = at_work(database)
    if others:
        hosts = ", ".join(sorted({f"{one.host} ({one.version})" for one in others}))
        raise ServerFailedError(
            f"the tables have to be brought up to date, and servers are at work on them: {hosts}. Stop those first; "
            f"one that ended without saying so is taken to be gone after {GONE_AFTER_S} s."
        )


def _key(settings: Settings) -> SiteKey:
    try:
        return kept_key(settings.site_key or settings.data / "site.key")
    except SiteKeyError as error:
        raise ServerFailedError(str(error)) from error


@contextmanager
def locked(data: Path) -> Iterator[None]:
    """Hold the data directory for one program at a time."""
    data.mkdir(parents=True, exist_ok=True, mode=0o700)
    with (data / "lock").open("w") as lock:
        try:
            fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except OSError as error:
            raise ServerFailedError(f"another Jorvek is using {data}; stop it first") from error
        yield
