"""What is asked whether it stands as it was written says what it could not look at, and hides nothing behind a find."""

from __future__ import annotations

import json
from pathlib import Path

import pymysql
import pytest
import sqlalchemy as sa

from jorvek.core.canonical import canonical_text
from jorvek.core.refusal import Refusal
from jorvek.core.run.log import events as ev
from jorvek.core.run.log.cells import InputType, Rule
from jorvek.core.run.rules.progress import next_call
from jorvek.core.sheet.document import EngineSheet
from jorvek.local.backup import photos_missing
from jorvek.local.mariadb import Server, ServerFailedError
from jorvek.local.opening import visit_workshop
from jorvek.settings import Settings
from jorvek.store import tables as t
from jorvek.store.database import Database, DatabaseAwayError, DatabaseFullError
from jorvek.store.eventlog import GENESIS, seal
from jorvek.store.shadow_schema import bring_up_to_date, replace_tables
from jorvek.store.verify import verify
from jorvek.work.runs.judged_again import judged_otherwise
from tests.conftest import KEY, World, new_database


def doing(database: Database, text: str, **values: object) -> None:
    with database.engine.begin() as connection:
        connection.execute(sa.text(text), values)


def test_an_empty_place_does_not_stand_as_it_was_written(server: Server) -> None:
    database = Database(new_database(server))
    assert verify(database).unfit == "there is nothing here: no table at all"
    bring_up_to_date(database)
    assert verify(database).unfit == "there is nothing here: nobody is on the register"


def test_a_half_written_place_says_what_is_missing(world: World) -> None:
    database = world.workshop.database
    assert verify(database).unfit is None
    doing(database, "DROP TABLE overhaul_event")
    assert verify(database).unfit == "tables are missing: overhaul_event"


@pytest.mark.parametrize("version", ["9999", None])
def test_tables_of_another_program_are_neither_read_nor_thrown_away(world: World, version: str | None) -> None:
    database = world.workshop.database
    doing(database, "DELETE FROM alembic_version")
    if version is not None:
        doing(database, "INSERT INTO alembic_version VALUES (:version)", version=version)
    assert "a version that this program does not know" in (verify(database).unfit or "")
    with pytest.raises(Refusal) as refused:
        bring_up_to_date(database)
    assert (refused.value.code, refused.value.params["revision"]) == ("tables_unknown", version or "none")
    assert len(world.workshop.registers.people()) == 6


def test_tables_of_an_older_version_are_brought_up_before_they_are_looked_at(server: Server) -> None:
    database = Database(new_database(server))
    database.migrate("0003")
    assert "still of version 0003" in (verify(database).unfit or "")


def test_a_newer_program_replaces_no_tables_under_an_older_one_that_runs(
    server: Server, monkeypatch: pytest.MonkeyPatch, tmp_path: Path
) -> None:
    url = new_database(server)
    Database(url).migrate("0003")
    monkeypatch.setattr("jorvek.local.opening.url_of_running", lambda _: url)
    with pytest.raises(ServerFailedError, match="stop it first"), visit_workshop(Settings(data=tmp_path)):
        pass
    assert Database(url).behind() == "0003"


@pytest.mark.parametrize(
    ("code", "words", "means"),
    [
        (1114, "The table 'event' is full", DatabaseFullError),
        (1005, 'Can\'t create table `next`.`tool` (errno: 135 "No more room in record file")', DatabaseFullError),
        (1005, 'Can\'t create table `next`.`tool` (errno: 28 "No space left on device")', DatabaseFullError),
        (1030, 'Got error 28 "No space left on device" from storage engine InnoDB', DatabaseFullError),
        (1005, 'Can\'t create table `next`.`tool` (errno: 150 "Foreign key constraint")', DatabaseAwayError),
        (2013, "Lost connection to MySQL server during query", DatabaseAwayError),
    ],
)
def test_a_disk_that_is_full_in_the_middle_of_an_upgrade_is_said_and_leaves_the_tables_as_they_were(
    world: World, code: int, words: str, means: type[DatabaseAwayError]
) -> None:
    def fill(_: Database) -> None:
        raise sa.exc.OperationalError("CREATE TABLE", {}, pymysql.err.OperationalError(code, words))

    database = world.workshop.database
    with pytest.raises(DatabaseAwayError) as said:
        replace_tables(database, fill)
    assert type(said.value) is means
    assert verify(database).alterations == ()
    with database.reading() as connection:
        there = sa.inspect(connection).get_schema_names()
    assert not {f"{database.engine.url.database}_next", f"{database.engine.url.database}_last"} & set(there)


