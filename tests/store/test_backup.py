"""A restore drill: written while people work, brought back elsewhere, every hash looked through."""

from __future__ import annotations

import json
import threading
from datetime import date
from errno import ENOSPC
from pathlib import Path
from uuid import uuid4
from zipfile import ZipFile

import pytest
import sqlalchemy as sa

from jorvek.core.refusal import Refusal
from jorvek.core.run.log.commands import Note
from jorvek.local import backup
from jorvek.local.backup import back_up, dump_before_migration, photos_missing, restore
from jorvek.local.demo import actor
from jorvek.local.mariadb import Server
from jorvek.store import tables as t
from jorvek.store.database import Database
from jorvek.store.verify import verify
from jorvek.work.upkeep.hours_and_due import read_hours
from jorvek.work.workshop import Workshop
from tests.conftest import START, World, new_database


def elsewhere(server: Server, place: Path) -> Workshop:
    database = Database(new_database(server))
    database.migrate()
    return Workshop(database, photo_dir=place / "photos")


def hours_of(shop: Workshop) -> list[tuple[object, ...]]:
    with shop.database.reading() as connection:
        return [tuple(row) for row in connection.execute(sa.select(t.engine_hours))]


def test_what_was_written_while_people_worked_comes_back_whole(world: World, server: Server, tmp_path: Path) -> None:
    looked = world.player("Bram Okafor")
    digest = next(r.hash for r in world.workshop.registers.revisions() if r.id == "tarnholt-7l34-head-loosen")
    looked.start("unit-2", "head-5", digest)
    looked.play(lambda cell: cell.key == "faces/head")
    looked.photograph("look/decision/1", "Seat of stud 1")
    read_hours(world.workshop, actor(world.workshop, "Bram Okafor"), "unit-2", 18412.5, date(2026, 11, 20))
    busy, stop = world.started(), threading.Event()

    def work() -> None:
        while not stop.is_set():
            busy.send(Note(kind="note", id=uuid4(), text="Still at it"))

    hands = threading.Thread(target=work)
    hands.start()
    try:
        file = tmp_path / "monday.zip"
        kept = back_up(world.workshop, file)
    finally:
        stop.set()
        hands.join()
    assert kept.photos >= 1
    with pytest.raises(Refusal) as refused:
        back_up(world.workshop, file)
    assert refused.value.code == "file_exists"

    other = elsewhere(server, tmp_path)
    back, found = restore(other, file, tmp_path / "dumps", over=False)
    assert found.alterations == ()
    assert (found.runs, back.photos_missing, back.rows) == (2, (), kept.rows)
    for player in (looked, busy):
        here, there = world.workshop.log.stored(player.run_id), other.log.stored(player.run_id)
        assert [e.hash for e in there] == [e.hash for e in here[: len(there)]]
    assert hours_of(other) == hours_of(world.workshop)
    assert other.log.snapshot(looked.run_id).state == world.workshop.log.snapshot(looked.run_id).state
    busy.workshop = other
    busy.send(Note(kind="note", id=uuid4(), text="Work goes on here"))
    assert verify(other.database).alterations == ()

    # What is there is not thrown away unasked, and a lost picture is named.
    with pytest.raises(Refusal) as refused:
        restore(other, file, tmp_path / "dumps", over=False)
    assert refused.value.code == "not_empty"
    assert restore(other, file, tmp_path / "dumps", over=True)[1].alterations == ()
    (photo,) = other.log.snapshot(looked.run_id).state.photos
    other.files.keep(f"photo/{photo.photo}", b"another picture")
    assert list(photos_missing(other)) == [photo.photo]


