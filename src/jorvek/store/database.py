"""Connection, durability and what happens when the database goes away."""

from __future__ import annotations

import random
import re
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from contextvars import ContextVar
from functools import cache, cached_property
from math import inf
from pathlib import Path
from threading import Lock
from typing import Final, NamedTuple, TypeVar

import sqlalchemy as sa
from alembic import command
from alembic.config import Config
from alembic.runtime.migration import MigrationContext
from alembic.script import ScriptDirectory
from sqlalchemy.engine.interfaces import DBAPIConnection
from sqlalchemy.exc import DBAPIError, InterfaceError, InternalError, InvalidatePoolError, OperationalError
from sqlalchemy.exc import TimeoutError as PoolTimeoutError
from sqlalchemy.pool import ConnectionPoolEntry, PoolProxiedConnection

from jorvek.measures import AGAIN
from jorvek.store.nodes import Nodes, listen

MIN_VERSION = (10, 11)
ResultT = TypeVar("ResultT")


class _Inside(NamedTuple):
    """The transaction that a thread is in, and what is to happen once it is committed."""

    database: Database
    connection: sa.Connection
    afterwards: list[Callable[[], object]]


_inside: ContextVar[_Inside | None] = ContextVar("inside", default=None)

_CLASH = frozenset({1020, 1205, 1213})
"""What MariaDB says when two transactions want the same rows, or two nodes of a cluster wrote them: do it again."""
_CLASHES_BORNE = 20

_GIVE_WAY_S, _GIVE_WAY_AT_MOST_S = 0.002, 0.25

_TRUSTED_IDLE_S = 1.0
"""How long an idle connection is taken to be there still."""

_SURE_FOR_S = 10.0
"""How long it is taken for granted that the server still writes through to its disk."""

_DISK_FULL = frozenset({1021, 1114})
"""What MariaDB says when nothing more goes onto its disk."""
_HANDLER_FAILED = frozenset({3, 1005, 1025, 1026, 1030})
"""What MariaDB says when a file of a table could not be made or written; the number behind it says why."""
_NO_ROOM = re.compile(r"errno: (28|135)\b|[Ee]rror (28|135)\b")
"""No space on the device, no more room in the table's file."""


class DatabaseAwayError(RuntimeError):
    """The database did not answer; whether the last write happened is not known.

    Sending the same command again is safe: its id makes sure that it counts once.
    """


class DatabaseFullError(DatabaseAwayError):
    """The server's disk is full; what was asked is known not to be stored."""


class DatabaseUnsafeError(DatabaseAwayError):
    """The server may lose what it confirms; what was asked is known not to be stored."""


class DatabaseUnfitError(RuntimeError):
    """The database cannot be used: too old, or it may lose what it has confirmed."""


ANSWERS_WITHIN_S: Final = 20
"""A server that is silent for so long is taken to be away, unless a statement is known to take longer."""


