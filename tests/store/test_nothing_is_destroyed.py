"""Restore and migration killed at any step, or fed with a bad row: afterwards the old whole, or the new whole."""

from __future__ import annotations

import json
import os
import stat
import subprocess
import sys
import time
from concurrent.futures import ThreadPoolExecutor
from contextlib import suppress
from pathlib import Path
from threading import Barrier, Timer
from typing import Any
from uuid import uuid4
from zipfile import ZipFile

import pytest
import sqlalchemy as sa
from sqlalchemy.exc import SQLAlchemyError

from jorvek.core.refusal import Refusal
from jorvek.core.rights import Role
from jorvek.local.backup import back_up, restore
from jorvek.local.mariadb import Server, running_server, start_server
from jorvek.settings import ROOT
from jorvek.store import shadow_schema
from jorvek.store.database import Database, DatabaseAwayError
from jorvek.store.shadow_schema import bring_up_to_date, replace_tables, schemas_of
from jorvek.store.verify import verify
from jorvek.work.people.accounts import add_person
from jorvek.work.workshop import Workshop
from tests.conftest import World, kept_by, new_database

EVERY = 1 if "JORVEK_WHOLE" in os.environ else 10
"""At so many of the steps one is killed; at each of them with ``JORVEK_WHOLE=1``."""


def workshop_at(url: str, place: Path) -> Workshop:
    return Workshop(Database(url), photo_dir=place / "photos")


def installed(server: Server, place: Path, *names: str) -> Workshop:
    """An installation with a few people in it and nothing else."""
    shop = workshop_at(new_database(server), place)
    bring_up_to_date(shop.database)
    for name in names:
        add_person(shop, name, Role.CHIEF, "271828")
    return shop


def names_in(url: str) -> list[str]:
    database = Database(url)
    try:
        with database.reading() as connection:
            return list(connection.execute(sa.text("SELECT name FROM person ORDER BY name")).scalars())
    finally:
        database.close()


def beside_in(url: str) -> set[str]:
    engine = sa.create_engine(url, connect_args={"ssl_disabled": True})
    with engine.connect() as connection:
        found = set(connection.execute(sa.text("SHOW DATABASES")).scalars())
    engine.dispose()
    return found & set(schemas_of(Database(url))[1:])


def killed_at_each_step(what: str, url: str, *more: str) -> tuple[int, int]:
    """Do it again and again, killed one step later each time, until once it comes to its end; return kills and steps.

    The steps are questions to the database; the process forks for each, so that it is loaded once.
    """
    done = subprocess.run(
        [sys.executable, "-m", "tests.store.killed", what, url, str(EVERY), *more],
        cwd=ROOT, env={**os.environ, "PYTHONPATH": "src"}, capture_output=True, text=True, check=False,
    )  # fmt: skip
    assert done.returncode == 0, done.stdout + done.stderr
    seen = json.loads(done.stdout.splitlines()[-1])
    return seen["kills"], seen["steps"]


def test_a_restore_killed_at_any_step_leaves_the_old_or_the_new(server: Server, tmp_path: Path) -> None:
    good = tmp_path / "good.zip"
    back_up(installed(server, tmp_path, "Ines Halloran", "Tam Pereira"), good)
    here = installed(server, tmp_path, "Bram Okafor")
    url = here.database.engine.url.render_as_string(hide_password=False)
    kills, steps = killed_at_each_step("restore", url, str(good), str(tmp_path))
    assert steps >= 50
    assert kills >= steps // EVERY - 1
    assert names_in(url) == ["Ines Halloran", "Tam Pereira"]
    assert verify(Database(url)).alterations == ()
    assert not beside_in(url), "nothing of the attempts is left"


@pytest.mark.parametrize("revision", ["none", "0001", "0004"])
def test_a_migration_killed_at_any_step_leaves_the_old_or_the_new(server: Server, revision: str) -> None:
    url = new_database(server)
    if revision != "none":
        database = Database(url)
        database.migrate(revision)
        row = {
            "id": str(uuid4()),
            "name": "Ines Halloran",
            "role": "chief",
            "pin_hash": "x",
            "active": 1,
            "failures": 0,
        }
        with database.engine.begin() as connection:
            connection.execute(
                sa.text(f"INSERT INTO person ({', '.join(row)}) VALUES ({', '.join(f':{n}' for n in row)})"), row
            )
        database.close()
    _, steps = killed_at_each_step("migrate", url)
    assert steps >= 40
    assert names_in(url) == ([] if revision == "none" else ["Ines Halloran"])
    assert Database(url).behind() is None
    assert not beside_in(url)


