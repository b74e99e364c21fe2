"""Gates: measurements that must pass before the joint closes."""

from __future__ import annotations

from typing import Annotated, Literal, TypeAlias

from pydantic import Field, model_validator
from pydantic_core import PydanticCustomError

from jorvek.core.engine.layout import Slug
from jorvek.core.procedure.measure import Angle, Length
from jorvek.core.procedure.parts import LengthLimits, Part, Text
from jorvek.core.procedure.steps.base import StepBase


class StandOut(Part):
    """Height of a collar above its face, by readings or by blades.

    Attributes:
        limits: of every reading.
        within: largest difference round one part.
        neighbours: largest difference between the means of neighbours.
    """

    measure: Literal["stand_out"]
    points: tuple[Text, ...] = Field(min_length=1)
    limits: LengthLimits
    within: Length
    neighbours: Length


class Blades(Part):
    """A go blade that must enter, a no-go blade that must not; one alone proves "at least" or "at most"."""

    measure: Literal["blades"]
    points: tuple[Text, ...] = Field(min_length=1)
    go: Length | None = None
    no_go: Length | None = None

    @model_validator(mode="after")
    def _one_blade(self) -> Blades:
        if self.go is None and self.no_go is None:
            raise PydanticCustomError("no_blade", "blades need 'go', 'no_go' or both")
        return self


class StripMark(Part):
    """One mark of the scale printed on the strip's packet: this width means that clearance."""

    width: Length
    clearance: Length


class StripClearance(Part):
    """Clearance from the width of a flattened strip, at its narrowest and at its widest in each point.

    The cap is tightened fully, released and taken off; the strip is read before it is cleaned away.
    """

    measure: Literal["strip_clearance"]
    points: tuple[Text, ...] = Field(min_length=1)
    limits: LengthLimits
    scale: tuple[StripMark, ...] = Field(min_length=2)


class DiameterClearance(Part):
    """Clearance from bores with the cap tightened, and journals, each with its temperature."""

    measure: Literal["diameter_clearance"]
    points: tuple[Text, ...] = Field(min_length=1)
    limits: LengthLimits


class EndFloat(Part):
    """Float from readings against both stops, repeated.

    Attributes:
        agree_within: how far readings of one place may lie apart; where it is not stated, the instrument tells.
    """

    measure: Literal["end_float"]
    limits: LengthLimits
    times: int = Field(default=2, ge=1, le=9)
    agree_within: Length | None = None


class Protrusion(Part):
    """Height of every piston above or below the face at its dead centre."""

    measure: Literal["protrusion"]
    points: tuple[Text, ...] = Field(min_length=1)
    spread: Length


class BoreForm(Part):
    """Roundness, taper and wear of a bore from a grid of diameters."""

    measure: Literal["bore_form"]
    depths: tuple[Length, ...] = Field(min_length=2)
    angles: tuple[Angle, ...] = Field(min_length=2)
    nominal: Length
    ovality: Length
    taper: Length
    wear: Length


class Straightness(Part):
    """Line of several bores, or of one part, from readings along it."""

    measure: Literal["straightness"]
    points: tuple[Length, ...] = Field(min_length=3)
    at_most: Length


class Level(Part):
    """A straight edge across two faces: the step between them."""

    measure: Literal["level"]
    points: tuple[Text, ...] = Field(min_length=1)
    limits: LengthLimits


class SideFloat(Part):
    """Sideways play of a rod on its pin."""

    measure: Literal["side_float"]
    limits: LengthLimits


Measurement: TypeAlias = Annotated[
    StandOut
    | Blades
    | StripClearance
    | DiameterClearance
    | EndFloat
    | Protrusion
    | BoreForm
    | Straightness
    | Level
    | SideFloat,
    Field(discriminator="measure"),
]


class GaugePlace(Part):
    """Where a gauge stands in the plan.

    Attributes:
        x: place along the crankshaft.
        y: place across it.
        points: which way its tip points, seen in the plan, from ``x_plus`` towards ``y_plus``; onto the face when
            it is not stated.
    """

    x: Length
    y: Length
    points: Angle | None = None


class GateStep(StepBase):
    """A measurement that must pass; all attempts stay.

    Attributes:
        gate: what is measured, and its limits.
        instrument: role of the instrument.
        places: where points stand in the plan, by their names; those named like a landmark stand at it.
        if_failed: what may be done, in order.
    """

    kind: Literal["gate"]
    gate: Measurement
    instrument: Slug
    places: dict[Text, GaugePlace] = Field(default={})
    if_failed: tuple[Literal["clean_and_measure_again", "replace", "accept_by_name"], ...] = (
        "clean_and_measure_again",
        "replace",
        "accept_by_name",
    )


class DeflectionStep(StepBase):
    """How the gap between the webs of a throw changes over a turn, read on a dial opposite the pin in five positions.

    Taken before the engine is stripped and after it is closed, at a known temperature and, afloat, a known draught.

    Attributes:
        throw: which webs, and where the dial stands.
        instrument: role of the dial.
        thermometer: role of the thermometer.
        vertical: largest difference between the top and the bottom.
        horizontal: largest difference between the two sides.
        closes_within: how far the two readings at the bottom may lie apart: more, and the gauge has slipped.
        draught: the ship's draught and trim are written down.
        people_out: everybody is asked for by name before it moves.
        allows: parts that stay in the sweep on purpose, while it moves.
    """

    kind: Literal["deflection"]
    throw: Text
    instrument: Slug
    thermometer: Slug
    vertical: Length
    horizontal: Length
    closes_within: Length
    draught: bool = False
    people_out: bool = False
    allows: tuple[Slug, ...] = ()


class PartChoice(Part):
    """One row of a table: between two limits, this part."""

    part: Text
    above: Length
    up_to: Length
    thickness: Length | None = None


class ChoosePartStep(StepBase):
    """A part chosen from a measurement.

    Attributes:
        gate: the step that measured.
        statistic: which figure chooses: the largest, the mean, or the largest of each bank.
        table: rising, without gap or overlap.
    """

    kind: Literal["choose_part"]
    gate: Slug
    statistic: Literal["largest", "mean", "largest_per_bank"]
    table: tuple[PartChoice, ...] = Field(min_length=1)


class TurnsFreelyStep(StepBase):
    """The crank turned through; felt free, or a tight spot and where.

    Attributes:
        turns: how far.
        standard: what free feels like.
        people_out: everybody is asked for by name before it moves.
        allows: parts that stay in the sweep on purpose, while it moves.
    """

    kind: Literal["turns_freely"]
    turns: Angle
    standard: Text
    people_out: bool = False
    allows: tuple[Slug, ...] = ()
