"""Tables of an older version brought up to date on a disk that is full: nothing is lost, and with room it goes on.

Run with ``./jorvek bench full_disk`` by a user who may mount: the database lies on a small disk in memory, with the
demo's history in it. The disk is filled until so many kB are free, the upgrade is tried, the rest is freed, and it is
tried again. Printed is what was said at each size, and whether the events stand as they were.
"""

from __future__ import annotations

import subprocess
import sys
import tempfile
from collections.abc import Iterator
from contextlib import ExitStack, contextmanager
from pathlib import Path

import sqlalchemy as sa

from jorvek.local.demo import load_history, load_world
from jorvek.local.mariadb import running_server
from jorvek.settings import ROOT
from jorvek.store.database import Database, DatabaseAwayError
from jorvek.store.shadow_schema import bring_up_to_date
from jorvek.store.verify import verify
from jorvek.work.workshop import Workshop

DISK_MB = 420
FREE_KB = (0, 64, 256, 512, 1024, 2048, 3072, 4096, 6144, 8192, 12288, 16384)
OLDER = "0012"
_WITHOUT = (
    "ALTER TABLE session DROP COLUMN opened_at",
    "ALTER TABLE tablet DROP COLUMN run_id",
    f"UPDATE alembic_version SET version_num = '{OLDER}'",
)


@contextmanager
def small_disk() -> Iterator[Path]:
    """Give a disk in memory of a known size."""
    with tempfile.TemporaryDirectory() as place:
        subprocess.run(["mount", "-t", "tmpfs", "-o", f"size={DISK_MB}m,mode=755", "tmpfs", place], check=True)
        try:
            yield Path(place)
        finally:
            subprocess.run(["umount", "--lazy", place], check=True)


def fill(place: Path, free_kb: int) -> Path:
    """Fill a disk until so much is free; return the file that takes the room."""
    ballast = place / "ballast"
    left = _free_kb(place) - free_kb
    with ballast.open("wb") as file:
        for _ in range(max(0, left) // 64):
            file.write(b"\0" * 65536)
    return ballast


def _free_kb(place: Path) -> int:
    told = subprocess.run(["df", "-k", "--output=avail", str(place)], check=True, capture_output=True, text=True)
    return int(told.stdout.split()[-1])


def events(database: Database) -> str:
    """Return a digest of all events of all runs and overhauls."""
    asked = " UNION ALL ".join(f"SELECT hash FROM {table}" for table in ("event", "overhaul_event"))
    with database.reading() as connection:
        found = connection.execute(sa.text(f"SELECT COUNT(*), MD5(GROUP_CONCAT(hash ORDER BY hash)) FROM ({asked}) e"))
        return str(tuple(found.one()))


def made_older(database: Database) -> None:
    """Leave the tables as the version before had them."""
    with database.engine.begin() as connection:
        for statement in _WITHOUT:
            connection.execute(sa.text(statement))
    database.close()


def main() -> int:
    """Try every size."""
    wrong = 0
    with ExitStack() as held:
        place = held.enter_context(small_disk())
        running = held.enter_context(ExitStack())
        server = running.enter_context(running_server(place / "db"))
        database = Database(server.url)
        database.migrate()
        workshop = Workshop(database, photo_dir=place / "photos")
        load_history(workshop, load_world(workshop, ROOT))
        before = events(database)
        for free_kb in FREE_KB:
            made_older(database)
            ballast, said = fill(place, free_kb), "done"
            try:
                bring_up_to_date(database)
            except DatabaseAwayError as error:
                said = f"{type(error).__name__}: {error}"
            ballast.unlink()
            if server.process.poll() is not None:
                # MariaDB ends itself where it cannot go on writing; it is started again with room.
                said = f"the database ended itself; {said}"
                running.close()
                server = running.enter_context(running_server(place / "db"))
                database = Database(server.url)
            stood = database.behind() in (OLDER, None) and events(database) == before
            bring_up_to_date(database)
            whole = events(database) == before and not verify(database).alterations
            wrong += not (stood and whole)
            print(f"{free_kb:6} kB free: {said[:90]}; stood: {stood}; with room again whole: {whole}", flush=True)
    print(f"{len(FREE_KB)} sizes, {wrong} wrong")
    return 1 if wrong else 0


if __name__ == "__main__":
    sys.exit(main())
