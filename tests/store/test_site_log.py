"""The site log: what is written is taken in, by one writer at a time, and nobody who records waits for it."""

from __future__ import annotations

import json
import stat
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from dataclasses import replace
from datetime import datetime
from pathlib import Path
from threading import Event
from uuid import uuid4
from zipfile import ZipFile

import pytest
import sqlalchemy as sa

from jorvek.core.refusal import Refusal
from jorvek.core.rights import Role
from jorvek.core.run.rules.progress import next_call
from jorvek.core.site_log.entries import Inclusion, Root, Seal, SiteLogEntry
from jorvek.local.backup import back_up, restore
from jorvek.local.demo import DEMO_PIN, actor
from jorvek.local.mariadb import Server
from jorvek.store import tables as t
from jorvek.store.database import Database, DatabaseAwayError
from jorvek.store.row_locks import SITE_LOG, take
from jorvek.store.site_key import SiteKey, SiteKeyError, kept_key
from jorvek.store.sitelog import SiteLog
from jorvek.store.verify import verify
from jorvek.work.library import revisions
from jorvek.work.people import accounts
from jorvek.work.runs.exports import ExportedRun, export_run, import_run
from jorvek.work.runs.offline_verification import faults_of_record
from jorvek.work.sealing import begin_new_key, sealed, seen, site_seal
from jorvek.work.upkeep.periodic_jobs import Attending
from jorvek.work.workshop import Workshop
from tests.conftest import KEY, World, new_database, new_workshop

ELSEWHERE = SiteKey(bytes(reversed(range(32))))


def log_of(world: World | Workshop) -> SiteLog:
    shop = world.workshop if isinstance(world, World) else world
    assert shop.site_log is not None
    return shop.site_log


def entries(shop: Workshop) -> list[SiteLogEntry]:
    with shop.database.reading() as connection:
        rows = connection.execute(sa.select(t.site_entry.c.body).order_by(t.site_entry.c.place)).scalars()
        return [SiteLogEntry.model_validate_json(body) for body in rows]


def waits(world: World) -> int:
    """How many rows and heads are not in yet."""
    return verify(world.workshop.database, KEY).waiting


def taken_in(world: World) -> Root:
    return log_of(world).take_in(world.clock.now)


# ---- what is taken in, and when --------------------------------------------------------------------------------------


def test_a_reading_is_taken_in_with_the_head_of_its_run_and_each_head_once(world: World) -> None:
    taken_in(world)
    player = world.started()
    player.play(lambda cell: cell.kind == "seat_tool")
    assert waits(world) == 4, "the rows and the heads of the run and of its engine's overhaul"
    root = taken_in(world)
    assert waits(world) == 0
    assert taken_in(world) == root, "nothing new, no new root"
    heads = [(e.key, e.seq, e.digest) for e in entries(world.workshop) if e.kind == "run_head"]
    snapshot = world.workshop.log.snapshot(player.run_id)
    assert heads[-1] == (str(player.run_id), snapshot.state.seq, snapshot.head_hash)
    assert len(heads) == len(set(heads))


def test_a_run_that_is_brought_in_with_times_of_its_own_is_taken_in_at_once(
    server: Server, template: World, world: World
) -> None:
    player = world.started()
    text = export_run(world.workshop, player.run_id).model_dump_json()
    there = World(new_database(server), template)
    there.clock.forward(24 * 3600)
    taken_in(there)
    import_run(there.workshop, actor(there.workshop, "Ines Halloran"), text)
    taken_in(there)
    assert waits(there) == 0


def test_what_was_there_before_anybody_watched_is_taken_over_and_says_so(server: Server, played: World) -> None:
    world = World(new_database(server), played)
    with world.workshop.database.engine.begin() as connection:
        for table in (t.site_pending, t.site_entry, t.site_root, t.site_key):
            connection.execute(table.delete())
    assert verify(world.workshop.database, KEY).seal is None
    taken_in(world)
    first, *rest = entries(world.workshop)
    assert (first.kind, first.key, first.digest) == ("site_key", KEY.id, KEY.public)
    assert {e.adopted for e in rest} == {True}
    assert {"person", "tool", "engine", "run_head", "overhaul_head", "procedure_status"} <= {e.kind for e in rest}
    found = verify(world.workshop.database, KEY)
    assert (found.alterations, found.waiting) == ((), 0)


def test_an_approval_is_sealed_at_once(world: World) -> None:
    taken_in(world)
    shop, chief = world.workshop, actor(world.workshop, "Ines Halloran")
    head = next(r for r in shop.registers.revisions() if r.status == "approved")
    sealing_before = log_of(world).newest()
    revisions.withdraw(shop, chief, head.hash)
    assert waits(world) == 0
    assert log_of(world).newest() != sealing_before


