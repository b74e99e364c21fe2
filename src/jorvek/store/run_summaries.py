"""What lists say of each run, worked out once for every state of it and kept.

A year's runs are not folded anew for each look. A summary is no record: it can be thrown away at any
time, and is when the program changes.
"""

from __future__ import annotations

import hashlib
from collections.abc import Callable, Iterable
from contextlib import suppress
from dataclasses import dataclass
from functools import cache
from pathlib import Path
from threading import Lock
from typing import Generic, TypeVar, cast
from uuid import UUID

import sqlalchemy as sa
from pydantic import BaseModel, ValidationError
from sqlalchemy.dialects import mysql

import jorvek
from jorvek.core.run.log.state import RunState
from jorvek.store import tables as t
from jorvek.store.database import Database, DatabaseFullError
from jorvek.store.runindex import RunIndex, RunRow
from jorvek.store.runlog import RunLog

SummaryT = TypeVar("SummaryT", bound=BaseModel)


@dataclass(frozen=True)
class RunSummary(Generic[SummaryT]):
    """One kind of summary.

    Attributes:
        name: under which it is kept.
        model: its form.
        make: works it out from the run as it stands.
    """

    name: str
    model: type[SummaryT]
    make: Callable[[UUID, RunState], SummaryT]


@cache
def program() -> str:
    """Return the fingerprint of this program's own text: what another program worked out is not believed."""
    text = hashlib.sha256()
    for file in sorted(Path(jorvek.__file__).parent.rglob("*.py")):
        text.update(file.read_bytes())
    return text.hexdigest()


class RunSummaries:
    """Summaries in memory, those of closed runs in the database too."""

    def __init__(self, database: Database, log: RunLog) -> None:
        self._db, self._log = database, log
        self._held: dict[tuple[str, UUID], tuple[str, BaseModel]] = {}
        self._taken_up: set[str] = set()
        self._mattering: dict[str, tuple[int, dict[UUID, tuple[RunRow, BaseModel]]]] = {}
        self._lock = Lock()

    def of(self, kind: RunSummary[SummaryT], rows: Iterable[RunRow]) -> dict[UUID, SummaryT]:
        """Return the summary of each run, as it stands or as it has come to stand since the rows were read.

        Raises:
            DatabaseAwayError: when the database does not answer.
        """
        self._take_up(kind)
        return {row.id: self._one(kind, row) for row in rows}

    def mattering(
        self, kind: RunSummary[SummaryT], index: RunIndex, matters: Callable[[SummaryT], bool]
    ) -> dict[UUID, SummaryT]:
        """Return the summaries that matter to a list, of all runs there are, newest run first.

        What was looked at once is looked at again when its run has changed.

        Args:
            kind: which; one list asks for each.
            index: the heads of all runs.
            matters: tells whether the list has anything to say of it.
        """
        self._take_up(kind)
        with self._lock:
            version, found = self._mattering.get(kind.name, (-1, {}))
        version, changed, anew = index.changed_since(version)
        kept = {} if anew else dict(found)
        for row in changed:
            made = self._one(kind, row)
            if matters(made):
                kept[row.id] = (row, made)
            else:
                kept.pop(row.id, None)
        with self._lock:
            self._mattering[kind.name] = (version, kept)
        newest_first = sorted(kept.values(), key=lambda one: (-one[0].started_at.timestamp(), str(one[0].id)))
        return {row.id: cast(SummaryT, made) for row, made in newest_first}

    def _one(self, kind: RunSummary[SummaryT], row: RunRow) -> SummaryT:
        held = self._held.get((kind.name, row.id))
        if held is not None and held[0] == row.head_hash:
            return cast(SummaryT, held[1])
        snapshot = self._log.snapshot(row.id)
        made = kind.make(row.id, snapshot.state)
        self._held[kind.name, row.id] = (snapshot.head_hash, made)
        if snapshot.state.status == "closed":
            # If the disk is full the summary is not kept, and is computed again next time.
            with suppress(DatabaseFullError):
                self._write(kind.name, row.id, snapshot.head_hash, made)
        return made

    def _take_up(self, kind: RunSummary[SummaryT]) -> None:
        """Read once what was worked out before this program was started."""
        with self._lock:
            if kind.name in self._taken_up:
                return
            query = sa.select(t.run_digest).where(t.run_digest.c.name == kind.name)
            with self._db.reading() as connection:
                rows = connection.execute(query).all()
            for row in rows:
                # What another program worked out, or somebody has written over, is computed again.
                if row.program != self._mark(row.run_id, row.name, row.head_hash, row.body):
                    continue
                # A summary that cannot be read is computed again; it is no record, and no list may fail for it.
                with suppress(ValidationError):
                    made = kind.model.model_validate_json(row.body)
                    self._held[kind.name, UUID(row.run_id)] = (row.head_hash, made)
            self._taken_up.add(kind.name)

    def _mark(self, run_id: str, name: str, head_hash: str, body: str) -> str:
        """Return the mark of a summary: that this program, at this site, has worked it out so."""
        said = "\n".join((program(), run_id, name, head_hash, body))
        return self._db.vouch(said) or hashlib.sha256(said.encode()).hexdigest()

    def _write(self, name: str, run_id: UUID, head_hash: str, made: BaseModel) -> None:
        body = made.model_dump_json()
        values = {"program": self._mark(str(run_id), name, head_hash, body), "head_hash": head_hash, "body": body}
        insert = mysql.insert(t.run_digest).values(run_id=str(run_id), name=name, **values)
        self._db.transact(lambda connection: connection.execute(insert.on_duplicate_key_update(**values)))
