"""Something that is not as it was written."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class Alteration:
    """The first thing in a log, a document or a row that is not as it was written.

    Attributes:
        what: which log, document or row.
        seq: where in it; None where that means nothing.
        why: what is wrong with it.
    """

    what: str
    seq: int | None
    why: str
