"""The store: each event once, in order, sealed, and there after the worst."""

from __future__ import annotations

import json
import threading
from uuid import UUID, uuid4

import pytest
import sqlalchemy as sa

from jorvek.core.refusal import Refusal
from jorvek.core.run.log import events as ev
from jorvek.core.run.log.commands import Command, Conflict, Note, RecordReading
from jorvek.core.run.rules.progress import next_call
from jorvek.local.demo import DEMO_PIN, actor
from jorvek.local.mariadb import Server, kept_running, start_server
from jorvek.reports.record_sheet import record_html
from jorvek.store import database as store_database
from jorvek.store import tables as t
from jorvek.store.database import Database, DatabaseAwayError, DatabaseUnfitError, DatabaseUnsafeError
from jorvek.store.verify import verify
from jorvek.work.runs import acts, exports, reading
from tests.conftest import World, kept_by, new_database, new_workshop

TICK = ev.TickAnswer()


def record(key: str, attempt: int = 1) -> RecordReading:
    return RecordReading(kind="record", id=uuid4(), cell=key, attempt=attempt, answer=TICK)


def test_a_command_sent_again_is_answered_and_counts_once(world: World) -> None:
    player = world.started()
    command = record("prepare/landed")
    first = player.send(command)
    again = player.send(command)
    assert again.state == first.state
    assert len(world.workshop.log.stored(player.run_id)) == 2
    other = command.model_copy(update={"cell": "prepare/threads"})
    with pytest.raises(Refusal) as refused:
        player.send(other)
    assert refused.value.code == "id_reused"


def test_a_joint_has_one_open_run(world: World) -> None:
    first = world.started()
    with pytest.raises(Refusal) as refused:
        world.started("Lio Sandvik")
    assert refused.value.code == "joint_taken"
    first.play()
    chief = actor(world.workshop, "Ines Halloran")
    first.sign(chief, DEMO_PIN)
    first.close(chief)
    world.started("Lio Sandvik")


def test_of_many_tablets_on_one_call_exactly_one_is_stored(world: World) -> None:
    player = world.started()
    people = [actor(world.workshop, n) for n in ("Bram Okafor", "Lio Sandvik", "Dessa Marlow", "Tam Pereira")]
    outcomes: list[str] = []

    def press(person: ev.Person) -> None:
        try:
            acts.act(world.workshop, person, player.run_id, record("prepare/landed"))
            outcomes.append("stored")
        except Conflict:
            outcomes.append("conflict")

    threads = [threading.Thread(target=press, args=(p,)) for p in people]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    assert sorted(outcomes) == ["conflict"] * 3 + ["stored"]
    assert verify(world.workshop.database).alterations == ()


def test_people_on_different_studs_never_collide_and_two_programs_agree(world: World) -> None:
    player = world.started()
    player.play(lambda cell: cell.key == "seat/seat/1")
    second = new_workshop(world.url, world.clock)
    lio = actor(second, "Lio Sandvik")
    acts.act(world.workshop, player.hands, player.run_id, record("seat/seat/1"))
    acts.act(second, lio, player.run_id, record("seat/seat/3"))
    after = acts.act(world.workshop, player.hands, player.run_id, record("seat/seat/2"))
    assert second.log.snapshot(player.run_id).state == after.state


@pytest.mark.parametrize(
    ("column", "why"),
    [("body", "changed"), ("swap", "missing"), ("tail", "missing"), ("rehashed", "changed")],
)
def test_a_changed_past_is_named_by_its_first_altered_event(world: World, column: str, why: str) -> None:
    player = world.started()
    player.play(lambda cell: cell.step == "thread-above")
    assert verify(world.workshop.database).alterations == ()
    run, key = str(player.run_id), t.event.c.run_id == str(player.run_id)
    with world.workshop.database.engine.begin() as connection:
        if column in ("body", "rehashed"):
            body = connection.execute(sa.select(t.event.c.body).where(key, t.event.c.seq == 12)).scalar_one()
            values = {"body": body.replace('"text":"', '"text":"1')}
            assert values["body"] != body
            if column == "rehashed":
                values["hash"] = "0" * 64
            connection.execute(t.event.update().where(key, t.event.c.seq == 12).values(values))
        if column == "swap":
            connection.execute(t.event.delete().where(key, t.event.c.seq == 12))
        if column == "tail":
            connection.execute(t.event.delete().where(key, t.event.c.seq == 18))
    found = verify(world.workshop.database).alterations
    assert [(a.what, a.seq) for a in found] == [(f"run {run}", 18 if column == "tail" else 12)]
    assert why in found[0].why


