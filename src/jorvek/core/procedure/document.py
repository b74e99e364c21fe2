"""The whole procedure document and its content address."""

from __future__ import annotations

import json
from typing import Any

from pydantic import PrivateAttr, model_validator

from jorvek.core.canonical import canonical_text, sha256_hex
from jorvek.core.procedure.contents import Contents
from jorvek.core.procedure.migration import upgrade
from jorvek.core.procedure.references import check_references

FORMAT = "jorvek-procedure/4"


class Procedure(Contents):
    """One revision of a procedure."""

    _body: str | None = PrivateAttr(default=None)

    @model_validator(mode="after")
    def _names_hang_together(self) -> Procedure:
        check_references(self)
        return self

    @classmethod
    def from_body(cls, body: str) -> Procedure:
        """Read a stored canonical text; it keeps its address, also when its format is an older one.

        Raises:
            ValueError: when it is no procedure.
        """
        procedure = cls.model_validate(upgrade(json.loads(body)))
        procedure._body = body
        return procedure

    @property
    def written_in(self) -> int:
        """The format its own text is in: a run expands a document as it was read when it was written."""
        return int((FORMAT if self._body is None else str(json.loads(self._body)["format"])).rpartition("/")[2])

    def plain(self) -> dict[str, Any]:
        """Return the document as plain data, without what was left to its default."""
        data: dict[str, Any] = self.model_dump(mode="json", exclude_defaults=True)
        return data

    def canonical(self) -> str:
        """Return the canonical text of the revision, from which its address is made."""
        return canonical_text(self.plain()) if self._body is None else self._body

    def content_hash(self) -> str:
        """Return the content address: 64 hex digits; status and approvals are not part of it."""
        return address_of(self.canonical())


def address_of(body: str) -> str:
    """Return the content address of a canonical text.

    Raises:
        ValueError: when it is no procedure's text.
    """
    data = json.loads(body)
    if not isinstance(data, dict) or "format" not in data:
        raise ValueError("no procedure")
    return sha256_hex(str(data["format"]), body)
