"""What somebody changes who can write to the database: every way of it is one test, and says what was found."""

from __future__ import annotations

import json
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass, field
from hashlib import sha256
from typing import Any

import pytest
import sqlalchemy as sa

from jorvek.core.canonical import canonical_text
from jorvek.core.site_log.entries import Root, Seal, SiteLogEntry
from jorvek.core.site_log.tree import Frontier, leaf_hash
from jorvek.local.demo import actor
from jorvek.local.mariadb import Server
from jorvek.store import tables as t
from jorvek.store.eventlog import GENESIS, seal
from jorvek.store.site_key import SiteKey
from jorvek.store.verify import Verification, verify
from jorvek.work.engine import tools
from jorvek.work.upkeep import hours_and_due
from tests.conftest import KEY, World, new_database

OTHER_KEY = SiteKey(bytes(32))


@dataclass
class Hands:
    """Somebody at the tables, with everything but the site's key."""

    connection: sa.Connection
    picked: dict[str, str] = field(default_factory=dict)

    def do(self, text: str, **values: object) -> None:
        """Change something; that nothing is changed would prove nothing."""
        assert self.connection.execute(sa.text(text), values).rowcount > 0, text

    def one(self, text: str, **values: object) -> Any:
        """Return one value."""
        return self.connection.execute(sa.text(text), values).scalar_one()

    def run(self, *, is_open: bool) -> str:
        """Return a run with a good many readings."""
        rest = "IS NOT NULL" if is_open else "IS NULL"
        return str(self.one(f"SELECT id FROM run WHERE open_joint {rest} ORDER BY head_seq DESC, id LIMIT 1"))

    def overhaul(self) -> str:
        return str(self.one("SELECT id FROM overhaul ORDER BY head_seq DESC, id LIMIT 1"))

    def cut(self, what: str, log_id: str) -> None:
        """Cut the last event off and set the head back, so that the chain holds."""
        events, owner = _events(what)
        last = self.one(f"SELECT MAX(seq) FROM {events} WHERE {owner} = :id", id=log_id)
        self.do(f"DELETE FROM {events} WHERE {owner} = :id AND seq = :last", id=log_id, last=last)
        before = self.one(f"SELECT hash FROM {events} WHERE {owner} = :id AND seq = :seq", id=log_id, seq=last - 1)
        self.do(
            f"UPDATE {what} SET head_seq = :seq, head_hash = :hash WHERE id = :id", seq=last - 1, hash=before, id=log_id
        )

    def chained(self, what: str, log_id: str, change: Callable[[list[dict[str, Any]]], None]) -> None:
        """Change the events of a log and seal all of them anew, head and all."""
        events, owner = _events(what)
        query = sa.text(f"SELECT body FROM {events} WHERE {owner} = :id ORDER BY seq")
        bodies = [json.loads(body) for body in self.connection.execute(query, {"id": log_id}).scalars()]
        before = canonical_text(bodies)
        change(bodies)
        assert canonical_text(bodies) != before, "nothing was changed"
        self.do(f"DELETE FROM {events} WHERE {owner} = :id", id=log_id)
        previous = GENESIS
        for seq, body in enumerate(bodies, start=1):
            body["seq"] = seq
            text = canonical_text(body)
            previous = seal(previous, text)
            row = {"owner": log_id, "seq": seq, "event": body["id"], "body": text, "hash": previous}
            self.do(
                f"INSERT INTO {events} ({owner}, seq, id, body, hash) VALUES (:owner, :seq, :event, :body, :hash)",
                **row,
            )
        self.do(
            f"UPDATE {what} SET head_seq = :seq, head_hash = :hash WHERE id = :id",
            seq=len(bodies),
            hash=previous,
            id=log_id,
        )

    def gone(self, what: str, log_id: str) -> None:
        """Take a log away whole."""
        events, owner = _events(what)
        self.do(f"DELETE FROM {events} WHERE {owner} = :id", id=log_id)
        self.do(f"DELETE FROM {what} WHERE id = :id", id=log_id)

    def sealed_anew(self, key: SiteKey, change: Callable[[list[str]], None]) -> None:
        """Change the entries of the site log and build the whole tree anew, signed with a key."""
        bodies = list(self.connection.execute(sa.text("SELECT body FROM site_entry ORDER BY place")).scalars())
        change(bodies)
        self.do("DELETE FROM site_entry")
        self.do("DELETE FROM site_root")
        frontier = Frontier()
        for body in bodies:
            entry = SiteLogEntry.model_validate_json(body)
            row = {"place": frontier.size, "kind": entry.kind, "name": entry.key, "seq": entry.seq, "body": body}
            self.connection.execute(t.site_entry.insert(), row)
            frontier.add(leaf_hash(body))
        at = SiteLogEntry.model_validate_json(bodies[-1]).at
        text = Root(size=frontier.size, root=frontier.root().hex(), at=at, key=key.id).text()
        parts = json.dumps([part.hex() for part in frontier.parts])
        row = {"size": frontier.size, "body": text, "signature": key.sign(text), "parts": parts}
        self.connection.execute(t.site_root.insert(), row)