def test_closing_a_run_seals_it_at_once(world: World) -> None:
    player = world.started()
    chief = actor(world.workshop, "Ines Halloran")
    while next_call(player.play()) is not None:
        player.sign(chief, DEMO_PIN)
    assert waits(world) > 0
    player.close(chief)
    assert waits(world) == 0


@pytest.mark.parametrize(
    "trouble", [SiteKeyError("another key goes on"), DatabaseAwayError("gone"), ValueError("a root that is none")]
)
def test_what_cannot_be_sealed_now_is_done_all_the_same(
    world: World, monkeypatch: pytest.MonkeyPatch, trouble: Exception
) -> None:
    def away(*_: object) -> Root:
        raise trouble

    monkeypatch.setattr(SiteLog, "take_in", away)
    assert site_seal(world.workshop) == ""
    head = next(r for r in world.workshop.registers.revisions() if r.status == "approved")
    revisions.withdraw(world.workshop, actor(world.workshop, "Ines Halloran"), head.hash)
    assert shelf_status(world, head.hash) == "withdrawn"


def shelf_status(world: World, digest: str) -> str:
    row = world.workshop.registers.revision(digest)
    assert row is not None
    return row.status


def test_by_itself_it_takes_in_after_a_few_seconds(world: World, monkeypatch: pytest.MonkeyPatch) -> None:
    took, troubles = Event(), [ValueError("a root that is none")]
    take_in = SiteLog.take_in

    def told(self: SiteLog, now: datetime, clock_jumps: tuple[str, ...] = ()) -> Root:
        if troubles:
            raise troubles.pop()
        root = take_in(self, now, clock_jumps)
        took.set()
        return root

    world.started()
    monkeypatch.setattr(SiteLog, "take_in", told)
    sealer = Attending("site_log", 0.01, lambda: sealed(world.workshop))
    sealer.start()
    assert took.wait(60)
    sealer.stop()
    assert waits(world) == 0


def test_nobody_who_records_waits_for_the_one_who_takes_in(world: World) -> None:
    player = world.started()
    held, go = Event(), Event()

    def hold(connection: sa.Connection) -> None:
        take(connection, {SITE_LOG})
        held.set()
        assert go.wait(60)

    with ThreadPoolExecutor(1) as pool:
        holding = pool.submit(world.workshop.database.transact, hold)
        assert held.wait(60)
        before = player.state().seq
        player.play(lambda cell: cell.kind == "seat_tool")
        accounts.add_person(world.workshop, "Una Kessel", Role.MECHANIC, "482915")
        go.set()
        holding.result()
    assert player.state().seq > before
    assert waits(world) >= 1


def test_two_servers_take_in_every_row_once_and_the_tree_has_no_gap(world: World) -> None:
    other = new_workshop(world.url, world.clock)

    def joins(shop: Workshop, number: int) -> None:
        accounts.add_person(shop, f"Hand {number:02}", Role.TRAINEE, f"48291{number % 10}")
        log_of(shop).take_in(world.clock.now)

    with ThreadPoolExecutor(4) as pool:
        list(pool.map(joins, [world.workshop, other] * 8, range(16)))
    names = [e.key for e in entries(other) if e.kind == "person"]
    assert len(names) == len(set(names)) == 6 + 16
    found = verify(world.workshop.database, KEY)
    assert (found.alterations, found.waiting) == ((), 0)


# ---- the key ---------------------------------------------------------------------------------------------------------


def test_the_key_is_made_once_and_read_by_its_owner_alone(tmp_path: Path) -> None:
    file = tmp_path / "data" / "site.key"
    with ThreadPoolExecutor(8) as pool:
        keys = set(pool.map(kept_key, [file] * 8))
    (key,) = keys
    assert stat.S_IMODE(file.stat().st_mode) == 0o600
    assert file.with_suffix(".pub").read_text().strip() == key.public
    assert [p.name for p in file.parent.iterdir()] in (["site.key", "site.pub"], ["site.pub", "site.key"])


@pytest.mark.parametrize("text", ["", "no key", "ab" * 31, "ab" * 33])
def test_what_is_no_key_is_refused_and_left_as_it_is(tmp_path: Path, text: str) -> None:
    file = tmp_path / "site.key"
    file.write_text(text)
    with pytest.raises(SiteKeyError):
        kept_key(file)
    assert file.read_text() == text


def elsewhere(url: str, world: World) -> Workshop:
    database = Database(url)
    return Workshop(database, world.clock, photo_dir=world.workshop.photo_dir, site_key=ELSEWHERE)


def test_a_server_with_another_key_neither_starts_nor_signs(world: World) -> None:
    root = taken_in(world)
    other = elsewhere(world.url, world)
    with pytest.raises(SiteKeyError, match=f"signed with the key {KEY.id}"):
        log_of(other).demand_own_key()
    world.started()
    with pytest.raises(SiteKeyError, match="another key"):
        log_of(other).take_in(world.clock.now)
    assert log_of(world).newest() == root


