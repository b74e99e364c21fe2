"""Tables made ready in a schema beside the one in use, and put in its place by one statement.

Whatever happens on the way, the power included, what was there before stands whole until that statement, and what is
new stands whole after it.
"""

from __future__ import annotations

import time
from collections.abc import Callable, Iterator
from contextlib import ExitStack, contextmanager, suppress
from typing import Final, TypeVar

import sqlalchemy as sa
from sqlalchemy.exc import DBAPIError, OperationalError

from jorvek.core.refusal import Refusal
from jorvek.store import tables as t
from jorvek.store.database import Database, translated
from jorvek.store.nodes import in_parts

ResultT = TypeVar("ResultT")
_NOT_ALLOWED: Final = frozenset({1044, 1045, 1142, 1227})
"""What MariaDB says of an account that may not make a schema."""


LONGEST_S: Final = 1800
"""Years of readings are copied within it; so long whoever comes second waits for the one who is at it."""
_LOOKS_EVERY_S: Final = 5
_STAYS: Final = sa.text(f"SET SESSION wait_timeout = {2 * LONGEST_S}")
"""A server that ends connections on which nothing is asked for a while would give the lock away in the middle."""


def schemas_of(database: Database) -> tuple[str, str, str]:
    """Return the schema in use, the one in which the next is made ready, and the one for what was there before."""
    name = database.engine.url.database or ""
    return name, f"{name}_next", f"{name}_last"


def replace_tables(
    database: Database, fill: Callable[[Database], ResultT], staying: frozenset[str] = frozenset()
) -> ResultT:
    """Fill a schema beside the one in use, and let its tables take the place of those in use.

    Args:
        database: whose tables are replaced; nobody else writes to it meanwhile.
        fill: makes every table in the schema beside; what it raises leaves everything as it was.
        staying: tables that stay where they are, with all that they hold.

    Raises:
        Refusal: ``no_room_beside`` where the account may not make a schema, ``replaced_elsewhere`` while another
            program is at it.
    """
    with _alone(database) as connection:
        result = _replaced(connection, database, fill, staying)
    # Connections that still point to the replaced tables are closed and opened anew.
    database.close()
    return result


def _replaced(
    connection: sa.Connection, database: Database, fill: Callable[[Database], ResultT], staying: frozenset[str]
) -> ResultT:
    here, beside, before = schemas_of(database)
    _make(connection, beside, before)
    # One statement copies all rows; it may run for a long time.
    url = database.nodes.asked.set(database=beside).render_as_string(hide_password=False)
    ready = Database(url, pool_size=2, answers_within_s=LONGEST_S)
    try:
        result = fill(ready)
    except BaseException:
        ready.close()
        # Where the server has died of it, the next attempt throws it away.
        with suppress(DBAPIError):
            _drop(connection, beside, before)
        raise
    ready.close()
    _swap(connection, here, beside, before, staying)
    _drop(connection, beside, before)
    return result


def bring_up_to_date(database: Database) -> None:
    """Bring the tables to the newest version: beside, with all that they hold, and then in their place.

    Of several that start at once one does it, and the others wait and find it done.

    Raises:
        DatabaseFullError: where the disk is full; everything is as it was.
        Refusal: as ``replace_tables``; ``tables_unknown`` where there are tables of no version that is known here.
    """
    if database.revision() is not None and database.behind() is None:
        _tidy(database)
        return
    with _alone(database, LONGEST_S) as connection:
        # Another server may have upgraded the tables meanwhile and be using them.
        if database.revision() is None or database.behind() is not None:
            _bring_up(connection, database)
    database.close()


def _bring_up(connection: sa.Connection, database: Database) -> None:
    here, revision = database.engine.url.database, database.revision()
    if revision not in (*database.revisions(), None) or (revision is None and database.tables()):
        raise Refusal("tables_unknown", revision=revision or "none")

    def fill(ready: Database) -> None:
        if revision is not None:
            ready.migrate(revision)
            _copy(ready, str(here))
        ready.migrate()

    # Photographs are most of the data, and their table has never changed: it is moved, not copied.
    _replaced(connection, database, fill, frozenset({t.kept_file.name}) & database.tables())