def _events(what: str) -> tuple[str, str]:
    return ("event", "run_id") if what == "run" else ("overhaul_event", "overhaul_id")


@pytest.fixture(scope="module")
def sealed(server: Server, played: World) -> World:
    """A morning with a bit of everything in it, all of it in the site log."""
    world = World(new_database(server), played)
    shop, now = world.workshop, world.clock.now
    bram = actor(shop, "Bram Okafor")
    assert shop.site_log is not None
    shop.site_log.take_in(now)
    tools.withdraw_tool(shop, bram, "CT-01", "Dropped")
    hours_and_due.read_hours(shop, bram, "unit-4", 21_999.0, now.date())
    shop.site_log.take_in(now)
    found = verify(shop.database, KEY)
    assert (found.alterations, found.waiting) == ((), 0)
    return world


@contextmanager
def at_the_tables(world: World, monkeypatch: pytest.MonkeyPatch) -> Iterator[Hands]:
    """Give somebody the tables; what is looked at meanwhile is what they have made of them, and then it is undone."""
    database = world.workshop.database
    with database.engine.connect() as connection:
        connection.execute(sa.text("SET FOREIGN_KEY_CHECKS = 0"))

        @contextmanager
        def theirs() -> Iterator[sa.Connection]:
            yield connection

        monkeypatch.setattr(database, "at_one_moment", theirs)
        monkeypatch.setattr(database, "reading", theirs)
        try:
            yield Hands(connection)
        finally:
            connection.execute(sa.text("SET FOREIGN_KEY_CHECKS = 1"))
            connection.rollback()
            monkeypatch.undo()


Act = Callable[[Hands], None]


def reading(bodies: list[dict[str, Any]]) -> dict[str, Any]:
    """The last figure that was read."""
    return next(
        b for b in reversed(bodies)
        if b["data"]["kind"] == "recorded" and b["data"]["judgement"].get("value") is not None
    )  # fmt: skip


def figure(bodies: list[dict[str, Any]]) -> None:
    reading(bodies)["data"]["judgement"]["value"] += 1.0


def verdict(bodies: list[dict[str, Any]]) -> None:
    judged = reading(bodies)["data"]["judgement"]
    judged["verdict"] = "out" if judged["verdict"] == "good" else "good"


def author(bodies: list[dict[str, Any]]) -> None:
    reading(bodies)["author"]["name"] = "Tam Pereira"


def hour(bodies: list[dict[str, Any]]) -> None:
    reading(bodies)["at"] = "2026-11-01T08:00:00Z"


def start(bodies: list[dict[str, Any]]) -> None:
    bodies[0]["at"] = "2026-11-01T08:00:00Z"


def serial(bodies: list[dict[str, Any]]) -> None:
    bodies[0]["data"]["engine"]["serial"] = "TH-0000"


def left_away(bodies: list[dict[str, Any]]) -> None:
    bodies.remove(reading(bodies))


def swapped(bodies: list[dict[str, Any]]) -> None:
    bodies[3], bodies[4] = bodies[4], bodies[3]


def by(change: Callable[[list[dict[str, Any]]], None], *, is_open: bool = False) -> Act:
    return lambda hands: hands.chained("run", hands.run(is_open=is_open), change)


def another_lock(hands: Hands) -> None:
    def change(bodies: list[dict[str, Any]]) -> None:
        next(b for b in bodies if b["data"]["kind"] == "isolated")["data"]["lock"] = "99"

    hands.chained("overhaul", hands.overhaul(), change)


