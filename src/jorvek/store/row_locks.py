"""Locks on what more than one run shares, always taken in one order.

A latch is taken by *writing* its row: another transaction on this server waits for it, and on
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


class Latch(NamedTuple):
    """One lock; latches sort in the order in which they are taken."""

    rank: int
    name: str


def engine_latch(engine_id: str) -> Latch:
    """Return the lock on an engine: what stands open, sits on a stud or turns with its crank."""
    return Latch(1, f"engine/{engine_id}")


def tool_latch(tool_id: str) -> Latch:
    """Return the lock on a tool of the register."""
    return Latch(2, f"tool/{tool_id}")


def piece_latch(mark: str) -> Latch:
    """Return the lock on a fastener or part that is known by its mark."""
    return Latch(2, f"piece/{mark[:100]}")


def procedure_latch(digest: str) -> Latch:
    """Return the lock on the status of a procedure revision."""
    return Latch(3, f"procedure/{digest}")


_FILE_LOCKS: Final = 64


def file_latch(name: str) -> Latch:
    """Return the lock on a kept file; a few files share one, so that locks do not grow with the photographs."""
    return Latch(4, f"file/{zlib.crc32(name.encode()) % _FILE_LOCKS}")


LIBRARY = Latch(3, "library")
"""The lock on the standing of all procedures: a document is held against the others when it is approved."""
PEOPLE = Latch(3, "people")
"""The lock on the register of people, for names that differ only in how they are written."""

SITE_LOG = Latch(4, "site-log")
"""The lock on the site log: one writer at a time, and nobody who records waits for it."""

_TAKE = t.latch.update().where(t.latch.c.name == sa.bindparam("latch")).values(seq=t.latch.c.seq + 1)
_MAKE = t.latch.insert().prefix_with("IGNORE")


def take(connection: sa.Connection, latches: Iterable[Latch]) -> None:
    """Take latches until the transaction ends."""
    for latch in sorted(set(latches)):
        if connection.execute(_TAKE, {"latch": latch.name}).rowcount == 0:
            connection.execute(_MAKE, {"name": latch.name, "seq": 0})
            connection.execute(_TAKE, {"latch": latch.name})
