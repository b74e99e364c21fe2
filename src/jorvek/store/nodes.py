"""The nodes of one database: a program stays with one of them until that one fails, and then goes on with the next."""

from __future__ import annotations

import threading
from collections.abc import Callable, Iterator
from contextlib import suppress
from typing import Any, Final

import pymysql
import sqlalchemy as sa

from jorvek.measures import NODE_CHANGES

NOT_READY: Final = 1047
"""What a node says that is not of the cluster's majority."""
_GONE: Final = frozenset({NOT_READY, 1053, 1927})
"""A node that is not ready, shuts down, or has ended the connection."""
_ASKED: Final = "SHOW GLOBAL STATUS WHERE Variable_name IN ('wsrep_cluster_status', 'wsrep_ready')"
_HERE: Final = frozenset({"127.0.0.1", "::1", "localhost"})
_CONNECTS_WITHIN_S, _ANSWERS_WITHIN_S = 3, 20
_CAUSAL: Final = "SET SESSION wsrep_sync_wait = 7"
"""The first statement of a transaction, whatever it is, waits until all that was committed before is seen here."""


def urls_of(url: str) -> tuple[sa.URL, ...]:
    """Return the address of each node that one setting names, in its order.

    Args:
        url: SQLAlchemy URL; several nodes stand behind the account with commas between them, each with its port.
    """
    before, at, after = url.rpartition("@")
    places, slash, rest = after.partition("/")
    return tuple(sa.make_url(f"{before}{at}{place.strip()}{slash}{rest}") for place in places.split(","))


def arguments_for(url: sa.URL, arguments: dict[str, Any]) -> dict[str, Any]:
    """Return what a connection to one node wants.

    Nobody reads along on the machine itself, and reading the certificates of the whole world for each connection
    takes longer than twenty readings. For any other machine the driver's own way stays: TLS where the server has it.
    """
    near = {"ssl_disabled": True} if url.host in _HERE and not any(key.startswith("ssl") for key in arguments) else {}
    return {**arguments, **near, "host": url.host, "port": url.port or 3306}


class Nodes:
    """Which node is asked.

    Attributes:
        urls: all of them, in the order in which they are tried.
        moved: called once another node is asked than before.
    """

    def __init__(self, url: str, moved: Callable[[], None] = lambda: None) -> None:
        self.urls, self.moved = urls_of(url), moved
        self._asked = 0
        self._lock = threading.Lock()

    @property
    def asked(self) -> sa.URL:
        """The node that is asked now."""
        return self.urls[self._asked]

    def connect(self, causal: bool, arguments: dict[str, Any]) -> pymysql.Connection[Any]:
        """Connect to the node that is asked, or else to the next that is of the majority.

        Args:
            causal: whether a transaction is to see all that was committed before it on any node.
            arguments: what else a connection wants.

        Raises:
            pymysql.OperationalError: of the last node that was tried.
        """
        first, said = self._asked, pymysql.err.OperationalError(NOT_READY, "no node is named")
        for k in range(len(self.urls)):
            number = (first + k) % len(self.urls)
            url = self.urls[number]
            try:
                connection = pymysql.connect(**arguments_for(url, arguments))
                _demand_ready(connection, causal)
            except pymysql.err.OperationalError as error:
                said = error
                continue
            self._stay_with(number)
            return connection
        raise said

    def each(self) -> Iterator[sa.Connection]:
        """Connect to every node that answers, in the order of their names; whoever takes one ends it.

        The order is the same for all whose setting names the nodes alike.
        """
        for url in sorted(self.urls, key=lambda one: (one.host or "", one.port or 0)):
            arguments = arguments_for(url, {"connect_timeout": _CONNECTS_WITHIN_S, "read_timeout": _ANSWERS_WITHIN_S})
            engine = sa.create_engine(url, poolclass=sa.NullPool, isolation_level="AUTOCOMMIT", connect_args=arguments)
            with suppress(sa.exc.OperationalError):
                yield engine.connect()

    def _stay_with(self, number: int) -> None:
        with self._lock:
            other, self._asked = self._asked != number, number
        if other:
            NODE_CHANGES.inc()
            self.moved()


def listen(engine: sa.Engine, nodes: Nodes, *, causal: bool) -> None:
    """Let a pool take its connections from whichever node answers, and leave one that is no longer of the majority."""

    def connect(_dialect: object, _record: object, _args: object, arguments: dict[str, Any]) -> pymysql.Connection[Any]:
        return nodes.connect(causal, arguments)

    def failed(context: sa.engine.ExceptionContext) -> None:
        said = getattr(context.original_exception, "args", ())
        if said and said[0] in _GONE:
            context.is_disconnect = True

    sa.event.listen(engine, "do_connect", connect)
    sa.event.listen(engine, "handle_error", failed)


def in_parts(connection: sa.Connection) -> None:
    """Let a cluster take what a connection writes in parts, each while the next is written; it bears only so much."""
    if connection.execute(sa.text("SHOW VARIABLES LIKE 'wsrep_on'")).all() == [("wsrep_on", "ON")]:
        connection.execute(sa.text("SET SESSION wsrep_trx_fragment_unit = 'rows'"))
        connection.execute(sa.text("SET SESSION wsrep_trx_fragment_size = 10000"))


def _demand_ready(connection: pymysql.Connection[Any], causal: bool) -> None:
    """Refuse a node that a cluster has lost; a server of no cluster is always ready."""
    try:
        with connection.cursor() as cursor:
            cursor.execute("SHOW VARIABLES LIKE 'wsrep_on'")
            if dict(cursor.fetchall()).get("wsrep_on") != "ON":
                return
            cursor.execute(_ASKED)
            said = dict(cursor.fetchall())
            if (said.get("wsrep_cluster_status"), said.get("wsrep_ready")) != ("Primary", "ON"):
                raise pymysql.err.OperationalError(NOT_READY, "the node is not of the cluster's majority")
            if causal:
                cursor.execute(_CAUSAL)
    except BaseException:
        connection.close()
        raise