def not_chained(hands: Hands) -> None:
    hands.do("UPDATE event SET body = CONCAT(body, ' ') WHERE run_id = :run AND seq = 7", run=hands.run(is_open=False))


def from_the_middle(hands: Hands) -> None:
    hands.do("DELETE FROM event WHERE run_id = :run AND seq = 5", run=hands.run(is_open=False))


def into_another_run(hands: Hands) -> None:
    one, other = hands.run(is_open=False), hands.run(is_open=True)
    seq = hands.one("SELECT MAX(seq) FROM event WHERE run_id = :run", run=other) + 1
    hands.do(
        "UPDATE event SET run_id = :other, seq = :seq WHERE run_id = :one AND seq = 5", one=one, other=other, seq=seq
    )


def closed_again(hands: Hands) -> None:
    run = hands.run(is_open=False)
    hands.cut("run", run)
    hands.do("UPDATE run SET open_joint = 'unit-9/head-9' WHERE id = :run", run=run)


def draft(hands: Hands) -> str:
    return str(hands.one(
        "SELECT hash FROM procedure_status GROUP BY hash HAVING MAX(status = 'approved') = 0 ORDER BY hash LIMIT 1"
    ))  # fmt: skip


def approved(hands: Hands) -> None:
    chief = hands.one("SELECT id FROM person WHERE name = 'Ines Halloran'")
    hands.do(
        "INSERT INTO procedure_status (hash, status, by_id, at) VALUES (:h, 'approved', :by, NOW(6))",
        h=draft(hands), by=chief,
    )  # fmt: skip


def another_document(hands: Hands) -> None:
    """A figure of an approved document and its address, so that both fit each other again."""
    old, body = hands.connection.execute(
        sa.text("SELECT hash, body FROM procedure_revision WHERE procedure_id = 'tarnholt-7l34-head-tighten' LIMIT 1")
    ).one()
    body = body.replace("700", "900", 1)
    new = sha256(body.encode()).hexdigest()
    hands.do("UPDATE procedure_revision SET body = :body, hash = :new WHERE hash = :old", body=body, new=new, old=old)
    for table in ("procedure_status", "run"):
        column = "hash" if table == "procedure_status" else "procedure_hash"
        hands.do(f"UPDATE {table} SET {column} = :new WHERE {column} = :old", new=new, old=old)


def stranger(hands: Hands) -> None:
    hands.do(
        "INSERT INTO person (id, name, role, pin_hash, active) "
        "SELECT UUID(), 'Nobody Known', 'chief', pin_hash, 1 FROM person LIMIT 1"
    )


def tool(hands: Hands) -> None:
    hands.do("INSERT INTO tool SELECT 'CT-99', REPLACE(body, '\"CT-01\"', '\"CT-99\"') FROM tool WHERE id = 'CT-01'")


def calibrated(hands: Hands) -> None:
    hands.do("UPDATE tool SET body = REPLACE(body, '\"2027-', '\"2029-') WHERE body LIKE '%\"2027-%' LIMIT 1")


def entry_changed(hands: Hands) -> None:
    hands.do("UPDATE site_entry SET body = REPLACE(body, 'true', 'false') WHERE place = 40")


def renamed(hands: Hands) -> None:
    hands.do("UPDATE site_entry SET name = 'another' WHERE place = 40")


def taken_back(hands: Hands, roots: int = 1) -> None:
    """Entries and roots back to an earlier root, which was really signed."""
    sizes = list(hands.connection.execute(sa.text("SELECT size FROM site_root ORDER BY size DESC")).scalars())
    hands.do("DELETE FROM site_root WHERE size > :size", size=sizes[roots])
    hands.do("DELETE FROM site_entry WHERE place >= :size", size=sizes[roots])


def raised(bodies: list[str]) -> None:
    """The newest state of the newest row, as somebody would rather have it."""
    place = max(n for n, body in enumerate(bodies) if '"kind":"tool_standing"' in body)
    entry = SiteLogEntry.model_validate_json(bodies[place])
    bodies[place] = entry.model_copy(update={"digest": "0" * 64}).text()


def own_tree(hands: Hands) -> None:
    hands.sealed_anew(OTHER_KEY, raised)


