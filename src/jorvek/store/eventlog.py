"""An append-only log in two tables: sequence, chain of hashes, and the state it adds up to.

One mechanism for everything that is a log: the runs and the overhauls.
"""

from __future__ import annotations

import json
from abc import ABC, abstractmethod
from collections import OrderedDict
from collections.abc import Callable
from dataclasses import dataclass, replace
from datetime import datetime
from functools import partial
from threading import Lock
from typing import Generic, Protocol, TypeVar
from uuid import UUID

import sqlalchemy as sa
from pydantic import BaseModel
from sqlalchemy.exc import IntegrityError

from jorvek.core.canonical import canonical_text, sha256_hex
from jorvek.core.refusal import Refusal
from jorvek.core.run.log.commands import CommandBase, command_digest
from jorvek.core.run.log.events import Person
from jorvek.measures import EVENTS
from jorvek.store import tables as t
from jorvek.store.database import Database
from jorvek.store.recorded import insert_recorded
from jorvek.store.row_locks import RowLock, take

GENESIS = "0" * 64
"""What the first event of a log names as the hash before it."""


class Envelope(Protocol):
    """What the log reads of an event; the rest is its own affair."""

    @property
    def seq(self) -> int:
        """Its place, from 1."""

    @property
    def id(self) -> UUID:
        """Made by whoever sent the command."""

    @property
    def command(self) -> str:
        """Fingerprint of the command."""

    def model_dump_json(self) -> str:
        """Its text."""


class Folded(Protocol):
    """What the log reads of a state."""

    @property
    def seq(self) -> int:
        """Sequence of the newest event."""

    @property
    def last_at(self) -> datetime:
        """When it was written."""

    @property
    def status(self) -> str:
        """Whether it is closed."""


EventT = TypeVar("EventT", bound=Envelope)
StateT = TypeVar("StateT", bound=Folded)
DataT = TypeVar("DataT", bound=BaseModel)


class MovedOnError(Exception):
    """Somebody else changed the log so that more has to be locked than was thought, or it is decided again."""


@dataclass(frozen=True)
class StoredEvent(Generic[EventT]):
    """An event as it stands in the table."""

    event: EventT
    body: str
    hash: str


@dataclass(frozen=True)
class LogSnapshot(Generic[StateT]):
    """A log at one event: its state, the hash that seals it, and the ids seen so far."""

    state: StateT
    head_hash: str
    commands: dict[UUID, str]


@dataclass(frozen=True)
class Stamp:
    """Who and when, for a new event."""

    author: Person
    at: datetime


@dataclass(frozen=True)
class Brought:
    """Who brings a log in from another installation, and when."""

    by_id: UUID
    at: datetime


def seal(previous: str, body: str) -> str:
    """Return the hash of an event: it covers the one before and the text byte for byte."""
    return sha256_hex(previous, body)


def event_body(event: Envelope) -> str:
    """Return the canonical text of an event."""
    return canonical_text(json.loads(event.model_dump_json()))