def test_a_file_that_is_no_backup_changes_nothing(world: World, server: Server, tmp_path: Path) -> None:
    good, other = tmp_path / "good.zip", elsewhere(server, tmp_path)
    back_up(world.workshop, good)
    text, empty, newer, short = (tmp_path / name for name in ("text.zip", "empty.zip", "newer.zip", "short.zip"))
    text.write_text("not an archive")
    with ZipFile(empty, "w") as archive:
        archive.writestr("hello", "x")
    with ZipFile(good) as whole, ZipFile(newer, "w") as archive:
        archive.writestr("backup.json", json.dumps({**json.loads(whole.read("backup.json")), "revision": "9990"}))
    labels: tuple[dict[str, object], ...] = (
        {"rows": {}},
        {"revision": "0012"},
        {"revision": 12, "rows": []},
        {"revision": "0012", "rows": {"x": 1}},
    )
    nameless = [tmp_path / f"label-{k}.zip" for k, _ in enumerate(labels)]
    for file, label in zip(nameless, labels, strict=True):
        with ZipFile(file, "w") as archive:
            archive.writestr("backup.json", json.dumps({"format": "jorvek-backup/1", **label}))
    short.write_bytes(good.read_bytes()[:-400])
    lacking = tmp_path / "lacking.zip"
    with ZipFile(good) as whole, ZipFile(lacking, "w") as archive:
        for name in whole.namelist():
            body = whole.read(name)
            archive.writestr(name, body.split(b"\n", 1)[1] if name == "tables/person.jsonl" else body)
    with pytest.raises(Refusal) as refused:
        restore(world.workshop, lacking, tmp_path / "dumps", over=True)
    assert refused.value.code == "no_backup"
    assert world.workshop.registers.people() != [], "nothing was thrown away for it"
    assert list((tmp_path / "dumps").iterdir()) == [], "nor was anything written away for nothing"
    bad = [(file, "no_backup") for file in (text, empty, short, *nameless)]
    for file, code in (*bad, (newer, "backup_too_new")):
        with pytest.raises(Refusal) as refused:
            restore(other, file, tmp_path / "dumps", over=True)
        assert refused.value.code == code, file.name
    assert other.registers.people() == []


def test_a_backup_for_which_there_is_no_room_says_so_and_leaves_no_half_a_file(
    world: World, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    def full(*_: object) -> None:
        raise OSError(ENOSPC, "No space left on device")

    monkeypatch.setattr(backup, "write_tables", full)
    with pytest.raises(Refusal) as refused:
        back_up(world.workshop, tmp_path / "monday.zip")
    assert refused.value.code == "no_room_for_file"
    assert list(tmp_path.iterdir()) == []


def test_before_a_migration_for_which_there_is_no_room_to_write_away_nothing_is_changed(
    server: Server, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    def full(*_: object) -> None:
        raise OSError(ENOSPC, "No space left on device")

    database = Database(new_database(server))
    database.migrate("0001")
    before = database.behind()
    monkeypatch.setattr(backup, "write_tables", full)
    with pytest.raises(Refusal) as refused:
        dump_before_migration(database, tmp_path, START)
    assert refused.value.code == "no_room_for_file"
    assert database.behind() == before
    assert list((tmp_path / "dumps").iterdir()) == []


def test_tables_are_written_away_before_a_migration_changes_them(server: Server, tmp_path: Path) -> None:
    database = Database(new_database(server))
    assert dump_before_migration(database, tmp_path, START) is None, "nothing is there yet"
    database.migrate("0001")
    values = {"id": str(uuid4()), "name": "Ines Halloran", "role": "chief", "pin_hash": "x", "active": 1, "failures": 0}
    with database.engine.begin() as connection:
        columns = ", ".join(values)
        places = ", ".join(f":{name}" for name in values)
        connection.execute(sa.text(f"INSERT INTO person ({columns}) VALUES ({places})"), values)
    file = dump_before_migration(database, tmp_path, START)
    assert file is not None
    database.migrate()
    assert dump_before_migration(database, tmp_path, START) is None, "it is the newest now"
    other = elsewhere(server, tmp_path)
    restore(other, file, tmp_path / "dumps", over=False)
    assert [p.name for p in other.registers.people()] == ["Ines Halloran"]
