"""Steps that turn fasteners: torque, angle, and undoing them."""

from __future__ import annotations

from typing import Literal

from pydantic import Field, model_validator
from pydantic_core import PydanticCustomError

from jorvek.core.engine.layout import Slug
from jorvek.core.procedure.measure import Angle, Force, Torque
from jorvek.core.procedure.parts import AngleBand, Part, Text, TorqueBand
from jorvek.core.procedure.steps.base import RoundStep, StepBase


class RunDownStep(RoundStep):
    """Fasteners run down to contact; how, and the sign that ends it.

    Attributes:
        means: what may be used.
        ends: the sign.
        at_most: highest effort, below the first stage.
    """

    kind: Literal["run_down"]
    means: tuple[Literal["fingers", "hand_tool", "light_power_tool"], ...] = Field(min_length=1)
    ends: Text
    at_most: Torque | None = None


class EqualStage(Part):
    """A torque made as an equal part of the last one, and frozen.

    Attributes:
        of: the stage that is reached in equal parts.
        part: which part of it this stage is.
        parts: how many parts there are.
    """

    of: Slug
    part: int = Field(ge=1, le=11)
    parts: int = Field(ge=2, le=12)

    @model_validator(mode="after")
    def _below_the_last(self) -> EqualStage:
        if self.part >= self.parts:
            raise PydanticCustomError("equal_stage", "'part' must be below 'parts'; the last part is the stage itself")
        return self


class TorqueStep(RoundStep):
    """One trip at one torque: a steady pull to the click, and how far each moved.

    Attributes:
        torque: target.
        band: tolerance to each side, or two limits.
        band_of: ``setting`` where the band is of where the wrench is set, and not of the torque that reaches the
            fastener: a book that says "100 to 105" means it so where no wrench could keep that band.
        made: how the torque follows from a later stage, for stages in equal parts.
        wrench: role of the wrench.
        lubricant: product that the number is good for.
        aims_at: load the author expects from it.
        must_move: a click without moving is a finding.
    """

    kind: Literal["torque"]
    torque: Torque
    band: TorqueBand
    band_of: Literal["setting"] | None = None
    made: EqualStage | None = None
    wrench: Slug
    lubricant: Text
    aims_at: Force | None = None
    must_move: bool = True


class SettlingPassStep(RoundStep):
    """Another trip at the same torque, in which fasteners are expected to move as gasket and faces settle.

    Attributes:
        torque: the torque of the trip before.
        wrench: role of the wrench, which stands as it was set.
    """

    kind: Literal["settling_pass"]
    torque: Torque
    wrench: Slug


class CheckTripStep(RoundStep):
    """A second trip at the same torque; movement tells what was lost.

    Attributes:
        torque: the torque of the trip before.
        wrench: role of the wrench.
        moves_at_most: largest movement that is accepted.
    """

    kind: Literal["check_trip"]
    torque: Torque
    wrench: Slug
    moves_at_most: Angle


class EndTorque(Part):
    """The torque felt at the end of an angle: a soft bolt shows less, a dry one more.

    Attributes:
        wrench: role of the wrench or gauge that shows it.
        at_least: less is a bolt that yields too early, or one that is oiled too well.
        at_most: more is a dry one, or a bolt that bottoms.
    """

    wrench: Slug
    at_least: Torque
    at_most: Torque | None = None


class AngleStep(RoundStep):
    """Fasteners turned through an angle from their marks.

    Attributes:
        angle: target.
        band: tolerance to each side, or two limits.
        means: what the angle is turned and measured with.
        bites: how many pulls may make it up.
        mark: the paint: where, from what to what.
        mark_again: the same from the second cycle on, where it is another line or another colour.
        tool: role of an angle gauge or power tool, when one is used.
        end_torque: torque at the end of the angle, where it is asked for.
        aims_at: load the author expects from it.
    """

    kind: Literal["angle"]
    angle: Angle
    band: AngleBand
    means: Literal["hand_bar_with_marks", "angle_gauge", "power_tool"]
    bites: int = Field(ge=1, le=24)
    mark: Text
    mark_again: Text | None = None
    tool: Slug | None = None
    end_torque: EndTorque | None = None
    aims_at: Force | None = None

    def mark_in(self, cycle: int) -> str:
        """Return the words of the mark in a cycle."""
        return self.mark if cycle == 1 or self.mark_again is None else self.mark_again


class FullReleaseStep(RoundStep):
    """Everything slackened again before another cycle, marks wiped.

    Attributes:
        sign: what shows that a fastener is free.
        wipe: marks that go, on bolt and on casting.
    """

    kind: Literal["full_release"]
    sign: Text
    wipe: tuple[Text, ...] = Field(min_length=1)


class RepeatStep(StepBase):
    """Earlier steps again, as cycles kept apart or for each of several parts.

    Attributes:
        steps: consecutive earlier steps.
        times: how often more.
        each: names of the parts they are repeated for, in place of a number.
    """

    kind: Literal["repeat"]
    steps: tuple[Slug, ...] = Field(min_length=1)
    times: int = Field(default=1, ge=1, le=9)
    each: tuple[Text, ...] = ()


class LoosenAngleStep(RoundStep):
    """Fasteners undone in small equal angles all round until the clamp is off.

    Attributes:
        angle: each time.
        rounds: times round.
        cold_below: metal temperature, when the joint must be cold.
    """

    kind: Literal["loosen_angle"]
    angle: Angle
    rounds: int = Field(ge=1, le=20)


class BackOffStep(RoundStep):
    """Fasteners or tools turned back by a part of a turn, and why."""

    kind: Literal["back_off"]
    turns: Angle


class NutsOffStep(RoundStep):
    """Nuts or bolts taken out and parked; the last one only with the support in place."""

    kind: Literal["nuts_off"]
    park: Text
