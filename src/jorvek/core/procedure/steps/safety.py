"""Steps that make the engine safe, and that turn or tilt it."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from jorvek.core.engine.layout import Slug
from jorvek.core.procedure.measure import Angle, Duration, Force, Length, Pressure, Ratio, Temperature, Torque
from jorvek.core.procedure.parts import Item, Part, Text
from jorvek.core.procedure.steps.base import ItemStep, StepBase
from jorvek.core.rights import Role


class MakeSafeStep(ItemStep):
    """Points that must be safe before anything is undone, each by a named person.

    Attributes:
        by: lowest role that may confirm.
        carried_to: procedure that undoes it, when this one does not.
        max_age: how long it is relied on before it is looked at again.
    """

    kind: Literal["make_safe"]
    by: Literal[Role.MECHANIC, Role.LEAD_HAND, Role.CHIEF]
    carried_to: Slug | None = None
    max_age: Duration | None = None


class RestoreStep(StepBase):
    """The points of a ``make_safe`` step undone again, in reverse unless listed.

    Attributes:
        of: the step that made safe, or ``before`` when an earlier procedure did.
        items: what is undone.
    """

    kind: Literal["restore"]
    of: Slug
    items: tuple[Item, ...] = Field(min_length=1)
    by: Literal[Role.MECHANIC, Role.LEAD_HAND, Role.CHIEF]


class ConfirmStep(ItemStep):
    """Points confirmed one by one by the person who looked.

    Attributes:
        max_age: how long they stay true before they are asked again.
    """

    kind: Literal["confirm"]
    max_age: Duration | None = None


class TemperatureGateStep(StepBase):
    """A temperature that must be reached or fallen below: a value, not a feeling.

    Attributes:
        at: where it is taken.
        sensed: how.
        instrument: role of the thermometer.
        at_most: highest temperature.
        at_least: lowest temperature.
        max_age: how old the reading may be when work goes on.
    """

    kind: Literal["temperature_gate"]
    at: Text
    sensed: Text
    instrument: Slug
    at_most: Temperature | None = None
    at_least: Temperature | None = None
    max_age: Duration | None = None


class Adapter(Part):
    """What stands between wrench and fastener.

    Attributes:
        wrench_length: from the drive to the middle of the hand grip.
        offset: length of the adapter.
        angle: against the handle; 0 is straight ahead.
    """

    wrench_length: Length
    offset: Length
    angle: Angle


class WantedTool(Part):
    """A tool that the step asks for.

    Attributes:
        role: name by which later steps refer to it.
        tool_class: class of tool in the register.
        range_at_least: the scale must reach this far.
        range_at_most: the scale must not reach farther, so that the target lies well on it.
        resolution_at_most: the graduation must be at least this fine.
        accuracy: error bound in % of reading (wrenches) or of full scale (gauges).
        count: pieces drawn together as one set.
        side: which side of the pump a gauge is on; an air gauge is read by the pump's ratio and margin.
        adapter: extension or crow-foot on a wrench.
        reads: how a length gauge finds the far end: by touching it, or by sound through the metal.
    """

    role: Slug
    tool_class: Slug
    title: Text
    range_at_least: Pressure | Torque | Length | Angle | Force | None = None
    range_at_most: Pressure | Torque | Length | Force | None = None
    resolution_at_most: Length | Pressure | Torque | Angle | Force | None = None
    accuracy: Ratio | None = None
    count: int = Field(default=1, ge=1, le=64)
    side: Literal["oil", "air"] = "oil"
    adapter: Adapter | None = None
    reads: Literal["by_contact", "by_sound"] = "by_contact"


class ToolIssueStep(StepBase):
    """Tools drawn from the register, each with its calibration."""

    kind: Literal["tool_issue"]
    tools: tuple[WantedTool, ...] = Field(min_length=1)


class CrankPositionStep(StepBase):
    """The crank barred to a position, and the sign that proves it.

    Attributes:
        cylinder: cylinder whose pin counts; ``this`` is the joint's own.
        angle: from the reference.
        reference: which dead centre.
        side: before or after it, in the direction of rotation.
        proof: what shows that it is the right one of two.
        tolerance: how far off is still right.
        off_first: what must be off the engine, or out of it, before it is barred.
        holding_nothing: fasteners that are loose but left in do not forbid barring.
        people_out: everybody is asked for by name before it moves.
        proof_on: part on which the proof is taken.
        allows: parts that stay in the sweep on purpose, while it moves.
    """

    kind: Literal["crank_position"]
    cylinder: Text
    angle: Angle
    reference: Literal["tdc_firing", "tdc_exchange", "tdc", "bdc"]
    side: Literal["at", "before", "after"]
    proof: Text
    tolerance: Angle
    off_first: tuple[Text, ...] = Field(min_length=1)
    holding_nothing: bool = False
    people_out: bool = False
    proof_on: Slug | None = None
    allows: tuple[Slug, ...] = ()


class InchStep(StepBase):
    """The crank inched under hand control only, as a press or to follow a part.

    Attributes:
        text: what is moved and how far.
        stop_at: the sign or effort that means stop.
        people_out: everybody is asked for by name before it moves.
        allows: parts that stay in the sweep on purpose: the crank is used as their press.
    """

    kind: Literal["inch"]
    text: Text
    stop_at: Text
    people_out: bool = False
    allows: tuple[Slug, ...] = ()


class AttitudeStep(StepBase):
    """How the whole engine lies; the plan turns with it."""

    kind: Literal["attitude"]
    attitude: Literal["upright", "on_left_side", "on_right_side", "on_end", "inverted"]
    text: Text