def own_tree_as_ours(hands: Hands) -> None:
    """The tree built anew under the name of the site's key, with a signature by another."""
    hands.sealed_anew(SiteKeyOf(KEY.seed, real=OTHER_KEY), raised)


def own_tree_and_key(hands: Hands) -> None:
    """The tree built anew, and the other key put in the place of the site's own from the first entry on."""

    def change(bodies: list[str]) -> None:
        raised(bodies)
        first = SiteLogEntry.model_validate_json(bodies[0])
        bodies[0] = first.model_copy(update={"key": OTHER_KEY.id, "digest": OTHER_KEY.public}).text()

    hands.sealed_anew(OTHER_KEY, change)
    hands.do("UPDATE site_key SET id = :id, public_key = :public", id=OTHER_KEY.id, public=OTHER_KEY.public)


def another_public_key(hands: Hands) -> None:
    hands.do("UPDATE site_key SET public_key = :public", public=OTHER_KEY.public)


def noted(hands: Hands) -> None:
    hands.do("UPDATE person SET role = 'chief' WHERE name = 'Tam Pereira'")
    hands.do(
        "INSERT INTO site_pending (kind, name, digest, vouched) SELECT 'person', id, :digest, :vouched FROM person "
        "WHERE name = 'Tam Pereira'",
        digest="0" * 64,
        vouched=OTHER_KEY.vouch("person"),
    )


def no_root(hands: Hands) -> None:
    hands.do("DELETE FROM site_root ORDER BY size DESC LIMIT 1")


def other_parts(hands: Hands) -> None:
    hands.do("UPDATE site_root SET parts = '[]' ORDER BY size DESC LIMIT 1")


def entry_gone(hands: Hands) -> None:
    hands.do("DELETE FROM site_entry WHERE place = 17")


@dataclass(frozen=True)
class SiteKeyOf(SiteKey):
    """A key that goes by the name of another."""

    real: SiteKey = OTHER_KEY

    def sign(self, text: str) -> str:
        return self.real.sign(text)


def sql(text: str) -> Act:
    return lambda hands: hands.do(text)


CUT = "events at the end are missing"
ANEW = "was written anew"
GONE = "it is missing"
NOT_AS = "it is not as it was written"
NOBODY = "it was written by no program of this site"

