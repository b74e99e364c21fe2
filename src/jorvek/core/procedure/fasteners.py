"""Fasteners of a procedure: geometry, strength, lubricant, reuse, places; and the tools that pull them."""

from __future__ import annotations

from typing import Literal

from pydantic import Field, model_validator
from pydantic_core import PydanticCustomError

from jorvek.core.engine.layout import Slug
from jorvek.core.procedure.measure import Area, Force, Friction, Gain, Length, Pressure, Ratio, Stress, Torque
from jorvek.core.procedure.parts import Part, PositionName, Text


class ThreadSpec(Part):
    """Diameter and pitch; the pitch is part of the thread's identity."""

    diameter: Length
    pitch: Length


class SectionSpec(Part):
    """One length of the fastener below the nut or head: a shank diameter, or free loaded thread."""

    length: Length
    diameter: Length | Literal["thread"]


class Position(Part):
    """One fastener's place in the plan.

    Attributes:
        name: the name on the metal, not a sequence number.
        x: place along the crankshaft, towards the ``x_plus`` landmark.
        y: place across it, towards ``y_plus``.
        length_code: which length goes here, when lengths differ.
        side: side or bank it belongs to, for orders that alternate.
    """

    name: PositionName
    x: Length
    y: Length
    length_code: Text | None = None
    side: Slug | None = None


class FrictionRange(Part):
    """Coefficient of friction in thread and under the head: least, usual, most, and where from."""

    least: Friction
    usual: Friction
    most: Friction
    source: Text

    @model_validator(mode="after")
    def _rising(self) -> FrictionRange:
        if not self.least.value <= self.usual.value <= self.most.value:
            raise PydanticCustomError("friction_order", "friction must rise from least over usual to most")
        return self


class OtherLubricant(Part):
    """Another product that the procedure can be reckoned with: its torques follow from its friction."""

    product: Text
    friction: FrictionRange


class Lubricant(Part):
    """Which product, on which faces, and which faces stay dry.

    Attributes:
        others: products that may stand in for it, by name and by whose authority; the torques are reckoned anew.
    """

    product: Text
    faces: tuple[Text, ...]
    dry: tuple[Text, ...] = ()
    friction: FrictionRange | None = None
    others: tuple[OtherLubricant, ...] = ()

    @model_validator(mode="after")
    def _others_can_stand_in(self) -> Lubricant:
        names = [self.product, *(other.product for other in self.others)]
        if len(set(names)) < len(names):
            raise PydanticCustomError("lubricant_twice", "a lubricant appears more than once")
        if self.others and self.friction is None:
            raise PydanticCustomError("lubricant_friction", "'others' need the 'friction' of the product itself")
        return self


class ReuseRule(Part):
    """When a fastener may go back.

    Attributes:
        rule: always new, by its length, by the count of its uses, or by both.
        growth_limit: how much longer than new it may be.
        uses: tightenings allowed in all.
        record_new: what is written down of each new one that is fitted: its batch, the mark on it.
    """

    rule: Literal["always_new", "by_length", "by_count", "by_length_and_count"]
    growth_limit: Length | None = None
    uses: int | None = Field(default=None, ge=1, le=1000)
    record_new: tuple[Literal["batch", "identity"], ...] = ()

    @model_validator(mode="after")
    def _complete(self) -> ReuseRule:
        wants = {"growth_limit": "length" in self.rule, "uses": "count" in self.rule}
        for field, wanted in wants.items():
            if wanted != (getattr(self, field) is not None):
                word = "needs" if wanted else "has no use for"
                context = {"rule": self.rule, "word": word, "field": field}
                raise PydanticCustomError("reuse_rule", "rule '{rule}' {word} '{field}'", context)
        return self


class ClampedLayer(Part):
    """One clamped part; its modulus is always stated."""

    title: Text
    thickness: Length
    modulus: Stress


class Clamped(Part):
    """The clamped parts under one fastener.

    Attributes:
        layers: from the nut or head downwards.
        bearing: outer diameter of the bearing face.
        hole: diameter of the hole.
        outer: diameter of the clamped parts round the fastener.
        embedding: what surfaces give when the nut takes over.
        seats: by how much a gasket between the parts may yield while it is tightened; more turning than steel alone
            lets expect is then no wonder.
        reach: distance over which one fastener presses the joint under its neighbours; stated
            where fasteners are pulled in groups.
    """

    layers: tuple[ClampedLayer, ...] = Field(min_length=1)
    bearing: Length
    hole: Length
    outer: Length
    embedding: Length
    seats: Length | None = None
    reach: Length | None = None


