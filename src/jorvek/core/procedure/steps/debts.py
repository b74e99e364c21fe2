"""Steps that leave something owed, and those that pay it back."""

from __future__ import annotations

from typing import Literal, TypeAlias

from pydantic import model_validator
from pydantic_core import PydanticCustomError

from jorvek.core.engine.layout import JointKind, Slug
from jorvek.core.procedure.measure import Angle, Pressure, Ratio, Torque
from jorvek.core.procedure.parts import Part, Text
from jorvek.core.procedure.steps.base import ItemStep


class OwingStep(ItemStep):
    """Leaves each of its points owed until a later step puts it right.

    Attributes:
        carried_to: procedure that puts it right, when this one does not.
    """

    carried_to: Slug | None = None


class AncillaryOffStep(OwingStep):
    """Pipes, wires and covers taken off, in this order."""

    kind: Literal["ancillary_off"]
    carries_part: bool = False


class TemporaryOnStep(OwingStep):
    """Covers, plugs, guards, supports, guide studs or hold-downs put on for the work.

    Attributes:
        carries_part: the support carries the part once its last nut is off; each point is a carrier.
        carries: which part, where more than one hangs.
    """

    kind: Literal["temporary_on"]
    carries_part: bool = False
    carries: Text | None = None

    @model_validator(mode="after")
    def _carries_something(self) -> TemporaryOnStep:
        if self.carries is not None and not self.carries_part:
            raise PydanticCustomError("carries_nothing", "'carries' names a part, so 'carries_part' must be true")
        return self


class Effort(Part):
    """What a disturbed fastener is put right to: a torque, an angle, a pressure, or a torque and an angle after it."""

    torque: Torque | None = None
    angle: Angle | None = None
    pressure: Pressure | None = None
    with_lubricant: Text | None = None

    @model_validator(mode="after")
    def _says_how_far(self) -> Effort:
        if self.torque is None and self.angle is None and self.pressure is None:
            raise PydanticCustomError("effort_empty", "an effort needs a 'torque', an 'angle' or a 'pressure'")
        return self


class DisturbStep(OwingStep):
    """A neighbour disturbed on purpose: a side bolt of the next bearing, a sensor, a pipe.

    Attributes:
        disturbs: whether a fastener of the neighbour is let go, or something else is moved.
        puts_right: how it is put right, in words.
        effort: what a fastener is put right to.
        slackens: kind of the joints on either side whose fastener is let go; they are not closed up until it is paid.
    """

    kind: Literal["disturb"]
    disturbs: Literal["fastener", "other"] | None = None
    slackens: JointKind | None = None
    puts_right: Text
    effort: Effort | None = None

    @model_validator(mode="after")
    def _fasteners_alone_take_effort(self) -> DisturbStep:
        stated = next((name for name in ("effort", "slackens") if getattr(self, name) is not None), None)
        if stated is not None and self.disturbs != "fastener":
            message = "'{field}' is for a step that 'disturbs: fastener'"
            raise PydanticCustomError("effort_of_what", message, {"field": stated})
        return self


class OpenItemStep(OwingStep):
    """Something that will come later, and what waits for it."""

    kind: Literal["open_item"]
    blocks: Text


class SettlingStep(ItemStep):
    """Puts right what a step owed.

    Attributes:
        of: the step that owes, or ``before`` when an earlier procedure does.
    """

    of: Slug


class AncillaryOnStep(SettlingStep):
    """Ancillaries put back, in this order."""

    kind: Literal["ancillary_on"]


class TemporaryOffStep(SettlingStep):
    """Temporary parts taken off and counted."""

    kind: Literal["temporary_off"]


class PutRightStep(SettlingStep):
    """A disturbed neighbour put right.

    Attributes:
        effort: what each of its points is pulled to: each is then done by its pull, with the reading of the tool.
        band: what the readings may differ from the effort.
        tool: role of the tool that is pulled with and shows the effort.
    """

    kind: Literal["put_right"]
    effort: Effort | None = None
    band: Ratio | None = None
    tool: Slug | None = None

    @model_validator(mode="after")
    def _pulled_with_something(self) -> PutRightStep:
        if len({self.effort is None, self.band is None, self.tool is None}) > 1:
            raise PydanticCustomError("effort_alone", "'effort', 'band' and 'tool' are stated together or not at all")
        return self


class CloseItemStep(SettlingStep):
    """An open item closed."""

    kind: Literal["close_item"]


Owing: TypeAlias = AncillaryOffStep | TemporaryOnStep | DisturbStep | OpenItemStep
Settling: TypeAlias = AncillaryOnStep | TemporaryOffStep | PutRightStep | CloseItemStep