MANIPULATIONS: dict[str, tuple[Act, str, str]] = {
    # runs
    "the last event of an open run is cut off": (lambda h: h.cut("run", h.run(is_open=True)), "run", CUT),
    "a closed run is cut back and open again": (closed_again, "run", CUT),
    "a closed run is taken away": (lambda h: h.gone("run", h.run(is_open=False)), "run", GONE),
    "an open run is taken away": (lambda h: h.gone("run", h.run(is_open=True)), "run", GONE),
    "a figure is forged and chained anew": (by(figure), "run", ANEW),
    "a figure of an open run is forged and chained anew": (by(figure, is_open=True), "run", ANEW),
    "a verdict is rewritten and chained anew": (by(verdict), "run", ANEW),
    "somebody else has read it": (by(author), "run", ANEW),
    "it was read at another time": (by(hour), "run", ANEW),
    "it was started at another time": (by(start), "run", ANEW),
    "it was another engine, by its serial number": (by(serial), "run", ANEW),
    "a reading is left away and the rest numbered anew": (by(left_away), "run", CUT),
    "two events change their places": (by(swapped), "run", ANEW),
    "an event is changed and not chained": (not_chained, "run", "was changed"),
    "an event is taken from the middle": (from_the_middle, "run", "an event is missing"),
    "an event goes to another run": (into_another_run, "run", "the text of the event, or one before it, was changed"),
    "a closed run is listed as open": (
        sql("UPDATE run SET open_joint = 'unit-9/head-9' WHERE open_joint IS NULL LIMIT 1"), "run", "listed as open",
    ),
    "an open run is listed as closed": (
        sql("UPDATE run SET open_joint = NULL WHERE open_joint IS NOT NULL LIMIT 1"), "run", "listed as open",
    ),
    "a run is listed under another joint": (sql("UPDATE run SET joint_key = 'head-9' LIMIT 1"), "row of run", NOT_AS),
    "a run is listed as started earlier": (
        sql("UPDATE run SET started_at = started_at - INTERVAL 1 DAY LIMIT 1"), "row of run", NOT_AS,
    ),
    "a run is listed on another engine": (
        sql("UPDATE run SET engine_id = 'unit-5' WHERE engine_id = 'unit-2' LIMIT 1"), "row of run", NOT_AS,
    ),
    # overhauls
    "the engine's log is cut back": (lambda h: h.cut("overhaul", h.overhaul()), "overhaul", CUT),
    "a lock is changed and chained anew": (another_lock, "overhaul", ANEW),
    "an overhaul is taken away": (lambda h: h.gone("overhaul", h.overhaul()), "overhaul", GONE),
    "an overhaul is listed as opened earlier": (
        sql("UPDATE overhaul SET opened_at = opened_at - INTERVAL 1 DAY LIMIT 1"), "row of overhaul", NOT_AS,
    ),
    # procedures and sheets
    "a draft is made approved": (approved, "procedure status", NOBODY),
    "somebody else has approved": (
        sql("UPDATE procedure_status SET by_id = (SELECT id FROM person WHERE name = 'Tam Pereira') "
            "WHERE status = 'approved' LIMIT 1"), "procedure status", NOT_AS,
    ),
    "it was approved at another time": (
        sql("UPDATE procedure_status SET at = at - INTERVAL 1 DAY WHERE status = 'approved' LIMIT 1"),
        "procedure status", NOT_AS,
    ),
    "an approval is taken away": (
        sql("DELETE FROM procedure_status ORDER BY id DESC LIMIT 1"), "procedure status", GONE,
    ),
    "a document is changed": (
        sql("UPDATE procedure_revision SET body = CONCAT(body, ' ') LIMIT 1"), "procedure revision", NOT_AS,
    ),
    "a document and its address are changed": (another_document, "procedure revision", NOBODY),
    "a document was brought in by somebody else": (
        sql("UPDATE procedure_revision SET imported_by = (SELECT id FROM person WHERE name = 'Tam Pereira') LIMIT 1"),
        "procedure revision", NOT_AS,
    ),
    "a document is taken away": (sql("DELETE FROM procedure_revision LIMIT 1"), "procedure revision", GONE),
    "an engine sheet is withdrawn by nobody": (
        sql("INSERT INTO sheet_status (hash, status, by_id, at) "
            "SELECT hash, 'withdrawn', by_id, at FROM sheet_status LIMIT 1"),
        "sheet status", NOBODY,
    ),
    "somebody else has approved an engine sheet": (
        sql("UPDATE sheet_status SET by_id = (SELECT id FROM person WHERE name = 'Tam Pereira') LIMIT 1"),
        "sheet status", NOT_AS,
    ),
    # people
    "a trainee is made chief": (sql("UPDATE person SET role = 'chief' WHERE name = 'Tam Pereira'"), "person", NOT_AS),
    "a name is changed": (sql("UPDATE person SET name = 'Tam Perreira' WHERE name = 'Tam Pereira'"), "person", NOT_AS),
    "a PIN is put in the place of another": (
        sql("UPDATE person a JOIN person b ON b.name = 'Tam Pereira' SET a.pin_hash = b.pin_hash "
            "WHERE a.name = 'Ines Halloran'"), "person", NOT_AS,
    ),
    "somebody is made inactive": (sql("UPDATE person SET active = 0 LIMIT 1"), "person", NOT_AS),
    "somebody is put on the register": (stranger, "person", NOBODY),
    "somebody is taken off the register": (sql("DELETE FROM person WHERE name = 'Tam Pereira'"), "person", GONE),
    # tools, engines, upkeep
    "a calibration holds two years longer": (calibrated, "tool", NOT_AS),
    "a tool is put on the register": (tool, "tool CT-99", NOBODY),
    "a tool is taken off the register": (sql("DELETE FROM tool WHERE id = 'CT-01'"), "tool CT-01", GONE),
    "a withdrawal is taken away": (sql("DELETE FROM tool_standing ORDER BY id DESC LIMIT 1"), "tool standing", GONE),
    "a withdrawn tool was taken back": (sql("UPDATE tool_standing SET withdrawn = 0"), "tool standing", NOT_AS),
    "an engine has another serial number": (
        sql("UPDATE engine SET body = REPLACE(body, 'TH-7L34', 'TH-7L35') WHERE id = 'unit-2'"),
        "engine unit-2", NOT_AS,
    ),
    "running hours are read back": (
        sql("UPDATE engine_hours SET hours = hours - 1000 LIMIT 1"), "engine hours", NOT_AS,
    ),
    "a reading of running hours is taken away": (sql("DELETE FROM engine_hours LIMIT 1"), "engine hours", GONE),
    "work asked for later was done by nobody": (
        sql("INSERT INTO follow_up_done (run_id, step, words, by_id, at) "
            "SELECT run.id, 'retighten', 'Done', person.id, NOW(6) FROM run, person LIMIT 1"), "follow up done", NOBODY,
    ),
    "a run of this site comes from elsewhere": (
        sql("INSERT INTO brought_in (log_id, by_id, at) SELECT run.id, person.id, NOW(6) FROM run, person LIMIT 1"),
        "brought in", NOBODY,
    ),
    # the site log itself
    "an entry of the site log is changed": (entry_changed, "the site log", "one of them was changed"),
    "an entry goes under another name": (renamed, "the site log", "stands under another name"),
    "an entry is taken away": (entry_gone, "the site log", "an entry is missing"),
    "the newest root is taken away": (no_root, "the site log", "entries that no root stands for"),
    "what the tree goes on from is changed": (other_parts, "the site log", "a root does not stand for"),
    "entries and roots are taken back": (taken_back, "tool standing", NOBODY),
    "the tree is built anew and signed with another key": (own_tree, "the site log", "nothing says that the key"),
    "the tree is built anew under the site's name": (own_tree_as_ours, "the site log", "is not that of its key"),
    "the tree is built anew and the key is put there": (own_tree_and_key, "the site log", "and the site's own is"),
    "another public key stands in the key's place": (another_public_key, "the site log", "is another one here"),
    "a row is changed and noted as if by the program": (noted, "the site log", "by no program of this site"),
}  # fmt: skip


