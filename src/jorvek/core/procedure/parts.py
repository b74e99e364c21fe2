"""Small pieces of which a procedure document is made."""

from __future__ import annotations

import math
from enum import StrEnum
from typing import Annotated, Final, Literal, TypeAlias

from pydantic import BaseModel, ConfigDict, Field, model_validator
from pydantic_core import PydanticCustomError

from jorvek.core.engine.layout import Slug
from jorvek.core.procedure.measure import Angle, Length, Measure, Pressure, Ratio, Torque

Text: TypeAlias = Annotated[str, Field(min_length=1, max_length=400)]
PositionName: TypeAlias = Annotated[str, Field(pattern=r"^[A-Za-z0-9]{1,4}$")]


class Part(BaseModel):
    """Base of every part of the document: unknown keys are refused, nothing changes later."""

    model_config = ConfigDict(frozen=True, extra="forbid")


class Source(Part):
    """Where a statement comes from; ``page`` where the document has pages."""

    document: Text
    section: Text
    issued: Text
    page: Text | None = None


class Picture(Part):
    """A picture beside the words: a file name in the library, and what it shows."""

    file: Annotated[str, Field(pattern=r"^[a-z0-9][a-z0-9._-]{0,80}\.(png|jpg|svg)$")]
    shows: Text


Isolation: TypeAlias = Literal[
    "people",
    "doors",
    "coolant",
    "fuel",
    "prelube",
    "barred",
    "turning_gear",
    "generator_breaker",
    "remote_start",
    "valve_gear",
    "air_springs",
    "gas",
    "backflow",
    "starting_air",
    "blown_through",
    "cocks",
    "signs",
]
"""What a point of making safe shuts off, or of restoring gives back; in the order in which it is given back: people and
tools counted, doors, coolant, fuel, oil seen at every bearing, barred through with the cocks open, gear out, what could
start or feed the engine, air on, blown through, cocks shut, signs last."""


class Establishes(StrEnum):
    """What is certain once a point has been confirmed. Rules work by this, never by the words of the point."""

    NEIGHBOURS_SHUT = "neighbours_shut"
    PEOPLE_CLEAR = "people_clear"
    ZERO_SEEN = "zero_seen"


ON_ITS_OWN_WORDS: Final = frozenset({Establishes.PEOPLE_CLEAR, Establishes.ZERO_SEEN})
"""What people stake their bodies on: confirmed by a touch on its own words, never by pedal or space bar."""


class Item(Part):
    """One point to confirm.

    Attributes:
        id: name within the step.
        text: what is confirmed.
        place: where it is.
        why: reason in a few words.
        deliberate: asks for a touch on its own words, never for the space bar.
        picture: what it looks like.
        isolates: for making safe and restoring: what it shuts off or gives back.
        establishes: what is certain once it is confirmed.
    """

    id: Slug
    text: Text
    place: Text | None = None
    why: Text | None = None
    deliberate: bool = False
    picture: Picture | None = None
    isolates: Isolation | None = None
    establishes: Establishes | None = None

    @property
    def on_its_own_words(self) -> bool:
        """Whether a touch on its own words is asked for: the author says so, or what it establishes does."""
        return self.deliberate or self.establishes in ON_ITS_OWN_WORDS


def _one_side(lower: Measure | None, upper: Measure | None) -> None:
    if lower is None and upper is None:
        raise PydanticCustomError("band_empty", "a band needs 'lower', 'upper' or both")
    if lower is not None and upper is not None and lower.value > upper.value:
        context = {"lower": lower.text, "upper": upper.text}
        raise PydanticCustomError("band_reversed", "lower limit {lower} lies above upper limit {upper}", context)


class Limits(Part):
    """Limits in the quantity's own unit; one side may be missing, the aim may sit anywhere."""

    lower: Measure | None = None
    upper: Measure | None = None

    @model_validator(mode="after")
    def _sides(self) -> Limits:
        _one_side(self.lower, self.upper)
        return self


class TorqueLimits(Limits):
    """Limits of a torque."""

    lower: Torque | None = None
    upper: Torque | None = None


class AngleLimits(Limits):
    """Limits of an angle."""

    lower: Angle | None = None
    upper: Angle | None = None


class PressureLimits(Limits):
    """Limits of a pressure."""

    lower: Pressure | None = None
    upper: Pressure | None = None


class LengthLimits(Limits):
    """Limits of a length."""

    lower: Length | None = None
    upper: Length | None = None


TorqueBand: TypeAlias = Ratio | TorqueLimits
AngleBand: TypeAlias = Ratio | AngleLimits
PressureBand: TypeAlias = Ratio | PressureLimits


def limits_of(target: Measure, band: Measure | Limits) -> tuple[float | None, float | None]:
    """Return the limits of a band round a target, in the glossary unit; None for an open side.

    Args:
        target: the aim.
        band: a share to each side in percent, or two limits.
    """
    if isinstance(band, Limits):
        # The loop has exactly two items, which the type checker cannot see.
        return tuple(None if m is None else m.value for m in (band.lower, band.upper))  # type: ignore[return-value]
    share = band.value / 100.0
    return target.value * (1.0 - share), target.value * (1.0 + share)


def half_width(target: Measure, band: Measure | Limits) -> float:
    """Return the smaller distance from the aim to a limit, in the glossary unit; infinite for none."""
    lower, upper = limits_of(target, band)
    sides = [abs(target.value - side) for side in (lower, upper) if side is not None]
    both = [side for side in sides if side > 0.0]
    # An aim on the edge of its band leaves the whole width to the other side.
    if not sides:
        return math.inf
    return min(both) / (2.0 if len(both) < len(sides) else 1.0) if both else 0.0
