"""What all steps have in common."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from jorvek.core.engine.layout import Slug
from jorvek.core.procedure.measure import Duration
from jorvek.core.procedure.metal_parts import Act, Precedence
from jorvek.core.procedure.parts import Item, Part, Source, Text


class OpenTime(Part):
    """How long what a step puts on stays good until a later step has been done.

    Attributes:
        at_most: from the application to the end of the step that ends it.
        until: the step that ends it: a sealant is loaded, a greased thread is run down.
        afterwards: over that time it is taken off and made new, or looked at and renewed where it has to be.
    """

    at_most: Duration
    until: Slug
    afterwards: Literal["made_new", "looked_at"]


class StepBase(Part):
    """What every step has.

    Attributes:
        id: name of the step within the document.
        title: heading of the step.
        only: option choices under which the step is there; always, when empty.
        cautions: short warnings, shown with this step only.
        why: reason in a few words.
        source: where the step's numbers come from, when not the document's own source.
        sources: the same for single numbers, by field name.
        touches: the parts that it moves, covers, oils, measures or looks at.
        does: what it does to them, where its kind does not say it.
        must_precede: steps that come after it, for reasons only the author knows.
        minutes: how long it takes, for a plan; where it is not stated, earlier runs tell.
        open_time: how long what it puts on stays good.
        unbroken_until: later step up to which the work is not left: its crew finishes it that shift.
    """

    id: Slug
    title: Text
    only: dict[Slug, tuple[Slug, ...]] = Field(default={})
    cautions: tuple[Text, ...] = ()
    why: Text | None = None
    source: Source | None = None
    sources: dict[Slug, Source] = Field(default={})
    touches: tuple[Slug, ...] = ()
    does: Act | None = None
    must_precede: tuple[Precedence, ...] = ()
    minutes: Duration | None = None
    open_time: OpenTime | None = None
    unbroken_until: Slug | None = None


class RoundStep(StepBase):
    """A step that goes round the fasteners.

    Attributes:
        order: named order of the fasteners.
        free_order: whether another fastener may be taken first.
    """

    order: Slug
    free_order: bool = False


class ItemStep(StepBase):
    """A step made of points that are confirmed one by one."""

    items: tuple[Item, ...] = Field(min_length=1)
