"""Locks on what more than one run shares, always taken in one order.

A row lock is taken by *writing* its row: another transaction on this server waits for it, and on
another node of a cluster, which does not see row locks, the two writes conflict at commit and one
of them is done again. Order: engines, then tools and pieces, then documents and registers, each by
name; the run itself comes last.
"""

from __future__ import annotations

import zlib
from collections.abc import Iterable
from typing import Final, NamedTuple

import sqlalchemy as sa

from jorvek.store import tables as t


class RowLock(NamedTuple):
    """One lock; row locks sort in the order in which they are taken."""

    rank: int
    name: str


def engine_lock(engine_id: str) -> RowLock:
    """Return the lock on an engine: what stands open, sits on a stud or turns with its crank."""
    return RowLock(1, f"engine/{engine_id}")


def tool_lock(tool_id: str) -> RowLock:
    """Return the lock on a tool of the register."""
    return RowLock(2, f"tool/{tool_id}")


def piece_lock(mark: str) -> RowLock:
    """Return the lock on a fastener or part that is known by its mark."""
    return RowLock(2, f"piece/{mark[:100]}")


def procedure_lock(digest: str) -> RowLock:
    """Return the lock on the status of a procedure revision."""
    return RowLock(3, f"procedure/{digest}")


_FILE_LOCKS: Final = 64


def file_lock(name: str) -> RowLock:
    """Return the lock on a kept file; a few files share one, so that locks do not grow with the photographs."""
    return RowLock(4, f"file/{zlib.crc32(name.encode()) % _FILE_LOCKS}")


LIBRARY = RowLock(3, "library")
"""The lock on the standing of all procedures: a document is held against the others when it is approved."""
PEOPLE = RowLock(3, "people")
"""The lock on the register of people, for names that differ only in how they are written."""

SITE_LOG = RowLock(4, "site-log")
"""The lock on the site log: one writer at a time, and nobody who records waits for it."""

_TAKE = t.row_lock.update().where(t.row_lock.c.name == sa.bindparam("latch")).values(seq=t.row_lock.c.seq + 1)
_MAKE = t.row_lock.insert().prefix_with("IGNORE")


def take(connection: sa.Connection, locks: Iterable[RowLock]) -> None:
    """Take row locks until the transaction ends."""
    for lock in sorted(set(locks)):
        if connection.execute(_TAKE, {"latch": lock.name}).rowcount == 0:
            connection.execute(_MAKE, {"name": lock.name, "seq": 0})
            connection.execute(_TAKE, {"latch": lock.name})