class Hanging(Part):
    """A part that would fall when the last nut is off, and what keeps it.

    Attributes:
        part: what it is called; carriers name it.
        carriers: how many must hold it.
        rests: what it rests on when nothing has to carry it.
        only: option choices under which it is so.
    """

    part: Text
    carriers: int = Field(default=1, ge=1, le=16)
    rests: Text | None = None
    only: dict[Slug, tuple[Slug, ...]] = Field(default={})


class FastenerGroup(Part):
    """Fasteners that are alike.

    Attributes:
        form: what is turned: round nut with bar holes, hexagon nut, head of 6 or 12 points, socket.
        across: size across it, for plan and tools.
        yield_strength: R_p0.2 with its proof in ``yield_source``.
        property_class: class, where it has one.
        sections: from the anchorage or tapped hole to the nut or head bearing face, in order.
        nut_height: of a nut.
        free_above_nut: thread between nut and puller, for hydraulic tools.
        free_length: length when new, for plausibility and growth.
        sealed: positions whose thread takes sealant, and which product.
        reuse: when a fastener may go back.
        prevailing: running torque of self-locking nuts, on top of every target.
        holds: part that would fall or turn when the last one is out.
        hangs: parts that would fall, where it is more than one or one carrier is not enough.
        acts: sideways for bolts that hold a cap from the side, across the others.
        bored: it is bored through from its upper end to the bottom, so that a rod reaches its other end.
        locked: what locks it when it is tight; nothing has to where it is not stated.
        engagement: thread that carries in the tapped hole.
        run_out: thread of the stud's lower end that carries nothing: run-out and chamfer.
        washers: thickness of all washers under nut or head.
        thread_above: thread above the nut that the puller takes hold of.
    """

    id: Slug
    title: Text
    thread: ThreadSpec
    form: Literal["round_nut", "hex_nut", "hex", "twelve_point", "socket"]
    across: Length
    yield_strength: Stress
    yield_source: Text
    property_class: Text | None = None
    modulus: Stress
    bottom_end: Literal["tapped", "nut", "hex_head"]
    sections: tuple[SectionSpec, ...] = Field(min_length=1)
    nut_height: Length | None = None
    free_above_nut: Length | None = None
    free_length: Length
    lubricant: Lubricant
    sealed: dict[PositionName, Text] = Field(default={})
    reuse: ReuseRule | None = None
    prevailing: Torque | None = None
    holds: Text | None = None
    hangs: tuple[Hanging, ...] = ()
    acts: Literal["along", "sideways"] = "along"
    bored: bool = False
    locked: Text | None = None
    engagement: Length | None = None
    run_out: Length | None = None
    washers: Length | None = None
    thread_above: Length | None = None
    clamped: Clamped
    positions: tuple[Position, ...] = Field(min_length=1, max_length=400)

    def nutted(self) -> bool:
        """Tell whether a nut is turned, and not a head."""
        return self.form in ("round_nut", "hex_nut")

    def points(self) -> int:
        """Return the points of the turned form, for angles in flats; 6 where it has none."""
        return 12 if self.form == "twelve_point" else 6


class Pump(Part):
    """The pump: how it is driven, and how an air gauge stands to the oil gauge.

    Attributes:
        ratio: oil pressure over air pressure, for an air-driven pump.
        air_gauge_reads_high: safety margin by which the air gauge over-reads.
    """

    drive: Literal["hand", "air", "electric"]
    ratio: Gain | None = None
    air_gauge_reads_high: Ratio | None = None


class TensionerSpec(Part):
    """The tensioner that the pressures of one group are reckoned for.

    Attributes:
        role: role name used by the steps.
        group: fastener group it pulls.
        area: effective area, per element or of all elements as ``area_per`` says.
        area_per: whose area that is; unknown is refused.
        elements: stacked elements on one stud.
        efficiency: share of the oil's force that reaches the stud.
        rundown_load: load in the stud from running the nut down with the stated effort.
        pressure_at: which gauge the stated pressures refer to.
    """

    role: Slug
    group: Slug
    area: Area
    area_per: Literal["element", "all_elements"]
    elements: int = Field(ge=1, le=10)
    efficiency: Ratio
    stroke: Length
    take_up: Length
    rating: Pressure
    rundown_load: Force
    pressure_at: Text = "oil gauge, corrected"
    pump: Pump | None = None

    def element_mm2(self) -> float:
        """Return the area of one element in mm²."""
        return self.area.value if self.area_per == "element" else self.area.value / self.elements


class Hose(Part):
    """One hose from the distributor: the tool it feeds and the tools linked behind it.

    Attributes:
        only: option choices under which tools are hosed this way.
    """

    name: Text
    feeds: PositionName
    linked: tuple[PositionName, ...] = ()
    only: dict[Slug, tuple[Slug, ...]] = Field(default={})
