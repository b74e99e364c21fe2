"""For what a procedure holds: variant keys with evidence, exclusive options, departures."""

from __future__ import annotations

from typing import Literal

from pydantic import Field, model_validator
from pydantic_core import PydanticCustomError

from jorvek.core.engine.layout import JointKind, Slug
from jorvek.core.procedure.parts import Part, Text
from jorvek.core.rights import Role


class AppliesTo(Part):
    """What the procedure is for.

    Attributes:
        undone_by: procedure that undoes this one, where the order matters; "in reverse" is none.
    """

    engine_type: Text
    joint: JointKind
    purpose: Literal["tighten", "loosen"]
    undone_by: Slug | None = None


class SerialRange(Part):
    """Serial numbers it holds for, as they stand on the plate; compared by their last figures."""

    first: int = Field(ge=0)
    last: int = Field(ge=0)

    @model_validator(mode="after")
    def _rising(self) -> SerialRange:
        if self.first > self.last:
            raise PydanticCustomError("serial_range", "the first serial number lies above the last")
        return self


class VariantKey(Part):
    """Something that decides the numbers; observed with evidence before the start.

    Attributes:
        id: name of the key.
        title: what it is.
        evidence: what the mechanic looks at to know.
        values: values these numbers hold for.
        others: known values they do not hold for: another document does.
        serials: serial numbers they hold for, in place of values.
    """

    id: Slug
    title: Text
    evidence: Text
    values: tuple[Text, ...] = ()
    others: tuple[Text, ...] = ()
    serials: SerialRange | None = None

    @model_validator(mode="after")
    def _one_kind(self) -> VariantKey:
        if bool(self.values) == (self.serials is not None):
            raise PydanticCustomError("variant_key", "a variant key needs either 'values' or 'serials'")
        if set(self.values) & set(self.others):
            raise PydanticCustomError("variant_both", "a value cannot be good and not good")
        return self


class Choice(Part):
    """One way to do it.

    Attributes:
        needs: choices of other options that it goes with.
    """

    id: Slug
    title: Text
    needs: dict[Slug, tuple[Slug, ...]] = Field(default={})


class Option(Part):
    """An exclusive option, chosen at the start and locked."""

    id: Slug
    title: Text
    choices: tuple[Choice, ...] = Field(min_length=2)


class Departure(Part):
    """A departure that the author foresees: from what, by which rule, by whose authority."""

    step: Slug
    rule: Text
    authority: Literal[Role.LEAD_HAND, Role.CHIEF]


class RedoGroup(Part):
    """What is done again together, because physics leaves no choice.

    Attributes:
        steps: when work of one of these is done again …
        from_step: … it begins again at this step …
        together: … for all these fasteners, or for the one alone when empty.
        why: reason in the trade's words.
    """

    id: Slug
    steps: tuple[Slug, ...] = Field(min_length=1)
    from_step: Slug
    together: tuple[str, ...] = ()
    why: Text
