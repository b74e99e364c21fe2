"""Steps that leave something owed, and those that pay it back."""

from __future__ import annotations

from typing import Literal, TypeAlias

from pydantic import model_validator
from pydantic_core import PydanticCustomError

from jorvek.core.engine.layout import Slug
from jorvek.core.procedure.parts import Text
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


class DisturbStep(OwingStep):
    """A neighbour disturbed on purpose: a side bolt of the next bearing, a sensor, a pipe."""

    kind: Literal["disturb"]
    puts_right: Text


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
    """A disturbed neighbour put right."""

    kind: Literal["put_right"]


class CloseItemStep(SettlingStep):
    """An open item closed."""

    kind: Literal["close_item"]


Owing: TypeAlias = AncillaryOffStep | TemporaryOnStep | DisturbStep | OpenItemStep
Settling: TypeAlias = AncillaryOnStep | TemporaryOffStep | PutRightStep | CloseItemStep