def test_an_event_whose_text_cannot_be_read_is_found_and_hides_no_other(world: World) -> None:
    looked = world.player("Bram Okafor")
    digest = next(r.hash for r in world.workshop.registers.revisions() if r.id == "tarnholt-7l34-head-loosen")
    looked.start("unit-2", "head-5", digest)
    looked.play(lambda cell: cell.key == "faces/head")
    looked.photograph("look/decision/1", "Seat of stud 1")
    broken = world.started("Lio Sandvik")
    # Whoever forges it does it well: the hashes are right, the text is none.
    doing(
        world.workshop.database,
        "UPDATE event SET body = :body, hash = :hash WHERE run_id = :run AND seq = 1",
        body="{", hash=seal(GENESIS, "{"), run=str(broken.run_id),
    )  # fmt: skip
    doing(world.workshop.database, "UPDATE run SET head_hash = :h WHERE id = :r", h="0" * 64, r=str(broken.run_id))
    found = verify(world.workshop.database).alterations
    assert [(a.what, a.seq, a.why) for a in found] == [
        (f"run {broken.run_id}", 1, "the text of the event cannot be read")
    ]
    # The picture is lost, too: it is named though a run cannot be read.
    photos = looked.state().photos
    world.workshop.files.drop(f"photo/{photos[0].photo}")
    assert set(photos_missing(world.workshop)) == {photos[0].photo, f"of run {broken.run_id}: its log cannot be read"}


def test_an_altered_engine_sheet_is_found(world: World) -> None:
    with world.workshop.database.reading() as connection:
        row = connection.execute(sa.select(t.sheet_revision)).first()
    assert row is not None
    sheet = EngineSheet.model_validate_json(row.body).model_copy(update={"title": "Another title"})
    doing(
        world.workshop.database, "UPDATE sheet_revision SET body = :b WHERE hash = :h", b=sheet.canonical(), h=row.hash
    )
    found = verify(world.workshop.database)
    assert "the document was changed" in [a.why for a in found.alterations]
    doing(world.workshop.database, "UPDATE sheet_revision SET body = '[]' WHERE hash = :h", h=row.hash)
    again = verify(world.workshop.database)
    assert "the document cannot be read" in [a.why for a in again.alterations]
    assert found.sheets == again.sheets == 3


# ---- every reading judged again --------------------------------------------------------------------------------------


def forge_a_verdict(world: World, version: str | None = None) -> None:
    """Say of a reading out of its band that it was good, and chain the run anew; of another core, if one is named."""
    database = world.workshop.database
    player = world.started()
    cell = next_call(player.play(lambda cell: cell.rule is Rule.SETTING and cell.ask is InputType.VALUE))
    assert cell is not None
    assert cell.lower is not None
    player.answer(cell, ev.ValueAnswer(text=f"{cell.lower * 0.97:.0f}", unit="bar"))
    with database.engine.begin() as connection:
        rows = connection.execute(
            sa.select(t.event).where(t.event.c.run_id == str(player.run_id)).order_by("seq")
        ).all()
        previous = GENESIS
        for row in rows:
            body = json.loads(row.body)
            if row.seq == rows[-1].seq:
                assert body["data"]["judgement"]["verdict"] == "out_of_band"
                body["data"]["judgement"]["verdict"] = "in_band"
                body["core_version"] = version or body["core_version"]
            text = canonical_text(body)
            previous = seal(previous, text)
            doing_now = sa.update(t.event).where(t.event.c.run_id == row.run_id, t.event.c.seq == row.seq)
            connection.execute(doing_now.values(body=text, hash=previous))
        connection.execute(sa.update(t.run).where(t.run.c.id == str(player.run_id)).values(head_hash=previous))
    world.workshop.log._cache.clear()


@pytest.mark.parametrize(("version", "alarm"), [(None, True), ("0", False)])
def test_a_verdict_that_this_core_never_gave_is_an_alarm_and_that_of_another_core_is_told(
    world: World, version: str | None, alarm: bool
) -> None:
    forge_a_verdict(world, version)
    assert not verify(world.workshop.database, KEY).alterations, "it was forged before anything of it was sealed"
    (found,) = judged_otherwise(world.workshop)
    assert (found.alarm, found.reading.then, found.reading.now) == (alarm, "in_band", "out_of_band")


def test_every_reading_of_a_morning_is_judged_as_it_was(played: World) -> None:
    assert not list(judged_otherwise(played.workshop))
