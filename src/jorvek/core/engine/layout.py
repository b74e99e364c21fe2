"""The engine as the register holds it."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from enum import StrEnum
from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field, model_validator

Slug = Annotated[str, Field(pattern=r"^[a-z0-9]+(-[a-z0-9]+)*$", max_length=60)]
ShortText = Annotated[str, Field(min_length=1, max_length=120)]


class JointKind(StrEnum):
    """Kinds of joint on an engine: the rows of its long section, and what an engine sheet adds to them."""

    HEAD = "head"
    LINER = "liner"
    ROD = "rod"
    CROSSHEAD = "crosshead"
    CRANKPIN = "crankpin"
    MAIN = "main"
    COUNTERWEIGHT = "counterweight"
    THRUST = "thrust"
    TIE_ROD = "tie_rod"
    COUPLING = "coupling"
    HOLDING_DOWN = "holding_down"
    CAM_BEARING = "cam_bearing"
    IDLER = "idler"
    GIRDLE = "girdle"


class Landmarks(BaseModel):
    """Names of the four directions of a joint plan, as this engine has them.

    x runs along the crankshaft, y across it; names stand for the positive and negative ends.
    """

    model_config = ConfigDict(frozen=True, extra="forbid")

    x_minus: ShortText
    x_plus: ShortText
    y_minus: ShortText
    y_plus: ShortText


Bank = Literal["A", "B"]


@dataclass(frozen=True)
class Cylinder:
    """One cylinder of an engine.

    Attributes:
        name: what it is called, for example ``B3`` or, in line, ``3``.
        bank: bank of a vee that it stands in; None in line.
        number: its place in its bank, from 1; cylinders of a vee with one number work on one pin.
    """

    name: str
    bank: Bank | None
    number: int


class Engine(BaseModel):
    """One engine on the register.

    Attributes:
        id: short name used in addresses.
        name: what people call it.
        type: maker's type; procedures apply by it.
        serial: serial number on the plate.
        place: where it stands or floats.
        layout: in-line or vee.
        cylinders_per_bank: cylinders in one bank.
        banks: bank letters for a vee, empty for in-line.
        numbered_from: which end has cylinder 1.
        firing_order: cylinder names in firing order.
        rotation: sense of turning, seen from ``rotation_seen_from``.
        rotation_seen_from: the viewing end of ``rotation``.
        bank_a_lies: on which side bank A of a vee lies, seen from there.
        running_hours: meter reading.
        first_main: number of the first main bearing, 0 or 1.
        joint_words: what this engine's rows are called where it differs (cover for head).
        heads_per: one head per cylinder, or one per bank.
        crossheads: rods end in a crosshead; the engine then has crosshead and crankpin bearings.
        tdc_deg: crank angle of each cylinder's firing top dead centre, from that of the first in
            the firing order; stated where intervals are uneven.
        landmarks: names of the directions.
        turned_banks: banks whose parts are those of the other bank turned end for end: in their plans
            the two ends change places.
    """

    model_config = ConfigDict(frozen=True, extra="forbid")

    id: Slug
    name: ShortText
    type: ShortText
    serial: ShortText
    place: ShortText
    layout: Literal["in-line", "vee"]
    cylinders_per_bank: int = Field(ge=1, le=24)
    banks: tuple[Bank, ...] = ()
    numbered_from: ShortText
    firing_order: tuple[ShortText, ...]
    rotation: Literal["clockwise", "anticlockwise"]
    rotation_seen_from: ShortText
    bank_a_lies: Literal["left", "right"] = "left"
    running_hours: float = Field(ge=0, le=1e6)
    first_main: Literal[0, 1]
    joint_words: dict[JointKind, ShortText] = {}
    heads_per: Literal["cylinder", "bank"] = "cylinder"
    crossheads: bool = False
    tdc_deg: dict[ShortText, float] = {}
    landmarks: Landmarks
    turned_banks: tuple[Bank, ...] = ()

    @model_validator(mode="after")
    def _firing_order_names_each_cylinder(self) -> Engine:
        if sorted(self.firing_order) != sorted(self.cylinders()):
            raise ValueError("firing_order must name each cylinder exactly once")
        if not set(self.turned_banks) <= set(self.banks):
            raise ValueError("turned_banks must be banks of the engine")
        if self.tdc_deg and sorted(self.tdc_deg) != sorted(self.cylinders()):
            raise ValueError("tdc_deg must name each cylinder exactly once")
        return self

    def landmarks_of(self, joint: JointPlace | None) -> Landmarks:
        """Return the landmarks round the plan of a joint; the ends change places on a turned bank."""
        here = self.landmarks
        if joint is None or joint.bank not in self.turned_banks:
            return here
        return here.model_copy(update={"x_minus": here.x_plus, "x_plus": here.x_minus})

    def cylinders(self) -> list[str]:
        """Return the cylinder names in order along the crankshaft, bank after bank."""
        return [cylinder.name for cylinder in self.cylinder_places()]

    def cylinder_places(self) -> list[Cylinder]:
        """Return the cylinders in order along the crankshaft, bank after bank."""
        numbers = range(1, self.cylinders_per_bank + 1)
        return [Cylinder(f"{bank or ''}{n}", bank, n) for bank in self.banks or (None,) for n in numbers]

    def cylinder(self, name: str) -> Cylinder:
        """Return the cylinder of a name that the engine has."""
        return next(cylinder for cylinder in self.cylinder_places() if cylinder.name == name)


@dataclass(frozen=True)
class JointPlace:
    """One joint of an engine.

    Attributes:
        key: address within the engine, for example ``head-4``.
        kind: kind of joint.
        label: what it is called, for example ``Head 4``.
        name: the part's own number or letter.
        slot: place along the long section, in cylinder pitches from the first cylinder.
        bank: bank of a vee that it stands in; None for what belongs to neither.
        cylinders: names of the cylinders that it belongs to: one, a bank's under a common head, or none.
    """

    key: str
    kind: JointKind
    label: str
    name: str
    slot: float
    bank: Bank | None = None
    cylinders: frozenset[str] = frozenset()


_ROWS = (JointKind.HEAD, JointKind.LINER, JointKind.ROD)
_CROSSHEAD_ROWS = (JointKind.HEAD, JointKind.LINER, JointKind.CROSSHEAD, JointKind.CRANKPIN)


class FurtherJoints(BaseModel):
    """Joints beyond the usual rows of the long section; a girdle over all mains is one.

    Attributes:
        kind: what they are.
        label: what they are called.
        names: the part's own numbers.
        slots: place of each along the section, in cylinder pitches from the first cylinder.
    """

    model_config = ConfigDict(frozen=True, extra="forbid")

    kind: JointKind
    label: ShortText
    names: tuple[Slug, ...] = Field(min_length=1, max_length=48)
    slots: tuple[Annotated[float, Field(ge=-2, le=26)], ...] = Field(min_length=1, max_length=48)

    @model_validator(mode="after")
    def _a_place_for_each(self) -> FurtherJoints:
        if len(self.names) != len(self.slots) or len(set(self.names)) != len(self.names):
            raise ValueError("each joint has one name of its own and one slot")
        if self.kind in (*_ROWS, *_CROSSHEAD_ROWS, JointKind.MAIN):
            raise ValueError("this kind is a row of the long section already")
        return self

    def places(self) -> list[JointPlace]:
        """Return the joints."""
        key = self.kind.value.replace("_", "-")
        return [
            JointPlace(
                f"{key}-{name}", self.kind, f"{self.label} {name}" if len(self.names) > 1 else self.label, name, at
            )
            for name, at in zip(self.names, self.slots, strict=True)
        ]


def joints_of(engine: Engine, further: Iterable[FurtherJoints] = ()) -> list[JointPlace]:
    """Return all joints of an engine in the order of its long section, those of its sheet after them."""
    pitches = range(engine.cylinders_per_bank)
    rows = _CROSSHEAD_ROWS if engine.crossheads else _ROWS
    joints = [place for kind in rows for place in _row(engine, kind)]
    mains = [_joint(engine, JointKind.MAIN, str(engine.first_main + i), i - 0.5) for i in (*pitches, len(pitches))]
    return joints + mains + [place for row in further for place in row.places()]


def _row(engine: Engine, kind: JointKind) -> list[JointPlace]:
    """Return the parts of a kind that belong to cylinders, each with those that it belongs to."""
    every = engine.cylinder_places()
    if kind is not JointKind.HEAD or engine.heads_per == "cylinder":
        return [_joint(engine, kind, c.name, c.number - 1.0, c.bank, frozenset({c.name})) for c in every]
    middle = (engine.cylinders_per_bank - 1) / 2.0
    under = {bank: frozenset(c.name for c in every if c.bank == bank) for bank in engine.banks or (None,)}
    return [_joint(engine, kind, bank or "A", middle, bank, cylinders) for bank, cylinders in under.items()]


def _joint(
    engine: Engine,
    kind: JointKind,
    name: str,
    slot: float,
    bank: Bank | None = None,
    cylinders: frozenset[str] = frozenset(),
) -> JointPlace:
    word = engine.joint_words.get(kind, kind.value)
    key, label = f"{kind.value}-{name.lower()}", f"{word.capitalize()} {name}"
    return JointPlace(key, kind, label, name, slot, bank, cylinders)