def test_a_new_key_says_on_which_root_it_goes_on_and_the_tree_stays_one(world: World) -> None:
    world.started()
    before = taken_in(world)
    accounts.add_person(world.workshop, "Una Kessel", Role.MECHANIC, "482915")
    other = elsewhere(world.url, world)
    after = begin_new_key(other, "the old machine burned")
    entry = entries(other)[-1]
    assert (entry.kind, entry.key) == ("site_key", ELSEWHERE.id)
    assert entry.words == f"the old machine burned {before.seal().printed()}"
    log_of(other).demand_own_key()
    found = verify(other.database, ELSEWHERE, before.seal())
    assert (found.alterations, found.waiting) == ((), 0)
    assert found.seal == after.seal()


def test_what_is_brought_back_elsewhere_goes_on_under_a_key_of_its_own(
    server: Server, world: World, tmp_path: Path
) -> None:
    world.started()
    before = taken_in(world)
    accounts.add_person(world.workshop, "Una Kessel", Role.MECHANIC, "482915")
    file = tmp_path / "kept.zip"
    back_up(world.workshop, file)
    there = elsewhere(new_database(server), world)
    there.database.migrate()
    _, result = restore(there, file, tmp_path, over=False)
    assert not result.alterations, "what was noted and not taken in came along"
    assert result.seal is not None
    assert result.seal.size > before.size
    assert "brought back from kept.zip" in entries(there)[before.size + 1].words
    assert not verify(there.database, ELSEWHERE, before.seal()).alterations


# ---- what a tablet has seen ------------------------------------------------------------------------------------------


def test_a_tablet_speaks_up_when_it_has_seen_more_than_there_is(server: Server, world: World, tmp_path: Path) -> None:
    shop = world.workshop
    first = taken_in(world)
    assert seen(shop, None).now == first.seal()
    back_up(shop, tmp_path / "monday.zip")
    world.started()
    later = taken_in(world)
    assert not seen(shop, first.seal()).lost
    assert not seen(shop, later.seal()).lost
    assert seen(shop, later.seal().model_copy(update={"root": first.root})).lost, "as many entries, and others"
    restore(shop, tmp_path / "monday.zip", tmp_path, over=True)
    told = seen(shop, later.seal())
    assert told.lost
    assert told.now is not None
    assert not seen(shop, told.now).lost
    assert not seen(shop, first.seal()).lost, "Monday is still part of it"


def test_between_two_roots_a_seal_is_held_against_the_entries_themselves(world: World) -> None:
    root = taken_in(world)
    assert not log_of(world).goes_on_from(Seal(size=root.size - 1, root=root.root))
    assert not log_of(world).goes_on_from(Seal(size=root.size + 5, root=root.root))


def test_without_a_key_there_is_no_site_log_and_a_tablet_that_knew_one_speaks_up(world: World) -> None:
    bare = Workshop(world.workshop.database, world.clock)
    assert (bare.site_log, site_seal(bare)) == (None, "")
    assert not seen(bare, None).lost
    assert seen(bare, taken_in(world).seal()).lost
    with pytest.raises(Refusal) as refused:
        begin_new_key(bare, "why")
    assert refused.value.code == "no_site_log"


# ---- a run far from its site -----------------------------------------------------------------------------------------


@pytest.fixture(scope="module")
def exported(server: Server, template: World) -> ExportedRun:
    world = World(new_database(server), template)
    player = world.started()
    player.play(lambda cell: cell.kind == "seat_tool")
    return export_run(world.workshop, player.run_id)


def site_of(export: ExportedRun) -> Inclusion:
    assert export.site is not None
    return export.site


def shorter(export: ExportedRun) -> ExportedRun:
    return export.model_copy(update={"events": export.events[:-1]})


def altered(export: ExportedRun) -> ExportedRun:
    last = export.events[-1]
    changed = last.model_copy(update={"body": f"{last.body} "})
    return export.model_copy(update={"events": (*export.events[:-1], changed)})


def with_site(**change: object) -> Callable[[ExportedRun], ExportedRun]:
    return lambda export: export.model_copy(update={"site": site_of(export).model_copy(update=change)})


def of_another_run(export: ExportedRun) -> ExportedRun:
    entry = SiteLogEntry.model_validate_json(site_of(export).entry).model_copy(update={"key": str(uuid4())})
    return with_site(entry=entry.text())(export)


def signed_by_another(export: ExportedRun) -> ExportedRun:
    site = site_of(export)
    return with_site(signature=ELSEWHERE.sign(site.root), public_key=ELSEWHERE.public)(export)