def test_an_altered_log_is_not_folded_into_a_state(world: World) -> None:
    player = world.started()
    player.play(lambda cell: cell.step == "tools")
    with world.workshop.database.engine.begin() as connection:
        connection.execute(t.event.update().where(t.event.c.seq == 2).values(hash="f" * 64))
    with pytest.raises(Refusal) as refused:
        new_workshop(world.url).log.snapshot(player.run_id)
    assert refused.value.code == "log_broken"


def test_an_export_rebuilds_the_run_hash_for_hash_in_an_empty_database(world: World, server: Server) -> None:
    player = world.started()
    player.play(lambda cell: cell.key == "second/feeler/2")
    text = exports.export_run(world.workshop, player.run_id).model_dump_json()
    empty = new_workshop(new_database(server))
    chief = actor(world.workshop, "Ines Halloran")
    with empty.database.engine.begin() as connection:
        values = {
            "id": str(chief.id),
            "name": chief.name,
            "role": "chief",
            "pin_hash": "x",
            "active": True,
        }
        connection.execute(t.person.insert().values(values))
    rebuilt = exports.import_run(empty, chief, text)
    original = world.workshop.log.snapshot(player.run_id)
    assert rebuilt.head_hash == original.head_hash
    assert empty.log.snapshot(player.run_id).state == original.state
    again = exports.export_run(empty, player.run_id)
    here = exports.ExportedRun.model_validate_json(text)
    assert again.model_copy(update={"site": here.site}) == here, "each site vouches for itself"
    assert again.site != here.site
    # It says where it comes from: on screen, on paper, in the site log; at home it says nothing.
    told = reading.record(empty, player.run_id).brought_in
    assert told is not None
    assert (told.by, told.at) == (chief.name, empty.clock())
    assert reading.record(world.workshop, player.run_id).brought_in is None
    said = "Nothing in it was signed here."
    assert said in record_html(reading.record(empty, player.run_id), "http://127.0.0.1", "UTC")
    assert said not in record_html(reading.record(world.workshop, player.run_id), "http://127.0.0.1", "UTC")
    assert verify(empty.database).alterations == ()
    with pytest.raises(Refusal) as refused:
        exports.import_run(empty, chief, text)
    assert refused.value.code == "id_reused"


@pytest.mark.parametrize("damage", ["body", "hash", "gap", "json"])
def test_a_damaged_export_is_refused_whole(world: World, server: Server, damage: str) -> None:
    player = world.started()
    player.play(lambda cell: cell.step == "tools")
    exported = json.loads(exports.export_run(world.workshop, player.run_id).model_dump_json())
    chief = actor(world.workshop, "Ines Halloran")
    if damage == "body":
        exported["events"][2]["body"] = exported["events"][2]["body"].replace("prepare", "repaired")
    if damage == "hash":
        exported["events"][2]["hash"] = "0" * 64
    if damage == "gap":
        del exported["events"][2]
    text = "{" if damage == "json" else json.dumps(exported)
    with pytest.raises(Refusal):
        exports.import_run(world.workshop, chief, text)


def test_a_database_that_may_lose_what_it_confirmed_is_refused(world: World, monkeypatch: pytest.MonkeyPatch) -> None:
    database, keeper = world.workshop.database, kept_by(world.url)
    player = world.started()
    before = player.state().seq

    def flush(how: int) -> None:
        with keeper.begin() as connection:
            connection.execute(sa.text(f"SET GLOBAL innodb_flush_log_at_trx_commit = {how}"))

    flush(2)
    try:
        with pytest.raises(DatabaseUnfitError):
            database.check()
        # It is asked again while people work, not only when the program starts.
        monkeypatch.setattr("jorvek.store.database._SURE_FOR_S", 0.0)
        with pytest.raises(DatabaseUnsafeError):
            player.send(Note(kind="note", id=uuid4(), text="Said to nobody"))
    finally:
        flush(1)
        keeper.dispose()
    assert player.state().seq == before, "what may be lost is not taken"
    database.check()
    player.send(Note(kind="note", id=uuid4(), text="Now it is"))


