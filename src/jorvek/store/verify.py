"""Does the past still stand as it was written?"""

from __future__ import annotations

import json
from dataclasses import dataclass

import sqlalchemy as sa

from jorvek.core.procedure.document import Procedure, address_of
from jorvek.store import tables as t
from jorvek.store.database import Database
from jorvek.store.eventlog import GENESIS, seal


@dataclass(frozen=True)
class Alteration:
    """The first thing in a run, or in the library, that is not as it was written."""

    what: str
    seq: int | None
    why: str


@dataclass(frozen=True)
class Verification:
    """What was looked at and what was found; ``events`` are those of runs and overhauls."""

    runs: int
    overhauls: int
    events: int
    procedures: int
    alterations: tuple[Alteration, ...]


def verify(database: Database) -> Verification:
    """Recompute every hash and name the first altered event of each run.

    Args:
        database: the database to look through; nothing in it is changed.

    Returns:
        The counts and what was found; no alterations means that the past stands.

    Raises:
        DatabaseAwayError: when it does not answer.
    """
    with database.reading() as connection:
        runs = connection.execute(sa.select(t.run).order_by(t.run.c.started_at, t.run.c.id)).all()
        overhauls = connection.execute(sa.select(t.overhaul).order_by(t.overhaul.c.opened_at, t.overhaul.c.id)).all()
        events = sum(_count(connection, table) for table in (t.event, t.overhaul_event))
        procedures = connection.execute(sa.select(t.procedure_revision.c.hash, t.procedure_revision.c.body)).all()
        checked = [
            *(_check_log(connection, "run", run, t.event, t.event.c.run_id) for run in runs),
            *(
                _check_log(connection, "overhaul", o, t.overhaul_event, t.overhaul_event.c.overhaul_id)
                for o in overhauls
            ),
        ]
        found = [a for a in checked if a is not None]
    found += [a for row in procedures for a in (_check_procedure(row.hash, row.body),) if a is not None]
    return Verification(len(runs), len(overhauls), events, len(procedures), tuple(found))


def _count(connection: sa.Connection, table: sa.Table) -> int:
    return int(connection.execute(sa.select(sa.func.count()).select_from(table)).scalar_one())


def _check_log(
    connection: sa.Connection,
    what: str,
    head: sa.Row[tuple[object, ...]],
    events: sa.Table,
    owner: sa.Column[str],
) -> Alteration | None:
    previous, expected = GENESIS, 1
    rows = connection.execute(sa.select(events).where(owner == head.id).order_by(events.c.seq))
    for row in rows:
        why = _why_altered(row, owner.name, previous, expected)
        if why is not None:
            return Alteration(f"{what} {head.id}", expected, why)
        previous, expected = row.hash, expected + 1
    if (head.head_seq, head.head_hash) != (expected - 1, previous):
        return Alteration(f"{what} {head.id}", expected, "events at the end are missing, or the head was changed")
    return None


def _why_altered(row: sa.Row[tuple[object, ...]], owner: str, previous: str, expected: int) -> str | None:
    if row.seq != expected:
        return "an event is missing"
    if seal(previous, row.body) != row.hash:
        return "the text of the event, or one before it, was changed"
    envelope = json.loads(row.body)
    if (envelope[owner], envelope["seq"], envelope["id"]) != (getattr(row, owner), row.seq, row.id):
        return "the event stands in a place that is not its own"
    return None


def _check_procedure(digest: str, body: str) -> Alteration | None:
    try:
        Procedure.from_body(body)
    except ValueError:
        return Alteration(f"procedure {digest[:12]}", None, "the document cannot be read")
    if address_of(body) != digest:
        return Alteration(f"procedure {digest[:12]}", None, "the document was changed")
    return None
