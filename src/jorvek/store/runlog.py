"""The append-only log of runs: sequence, chain of hashes, and the state it adds up to."""

from __future__ import annotations

import json
from collections import OrderedDict
from collections.abc import Callable
from dataclasses import dataclass, replace
from datetime import datetime
from functools import partial
from threading import Lock
from uuid import UUID

import sqlalchemy as sa
from sqlalchemy.exc import IntegrityError

from jorvek.core import CORE_VERSION
from jorvek.core.canonical import canonical_text, sha256_hex
from jorvek.core.refusal import Refusal
from jorvek.core.run.log import events as ev
from jorvek.core.run.log.commands import CommandBase, command_digest
from jorvek.core.run.log.definition import Definition
from jorvek.core.run.log.fold import advance, begin
from jorvek.core.run.log.state import RunState
from jorvek.store import tables as t
from jorvek.store.database import Database
from jorvek.store.latches import Latch, take

GENESIS = "0" * 64
"""What the first event of a run names as the hash before it."""

Decide = Callable[[RunState], ev.EventData]
LatchesOf = Callable[[RunState], frozenset[Latch]]
"""What has to be locked besides the run, by the state of the run."""


def _none(_: RunState) -> frozenset[Latch]:
    return frozenset()


class _MovedOnError(Exception):
    """Somebody else changed the run so that more has to be locked than was thought."""


DefinitionOf = Callable[[sa.Connection, str, dict[str, str]], Definition]


# Built once: putting a statement together costs more than running it.
_INSERT_EVENT = t.event.insert()
_READ_HEAD = sa.select(t.run.c.head_seq, t.run.c.head_hash, t.run.c.procedure_hash).where(
    t.run.c.id == sa.bindparam("run_id")
)
# Moves the head on from where it was thought to be, and from nowhere else: that is the run's lock.
_MOVE_HEAD = (
    t.run.update()
    .where(
        t.run.c.id == sa.bindparam("run_id"),
        t.run.c.head_seq == sa.bindparam("old_seq"),
        t.run.c.head_hash == sa.bindparam("old_hash"),
    )
    .values(head_seq=sa.bindparam("new_seq"), head_hash=sa.bindparam("new_hash"), changed_at=sa.bindparam("new_at"))
)
_CLOSE_HEAD = _MOVE_HEAD.values(open_joint=None)


@dataclass(frozen=True)
class StoredEvent:
    """An event as it stands in the table."""

    event: ev.Event
    body: str
    hash: str


@dataclass(frozen=True)
class Snapshot:
    """A run at one event: its state, the hash that seals it, and the ids seen so far."""

    state: RunState
    head_hash: str
    commands: dict[UUID, str]


@dataclass(frozen=True)
class Stamp:
    """Who and when, for a new event."""

    author: ev.Person
    at: datetime


def seal(previous: str, body: str) -> str:
    """Return the hash of an event: it covers the one before and the text byte for byte."""
    return sha256_hex(previous, body)


def event_body(event: ev.Event) -> str:
    """Return the canonical text of an event."""
    return canonical_text(json.loads(event.model_dump_json()))


