"""The whole procedure document and its content address."""

from __future__ import annotations

import json
from typing import Annotated, Any, Literal

from pydantic import Field, PrivateAttr, model_validator

from jorvek.core.canonical import canonical_text, sha256_hex
from jorvek.core.engine.layout import Slug
from jorvek.core.procedure.conditions import AppliesTo, Departure, Option, RedoGroup, VariantKey
from jorvek.core.procedure.fasteners import FastenerGroup, Hose, Position, TensionerSpec
from jorvek.core.procedure.measure import Length
from jorvek.core.procedure.migration import upgrade
from jorvek.core.procedure.orders import Order
from jorvek.core.procedure.parts import Part, Source, Text
from jorvek.core.procedure.references import check_references
from jorvek.core.procedure.steps import Step

FORMAT = "jorvek-procedure/2"


class Circle(Part):
    """A round outline in the plan."""

    shape: Literal["circle"]
    x: Length
    y: Length
    diameter: Length
    label: Text | None = None


class Box(Part):
    """A rectangular outline in the plan."""

    shape: Literal["box"]
    x: Length
    y: Length
    width: Length
    height: Length


class Drawn(Part):
    """How the plan is drawn: seen from where, and which landmark lies at the ends of x and y.

    The register of each engine says which end or side that is, so that left is never argued.
    """

    seen_from: Text
    x_plus: Text
    y_plus: Text


class Procedure(Part):
    """One revision of a procedure."""

    format: Literal["jorvek-procedure/2"]
    id: Slug
    title: Text
    revision: Annotated[str, Field(pattern=r"^[A-Z0-9]{1,6}$")]
    author: Text
    source: Source
    applies_to: AppliesTo
    variants: tuple[VariantKey, ...] = ()
    options: tuple[Option, ...] = ()
    departures: tuple[Departure, ...] = ()
    fasteners: tuple[FastenerGroup, ...] = Field(default=(), max_length=20)
    tensioners: tuple[TensionerSpec, ...] = ()
    hoses: tuple[Hose, ...] = ()
    drawn: Drawn | None = None
    outline: tuple[Annotated[Circle | Box, Field(discriminator="shape")], ...] = ()
    orders: dict[Slug, Order] = Field(default={})
    redo: tuple[RedoGroup, ...] = ()
    steps: tuple[Step, ...] = Field(min_length=1, max_length=500)

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

    def group_of(self, position: str) -> FastenerGroup:
        """Return the group that a position belongs to.

        Raises:
            KeyError: when no group has it.
        """
        for group in self.fasteners:
            if any(p.name == position for p in group.positions):
                return group
        raise KeyError(position)

    def positions(self) -> tuple[Position, ...]:
        """Return the positions of all groups."""
        return tuple(p for group in self.fasteners for p in group.positions)

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