class Database:
    """One MariaDB, or one cluster of them, reached by URL.

    Attributes:
        url: what it was named by; several nodes stand in it with commas between them.
        nodes: which of them is asked.
        vouch: marks a text as this program's, with the site's key; without one nobody vouches.
    """

    def __init__(self, url: str, pool_size: int = 10, answers_within_s: int = ANSWERS_WITHIN_S) -> None:
        connect_args = {
            "connect_timeout": 3,
            "read_timeout": answers_within_s,
            "write_timeout": answers_within_s,
            "charset": "utf8mb4",
        }
        # Each way of using a connection ends its own transaction: nothing is left for the pool to roll back, and one
        # question less goes to the server for every reading.
        pool = {"max_overflow": 10, "pool_recycle": 1800, "pool_reset_on_return": None, "connect_args": connect_args}
        self.url, self.nodes = url, Nodes(url, self.close)
        asked = self.nodes.asked
        self.engine = sa.create_engine(asked, pool_size=pool_size, isolation_level="READ COMMITTED", **pool)
        self.readers = sa.create_engine(asked, pool_size=pool_size, isolation_level="AUTOCOMMIT", **pool)
        for engine in (self.engine, self.readers):
            listen(engine, self.nodes, causal=engine is self.engine)
            sa.event.listen(engine, "checkin", _laid_down)
            sa.event.listen(engine, "checkout", _picked_up)
        self._asked_at = -inf
        self.vouch: Callable[[str], str] = _nobody_vouches

    def check(self) -> None:
        """Refuse a server that is too old or not fully durable.

        Raises:
            DatabaseUnfitError: saying what to change.
            DatabaseAwayError: when it does not answer.
        """
        with self.reading() as connection:
            version, flush, engine = connection.execute(
                sa.text("SELECT VERSION(), @@innodb_flush_log_at_trx_commit, @@version_comment")
            ).one()
        numbers = tuple(int(part) for part in str(version).split("-")[0].split(".")[:2])
        if "MariaDB" not in f"{version} {engine}" or numbers < MIN_VERSION:
            raise DatabaseUnfitError(f"MariaDB 10.11 or newer is needed; this is {version}")
        if int(flush) != 1:
            raise DatabaseUnfitError(
                f"innodb_flush_log_at_trx_commit is {flush}; it must be 1, or confirmed readings can be lost"
            )

    def close(self) -> None:
        """Lay every idle connection down; a later question takes a new one."""
        for engine in (self.engine, self.readers):
            engine.dispose()

    def migrate(self, to: str = "head") -> None:
        """Bring the tables to a version, the newest when none is named; forward only."""
        if to == "head" and self.revision() == _versions().newest:
            return
        config = _migrations()
        with self.engine.connect() as connection:
            config.attributes["connection"] = connection
            command.upgrade(config, to)

    def revisions(self) -> frozenset[str]:
        """Return the versions of the tables that this program knows."""
        return _versions().known

    def revision(self) -> str | None:
        """Return the version of the tables; None where there are none."""
        with self.reading() as connection:
            return MigrationContext.configure(connection).get_current_revision()

    def tables(self) -> frozenset[str]:
        """Return the names of the tables that are there."""
        with self.reading() as connection:
            return frozenset(sa.inspect(connection).get_table_names())

    def behind(self) -> str | None:
        """Return the version of the tables when they are there and not the newest; None otherwise."""
        now = self.revision()
        return now if now is not None and now != _versions().newest else None

    def in_use(self) -> bool:
        """Tell whether anybody is on the register."""
        with self.reading() as connection:
            if not sa.inspect(connection).has_table("person"):
                return False
            return bool(connection.execute(sa.text("SELECT EXISTS (SELECT 1 FROM person)")).scalar_one())

    @contextmanager
    def reading(self) -> Iterator[sa.Connection]:
        """Give a connection for reading; inside a transaction, that transaction's own.

        So whatever a decision is made from is read under the locks that it was made under.

        Raises:
            DatabaseAwayError: when the server does not answer.
        """
        inside = self._here()
        if inside is not None:
            yield inside.connection
            return
        try:
            with self.readers.connect() as connection:
                yield connection
        except DBAPIError as error:
            raise translated(error) from error
        except PoolTimeoutError as error:
            raise DatabaseAwayError("all connections are busy") from error

    @contextmanager
    def at_one_moment(self) -> Iterator[sa.Connection]:
        """Give a connection on which everything is read as it stands now, however long the reading takes.

        Raises:
            DatabaseAwayError: when the server does not answer.
        """
        try:
            with self.engine.connect() as connection:
                connection.execution_options(isolation_level="REPEATABLE READ")
                connection.execute(sa.text("START TRANSACTION WITH CONSISTENT SNAPSHOT"))
                try:
                    yield connection
                finally:
                    connection.invalidate()  # nobody else is to get a connection with this level
        except DBAPIError as error:
            raise translated(error) from error

    def transact(self, work: Callable[[sa.Connection], ResultT]) -> ResultT:
        """Run ``work`` in one transaction and commit; within another transaction it joins that one.

        Done again when another transaction was in the way, and once more if the connection was stale:
        ``work`` must be safe to run twice, and decides from what it reads inside.

        Raises:
            DatabaseAwayError: when the server does not answer.
            DatabaseUnsafeError: when it may lose what it confirms; nothing was stored then.
        """
        inside = self._here()
        if inside is not None:
            return work(inside.connection)
        stale = False
        for clashes in range(_CLASHES_BORNE):
            try:
                return self._once(work)
            except DBAPIError as error:
                if _code(error) in _CLASH:
                    AGAIN.labels("others_in_the_way").inc()
                    _give_way(clashes)
                    continue
                what = translated(error)
                if stale or isinstance(what, DatabaseFullError) or not isinstance(what, DatabaseAwayError):
                    raise what from error
                AGAIN.labels("connection_lost").inc()
                stale = True
            except PoolTimeoutError as error:
                raise DatabaseAwayError("all connections are busy") from error
        raise DatabaseAwayError("others were in the way each time")

    def when_committed(self, act: Callable[[], object]) -> None:
        """Act once the transaction that this thread is in is committed, never if it is not; at once outside one."""
        inside = self._here()
        if inside is None:
            act()
        else:
            inside.afterwards.append(act)

    def in_transaction(self) -> bool:
        """Tell whether this thread is in a transaction on this database."""
        return self._here() is not None

    def _here(self) -> _Inside | None:
        inside = _inside.get()
        return inside if inside is not None and inside.database is self else None

    def _once(self, work: Callable[[sa.Connection], ResultT]) -> ResultT:
        afterwards: list[Callable[[], object]] = []
        with self.engine.begin() as connection:
            self._demand_durable(connection)
            token = _inside.set(_Inside(self, connection, afterwards))
            try:
                result = work(connection)
            finally:
                _inside.reset(token)
        for act in afterwards:
            act()
        return result

    def _demand_durable(self, connection: sa.Connection) -> None:
        """Ask from time to time: whoever runs the server can change it under the running program."""
        now = time.monotonic()
        if now - self._asked_at < _SURE_FOR_S:
            return
        flush = connection.execute(sa.text("SELECT @@innodb_flush_log_at_trx_commit")).scalar_one()
        if int(flush) != 1:
            raise DatabaseUnsafeError(f"innodb_flush_log_at_trx_commit is {flush}; it must be 1")
        self._demand_known(MigrationContext.configure(connection).get_current_revision())
        self._asked_at = now

    def _demand_known(self, revision: str | None) -> None:
        """Refuse tables that a newer program has brought up to date since: what it needs in them is not known here."""
        if revision is not None and revision not in self._known:
            raise DatabaseUnsafeError(f"the tables are of version {revision}, of a newer program; start this one anew")

    @cached_property
    def _known(self) -> frozenset[str]:
        return self.revisions()


