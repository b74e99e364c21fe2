"""What a procedure document holds."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import ConfigDict, Field

from jorvek.core.engine.layout import Slug
from jorvek.core.procedure.conditions import AppliesTo, Departure, Option, RedoGroup, VariantKey
from jorvek.core.procedure.fasteners import FastenerGroup, Hose, Position, TensionerSpec
from jorvek.core.procedure.measure import Length
from jorvek.core.procedure.metal_parts import Condition, MetalPart
from jorvek.core.procedure.orders import Order
from jorvek.core.procedure.parts import Part, Source, Text
from jorvek.core.procedure.steps import Step


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


Language = Annotated[str, Field(pattern=r"^[a-z]{2,3}(-[A-Za-z0-9]{2,8})*$", max_length=20)]
"""Code of a language (RFC 5646)."""
Wording = Annotated[dict[Text, Text], Field(min_length=1, max_length=2000)]
"""The author's texts once more in another language, each under the text as the document has it."""


class Contents(Part):
    """All parts of a procedure; whether their names hang together is another question.

    Attributes:
        parts: the parts of the joint and what is brought to it; a procedure that names none is not played.
        begins: condition of the joint at which it begins; written ``from``.
        leaves: condition in which it leaves the joint.
        other_words: the texts in other languages, shown below the author's to whoever reads one of them.
    """

    model_config = ConfigDict(frozen=True, extra="forbid", serialize_by_alias=True)

    format: Literal["jorvek-procedure/4"]
    id: Slug
    title: Text
    revision: Annotated[str, Field(pattern=r"^[A-Z0-9]{1,6}$")]
    author: Text
    source: Source
    applies_to: AppliesTo
    begins: Condition | None = Field(default=None, alias="from")
    leaves: Condition | None = None
    variants: tuple[VariantKey, ...] = ()
    options: tuple[Option, ...] = ()
    departures: tuple[Departure, ...] = ()
    fasteners: tuple[FastenerGroup, ...] = Field(default=(), max_length=20)
    tensioners: tuple[TensionerSpec, ...] = ()
    hoses: tuple[Hose, ...] = ()
    drawn: Drawn | None = None
    outline: tuple[Annotated[Circle | Box, Field(discriminator="shape")], ...] = ()
    orders: dict[Slug, Order] = Field(default={})
    parts: tuple[MetalPart, ...] = Field(default=(), max_length=200)
    redo: tuple[RedoGroup, ...] = ()
    steps: tuple[Step, ...] = Field(min_length=1, max_length=500)
    other_words: dict[Language, Wording] = Field(default={}, max_length=20)

    def in_other_words(self, language: str) -> dict[str, str]:
        """Return the texts in a language by the author's own; none where the document has no words in it."""
        return self.other_words.get(language, {})

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