def altered(good: Path, bad: Path, table: str, change: str) -> Path:
    """An archive that is whole but for one row."""
    with ZipFile(good) as whole, ZipFile(bad, "w") as archive:
        for name in whole.namelist():
            body = whole.read(name)
            if name == f"tables/{table}.jsonl":
                first, *rest = body.decode().splitlines(keepends=True)
                row = json.loads(first)
                match change:
                    case "no json":
                        first = first[: len(first) // 2] + "\n"
                    case "not a row":
                        first = "[]\n"
                    case "unknown column":
                        first = json.dumps({**row, "shoe_size": 44}) + "\n"
                    case "points nowhere":
                        first = json.dumps({**row, "imported_by": str(uuid4())}) + "\n"
                    case "no time":
                        first = json.dumps({**row, "imported_at": "yesterday"}) + "\n"
                body = "".join([first, *rest]).encode()
            archive.writestr(name, body)
    return bad


@pytest.mark.parametrize("change", ["no json", "not a row", "unknown column", "points nowhere", "no time"])
def test_one_bad_row_in_an_intact_archive_destroys_nothing(
    world: World, server: Server, tmp_path: Path, change: str
) -> None:
    good = tmp_path / "good.zip"
    back_up(world.workshop, good)
    bad = altered(good, tmp_path / "bad.zip", "procedure_revision", change)
    here = installed(server, tmp_path, "Bram Okafor")
    with pytest.raises(Refusal) as refused:
        restore(here, bad, tmp_path / "dumps", over=True)
    assert (refused.value.code, refused.value.params["why"]) == (
        "no_backup", "a row of procedure_revision does not fit",
    )  # fmt: skip
    assert [p.name for p in here.registers.people()] == ["Bram Okafor"]
    assert not beside_in(here.database.engine.url.render_as_string(hide_password=False))


def test_what_was_there_is_written_away_first_for_its_owner_alone(server: Server, tmp_path: Path) -> None:
    good = tmp_path / "good.zip"
    back_up(installed(server, tmp_path, "Ines Halloran"), good)
    here = installed(server, tmp_path, "Bram Okafor")
    kept, _ = restore(here, good, tmp_path / "dumps", over=True)
    assert [p.name for p in here.registers.people()] == ["Ines Halloran"]
    assert kept.was_there is not None
    for file in (good, kept.was_there):
        assert stat.S_IMODE(file.stat().st_mode) == 0o600, "it holds what PINs were made into"
    restore(here, kept.was_there, tmp_path / "dumps", over=True)
    assert [p.name for p in here.registers.people()] == ["Bram Okafor"]


AFTER_MS = tuple(float(one) for one in os.environ.get("JORVEK_AFTER_MS", "0,1,2,4,8,16").split(","))


def test_the_server_killed_in_the_moment_of_the_swap_comes_back_with_the_old_or_the_new(
    server: Server, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    good = tmp_path / "good.zip"
    back_up(installed(server, tmp_path, "Ines Halloran", "Tam Pereira"), good)
    swap, found = shadow_schema._swap, set[tuple[str, ...]]()
    with running_server(tmp_path / "db") as own:

        def swapped(*rest: Any) -> None:
            killing = Timer(after_ms / 1000.0, own.kill)
            killing.start()
            try:
                swap(*rest)
            finally:
                killing.join()

        monkeypatch.setattr(shadow_schema, "_swap", swapped)
        for after_ms in AFTER_MS:
            here = workshop_at(own.url, tmp_path)
            restore_whole(own.url, tmp_path, "Bram Okafor")
            with suppress(SQLAlchemyError, DatabaseAwayError):
                restore(here, good, tmp_path / "dumps", over=True)
            here.database.close()
            own.process = start_server(tmp_path / "db", own.port).process
            now = tuple(names_in(own.url))
            assert now in (("Bram Okafor",), ("Ines Halloran", "Tam Pereira")), f"killed after {after_ms} ms"
            assert verify(Database(own.url)).alterations == ()
            found.add(now)
    assert found, "it was killed each time"


def restore_whole(url: str, place: Path, *names: str) -> None:
    """Begin anew, with a few people and nothing else, and with no kill in the middle."""
    database = Database(url)
    with database.readers.connect() as connection:
        for schema in schemas_of(database)[1:]:
            connection.execute(sa.text(f"DROP DATABASE IF EXISTS {schema}"))
        for table in database.tables():
            connection.execute(sa.text("SET FOREIGN_KEY_CHECKS = 0"))
            connection.execute(sa.text(f"DROP TABLE {table}"))
    database.migrate()
    shop = workshop_at(url, place)
    for name in names:
        add_person(shop, name, Role.CHIEF, "271828")
    shop.database.close()
    database.close()


def test_two_do_not_replace_tables_at_once(server: Server, tmp_path: Path) -> None:
    here = installed(server, tmp_path, "Bram Okafor").database

    def meanwhile(_: Database) -> None:
        with pytest.raises(Refusal) as refused:
            replace_tables(Database(here.engine.url.render_as_string(hide_password=False)), lambda _: None)
        assert refused.value.code == "replaced_elsewhere"
        raise KeyboardInterrupt

    with pytest.raises(KeyboardInterrupt):
        replace_tables(here, meanwhile)
    assert names_in(here.engine.url.render_as_string(hide_password=False)) == ["Bram Okafor"]


def test_a_server_that_ends_idle_connections_early_does_not_give_the_lock_away(server: Server, tmp_path: Path) -> None:
    here = installed(server, tmp_path, "Bram Okafor").database
    url = here.engine.url.render_as_string(hide_password=False)
    keeper = kept_by(url)
    usual = "SET GLOBAL wait_timeout = DEFAULT"
    with keeper.connect() as connection:
        connection.execute(sa.text("SET GLOBAL wait_timeout = 1"))

    def fill(ready: Database) -> None:
        ready.migrate()
        with keeper.connect() as connection:
            # Whoever idles is gone; then the lock would be free.
            connection.execute(sa.text("SELECT SLEEP(2.5)"))
            free = connection.execute(
                sa.text("SELECT IS_FREE_LOCK(:name)"), {"name": f"replace {here.engine.url.database}"}
            )
            assert free.scalar_one() == 0

    try:
        replace_tables(here, fill)
    finally:
        with keeper.connect() as connection:
            connection.execute(sa.text(usual))
        keeper.dispose()
    assert names_in(url) == [], "the new tables are there"


def test_of_several_that_start_at_once_on_older_tables_one_brings_them_up_and_the_others_wait(
    server: Server, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    url = installed(server, tmp_path, "Bram Okafor").database.engine.url.render_as_string(hide_password=False)
    keeper = Database(url)
    newest = keeper.revision()
    with keeper.engine.begin() as connection:
        # As an older program left it: everything of the newest version but what that brought.
        connection.execute(sa.text("ALTER TABLE person DROP COLUMN language"))
        connection.execute(sa.text("UPDATE alembic_version SET version_num = '0011'"))
    copied: list[str] = []
    together = Barrier(3)
    copies = shadow_schema._copy

    def slowly(ready: Database, source: str) -> None:
        copied.append(source)
        time.sleep(0.5)
        copies(ready, source)

    def start(k: int) -> str:
        mine = Database(url)
        together.wait()
        shadow_schema.bring_up_to_date(mine)
        # Whoever was first is at work at once: nobody may copy the tables from under its hands.
        add_person(workshop_at(url, tmp_path), ("Lio Sandvik", "Tam Pereira", "Ines Halloran")[k], Role.CHIEF, "271828")
        mine.close()
        return "up"

    monkeypatch.setattr(shadow_schema, "_copy", slowly)
    with ThreadPoolExecutor(3) as pool:
        assert list(pool.map(start, range(3))) == ["up"] * 3
    assert len(copied) == 1
    assert keeper.revision() == newest
    assert sorted(names_in(url)) == ["Bram Okafor", "Ines Halloran", "Lio Sandvik", "Tam Pereira"]


def test_copying_the_readings_of_years_may_take_longer_than_an_answer(server: Server, tmp_path: Path) -> None:
    shop = installed(server, tmp_path, "Bram Okafor")
    hasty = Database(shop.database.engine.url.render_as_string(hide_password=False), answers_within_s=1)

    def fill(ready: Database) -> int:
        with ready.engine.connect() as connection:
            connection.execute(sa.text("CREATE TABLE one (n INT)"))
            return int(connection.execute(sa.text("SELECT SLEEP(1.5)")).scalar_one())

    assert replace_tables(hasty, fill) == 0
    assert hasty.tables() == {"one"}


def test_an_account_that_may_make_no_schema_is_told_which_it_needs(server: Server, tmp_path: Path) -> None:
    here = installed(server, tmp_path, "Bram Okafor").database
    url = here.engine.url
    keeper = kept_by(url.render_as_string(hide_password=False))
    with keeper.begin() as connection:
        connection.execute(sa.text("CREATE USER IF NOT EXISTS 'narrow'@'127.0.0.1' IDENTIFIED BY 'narrow'"))
        connection.execute(sa.text(f"GRANT ALL ON `{url.database}`.* TO 'narrow'@'127.0.0.1'"))
    narrow = Database(url.set(username="narrow", password="narrow").render_as_string(hide_password=False))
    with pytest.raises(Refusal) as refused:
        replace_tables(narrow, lambda _: None)
    assert refused.value.code == "no_room_beside"
    assert refused.value.params["schemas"] == f"{url.database}_next, {url.database}_last"
    narrow.close()
    keeper.dispose()