def _tidy(database: Database) -> None:
    """Throw away what an attempt has left that was killed when all was done but this."""
    _, *others = schemas_of(database)
    with database.reading() as connection:
        there = set(sa.inspect(connection).get_schema_names())
    if there & set(others):
        with _alone(database) as connection:
            _drop(connection, *others)


def _copy(ready: Database, source: str) -> None:
    with ready.engine.begin() as connection:
        in_parts(connection)
        found = sa.MetaData()
        found.reflect(connection)
        for table in found.sorted_tables:
            if table.name not in ("alembic_version", t.kept_file.name):
                there = table.to_metadata(sa.MetaData(), schema=source)
                connection.execute(table.insert().from_select(list(there.columns), sa.select(there)))


@contextmanager
def _alone(database: Database, patience_s: int = 0) -> Iterator[sa.Connection]:
    """Give a connection to whoever is first on all nodes; what the database says meanwhile comes out as it is meant."""
    try:
        with _alone_on_each(database, patience_s) as connection:
            yield connection
    except DBAPIError as error:
        raise translated(error) from error


@contextmanager
def _alone_on_each(database: Database, patience_s: int = 0) -> Iterator[sa.Connection]:
    """Give a connection to whoever is first on all nodes, for as long as it takes.

    A node knows its own locks alone, so each that answers is asked, by everybody in one order: two that reach any node
    in common meet there, and neither waits for the other.
    """
    asked = {"name": f"replace {database.engine.url.database}"[:64], "patience_s": min(patience_s, _LOOKS_EVERY_S)}
    until = time.monotonic() + patience_s
    with ExitStack() as held, database.readers.connect() as connection:
        for node in database.nodes.each():
            lock = held.enter_context(node)
            lock.execute(_STAYS)
            while lock.execute(sa.text("SELECT GET_LOCK(:name, :patience_s)"), asked).scalar_one() != 1:
                if time.monotonic() >= until:
                    raise Refusal("replaced_elsewhere")
        connection.execute(_STAYS)
        with database.engine.begin() as seeing:
            seeing.execute(sa.text("SELECT 1"))  # what the one before did on another node is seen here
        try:
            yield connection
        finally:
            connection.invalidate()  # what it knew of the tables is gone


def _make(connection: sa.Connection, *schemas: str) -> None:
    try:
        _drop(connection, *schemas)
        for schema in schemas:
            name = _quoted(connection, schema)
            connection.execute(sa.text(f"CREATE DATABASE {name} CHARACTER SET utf8mb4 COLLATE utf8mb4_unicode_ci"))
    except OperationalError as error:
        if error.orig is not None and error.orig.args[0] in _NOT_ALLOWED:
            raise Refusal("no_room_beside", schemas=", ".join(schemas)) from error
        raise


def _drop(connection: sa.Connection, *schemas: str) -> None:
    """Throw away what is not in use: an earlier attempt that came to its end on either side of the swap."""
    for schema in schemas:
        connection.execute(sa.text(f"DROP DATABASE IF EXISTS {_quoted(connection, schema)}"))


def _swap(connection: sa.Connection, here: str, beside: str, before: str, staying: frozenset[str]) -> None:
    """Let one statement move everything: it is done whole or not at all, the server sees to that."""
    query = sa.text("SELECT table_name FROM information_schema.tables WHERE table_schema = :name ORDER BY table_name")
    moves = [
        f"{_quoted(connection, source, table)} TO {_quoted(connection, target, table)}"
        for source, target in ((here, before), (beside, here))
        for table in connection.execute(query, {"name": source}).scalars().all()
        if table not in staying
    ]
    connection.execute(sa.text(f"RENAME TABLE {', '.join(moves)}"))


def _quoted(connection: sa.Connection, *names: str) -> str:
    return ".".join(connection.dialect.identifier_preparer.quote_identifier(name) for name in names)
