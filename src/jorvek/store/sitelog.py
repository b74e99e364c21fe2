"""The site log: one append-only tree over the heads of all logs and over every register, with signed roots.

One writer at a time takes in what has been written since; nobody who records waits for it.
"""

from __future__ import annotations

import json
import time
from collections.abc import Iterator
from datetime import datetime, timedelta
from hashlib import sha256
from typing import Any, Final

import sqlalchemy as sa

from jorvek.core.refusal import Refusal
from jorvek.core.site_log.entries import Inclusion, Root, Seal, SiteLogEntry
from jorvek.core.site_log.tree import Frontier, inclusion_proof, leaf_hash, root_of
from jorvek.store import tables as t
from jorvek.store.database import Database
from jorvek.store.recorded import RECORDED, digest_of, name_of, vouched_text
from jorvek.store.row_locks import SITE_LOG, take
from jorvek.store.site_key import SiteKey, SiteKeyError

LOGS: Final[dict[str, sa.Table]] = {"run": t.run, "overhaul": t.overhaul}
"""Tables of heads, by what their rows are."""
HEAD: Final = "{}_head"
"""Kind of an entry that holds the head of a log, by the table."""
KEY: Final = "site_key"
CLOCK: Final = "clock"
"""Kinds of entries that stand for no row: a key that signs from here on; a clock that was set back."""
_AT_ONCE: Final = 500
_LATE_AT_MOST: Final = timedelta(minutes=2)
"""By so much a head may become visible later than its time says."""
_WHOLE_EVERY_S: Final = 600.0
"""So often all heads are looked at, whatever their times say."""