class RunLog:
    """Reads and appends events. Holds a cache; the database alone is the authority."""

    def __init__(self, database: Database, definition_of: DefinitionOf, cached_runs: int = 256) -> None:
        self._db = database
        self._definition_of = definition_of
        self._cache: OrderedDict[UUID, Snapshot] = OrderedDict()
        self._cached_runs = cached_runs
        self._lock = Lock()

    def start(
        self,
        run_id: UUID,
        data: ev.RunStarted,
        command: CommandBase,
        stamp: Stamp,
        latches: frozenset[Latch] = frozenset(),
        settle: Callable[[ev.RunStarted], ev.RunStarted] = lambda data: data,
    ) -> Snapshot:
        """Open a run with its first event.

        Args:
            run_id: made by whoever starts it.
            data: what is started.
            command: what was asked.
            stamp: who, and when.
            latches: what is locked while it is decided.
            settle: refuses what must not be started as things stand, and adds what other runs say; asked under the
                locks.

        Raises:
            Refusal: from ``settle``; ``joint_taken`` when the joint has an open run, ``id_reused``.
        """
        open_joint = f"{data.engine.id}/{data.joint_key}"

        def work(connection: sa.Connection) -> Snapshot:
            take(connection, latches)
            known = connection.execute(sa.select(t.run.c.id).where(t.run.c.id == str(run_id))).first()
            if known:
                return self._started_before(connection, run_id, command)
            event = _new_event(run_id, 1, command, stamp, settle(data))
            body = event_body(event)
            digest = seal(GENESIS, body)
            values = {
                "id": str(run_id),
                "engine_id": data.engine.id,
                "joint_key": data.joint_key,
                "procedure_hash": data.procedure_hash,
                "started_at": stamp.at,
                "open_joint": open_joint,
                "head_seq": 1,
                "head_hash": digest,
                "changed_at": stamp.at,
            }
            connection.execute(t.run.insert().values(values))
            connection.execute(t.event.insert().values(_row(event, body, digest)))
            definition = self._definition_of(connection, data.procedure_hash, data.selection)
            return Snapshot(begin(definition, event), digest, {event.id: event.command})

        try:
            return self._keep(run_id, self._db.transact(work))
        except IntegrityError as error:
            if "open_joint" in str(error.orig):
                raise Refusal("joint_taken", joint=data.joint_label) from error
            raise Refusal("id_reused", id=str(command.id)) from error

    def _started_before(self, connection: sa.Connection, run_id: UUID, command: CommandBase) -> Snapshot:
        snapshot = self._load(connection, run_id)
        if snapshot.commands.get(command.id) != command_digest(command):
            raise Refusal("id_reused", id=str(command.id))
        return snapshot

    def append(
        self, run_id: UUID, command: CommandBase, stamp: Stamp, decide: Decide, latches_of: LatchesOf = _none
    ) -> Snapshot:
        """Decide on a command under the run's lock and commit the event that answers it.

        What ``decide`` reads is read under the same locks. The same command sent again returns the run
        as it stands and writes nothing.

        Raises:
            Refusal: from ``decide``; ``no_such_run``; ``id_reused`` when the id belongs to
                another command.
            DatabaseAwayError: when it is not known whether the event was stored.
        """

        def work(connection: sa.Connection) -> Snapshot:
            snapshot = self._as_known(connection, run_id, latches_of)
            known = snapshot.commands.get(command.id)
            if known is not None:
                if known != command_digest(command):
                    raise Refusal("id_reused", id=str(command.id))
                return self._load(connection, run_id)
            try:
                data = decide(snapshot.state)
            except Refusal:
                # What was held in memory may be behind: only the run as it stands says no.
                self._demand_newest(connection, run_id, snapshot)
                raise
            event = _new_event(run_id, snapshot.state.seq + 1, command, stamp, data)
            body = event_body(event)
            digest = seal(snapshot.head_hash, body)
            after = _advanced(snapshot, event, digest)
            if connection.execute(*_head_update(run_id, snapshot, after, stamp.at)).rowcount == 0:
                self._demand_newest(connection, run_id, snapshot)
                raise Refusal("log_broken", seq=snapshot.state.seq, why="the head does not move on")
            connection.execute(_INSERT_EVENT, _row(event, body, digest))
            return after

        while True:
            try:
                after = self._db.transact(work)
            except _MovedOnError:
                continue
            except IntegrityError as error:
                # The id belongs to this run's newest event, which another server has just taken, or to something else.
                snapshot = self.snapshot(run_id)
                if snapshot.commands.get(command.id) == command_digest(command):
                    return snapshot
                raise Refusal("id_reused", id=str(command.id)) from error
            else:
                # Within a larger act nobody else may see it before all of that is committed.
                self._db.when_committed(partial(self._keep, run_id, after))
                return after

    def under(self, latches: frozenset[Latch], act: Callable[[], Snapshot]) -> Snapshot:
        """Carry out an act on several runs: under locks, and all of it or nothing.

        Args:
            latches: what is locked meanwhile.
            act: appends to one run after the other; safe to run twice.

        Raises:
            Refusal: from ``act``; nothing of it is stored then.
            DatabaseAwayError: when it is not known whether it was stored.
        """

        def work(connection: sa.Connection) -> Snapshot:
            take(connection, latches)
            return act()

        return self._db.transact(work)

    def _as_known(self, connection: sa.Connection, run_id: UUID, latches_of: LatchesOf) -> Snapshot:
        """Return the run to decide on, with the latches taken that its state asks for.

        Without latches the state in memory will do: whether it is the newest shows when the head is moved on.
        With them one may have waited, and the run is read under them.
        """
        snapshot = self._cached(run_id) or self._load(connection, run_id)
        held = latches_of(snapshot.state)
        if not held:
            return snapshot
        take(connection, held)
        snapshot = self._load(connection, run_id)
        if not latches_of(snapshot.state) <= held:
            self._keep(run_id, snapshot)
            raise _MovedOnError
        return snapshot

    def _demand_newest(self, connection: sa.Connection, run_id: UUID, snapshot: Snapshot) -> None:
        """Begin again with the run as it stands when a decision was made on an older state of it."""
        newest = self._load(connection, run_id)
        if newest.head_hash != snapshot.head_hash:
            self._keep(run_id, newest)
            raise _MovedOnError

    def _cached(self, run_id: UUID) -> Snapshot | None:
        with self._lock:
            return self._cache.get(run_id)

    def snapshot(self, run_id: UUID) -> Snapshot:
        """Return a run as it stands.

        Raises:
            Refusal: ``no_such_run``.
        """
        with self._db.reading() as connection:
            return self._keep(run_id, self._load(connection, run_id))

    def stored(self, run_id: UUID) -> list[StoredEvent]:
        """Return the events of a run as stored."""
        with self._db.reading() as connection:
            return [_stored(row.body, row.hash) for row in connection.execute(_events_after(run_id, 0))]

    def restore(self, definition: Definition, lines: list[tuple[str, str]]) -> Snapshot:
        """Write a whole exported run into this database, texts and hashes as they were.

        Args:
            definition: of the procedure, which must be stored already.
            lines: (canonical text, hash) of each event, in order.

        Raises:
            Refusal: ``log_broken`` when chain or sequence do not hold; ``id_reused`` when the
                run is here already.
        """
        stored = [_stored(body, digest) for body, digest in lines]
        snapshot = _replay(definition, stored)
        first, state = stored[0].event, snapshot.state
        started = state.started

        def work(connection: sa.Connection) -> None:
            values = {
                "id": str(first.run_id),
                "engine_id": started.engine.id,
                "joint_key": started.joint_key,
                "procedure_hash": definition.procedure_hash,
                "started_at": first.at,
                "open_joint": None if state.status == "closed" else f"{started.engine.id}/{started.joint_key}",
                "head_seq": state.seq,
                "head_hash": snapshot.head_hash,
                "changed_at": state.last_at,
            }
            connection.execute(t.run.insert().values(values))
            connection.execute(t.event.insert(), [_row(s.event, s.body, s.hash) for s in stored])

        try:
            self._db.transact(work)
        except IntegrityError as error:
            raise Refusal("id_reused", id=str(first.run_id)) from error
        return snapshot

    def _keep(self, run_id: UUID, snapshot: Snapshot) -> Snapshot:
        with self._lock:
            held = self._cache.get(run_id)
            if held is None or held.state.seq <= snapshot.state.seq:
                self._cache[run_id] = snapshot
            self._cache.move_to_end(run_id)
            while len(self._cache) > self._cached_runs:
                self._cache.popitem(last=False)
        return snapshot

    def _load(self, connection: sa.Connection, run_id: UUID) -> Snapshot:
        head = connection.execute(_READ_HEAD, {"run_id": str(run_id)}).first()
        if head is None:
            raise Refusal("no_such_run", run=str(run_id))
        held = self._cached(run_id)
        if held is not None and (held.state.seq, held.head_hash) == (head.head_seq, head.head_hash):
            return held
        base = held if held is not None and held.state.seq < head.head_seq else None
        rows = connection.execute(_events_after(run_id, base.state.seq if base else 0)).all()
        stored = [_stored(r.body, r.hash) for r in rows if r.seq <= head.head_seq]
        selection = base.state.started.selection if base else selection_of(stored)
        return _replay(self._definition_of(connection, head.procedure_hash, selection), stored, base)