def test_an_exported_run_is_proven_with_the_public_key_alone(exported: ExportedRun) -> None:
    assert not list(faults_of_record(exported.model_dump_json(), KEY.public))
    assert list(faults_of_record(exported.model_dump_json(), ELSEWHERE.public)) == [
        "the seal was not signed with that key"
    ]


@pytest.mark.parametrize(
    ("change", "fault"),
    [
        (shorter, "another state of this run"),
        (altered, "was changed"),
        (with_site(index=0), "does not stand for it"),
        (with_site(proof=()), "does not stand for it"),
        (with_site(entry="{}"), "cannot be read"),
        (of_another_run, "speaks of another run"),
        (signed_by_another, "not signed with that key"),
        (lambda export: export.model_copy(update={"site": None}), "has not vouched for it"),
    ],
)
def test_whatever_was_changed_in_it_is_not_proven(
    exported: ExportedRun, change: Callable[[ExportedRun], ExportedRun], fault: str
) -> None:
    found = list(faults_of_record(change(exported).model_dump_json(), KEY.public))
    assert any(fault in one for one in found), found


def reworded(**changes: object) -> Callable[[ExportedRun], ExportedRun]:
    return lambda export: export.model_copy(update={"record": export.record.model_copy(update=changes)})


def other_figures(export: ExportedRun) -> ExportedRun:
    body = json.loads(export.procedure)
    body["title"] = "Another"
    return export.model_copy(update={"procedure": json.dumps(body)})


@pytest.mark.parametrize(
    ("change", "fault"),
    [
        (reworded(joint="Head 7"), "something else than the events: joint"),
        (reworded(running_hours=1.0), "running_hours"),
        (reworded(core_version="0"), "made by core 0"),
        (other_figures, "not the one that they were done by"),
    ],
)
def test_the_readable_part_is_held_against_what_is_sealed(
    exported: ExportedRun, change: Callable[[ExportedRun], ExportedRun], fault: str
) -> None:
    found = list(faults_of_record(change(exported).model_dump_json(), KEY.public))
    assert any(fault in one for one in found), found


# ---- a site log that was taken away ----------------------------------------------------------------------------------


def taken_away(world: World) -> None:
    """Somebody empties the tables of the site log."""
    with world.workshop.database.engine.begin() as connection:
        for table in (t.site_entry, t.site_root, t.site_key, t.site_pending):
            connection.execute(table.delete())


def test_a_site_that_has_sealed_does_not_begin_anew_in_silence(world: World, tmp_path: Path) -> None:
    key = kept_key(tmp_path / "site.key")
    shop = replace(world.workshop, site_key=key)
    assert shop.site_log is not None
    shop.site_log.begin_key(shop.clock(), "This machine's own")
    assert key.has_sealed
    taken_away(world)
    with pytest.raises(SiteKeyError, match="taken away"):
        shop.site_log.demand_own_key()
    with pytest.raises(SiteKeyError, match="new-key"):
        shop.site_log.take_in(shop.clock())
    assert any("taken away" in one.why for one in verify(shop.database, key).alterations)
    shop.site_log.begin_key(shop.clock(), "The disk was lost")
    assert not verify(shop.database, key).alterations, "all of it taken in as it stands"
    body = sa.select(t.site_entry.c.body).where(t.site_entry.c.place == 0)
    with shop.database.reading() as connection:
        assert "The disk was lost" in connection.execute(body).scalar_one()


def test_a_backup_whose_site_log_was_taken_out_is_brought_back_and_vouched_for_by_nobody(
    world: World, server: Server, tmp_path: Path
) -> None:
    sealed(world.workshop)
    good, stripped = tmp_path / "good.zip", tmp_path / "stripped.zip"
    back_up(world.workshop, good)
    with ZipFile(good) as whole, ZipFile(stripped, "w") as archive:
        label = json.loads(whole.read("backup.json"))
        for name in whole.namelist():
            table = name.removeprefix("tables/").removesuffix(".jsonl")
            if table in _SITE_TABLES:
                label["rows"][table] = 0
            archive.writestr(name, b"" if table in _SITE_TABLES else whole.read(name))
        archive.writestr("backup.json", json.dumps(label))
    for file, unsealed in ((good, False), (stripped, True)):
        there = replace(new_workshop(new_database(server)), site_key=kept_key(tmp_path / f"{file.stem}.key"))
        kept, found = restore(there, file, tmp_path / "dumps", over=False)
        assert kept.unsealed is unsealed
        assert not found.alterations
    assert "which had no site log" in entries(there)[0].words


_SITE_TABLES = ("site_entry", "site_root", "site_key", "site_pending")


@pytest.mark.parametrize("text", ["", "{}", "[]", '{"events": []}', '{"events": [{"body": "{}", "hash": ""}]}'])
def test_what_is_no_export_says_so(text: str) -> None:
    with pytest.raises(Refusal) as refused:
        list(faults_of_record(text, KEY.public))
    assert refused.value.code == "E_DATA"