class SiteLog:
    """Takes in, proves, and says how far it is."""

    def __init__(self, database: Database, key: SiteKey) -> None:
        self._db, self._key = database, key
        self._since: datetime | None = None
        self._leaves: list[bytes] = []
        self._whole_at = -_WHOLE_EVERY_S

    def demand_own_key(self) -> None:
        """Refuse to go on with a log that another key has signed.

        Raises:
            SiteKeyError: saying what to do.
        """
        with self._db.reading() as connection:
            newest = _newest(connection)
        self._demand_kept(newest)
        if newest is not None and newest.key != self._key.id:
            raise SiteKeyError(
                f"the site log here is signed with the key {newest.key}, and this machine holds {self._key.id}: "
                "copy site.key from another server of the site, or go on with a new key: ./jorvek new-key"
            )

    def _demand_kept(self, newest: Root | None) -> None:
        if newest is None and self._key.has_sealed:
            raise SiteKeyError(
                f"this site has sealed before ({self._key.mark} says so), and its site log is empty: it was taken "
                "away, or this is the database of another site. Bring back a backup, or begin anew, with the reason: "
                './jorvek new-key --words "why"'
            )

    def begin_key(self, now: datetime, words: str = "") -> Root:
        """Go on with this machine's key, and say on which root it goes on; the tree stays one.

        Args:
            now: when.
            words: why.
        """

        def work(connection: sa.Connection) -> Root:
            take(connection, {SITE_LOG})
            if _newest(connection) is None:
                # There is nothing to go on with: everything is taken in as it stands.
                entries = [self._key_entry(connection, now, words), *_adopted(connection, now)]
                entries += _heads(connection, now, None, adopted=True)
            else:
                # Entries that the previous key covered but had not added yet are added unchanged.
                entries = [*self._noted(connection, now), self._key_entry(connection, now, words)]
            return self._append(connection, entries, now)

        root = self._db.transact(work)
        self._key.note_sealed()
        return root

    def take_in(self, now: datetime, clock_jumps: tuple[str, ...] = ()) -> Root:
        """Take in whatever has been written since the last time, sign the root over it, and return the newest root.

        Args:
            now: server time.
            clock_jumps: that the server's clock was set back since the last time, and how far, in words.

        Raises:
            SiteKeyError: when another key has begun since.
            DatabaseAwayError: when the database does not answer.
        """
        since, whole_at = self._since, time.monotonic()
        if whole_at - self._whole_at >= _WHOLE_EVERY_S:
            since = None

        def work(connection: sa.Connection) -> Root:
            take(connection, {SITE_LOG})
            newest = _newest(connection)
            if newest is not None and newest.key != self._key.id:
                raise SiteKeyError(f"another key goes on with the site log: {newest.key}")
            self._demand_kept(newest)
            first = newest is None
            entries = [self._key_entry(connection, now, "")] if first else []
            entries += _adopted(connection, now) if first else self._written(connection, now)
            entries += [_clock_entry(words, now) for words in clock_jumps]
            # A log that is new here may be an import with older times.
            whole = first or any(entry.kind in LOGS for entry in entries)
            entries += _heads(connection, now, None if whole else since, adopted=first)
            return self._append(connection, entries, now)

        root = self._db.transact(work)
        self._key.note_sealed()
        self._since, self._whole_at = now - _LATE_AT_MOST, whole_at if since is None else self._whole_at
        return root

    def newest(self) -> Root | None:
        """Return the newest root; None before the first."""
        with self._db.reading() as connection:
            return _newest(connection)

    def goes_on_from(self, seal: Seal) -> bool:
        """Tell whether the log as it stands adds to an earlier seal, or is the same."""
        with self._db.reading() as connection:
            known = connection.execute(sa.select(t.site_root.c.body).where(t.site_root.c.size == seal.size)).scalar()
        if known is not None:
            return Root.model_validate_json(known).root == seal.root
        return goes_on_from(self._db, seal)

    def inclusion(self, kind: str, log_id: str, seq: int) -> Inclusion:
        """Return what shows offline that a head of a log is in the site log.

        Raises:
            Refusal: ``not_sealed`` when it is not in yet.
        """
        with self._db.at_one_moment() as connection:
            place = sa.select(t.site_entry.c.place).where(
                t.site_entry.c.kind == HEAD.format(kind), t.site_entry.c.name == log_id, t.site_entry.c.seq == seq
            )
            index = connection.execute(place).scalar()
            row = connection.execute(_NEWEST_ROOT).first()
            if index is None or row is None:
                raise Refusal("not_sealed")
            root = Root.model_validate_json(row.body)
            public = connection.execute(sa.select(t.site_key.c.public_key).where(t.site_key.c.id == root.key)).scalar()
            body = connection.execute(sa.select(t.site_entry.c.body).where(t.site_entry.c.place == index)).scalar_one()
            leaves = self._leaves_of(connection, root.size)
        proof = inclusion_proof(leaves, index)
        return Inclusion(
            entry=body,
            index=index,
            proof=tuple(part.hex() for part in proof),
            root=row.body,
            signature=row.signature,
            public_key=str(public),
        )

    def _leaves_of(self, connection: sa.Connection, size: int) -> list[bytes]:
        """Return the hashes of the first entries; those that were read before are kept, for they never change."""
        kept = self._leaves[:size]
        query = sa.select(t.site_entry.c.body).where(t.site_entry.c.place >= len(kept), t.site_entry.c.place < size)
        kept += map(leaf_hash, connection.execute(query.order_by(t.site_entry.c.place)).scalars())
        self._leaves = kept
        return kept

    def _key_entry(self, connection: sa.Connection, now: datetime, words: str) -> SiteLogEntry:
        connection.execute(
            t.site_key.insert().prefix_with("IGNORE"), {"id": self._key.id, "public_key": self._key.public}
        )
        newest = _newest(connection)
        before = "" if newest is None else newest.seal().printed()
        said = " ".join(part for part in (words, before) if part)
        return SiteLogEntry(kind=KEY, key=self._key.id, digest=self._key.public, at=now, words=said)

    def _written(self, connection: sa.Connection, now: datetime) -> list[SiteLogEntry]:
        """Take the notes of rows that this program has written; others stay, and are told by ``verify``."""
        found: list[SiteLogEntry] = []
        taken: list[int] = []
        for row in connection.execute(sa.select(t.site_pending).order_by(t.site_pending.c.id)):
            if row.vouched == self._key.vouch(vouched_text(row.kind, row.name, row.digest)):
                found.append(SiteLogEntry(kind=row.kind, key=row.name, digest=row.digest, at=now))
                taken.append(row.id)
        for start in range(0, len(taken), _AT_ONCE):
            ids = taken[start : start + _AT_ONCE]
            connection.execute(t.site_pending.delete().where(t.site_pending.c.id.in_(ids)))
        return found

    def _noted(self, connection: sa.Connection, now: datetime) -> list[SiteLogEntry]:
        rows = connection.execute(sa.select(t.site_pending).order_by(t.site_pending.c.id)).all()
        connection.execute(t.site_pending.delete())
        return [SiteLogEntry(kind=r.kind, key=r.name, digest=r.digest, at=now, adopted=True) for r in rows]

    def _append(self, connection: sa.Connection, entries: list[SiteLogEntry], now: datetime) -> Root:
        row = connection.execute(_NEWEST_ROOT).first()
        if row is not None and not entries:
            return Root.model_validate_json(row.body)
        frontier = Frontier() if row is None else Frontier(row.size, (bytes.fromhex(p) for p in json.loads(row.parts)))
        rows = []
        for entry in entries:
            body = entry.text()
            rows.append({"place": frontier.size, "kind": entry.kind, "name": entry.key, "seq": entry.seq, "body": body})
            frontier.add(leaf_hash(body))
        for start in range(0, len(rows), _AT_ONCE):
            connection.execute(t.site_entry.insert(), rows[start : start + _AT_ONCE])
        root = Root(size=frontier.size, root=frontier.root().hex(), at=now, key=self._key.id)
        text = root.text()
        values = {
            "size": root.size,
            "body": text,
            "signature": self._key.sign(text),
            "parts": json.dumps([part.hex() for part in frontier.parts]),
        }
        connection.execute(t.site_root.insert().values(values))
        return root


