"""Does one thing to a database again and again, killed one step later each time; run as a program of its own."""

from __future__ import annotations

import json
import os
import signal
import sys
from collections.abc import Callable
from pathlib import Path

import sqlalchemy as sa

from jorvek.local.backup import restore
from jorvek.store.database import Database
from jorvek.store.shadow_schema import bring_up_to_date
from jorvek.work.workshop import Workshop


def until(step: int, work: Callable[[], None]) -> tuple[bool, int]:
    """Do it in a process of its own, killed at a step; return whether it was, and at how many it came."""
    out, told = os.pipe()
    child = os.fork()
    if child == 0:
        count = 0

        def on_question(*_: object) -> None:
            nonlocal count
            count += 1
            if count == step:
                os.kill(os.getpid(), signal.SIGKILL)

        sa.event.listen(sa.engine.Engine, "before_cursor_execute", on_question)
        try:
            work()
            os.write(told, str(count).encode())
        finally:
            os._exit(0)
    os.close(told)
    _, status = os.waitpid(child, 0)
    steps = os.read(out, 20)
    os.close(out)
    if not os.WIFSIGNALED(status):
        assert steps, "it failed by itself"
    return os.WIFSIGNALED(status), int(steps or 0)


def whole(url: str) -> list[str]:
    """Return who is on the register; the tables are all of one version, or there are none."""
    database = Database(url)
    try:
        if database.revision() is None:
            with database.reading() as connection:
                assert not sa.inspect(connection).get_table_names()
            return []
        with database.reading() as connection:
            return list(connection.execute(sa.text("SELECT name FROM person ORDER BY name")).scalars())
    finally:
        database.close()


def main(what: str, url: str, every: int, *more: str) -> None:
    """Kill until it comes to its end; each time the old stands, or the new."""
    before = whole(url)

    def work() -> None:
        database = Database(url)
        if what == "migrate":
            bring_up_to_date(database)
        else:
            shop = Workshop(database, photo_dir=Path(more[1]) / "photos")
            restore(shop, Path(more[0]), Path(more[1]) / "dumps", over=True)

    kills, step, most = 0, 1, 0
    while True:
        was_killed, steps = until(step, work)
        now = whole(url)
        most = max(most, step if was_killed else steps)
        if not was_killed:
            break
        kills += 1
        assert now in (before, after_of(what, before, now)), now
        step += every
    sys.stdout.write(json.dumps({"kills": kills, "steps": most}) + "\n")


def after_of(what: str, before: list[str], now: list[str]) -> list[str]:
    """Return what may stand instead of what was before: a migration changes nobody, a restore brings whole others."""
    return before if what == "migrate" else (now if len(now) == 2 else before)


if __name__ == "__main__":
    main(sys.argv[1], sys.argv[2], int(sys.argv[3]), *sys.argv[4:])
