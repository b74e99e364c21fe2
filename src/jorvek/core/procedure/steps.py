"""The kinds of step that a procedure may hold."""

from __future__ import annotations

from typing import Annotated, Literal, TypeAlias

from pydantic import BaseModel, ConfigDict, Field

from jorvek.core.engine.layout import Slug
from jorvek.core.procedure.measure import Duration, Length, Pressure, Ratio, Torque
from jorvek.core.rights import Role

Text: TypeAlias = Annotated[str, Field(min_length=1, max_length=400)]


class Part(BaseModel):
    """Base of every part of the document: unknown keys are refused, nothing changes later."""

    model_config = ConfigDict(frozen=True, extra="forbid")


class Source(Part):
    """Where a statement comes from."""

    document: Text
    section: Text
    issued: Text


class StepBase(Part):
    """What every step has.

    Attributes:
        id: name of the step within the document.
        title: heading of the step.
        cautions: short warnings, shown with this step only.
        source: where the step's numbers come from, when not the document's own source.
    """

    id: Slug
    title: Text
    cautions: tuple[Text, ...] = ()
    source: Source | None = None


class RoundStep(StepBase):
    """A step that goes round the fasteners.

    Attributes:
        order: named order of the fasteners.
        free_order: whether another fastener may be taken first.
    """

    order: Slug
    free_order: bool = False


class Item(Part):
    """One point to confirm."""

    id: Slug
    text: Text


class ConfirmStep(StepBase):
    """Points confirmed one by one by the person who looked."""

    kind: Literal["confirm"]
    items: tuple[Item, ...] = Field(min_length=1)


class WantedTool(Part):
    """A tool that the step asks for.

    Attributes:
        role: name by which later steps refer to it.
        tool_class: class of tool in the register.
        range_at_least: the scale must reach this far.
        resolution_at_most: the graduation must be at least this fine.
        count: pieces drawn together as one set.
    """

    role: Slug
    tool_class: Slug
    title: Text
    range_at_least: Pressure | None = None
    resolution_at_most: Length | Pressure | None = None
    count: int = Field(default=1, ge=1, le=64)


class ToolIssueStep(StepBase):
    """Tools drawn from the register, each with its calibration."""

    kind: Literal["tool_issue"]
    tools: tuple[WantedTool, ...] = Field(min_length=1)


class StudLengthStep(RoundStep):
    """Length and metal temperature of each stud while it carries nothing.

    Attributes:
        instrument: role of the length gauge.
        thermometer: role of the thermometer.
        growth_limit: how much longer than new the free stud may be.
    """

    kind: Literal["stud_length"]
    instrument: Slug
    thermometer: Slug
    growth_limit: Length


class ThreadAboveStep(RoundStep):
    """Thread standing above each nut, for the puller.

    Attributes:
        instrument: role of the instrument.
        at_least: what the tool's sheet asks for.
    """

    kind: Literal["thread_above_nut"]
    instrument: Slug
    at_least: Length


class SeatToolStep(RoundStep):
    """Tools seated on the studs. The direction of the job decides about backing off.

    Attributes:
        direction: ``tighten``: pistons pressed home, tools not backed off.
        tools: role of the tensioners.
    """

    kind: Literal["seat_tool"]
    direction: Literal["tighten"]
    tools: Slug


class CeilingStep(StepBase):
    """The highest pressure, set on the pump and proved on a shut line.

    Attributes:
        ceiling: never to be passed.
        gauge: role of the gauge.
        within: how far below the ceiling the pump may be set.
    """

    kind: Literal["ceiling"]
    ceiling: Pressure
    gauge: Slug
    within: Ratio


class VentStep(StepBase):
    """Air let out until oil runs without bubbles."""

    kind: Literal["vent"]
    points: tuple[Item, ...] = Field(min_length=1)


class Feeler(Part):
    """Proof at pressure that the nut seats: the blade must not enter."""

    blade: Length
    at: Text


class TensionStep(RoundStep):
    """One pressure stage: raise, hold, run every nut down, prove, before anything is released.

    Attributes:
        pressure: stage pressure on the corrected oil gauge.
        band: tolerance to each side.
        hold: time at pressure before the nuts are touched.
        gauge: role of the oil gauge.
        tools: role of the tensioners.
        nut_bar: effort on the nut bar for the run-down.
        feeler: proof before release; None when the stage goes straight on to a higher one.
        afterwards: ``raise`` to the next stage or ``release``.
    """

    kind: Literal["tension"]
    pressure: Pressure
    band: Ratio
    hold: Duration
    gauge: Slug
    tools: Slug
    nut_bar: Torque
    feeler: Feeler | None = None
    afterwards: Literal["raise", "release"]


class RelieveStep(StepBase):
    """Pressure let off, and zero proved on the gauge.

    Attributes:
        gauge: role of the oil gauge.
        zero_below: highest reading that counts as zero.
    """

    kind: Literal["relieve"]
    gauge: Slug
    zero_below: Pressure


class RemoveToolStep(RoundStep):
    """Tools taken off the studs."""

    kind: Literal["remove_tool"]


class StretchStep(RoundStep):
    """Length and metal temperature again; the difference is the stretch.

    Attributes:
        before: the ``stud_length`` step that holds the first readings.
        instrument: role of the length gauge.
        thermometer: role of the thermometer.
        datum: what the length is measured between.
        target: stretch aimed for.
        lower: smallest stretch allowed.
        upper: largest stretch allowed.
        spread_at_most: largest difference among the fasteners.
    """

    kind: Literal["stretch"]
    before: Slug
    instrument: Slug
    thermometer: Slug
    datum: Literal["end_to_end"]
    target: Length
    lower: Length
    upper: Length
    spread_at_most: Length


class HoldPointStep(StepBase):
    """A second person looks and signs.

    Attributes:
        signed_by: role that signs, or any above it.
        sees: what that person must have seen.
        covers: steps whose hands may not sign.
    """

    kind: Literal["hold_point"]
    signed_by: Literal[Role.MECHANIC, Role.LEAD_HAND, Role.CHIEF]
    sees: tuple[Text, ...] = Field(min_length=1)
    covers: tuple[Slug, ...] = Field(min_length=1)


Step: TypeAlias = Annotated[
    ConfirmStep
    | ToolIssueStep
    | StudLengthStep
    | ThreadAboveStep
    | SeatToolStep
    | CeilingStep
    | VentStep
    | TensionStep
    | RelieveStep
    | RemoveToolStep
    | StretchStep
    | HoldPointStep,
    Field(discriminator="kind"),
]
