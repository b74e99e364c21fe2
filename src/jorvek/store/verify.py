"""Does the past still stand as it was written?"""

from __future__ import annotations

import json
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any, Final

import sqlalchemy as sa

from jorvek.core.procedure.document import Procedure, address_of
from jorvek.core.sheet.document import EngineSheet
from jorvek.core.site_log.entries import Seal
from jorvek.store import tables as t
from jorvek.store.alteration import Alteration
from jorvek.store.database import Database
from jorvek.store.eventlog import GENESIS, seal
from jorvek.store.site_key import SiteKey
from jorvek.store.sitelog import HEAD, goes_on_from
from jorvek.store.verify_site import Sealed, heads_missing, read_sealed, rows_changed


@dataclass(frozen=True)
class Verification:
    """What was looked at and what was found.

    Attributes:
        events: those of runs and overhauls.
        unfit: why there is nothing to be looked at, or not all of it; None where the place is whole.
        seal: the newest seal of the site log; None where nothing was sealed yet.
        waiting: how many rows and heads are not in the site log yet.
    """

    runs: int
    overhauls: int
    events: int
    procedures: int
    sheets: int
    alterations: tuple[Alteration, ...]
    unfit: str | None = None
    seal: Seal | None = None
    waiting: int = 0


def verify(database: Database, key: SiteKey | None = None, against: Seal | None = None) -> Verification:
    """Recompute every hash, name the first altered event of each log, and hold all of it against the site log.

    Args:
        database: the database to look through; nothing in it is changed.
        key: the site's key; without it nobody can tell whether this site signed, and who wrote what is not in yet.
        against: an earlier seal, from paper or a tablet: what it stood for has to be part of what is there.

    Returns:
        The counts and what was found; no alterations in a place that is whole means that the past stands.

    Raises:
        DatabaseAwayError: when it does not answer.
    """
    unfit = _why_unfit(database)
    if unfit is not None:
        return Verification(0, 0, 0, 0, 0, (), unfit)
    with database.at_one_moment() as connection:
        sealed = read_sealed(connection, key)
        runs = connection.execute(sa.select(t.run).order_by(t.run.c.started_at, t.run.c.id)).all()
        overhauls = connection.execute(sa.select(t.overhaul).order_by(t.overhaul.c.opened_at, t.overhaul.c.id)).all()
        events = sum(_count(connection, table) for table in (t.event, t.overhaul_event))
        procedures = connection.execute(sa.select(t.procedure_revision.c.hash, t.procedure_revision.c.body)).all()
        sheets = connection.execute(sa.select(t.sheet_revision.c.hash, t.sheet_revision.c.body)).all()
        checked = [
            *(_check_log(connection, _RUN, run, sealed) for run in runs),
            *(_check_log(connection, _OVERHAUL, overhaul, sealed) for overhaul in overhauls),
        ]
        found = [a for a in checked if a is not None]
        found += [a for row in procedures for a in (_check_procedure(row.hash, row.body),) if a is not None]
        found += [a for row in sheets for a in (_check_sheet(row.hash, row.body),) if a is not None]
        found += sealed.found
        if sealed.newest is not None:
            found += rows_changed(connection, sealed, key)
            found += heads_missing(sealed, "run", {row.id for row in runs})
            found += heads_missing(sealed, "overhaul", {row.id for row in overhauls})
        waiting = _count(connection, t.site_pending) + _heads_waiting(sealed, runs, overhauls)
    if against is not None and not goes_on_from(database, against):
        why = "it does not go on from the seal that was named: something was taken back, or changed"
        found.append(Alteration("the site log", against.size, why))
    seal = None if sealed.newest is None else sealed.newest.seal()
    counts = (len(runs), len(overhauls), events, len(procedures), len(sheets))
    return Verification(*counts, tuple(found), seal=seal, waiting=waiting)


@dataclass(frozen=True)
class _Kind:
    """One kind of log.

    Attributes:
        what: what it is.
        events: table with its events.
        owner: column there that names the log.
        held_by: column of its head that is empty once it is closed.
        closing: kind of the event that closes it.
    """

    what: str
    events: sa.Table
    owner: str
    held_by: str
    closing: str


_RUN: Final = _Kind("run", t.event, "run_id", "open_joint", "closed")
_OVERHAUL: Final = _Kind("overhaul", t.overhaul_event, "overhaul_id", "open_engine", "overhaul_closed")


def _heads_waiting(sealed: Sealed, runs: Sequence[sa.Row[Any]], overhauls: Sequence[sa.Row[Any]]) -> int:
    """Count the heads that have moved on from where they were taken in last."""
    count = 0
    for kind, rows in (("run", runs), ("overhaul", overhauls)):
        known = sealed.heads.get(HEAD.format(kind), {})
        count += sum(row.head_seq > max(known.get(row.id, {0: ""})) for row in rows)
    return count


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


def _check_log(connection: sa.Connection, kind: _Kind, head: sa.Row[Any], sealed: Sealed) -> Alteration | None:
    called, previous, expected, closed = f"{kind.what} {head.id}", GENESIS, 1, False
    # JSON escapes quotation marks inside texts, so this finds keys alone.
    closing = f'"kind":"{kind.closing}"'
    known = dict(sealed.heads.get(HEAD.format(kind.what), {}).get(head.id, {}))
    owner = kind.events.c[kind.owner]
    rows = connection.execute(sa.select(kind.events).where(owner == head.id).order_by(kind.events.c.seq))
    for row in rows:
        why = _why_altered(row, kind.owner, previous, expected)
        if why is None and known.pop(expected, row.hash) != row.hash:
            why = "it is not the event that the site log has taken in: it, or one before it, was written anew"
        if why is not None:
            return Alteration(called, expected, why)
        previous, closed, expected = row.hash, closed or closing in row.body, expected + 1
    if known or (head.head_seq, head.head_hash) != (expected - 1, previous):
        return Alteration(called, expected, "events at the end are missing, or the head was changed")
    if closed != (getattr(head, kind.held_by) is None):
        return Alteration(called, None, "it is listed as open and is closed, or the other way round")
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
