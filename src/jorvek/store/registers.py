"""People, sessions, engines, tools and procedure revisions."""

from __future__ import annotations

import json
from collections.abc import Callable, Collection, Sequence
from dataclasses import dataclass
from datetime import datetime
from functools import lru_cache
from uuid import UUID

import sqlalchemy as sa
from sqlalchemy.exc import IntegrityError

from jorvek.core.engine.layout import Engine, JointKind
from jorvek.core.procedure.document import Procedure
from jorvek.core.procedure.metal_parts import Condition
from jorvek.core.refusal import Refusal
from jorvek.core.run.log.definition import Definition, define
from jorvek.core.run.log.events import RunStarted
from jorvek.core.tools import Tool
from jorvek.store import tables as t
from jorvek.store.database import Database
from jorvek.store.people import PeopleRegister
from jorvek.store.recorded import insert_recorded
from jorvek.store.row_locks import LIBRARY, procedure_lock, take
from jorvek.store.runindex import NewestRuns, RunIndex, RunRow, run_rows, run_rows_by


@dataclass(frozen=True)
class RevisionRow:
    """A stored procedure revision with its present status."""

    hash: str
    procedure: Procedure
    status: str
    imported_by: UUID
    status_by: str | None
    status_at: datetime | None

    def head(self) -> RevisionHead:
        """Return what a list shows of it."""
        p = self.procedure
        stated = _Stated(
            p.id,
            p.title,
            p.revision,
            p.author,
            p.applies_to.engine_type,
            p.applies_to.joint,
            p.applies_to.purpose,
            p.begins,
            p.leaves,
        )
        return _head(self.hash, stated, self.status, self.status_by)


@dataclass(frozen=True)
class RevisionHead:
    """What a list shows of a procedure revision.

    Attributes:
        hash: content address.
        id: name of the procedure.
        title: its title.
        revision: revision letter.
        author: who wrote it.
        engine_type: engine type it is for.
        joint: kind of joint it is for.
        purpose: what it does there.
        status: draft, approved or withdrawn.
        status_by: who gave it that status.
        begins: condition of the joint at which it begins.
        leaves: condition in which it leaves the joint.
    """

    hash: str
    id: str
    title: str
    revision: str
    author: str
    engine_type: str
    joint: JointKind
    purpose: str
    status: str
    status_by: str | None
    begins: Condition | None = None
    leaves: Condition | None = None


@dataclass(frozen=True)
class _Stated:
    """What a revision's document says of itself."""

    id: str
    title: str
    revision: str
    author: str
    engine_type: str
    joint: JointKind
    purpose: str
    begins: Condition | None
    leaves: Condition | None


_BATCH = 200


