"""Does the past still stand as it was written?"""

from __future__ import annotations

import json
from dataclasses import dataclass

import sqlalchemy as sa

from jorvek.core.procedure.document import Procedure, address_of
from jorvek.core.sheet.document import EngineSheet
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
    """What was looked at and what was found.

    Attributes:
        events: those of runs and overhauls.
        unfit: why there is nothing to be looked at, or not all of it; None where the place is whole.
    """

    runs: int
    overhauls: int
    events: int
    procedures: int
    sheets: int
    alterations: tuple[Alteration, ...]
    unfit: str | None = None


def verify(database: Database) -> Verification:
    """Recompute every hash and name the first altered event of each run.

    Args:
        database: the database to look through; nothing in it is changed.

    Returns:
        The counts and what was found; no alterations in a place that is whole means that the past stands.

    Raises:
        DatabaseAwayError: when it does not answer.
    """
    unfit = _why_unfit(database)
    if unfit is not None:
        return Verification(0, 0, 0, 0, 0, (), unfit)
    with database.reading() as connection:
        runs = connection.execute(sa.select(t.run).order_by(t.run.c.started_at, t.run.c.id)).all()
        overhauls = connection.execute(sa.select(t.overhaul).order_by(t.overhaul.c.opened_at, t.overhaul.c.id)).all()
        events = sum(_count(connection, table) for table in (t.event, t.overhaul_event))
        procedures = connection.execute(sa.select(t.procedure_revision.c.hash, t.procedure_revision.c.body)).all()
        sheets = connection.execute(sa.select(t.sheet_revision.c.hash, t.sheet_revision.c.body)).all()
        checked = [
            *(_check_log(connection, "run", run, t.event, t.event.c.run_id) for run in runs),
            *(
                _check_log(connection, "overhaul", o, t.overhaul_event, t.overhaul_event.c.overhaul_id)
                for o in overhauls
            ),
        ]
        found = [a for a in checked if a is not None]
    found += [a for row in procedures for a in (_check_procedure(row.hash, row.body),) if a is not None]
    found += [a for row in sheets for a in (_check_sheet(row.hash, row.body),) if a is not None]
    return Verification(len(runs), len(overhauls), events, len(procedures), len(sheets), tuple(found))


def _why_unfit(database: Database) -> str | None:
    """Tell why a place is none in which everything can be looked at."""
    there, revision = database.tables(), database.revision()
    if not there:
        return "there is nothing here: no table at all"
    if revision is None or revision not in database.revisions():
        return f"the tables are of a version that this program does not know: {revision or 'none'}"
    if database.behind() is not None:
        return f"the tables are still of version {revision}: start Jorvek here once to bring them up to date"
    missing = sorted(set(t.metadata.tables) - there)
    if missing:
        return f"tables are missing: {', '.join(missing)}"
    return None if database.in_use() else "there is nothing here: nobody is on the register"


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
    try:
        envelope = json.loads(row.body)
        place = (envelope[owner], envelope["seq"], envelope["id"])
    except (ValueError, KeyError, TypeError):
        return "the text of the event cannot be read"
    return (
        None if place == (getattr(row, owner), row.seq, row.id) else "the event stands in a place that is not its own"
    )


def _check_procedure(digest: str, body: str) -> Alteration | None:
    try:
        Procedure.from_body(body)
    except ValueError:
        return Alteration(f"procedure {digest[:12]}", None, "the document cannot be read")
    if address_of(body) != digest:
        return Alteration(f"procedure {digest[:12]}", None, "the document was changed")
    return None


def _check_sheet(digest: str, body: str) -> Alteration | None:
    try:
        sheet = EngineSheet.model_validate(json.loads(body))
    except ValueError:
        return Alteration(f"engine sheet {digest[:12]}", None, "the document cannot be read")
    if sheet.content_hash() != digest:
        return Alteration(f"engine sheet {digest[:12]}", None, "the document was changed")
    return None