_NEWEST_ROOT: Final = sa.select(t.site_root).order_by(t.site_root.c.size.desc()).limit(1)


def _clock_entry(words: str, now: datetime) -> SiteLogEntry:
    digest = sha256(words.encode()).hexdigest()
    return SiteLogEntry(kind=CLOCK, key=f"{now.isoformat()} {digest[:12]}", digest=digest, at=now, words=words)


def _newest(connection: sa.Connection) -> Root | None:
    row = connection.execute(_NEWEST_ROOT).first()
    return None if row is None else Root.model_validate_json(row.body)


def _bodies(connection: sa.Connection, size: int) -> Iterator[str]:
    query = sa.select(t.site_entry.c.body).where(t.site_entry.c.place < size).order_by(t.site_entry.c.place)
    yield from connection.execute(query).scalars()


def goes_on_from(database: Database, seal: Seal) -> bool:
    """Tell by the entries themselves whether a log adds to an earlier seal, or is the same."""
    with database.reading() as connection:
        leaves = [leaf_hash(body) for body in _bodies(connection, seal.size)]
    return len(leaves) == seal.size and root_of(leaves).hex() == seal.root


def _adopted(connection: sa.Connection, now: datetime) -> list[SiteLogEntry]:
    """Take in every row as it stands, once: from here on a change shows. What was noted is among them."""
    connection.execute(t.site_pending.delete())
    return [
        SiteLogEntry(kind=kind, key=name_of(kind, row), digest=digest_of(kind, row), at=now, adopted=True)
        for kind in RECORDED
        for row in connection.execute(sa.select(t.metadata.tables[kind])).mappings()
    ]


def _heads(connection: sa.Connection, now: datetime, since: datetime | None, *, adopted: bool) -> list[SiteLogEntry]:
    return [
        SiteLogEntry(
            kind=HEAD.format(kind), key=row.id, seq=row.head_seq, digest=row.head_hash, at=now, adopted=adopted
        )
        for kind in LOGS
        for row in _heads_missing(connection, kind, since)
    ]


def _heads_missing(connection: sa.Connection, kind: str, since: datetime | None) -> Iterator[sa.Row[Any, Any, Any]]:
    """Yield the heads that have moved on from where they were taken in last."""
    heads, entry = LOGS[kind].c, t.site_entry.c
    in_already = (
        sa.select(sa.func.max(entry.seq)).where(entry.kind == HEAD.format(kind), entry.name == heads.id)
    ).scalar_subquery()
    query = sa.select(heads.id, heads.head_seq, heads.head_hash).where(heads.head_seq > sa.func.coalesce(in_already, 0))
    if since is not None:
        query = query.where(heads.changed_at >= since)
    yield from connection.execute(query.order_by(heads.id)).all()