class Registers(PeopleRegister):
    """Everything that is not a run."""

    def __init__(self, database: Database) -> None:
        super().__init__(database)
        self.run_index = RunIndex(database)
        self.newest_runs = NewestRuns(self.run_index)
        self._heads: dict[str, _Stated] = {}

    def brought_in(self, log_id: UUID) -> tuple[str, datetime] | None:
        """Return who brought a log in from another installation, and when; None for one of this site."""
        joined = t.brought_in.join(t.person, t.person.c.id == t.brought_in.c.by_id)
        query = sa.select(t.person.c.name, t.brought_in.c.at).select_from(joined)
        with self.db.reading() as connection:
            row = connection.execute(query.where(t.brought_in.c.log_id == str(log_id))).first()
        return None if row is None else (row.name, row.at)

    def add_engine(self, engine: Engine, now: datetime) -> None:
        """Write an engine.

        Raises:
            Refusal: ``engine_known``.
        """
        values: dict[str, object] = {"id": engine.id, "body": engine.model_dump_json(), "added_at": now}
        self._insert(t.engine, values, Refusal("engine_known", engine=engine.id))

    def engines(self) -> list[Engine]:
        """Return all engines in the order they were added."""
        with self.db.reading() as connection:
            rows = connection.execute(sa.select(t.engine.c.body).order_by(t.engine.c.added_at, t.engine.c.id))
            return [Engine.model_validate_json(row.body) for row in rows]

    def add_tool(self, tool: Tool) -> None:
        """Write a tool.

        Raises:
            Refusal: ``tool_known``.
        """
        values: dict[str, object] = {"id": tool.id, "body": tool.model_dump_json()}
        self._insert(t.tool, values, Refusal("tool_known", tool=tool.id))

    def tools(self) -> list[Tool]:
        """Return all tools by number."""
        with self.db.reading() as connection:
            rows = connection.execute(sa.select(t.tool.c.body).order_by(t.tool.c.id))
            return [Tool.model_validate_json(row.body) for row in rows]

    def add_revision(self, procedure: Procedure, person_id: UUID, now: datetime) -> str:
        """Write a procedure revision as a draft and return its content address.

        Raises:
            Refusal: ``revision_known`` for the same content, ``revision_taken`` when the
                revision letter stands for other content.
        """
        if self._stands(procedure):
            raise Refusal("revision_known", title=procedure.title, revision=procedure.revision)
        self.add_revisions([procedure], person_id, now)
        return procedure.content_hash()

    def add_revisions(self, procedures: Sequence[Procedure], person_id: UUID, now: datetime) -> list[Procedure]:
        """Write revisions as drafts, all or none; return those that were not here yet.

        Raises:
            Refusal: ``revision_taken`` when a revision letter stands for other content.
        """
        fresh = [p for p in procedures if not self._stands(p)]

        def work(connection: sa.Connection) -> None:
            for procedure in fresh:
                digest = procedure.content_hash()
                values = {
                    "hash": digest,
                    "procedure_id": procedure.id,
                    "revision": procedure.revision,
                    "body": procedure.canonical(),
                    "imported_by": str(person_id),
                    "imported_at": now,
                }
                try:
                    insert_recorded(self.db, connection, t.procedure_revision, values)
                except IntegrityError as error:
                    raise Refusal("revision_taken", title=procedure.title, revision=procedure.revision) from error
                insert_recorded(self.db, connection, t.procedure_status, _status(digest, "draft", person_id, now))

        self.db.transact(work)
        return fresh

    def _stands(self, procedure: Procedure) -> bool:
        """Tell whether the same content is stored already, be it in an older format of the document."""
        table = t.procedure_revision.c
        query = sa.select(table.body).where(table.procedure_id == procedure.id, table.revision == procedure.revision)
        with self.db.reading() as connection:
            row = connection.execute(query).first()
        return row is not None and _parsed(row.body).plain() == procedure.plain()

    def set_status(
        self, digest: str, status: str, person_id: UUID, now: datetime, demand: Callable[[RevisionRow], None]
    ) -> None:
        """Add a status beside a revision; earlier ones stay.

        Args:
            digest: content address.
            status: the new status.
            person_id: who gives it.
            now: server time.
            demand: refuses a status that does not follow on the present one; asked under the lock.

        Raises:
            Refusal: ``no_such_procedure``; from ``demand``.
        """

        def work(connection: sa.Connection) -> None:
            # A document is approved beside the others: none of them changes its standing meanwhile.
            take(connection, {LIBRARY, procedure_lock(digest)})
            row = self.revision(digest)
            if row is None:
                raise Refusal("no_such_procedure", hash=digest[:12])
            demand(row)
            insert_recorded(self.db, connection, t.procedure_status, _status(digest, status, person_id, now))

        self.db.transact(work)

    def revision(self, digest: str) -> RevisionRow | None:
        """Return one revision with its newest status, or None."""
        query = _newest_status(t.procedure_revision).where(t.procedure_revision.c.hash == digest)
        with self.db.reading() as connection:
            row = connection.execute(query).first()
        return None if row is None else _revision(row)

    def revisions(self) -> list[RevisionHead]:
        """Return the heads of all revisions with their newest status.

        A revision never changes, so what its document says is read once and kept.
        """
        with self.db.reading() as connection:
            rows = list(connection.execute(_newest_status(t.procedure_revision.c.hash)))
            unknown = [row.hash for row in rows if row.hash not in self._heads]
            for start in range(0, len(unknown), _BATCH):
                table = t.procedure_revision.c
                query = sa.select(table.hash, table.body).where(table.hash.in_(unknown[start : start + _BATCH]))
                self._heads |= {row.hash: _stated(row.body) for row in connection.execute(query)}
        return [_head(row.hash, self._heads[row.hash], row.status, row.name) for row in rows]

    def runs(self, engine_id: str | None = None) -> list[RunRow]:
        """Return all runs, or those on one engine, newest first."""
        if engine_id is None:
            return self.run_index.rows()
        with self.db.reading() as connection:
            return run_rows(connection, engine_id)

    def engines_worked_on(self) -> list[str]:
        """Return the engines that have runs, the one worked on last first."""
        newest = sa.func.max(t.run.c.changed_at)
        query = sa.select(t.run.c.engine_id).group_by(t.run.c.engine_id).order_by(newest.desc(), t.run.c.engine_id)
        with self.db.reading() as connection:
            return list(connection.execute(query).scalars())

    def runs_by(self, procedures: Collection[str], but_on: str, most: int) -> list[RunRow]:
        """Return the newest runs by procedures, those on one engine aside.

        Args:
            procedures: content addresses of the documents.
            but_on: the engine whose runs are left out.
            most: how many at the most.
        """
        with self.db.reading() as connection:
            return run_rows_by(connection, procedures, but_on, most)

    def heads_since(self, since: datetime) -> dict[str, int]:
        """Return run id and newest sequence of every run changed since a time."""
        return self._heads_of(t.run, since)

    def overhaul_heads_since(self, since: datetime) -> dict[str, int]:
        """Return id and newest sequence of every overhaul changed since a time."""
        return self._heads_of(t.overhaul, since)

    def _heads_of(self, heads: sa.Table, since: datetime) -> dict[str, int]:
        query = sa.select(heads.c.id, heads.c.head_seq).where(heads.c.changed_at >= since)
        with self.db.reading() as connection:
            return {row.id: row.head_seq for row in connection.execute(query)}

    def _insert(self, table: sa.Table, values: dict[str, object], when_known: Refusal) -> None:
        try:
            self.db.transact(lambda connection: insert_recorded(self.db, connection, table, values))
        except IntegrityError as error:
            raise when_known from error