def _nobody_vouches(_: str) -> str:
    return ""


def _laid_down(_: DBAPIConnection | None, record: ConnectionPoolEntry) -> None:
    record.info["idle_since"] = time.monotonic()


def _picked_up(connection: DBAPIConnection, record: ConnectionPoolEntry, _: PoolProxiedConnection) -> None:
    """Ask the server first when a connection lay idle: it may have been started anew since.

    A connection in steady use is not asked, so that a reading costs no question more.

    Raises:
        InvalidatePoolError: so that the pool opens new ones.
    """
    if time.monotonic() - record.info.get("idle_since", inf) < _TRUSTED_IDLE_S:
        return
    try:
        connection.ping(reconnect=False)
    except Exception as error:
        raise InvalidatePoolError from error


def _give_way(clashes: int) -> None:
    """Wait before trying again, a different time each: whoever is in the way is to be through by then."""
    time.sleep(random.uniform(0, min(_GIVE_WAY_S * 2**clashes, _GIVE_WAY_AT_MOST_S)))  # noqa: S311 — no secret


def _code(error: DBAPIError) -> int | None:
    said = getattr(error.orig, "args", ())
    return said[0] if said and isinstance(said[0], int) else None


def _migrations() -> Config:
    config = Config()
    config.set_main_option("script_location", str(Path(__file__).parent / "migrations"))
    return config


class _Versions(NamedTuple):
    """The versions of the tables that this program knows, and the newest of them."""

    known: frozenset[str]
    newest: str | None


_reading_versions = Lock()


@cache
def _read_versions() -> _Versions:
    scripts = ScriptDirectory.from_config(_migrations())
    return _Versions(frozenset(script.revision for script in scripts.walk_revisions()), scripts.get_current_head())


def _versions() -> _Versions:
    """Return what the program knows: read once, and by one thread, for reading runs each version's module."""
    with _reading_versions:
        return _read_versions()


def _is_full(error: DBAPIError) -> bool:
    code = _code(error)
    return code in _DISK_FULL or (code in _HANDLER_FAILED and _NO_ROOM.search(str(error.orig)) is not None)


def translated(error: DBAPIError) -> Exception:
    """Return what an error of the driver means: the disk is full, the server does not answer, or the error itself."""
    if _is_full(error):
        return DatabaseFullError(str(error.orig))
    if isinstance(error, OperationalError | InterfaceError | InternalError) or error.connection_invalidated:
        return DatabaseAwayError(str(error.orig))
    return error