def test_killed_while_readings_are_posted_the_database_keeps_each_acknowledged_one_once(
    tmp_path_factory: pytest.TempPathFactory,
) -> None:
    """Power is cut again and again while two people post; a retry after it counts once."""
    directory = tmp_path_factory.mktemp("killed")
    server = start_server(directory)
    port = server.port
    try:
        database = Database(server.url)
        database.migrate()
        world = World(server.url)
        players = [world.started("Bram Okafor", "head-4"), world.started("Lio Sandvik", "head-5")]
        acknowledged: dict[UUID, list[UUID]] = {p.run_id: [] for p in players}
        stop = threading.Event()

        def post(index: int) -> None:
            player = players[index]
            note = 0
            while not stop.is_set():
                note += 1
                command = ev_note(note)
                while True:
                    try:
                        player.send(command)
                    except Exception:  # the database is away; the same command is sent again
                        if stop.wait(0.02):
                            return
                    else:
                        acknowledged[player.run_id].append(command.id)
                        break

        threads = [threading.Thread(target=post, args=(i,)) for i in range(2)]
        for thread in threads:
            thread.start()
        for _ in range(4):
            stop.wait(0.4)
            server.kill()
            server = start_server(directory, port)
        stop.wait(0.3)
        stop.set()
        for thread in threads:
            thread.join()
        fresh = new_workshop(server.url)
        for run_id, ids in acknowledged.items():
            stored = [s.event.id for s in fresh.log.stored(run_id)]
            assert len(ids) > 20
            assert len(stored) == len(set(stored))
            assert set(ids) <= set(stored), "an acknowledged reading is missing"
        assert verify(fresh.database).alterations == ()
    finally:
        server.stop()


def test_a_server_that_dies_under_the_program_is_started_again_and_said_so(
    tmp_path_factory: pytest.TempPathFactory,
) -> None:
    said: list[str] = []
    runs_again = threading.Event()

    def hear(what: str) -> None:
        said.append(what)
        if "runs again" in what:
            runs_again.set()

    with kept_running(tmp_path_factory.mktemp("watched"), hear) as server:
        database = Database(server.url)
        database.migrate()
        for _ in range(2):
            runs_again.clear()
            server.kill()
            assert runs_again.wait(120)
            assert database.transact(lambda connection: connection.execute(sa.text("SELECT 1")).scalar_one()) == 1
        ended = server.process
    assert ended.poll() is not None
    # As root in a directory of root's alone, it says that first.
    told = [what.split(" (")[0] for what in said if "runs as root" not in what]
    assert (
        told
        == [
            *("the database server ended by itself", "the database server runs again"),
        ]
        * 2
    )


def test_the_application_has_its_own_schemas_and_no_other_right(server: Server, world: World) -> None:
    forbidden = (
        "CREATE DATABASE elsewhere",
        "SELECT * FROM mysql.user",
        "SET GLOBAL innodb_flush_log_at_trx_commit = 2",
    )
    for text in (*forbidden, "CREATE USER intruder", "SHUTDOWN"):
        with pytest.raises(sa.exc.DBAPIError) as refused, world.workshop.database.engine.begin() as connection:
            connection.execute(sa.text(text))
        assert refused.value.orig is not None
        assert refused.value.orig.args[0] in (1044, 1142, 1227), text


def test_the_first_look_after_a_power_cut_is_answered(
    tmp_path_factory: pytest.TempPathFactory, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Connections that lay idle while the database was started anew are noticed before they are used."""
    monkeypatch.setattr(store_database, "_TRUSTED_IDLE_S", 0.0)
    directory = tmp_path_factory.mktemp("cut")
    server = start_server(directory)
    try:
        database = Database(server.url)
        database.migrate()
        assert not database.in_use()
        server.kill()
        server = start_server(directory, server.port)
        assert not database.in_use(), "asked once, answered"
        assert database.transact(lambda connection: connection.execute(sa.text("SELECT 1")).scalar_one()) == 1
        monkeypatch.setattr(store_database, "_TRUSTED_IDLE_S", 60.0)
        server.kill()
        server = start_server(directory, server.port)
        with pytest.raises(DatabaseAwayError):
            database.in_use()
        assert not database.in_use(), "an error throws the whole pool away"
    finally:
        server.stop()


def ev_note(number: int) -> Command:
    return Note(kind="note", id=uuid4(), text=f"note {number}")


def test_the_state_is_the_same_after_everything_was_forgotten(world: World) -> None:
    player = world.started()
    state = player.play(lambda cell: cell.step == "relieve")
    fresh = new_workshop(world.url)
    assert fresh.log.snapshot(player.run_id).state == state
    assert next_call(state) is not None
