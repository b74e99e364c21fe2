"""Which servers are at work: tables are not replaced under them, and none of them writes to what it does not know."""

from __future__ import annotations

from pathlib import Path
from threading import Event

import pytest
import sqlalchemy as sa

from jorvek.local.mariadb import Server, ServerFailedError
from jorvek.local.opening import open_workshop
from jorvek.settings import Settings
from jorvek.store import database as module
from jorvek.store.database import Database, DatabaseUnsafeError
from jorvek.store.serving import GONE_AFTER_S, Servers, Serving, at_work
from jorvek.work.upkeep.periodic_jobs import Attending
from tests.conftest import World, new_database


def silent_for(database: Database, seconds: float) -> None:
    """Put back when each was seen last."""
    with database.engine.begin() as connection:
        connection.execute(
            sa.text("UPDATE serving SET seen_at = UTC_TIMESTAMP(6) - INTERVAL :gone MICROSECOND"),
            {"gone": int(seconds * 1_000_000)},
        )


def test_servers_are_known_while_they_are_there_and_no_longer(world: World) -> None:
    database = world.workshop.database
    one, other = Servers(database, "bay", "1.0"), Servers(database, "annex", "1.1")
    assert at_work(database) == []
    one.here()
    other.here()
    one.here()
    assert at_work(database) == [Serving("annex", "1.1"), Serving("bay", "1.0")]
    other.leave()
    assert at_work(database) == [Serving("bay", "1.0")]
    other.leave()
    assert at_work(database) == [Serving("bay", "1.0")], "whoever left twice is gone all the same"


@pytest.mark.parametrize(("silent_s", "there"), [(0, True), (GONE_AFTER_S - 5, True), (GONE_AFTER_S + 1, False)])
def test_a_server_that_has_ended_without_saying_so_is_gone_after_a_while(
    world: World, silent_s: float, there: bool
) -> None:
    database = world.workshop.database
    Servers(database, "bay", "1.0").here()
    silent_for(database, silent_s)
    assert bool(at_work(database)) is there
    Servers(database, "annex", "1.0").here()
    assert len(at_work(database)) == 1 + there


def test_tables_are_not_brought_up_to_date_under_servers_that_write_to_them(server: Server, tmp_path: Path) -> None:
    url = new_database(server)
    older = Database(url)
    older.migrate()
    with older.engine.begin() as connection:
        # As if what came last had not come yet.
        connection.execute(sa.text("DROP TABLE brought_in"))
        connection.execute(sa.text("UPDATE alembic_version SET version_num = '0008'"))
    Servers(older, "bay", "0.9").here()
    settings = Settings(database_url=url, data=tmp_path)
    with pytest.raises(ServerFailedError, match=r"bay \(0\.9\)"), open_workshop(settings):
        pass
    assert older.behind() == "0008"
    silent_for(older, GONE_AFTER_S + 1)
    with open_workshop(settings) as shop:
        assert shop.database.behind() is None
        Servers(shop.database, "annex", "1.0").here()
    with open_workshop(settings) as second:
        assert second.database.behind() is None, "beside others of the same version one more begins"
    older.close()


def test_a_server_does_not_write_to_tables_of_a_newer_program(world: World, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(module, "_SURE_FOR_S", 0.0)
    database = world.workshop.database
    Servers(database, "bay", "1.0").here()
    with database.readers.connect() as connection:
        connection.execute(sa.text("UPDATE alembic_version SET version_num = '9990'"))
    with pytest.raises(DatabaseUnsafeError, match="9990"):
        Servers(database, "annex", "1.0").here()
    with database.readers.connect() as connection:
        connection.execute(sa.text("UPDATE alembic_version SET version_num = '0010'"))
    assert [one.host for one in at_work(database)] == ["bay"]


def test_whoever_attends_goes_on_after_a_fault_and_ends_when_told() -> None:
    done, faults = Event(), [OSError("away"), ValueError("odd")]

    def act() -> None:
        if faults:
            raise faults.pop()
        done.set()

    attending = Attending("trial", 0.001, act)
    attending.start()
    assert done.wait(60)
    attending.stop()
    done.clear()
    assert not done.is_set()
    assert faults == []