def selection_of(stored: list[StoredEvent]) -> dict[str, str]:
    """Return the choice of options that a log begins with; none when it does not begin with a start."""
    first = stored[0].event.data if stored else None
    return first.selection if isinstance(first, ev.RunStarted) else {}


def _replay(definition: Definition, stored: list[StoredEvent], base: Snapshot | None = None) -> Snapshot:
    snapshot = base
    for line in stored:
        previous = snapshot.head_hash if snapshot else GENESIS
        if seal(previous, line.body) != line.hash:
            raise Refusal("log_broken", seq=line.event.seq, why="hash does not match")
        if snapshot is None:
            snapshot = Snapshot(begin(definition, line.event), line.hash, {line.event.id: line.event.command})
        else:
            snapshot = _advanced(snapshot, line.event, line.hash)
    if snapshot is None:
        raise Refusal("log_broken", seq=0, why="empty")
    return snapshot


def _advanced(snapshot: Snapshot, event: ev.Event, digest: str) -> Snapshot:
    commands = {**snapshot.commands, event.id: event.command}
    return replace(snapshot, state=advance(snapshot.state, event), head_hash=digest, commands=commands)


def _new_event(run_id: UUID, seq: int, command: CommandBase, stamp: Stamp, data: ev.EventData) -> ev.Event:
    return ev.Event(
        run_id=run_id,
        seq=seq,
        id=command.id,
        core_version=CORE_VERSION,
        at=stamp.at,
        tablet_at=command.tablet_at,
        author=stamp.author,
        command=command_digest(command),
        data=data,
    )


def _row(event: ev.Event, body: str, digest: str) -> dict[str, object]:
    return {"run_id": str(event.run_id), "seq": event.seq, "id": str(event.id), "body": body, "hash": digest}


def _head_update(run_id: UUID, before: Snapshot, after: Snapshot, at: datetime) -> tuple[sa.Update, dict[str, object]]:
    values: dict[str, object] = {
        "run_id": str(run_id),
        "old_seq": before.state.seq,
        "old_hash": before.head_hash,
        "new_seq": after.state.seq,
        "new_hash": after.head_hash,
        "new_at": at,
    }
    return (_CLOSE_HEAD if after.state.status == "closed" else _MOVE_HEAD), values


def _events_after(run_id: UUID, seq: int) -> sa.Select[tuple[int, str, str]]:
    columns = sa.select(t.event.c.seq, t.event.c.body, t.event.c.hash)
    return columns.where(t.event.c.run_id == str(run_id), t.event.c.seq > seq).order_by(t.event.c.seq)


def _stored(body: str, digest: str) -> StoredEvent:
    try:
        return StoredEvent(ev.Event.model_validate_json(body), body, digest)
    except ValueError as error:
        raise Refusal("log_broken", seq=0, why="an event cannot be read") from error