class EventLog(ABC, Generic[StateT, EventT, DataT]):
    """Reads and appends events of one kind of log. Holds a cache; the database alone is the authority.

    Args:
        database: where it is.
        heads: table with one row a log.
        events: table with its events.
        owner: column of ``events`` that names the log.
        held_by: column of ``heads`` that is empty once the log is closed.
        cached: how many are kept in memory.
    """

    def __init__(
        self,
        database: Database,
        heads: sa.Table,
        events: sa.Table,
        owner: str,
        held_by: str,
        cached: int = 256,
    ) -> None:
        self._db = database
        self._heads, self._events = heads, events
        self._owner = owner
        self._cache: OrderedDict[UUID, LogSnapshot[StateT]] = OrderedDict()
        self._cached_logs = cached
        self._lock = Lock()
        # Built once: putting a statement together costs more than running it.
        self._insert_event = events.insert()
        self._counted = EVENTS.labels(heads.name)
        self._read_head = sa.select(heads.c.head_seq, heads.c.head_hash).where(heads.c.id == sa.bindparam("log_id"))
        # Moves the head on from where it was thought to be, and from nowhere else: that is the log's lock.
        self._move_head = (
            heads.update()
            .where(
                heads.c.id == sa.bindparam("log_id"),
                heads.c.head_seq == sa.bindparam("old_seq"),
                heads.c.head_hash == sa.bindparam("old_hash"),
            )
            .values(
                head_seq=sa.bindparam("new_seq"), head_hash=sa.bindparam("new_hash"), changed_at=sa.bindparam("new_at")
            )
        )
        self._close_head = self._move_head.values({held_by: None})

    @abstractmethod
    def _parse(self, body: str) -> EventT:
        """Return an event from its text; raises ``ValueError`` where it is none."""

    @abstractmethod
    def _missing(self, log_id: UUID) -> Refusal:
        """Return the refusal for a log that is not there."""

    @abstractmethod
    def _begin(self, connection: sa.Connection, event: EventT) -> StateT:
        """Return the state after the first event."""

    @abstractmethod
    def _advance(self, state: StateT, event: EventT) -> StateT:
        """Return the state after one more event."""

    @abstractmethod
    def _event(self, log_id: UUID, seq: int, command: CommandBase, stamp: Stamp, data: DataT) -> EventT:
        """Return a new event."""

    def _first(
        self,
        connection: sa.Connection,
        log_id: UUID,
        command: CommandBase,
        stamp: Stamp,
        data: DataT,
        head: dict[str, object],
    ) -> LogSnapshot[StateT]:
        """Write head and first event of a new log."""
        event = self._event(log_id, 1, command, stamp, data)
        body = event_body(event)
        digest = seal(GENESIS, body)
        values = {"id": str(log_id), "head_seq": 1, "head_hash": digest, "changed_at": stamp.at, **head}
        insert_recorded(self._db, connection, self._heads, values)
        connection.execute(self._insert_event, self._row(log_id, event, body, digest))
        self._db.when_committed(self._counted.inc)
        return LogSnapshot(self._begin(connection, event), digest, {event.id: event.command})

    def _begun_before(
        self, connection: sa.Connection, log_id: UUID, command: CommandBase
    ) -> LogSnapshot[StateT] | None:
        """Return a log that this very command has begun already; None where there is none.

        Raises:
            Refusal: ``id_reused`` when another command has.
        """
        known = connection.execute(sa.select(self._heads.c.id).where(self._heads.c.id == str(log_id))).first()
        if known is None:
            return None
        snapshot = self._load(connection, log_id)
        if snapshot.commands.get(command.id) != command_digest(command):
            raise Refusal("id_reused", id=str(command.id))
        return snapshot

    def _note_brought(self, connection: sa.Connection, log_id: UUID, brought: Brought) -> None:
        """Note in the same transaction that a log comes from another installation."""
        values = {"log_id": str(log_id), "by_id": str(brought.by_id), "at": brought.at}
        insert_recorded(self._db, connection, t.brought_in, values)

    def append(
        self,
        log_id: UUID,
        command: CommandBase,
        stamp: Stamp,
        decide: Callable[[StateT], DataT],
        locks_of: Callable[[StateT], frozenset[RowLock]] = lambda _: frozenset(),
        then: Callable[[StateT], None] = lambda _: None,
    ) -> LogSnapshot[StateT]:
        """Decide on a command under the log's lock and commit the event that answers it.

        What ``decide`` reads is read under the same locks. The same command sent again returns the log
        as it stands and writes nothing.

        Args:
            log_id: the log.
            command: what is asked.
            stamp: who, and when.
            decide: what it comes to.
            locks_of: what is locked meanwhile.
            then: what follows from it, in the same transaction; not for a command that was carried out before.

        Raises:
            Refusal: from ``decide``; that there is no such log; ``id_reused`` when the id belongs to
                another command.
            DatabaseAwayError: when it is not known whether the event was stored.
        """
        within = self._db.in_transaction()

        def work(connection: sa.Connection) -> LogSnapshot[StateT]:
            snapshot = self._as_known(connection, log_id, locks_of, within=within)
            known = snapshot.commands.get(command.id)
            if known is not None:
                if known != command_digest(command):
                    raise Refusal("id_reused", id=str(command.id))
                return self._load(connection, log_id)
            try:
                data = decide(snapshot.state)
            except Refusal:
                # The state in memory may be old: before refusing, compare with the newest log.
                self._demand_newest(connection, log_id, snapshot, within=within)
                raise
            # Another server's clock may be ahead of this one's: in a log time does not run backwards.
            marked = replace(stamp, at=max(stamp.at, snapshot.state.last_at))
            event = self._event(log_id, snapshot.state.seq + 1, command, marked, data)
            body = event_body(event)
            digest = seal(snapshot.head_hash, body)
            after = self._advanced(snapshot, event, digest)
            if connection.execute(*self._head_update(log_id, snapshot, after, marked.at)).rowcount == 0:
                self._demand_newest(connection, log_id, snapshot, within=within)
                raise Refusal("log_broken", seq=snapshot.state.seq, why="the head does not move on")
            connection.execute(self._insert_event, self._row(log_id, event, body, digest))
            self._db.when_committed(self._counted.inc)
            then(after.state)
            return after

        while True:
            try:
                after = self._db.transact(work)
            except MovedOnError:
                continue
            except IntegrityError as error:
                # The id belongs to this log's newest event, which another server has just taken, or to something else.
                snapshot = self.snapshot(log_id)
                if snapshot.commands.get(command.id) == command_digest(command):
                    return snapshot
                raise Refusal("id_reused", id=str(command.id)) from error
            else:
                # Within a larger transaction the new state is published only when all of it is committed.
                self._db.when_committed(partial(self._keep, log_id, after))
                return after

    def under(self, locks: frozenset[RowLock], act: Callable[[], LogSnapshot[StateT]]) -> LogSnapshot[StateT]:
        """Carry out an act on several logs: under locks, and all of it or nothing.

        Args:
            locks: what is locked meanwhile.
            act: appends to one log after the other; safe to run twice.

        Raises:
            Refusal: from ``act``; nothing of it is stored then.
            DatabaseAwayError: when it is not known whether it was stored.
        """

        def work(connection: sa.Connection) -> LogSnapshot[StateT]:
            take(connection, locks)
            return act()

        return self._db.transact(work)

    def _as_known(
        self,
        connection: sa.Connection,
        log_id: UUID,
        locks_of: Callable[[StateT], frozenset[RowLock]],
        *,
        within: bool,
    ) -> LogSnapshot[StateT]:
        """Return the log to decide on, with the row locks taken that its state asks for.

        Without row locks the state in memory will do: whether it is the newest shows when the head is moved on.
        With them one may have waited, and the log is read under them. Within a larger transaction the same log may
        have been written to before: it is read there.
        """
        snapshot = (None if within else self._cached(log_id)) or self._load(connection, log_id)
        held = locks_of(snapshot.state)
        if not held:
            return snapshot
        take(connection, held)
        snapshot = self._load(connection, log_id)
        if not locks_of(snapshot.state) <= held:
            self._keep(log_id, snapshot)
            raise MovedOnError
        return snapshot

    def _demand_newest(
        self, connection: sa.Connection, log_id: UUID, snapshot: LogSnapshot[StateT], *, within: bool
    ) -> None:
        """Begin again with the log as it stands when a decision was made on an older state of it."""
        newest = self._load(connection, log_id)
        if newest.head_hash != snapshot.head_hash:
            if not within:
                # What a larger transaction has written may still be taken back.
                self._keep(log_id, newest)
            raise MovedOnError

    def _cached(self, log_id: UUID) -> LogSnapshot[StateT] | None:
        with self._lock:
            return self._cache.get(log_id)

    def snapshot(self, log_id: UUID) -> LogSnapshot[StateT]:
        """Return a log as it stands.

        Raises:
            Refusal: that there is no such log.
        """
        with self._db.reading() as connection:
            loaded = self._load(connection, log_id)
        # Within a transaction it may be what that one has written: kept when it is committed.
        self._db.when_committed(partial(self._keep, log_id, loaded))
        return loaded

    def stored(self, log_id: UUID) -> list[StoredEvent[EventT]]:
        """Return the events of a log as stored."""
        with self._db.reading() as connection:
            rows = connection.execute(self._events_after(log_id, 0))
            return [self._stored(row.body, row.hash) for row in rows]

    def _keep(self, log_id: UUID, snapshot: LogSnapshot[StateT]) -> LogSnapshot[StateT]:
        with self._lock:
            held = self._cache.get(log_id)
            if held is None or held.state.seq <= snapshot.state.seq:
                self._cache[log_id] = snapshot
            self._cache.move_to_end(log_id)
            while len(self._cache) > self._cached_logs:
                self._cache.popitem(last=False)
        return snapshot

    def _load(self, connection: sa.Connection, log_id: UUID) -> LogSnapshot[StateT]:
        head = connection.execute(self._read_head, {"log_id": str(log_id)}).first()
        if head is None:
            raise self._missing(log_id)
        held = self._cached(log_id)
        if held is not None and (held.state.seq, held.head_hash) == (head.head_seq, head.head_hash):
            return held
        base = held if held is not None and held.state.seq < head.head_seq else None
        rows = connection.execute(self._events_after(log_id, base.state.seq if base else 0)).all()
        stored = [self._stored(r.body, r.hash) for r in rows if r.seq <= head.head_seq]
        return self._replay(connection, stored, base)

    def _replay(
        self, connection: sa.Connection, stored: list[StoredEvent[EventT]], base: LogSnapshot[StateT] | None = None
    ) -> LogSnapshot[StateT]:
        snapshot = base
        for line in stored:
            previous = snapshot.head_hash if snapshot else GENESIS
            if seal(previous, line.body) != line.hash:
                raise Refusal("log_broken", seq=line.event.seq, why="hash does not match")
            if snapshot is None:
                state = self._begin(connection, line.event)
                snapshot = LogSnapshot(state, line.hash, {line.event.id: line.event.command})
            else:
                snapshot = self._advanced(snapshot, line.event, line.hash)
        if snapshot is None:
            raise Refusal("log_broken", seq=0, why="empty")
        return snapshot

    def _advanced(self, snapshot: LogSnapshot[StateT], event: EventT, digest: str) -> LogSnapshot[StateT]:
        commands = {**snapshot.commands, event.id: event.command}
        state = self._advance(snapshot.state, event)
        return replace(snapshot, state=state, head_hash=digest, commands=commands)

    def _row(self, log_id: UUID, event: EventT, body: str, digest: str) -> dict[str, object]:
        return {self._owner: str(log_id), "seq": event.seq, "id": str(event.id), "body": body, "hash": digest}

    def _head_update(
        self, log_id: UUID, before: LogSnapshot[StateT], after: LogSnapshot[StateT], at: datetime
    ) -> tuple[sa.Update, dict[str, object]]:
        values: dict[str, object] = {
            "log_id": str(log_id),
            "old_seq": before.state.seq,
            "old_hash": before.head_hash,
            "new_seq": after.state.seq,
            "new_hash": after.head_hash,
            "new_at": at,
        }
        return (self._close_head if after.state.status == "closed" else self._move_head), values

    def _events_after(self, log_id: UUID, seq: int) -> sa.Select[tuple[int, str, str]]:
        table = self._events.c
        columns = sa.select(table.seq, table.body, table.hash)
        return columns.where(table[self._owner] == str(log_id), table.seq > seq).order_by(table.seq)

    def _stored(self, body: str, digest: str) -> StoredEvent[EventT]:
        try:
            return StoredEvent(self._parse(body), body, digest)
        except ValueError as error:
            raise Refusal("log_broken", seq=0, why="an event cannot be read") from error


def newest_moment(database: Database) -> datetime | None:
    """Return when something was written last, in any log; None while nothing was."""
    newest = [sa.select(sa.func.max(head.c.changed_at)) for head in (t.run, t.overhaul)]
    with database.reading() as connection:
        found = [connection.scalar(one) for one in newest]
    return max((one for one in found if one is not None), default=None)
