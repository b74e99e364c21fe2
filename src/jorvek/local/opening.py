"""Opening the workshop on the configured database, or on a private one."""

from __future__ import annotations

import fcntl
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from jorvek.local.backup import dump_before_migration
from jorvek.local.mariadb import ServerFailedError, running_server, url_of_running
from jorvek.settings import Settings
from jorvek.store.database import Database
from jorvek.work.workshop import Workshop, system_clock


@contextmanager
def visit_workshop(settings: Settings) -> Iterator[Workshop]:
    """Give a workshop for one command: the running one's database, or else as ``open_workshop``.

    Raises:
        ServerFailedError: when the private server cannot run.
    """
    running = None if settings.database_url else url_of_running(settings.data / "db")
    if running is not None:
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
    with locked(settings.data), running_server(settings.data / "db") as server:
        yield _workshop(settings, server.url)


def _workshop(settings: Settings, url: str) -> Workshop:
    database = Database(url)
    database.check()
    dump_before_migration(database, settings.data, system_clock())
    database.migrate()
    return Workshop(
        database, site_zone=settings.site_zone, base_url=settings.address(), photo_dir=settings.data / "photos"
    )


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
