"""What the site log holds: one line for each state of a thing, roots over them, and the seal that people keep."""

from __future__ import annotations

import re
from datetime import datetime
from typing import Annotated, Final, Literal

from pydantic import BaseModel, ConfigDict, Field

from jorvek.core.canonical import canonical_text
from jorvek.core.refusal import Refusal

Digest = Annotated[str, Field(pattern=r"^[0-9a-f]{64}$")]


class _Line(BaseModel):
    model_config = ConfigDict(frozen=True, extra="forbid")

    def text(self) -> str:
        """Return its canonical text."""
        return canonical_text(self.model_dump(mode="json"))


class SiteLogEntry(_Line):
    """One state of one thing.

    Attributes:
        kind: what sort of thing: a run, a person, a tool, …
        key: which one.
        seq: sequence of the newest event, for a log; None for anything else.
        digest: hash of the newest event of a log, or of the content of a row.
        at: when it was taken in.
        adopted: it was there before anybody watched: nobody can say since when it is so.
        words: what there is to say of it; of a new key, the seal on which it goes on.
    """

    kind: Annotated[str, Field(max_length=30)]
    key: Annotated[str, Field(max_length=160)]
    seq: int | None = None
    digest: Digest
    at: datetime
    adopted: bool = False
    words: str = ""


class Root(_Line):
    """A root over the first ``size`` entries, as it is signed.

    Attributes:
        key: fingerprint of the key that signs it.
    """

    format: Literal["jorvek-root/1"] = "jorvek-root/1"
    size: int = Field(ge=0)
    root: Digest
    at: datetime
    key: Annotated[str, Field(pattern=r"^[0-9a-f]{16}$")]

    def seal(self) -> Seal:
        """Return what people keep of it."""
        return Seal(size=self.size, root=self.root)


class Seal(_Line):
    """What stands on paper: how many entries there were, and the root over them."""

    size: int = Field(ge=0)
    root: Digest

    def printed(self) -> str:
        """Return it as it is printed and keyed in again: the size, then the root in groups of eight."""
        return " ".join((f"{self.size}", *(self.root[i : i + 8] for i in range(0, 64, 8))))


_PRINTED: Final = re.compile(r"^(\d{1,12})([0-9a-f]{64})$")


def seal_from(text: str) -> Seal:
    """Return a seal from what was printed; how it is spaced does not matter.

    Raises:
        Refusal: ``no_seal``.
    """
    parts = text.lower().replace("-", " ").split()
    found = _PRINTED.match("".join(parts))
    # A separator after the size shows where the root begins.
    if found is None or len(found[2]) + len(parts[0]) != len("".join(parts)):
        raise Refusal("no_seal", got=text[:100])
    return Seal(size=int(found[1]), root=found[2])


class Inclusion(_Line):
    """Everything that shows offline, with the public key alone, that an entry is in the site log.

    Attributes:
        entry: text of the entry.
        index: its place, from 0.
        proof: hashes that lead from it to the root.
        root: text of the signed root.
        signature: over that text, in hex.
        public_key: whose counterpart made it, in hex; whoever checks it compares it with the site's own.
    """

    format: Literal["jorvek-inclusion/1"] = "jorvek-inclusion/1"
    entry: str
    index: int = Field(ge=0)
    proof: tuple[Digest, ...]
    root: str
    signature: Annotated[str, Field(pattern=r"^[0-9a-f]{128}$")]
    public_key: Digest