def test_there_are_at_least_forty() -> None:
    assert len(MANIPULATIONS) >= 40


@pytest.mark.parametrize("name", MANIPULATIONS)
def test_it_shows(sealed: World, monkeypatch: pytest.MonkeyPatch, name: str) -> None:
    act, what, why = MANIPULATIONS[name]
    with at_the_tables(sealed, monkeypatch) as hands:
        act(hands)
        found = verify(sealed.workshop.database, KEY)
    told = [f"{one.what}: {one.why}" for one in found.alterations]
    assert any(what in one.split(": ")[0] and why in one for one in told), told


def looked_at(world: World, against: Seal | None = None) -> Verification:
    return verify(world.workshop.database, KEY, against)


def test_nothing_shows_that_nobody_did(sealed: World, monkeypatch: pytest.MonkeyPatch) -> None:
    with at_the_tables(sealed, monkeypatch):
        assert not looked_at(sealed).alterations


def test_a_site_log_that_was_taken_back_whole_shows_against_a_seal_on_paper(
    sealed: World, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Tables of the day before, brought back with everything in them: nothing in them says so."""
    shop = sealed.workshop
    assert shop.site_log is not None
    before = shop.site_log.newest()
    with at_the_tables(sealed, monkeypatch) as hands:
        taken_back(hands)
        hands.do("DELETE FROM tool_standing")
        hands.do("DELETE FROM engine_hours ORDER BY id DESC LIMIT 1")
        assert before is not None
        assert not looked_at(sealed).alterations
        found = looked_at(sealed, before.seal()).alterations
        assert [one.why for one in found] == [
            "it does not go on from the seal that was named: something was taken back, or changed"
        ]
        earlier = looked_at(sealed).seal
        assert earlier is not None
    assert not looked_at(sealed, earlier).alterations, "every earlier seal is part of what is there"


def test_without_the_key_a_forged_tree_that_brings_its_own_is_taken_for_true(
    sealed: World, monkeypatch: pytest.MonkeyPatch
) -> None:
    """That is what the key outside the database is for."""
    with at_the_tables(sealed, monkeypatch) as hands:
        own_tree_and_key(hands)
        why = [one.why for one in verify(sealed.workshop.database).alterations if one.what == "the site log"]
        assert not why