def definition_of(connection: sa.Connection, started: RunStarted) -> Definition:
    """Return the definition that a run pins.

    Raises:
        Refusal: ``no_such_procedure``.
    """
    digest, selection, again = started.procedure_hash, started.selection, started.again
    key = (digest, tuple(sorted(selection.items())), again.model_dump_json() if again else "")
    held = _definitions.get(key)
    if held is not None:
        return held
    query = sa.select(t.procedure_revision.c.body).where(t.procedure_revision.c.hash == digest)
    row = connection.execute(query).first()
    if row is None:
        raise Refusal("no_such_procedure", hash=digest[:12])
    return _definitions.setdefault(key, define(_parsed(row.body), selection or None, again))


_definitions: dict[tuple[str, tuple[tuple[str, str], ...], str], Definition] = {}


@lru_cache(maxsize=512)
def _parsed(body: str) -> Procedure:
    return Procedure.from_body(body)


def _status(digest: str, status: str, person_id: UUID, now: datetime) -> dict[str, object]:
    return {"hash": digest, "status": status, "by_id": str(person_id), "at": now}


def _newest_status(*columns: sa.Table | sa.Column[str]) -> sa.Select[tuple[object, ...]]:
    """Select columns of each revision beside its newest status and who gave it."""
    newest = sa.select(sa.func.max(t.procedure_status.c.id)).group_by(t.procedure_status.c.hash)
    joined = t.procedure_revision.join(
        t.procedure_status, t.procedure_status.c.hash == t.procedure_revision.c.hash
    ).join(t.person, t.person.c.id == t.procedure_status.c.by_id)
    return (
        sa.select(*columns, t.procedure_status.c.status, t.procedure_status.c.at, t.person.c.name)
        .select_from(joined)
        .where(t.procedure_status.c.id.in_(newest))
        .order_by(
            t.procedure_revision.c.procedure_id,
            t.procedure_revision.c.imported_at,
            # Revisions of one archive share their time of import; the letter orders them.
            t.procedure_revision.c.revision,
        )
    )


def _head(digest: str, stated: _Stated, status: str, status_by: str | None) -> RevisionHead:
    return RevisionHead(
        hash=digest,
        id=stated.id,
        title=stated.title,
        revision=stated.revision,
        author=stated.author,
        engine_type=stated.engine_type,
        joint=stated.joint,
        purpose=stated.purpose,
        status=status,
        status_by=status_by,
        begins=stated.begins,
        leaves=stated.leaves,
    )


def _stated(body: str) -> _Stated:
    document = json.loads(body)
    applies = document["applies_to"]
    return _Stated(
        document["id"],
        document["title"],
        document["revision"],
        document["author"],
        applies["engine_type"],
        JointKind(applies["joint"]),
        applies["purpose"],
        document.get("from"),
        document.get("leaves"),
    )


def _revision(row: sa.Row[tuple[object, ...]]) -> RevisionRow:
    return RevisionRow(row.hash, _parsed(row.body), row.status, UUID(row.imported_by), row.name, row.at)
