"""Steps that look at parts, move them and bring them together."""

from __future__ import annotations

from typing import Literal

from pydantic import Field, model_validator
from pydantic_core import PydanticCustomError

from jorvek.core.engine.layout import Slug
from jorvek.core.procedure.measure import Angle, Duration, Force, Length, Torque
from jorvek.core.procedure.parts import Item, Part, Picture, PositionName, Text
from jorvek.core.procedure.steps.base import ItemStep, RoundStep, StepBase
from jorvek.core.rights import Role


class InspectStep(StepBase):
    """A look with a decision: reuse, replace, mend.

    Attributes:
        order: goes round the fasteners when named, else it concerns the joint.
        look_for: what to look for.
        accept: what is good.
        reject: what is not.
        dispositions: decisions that may be taken.
        photograph: a picture is wanted.
        max_age: how long what was found clean and sound is taken to be so.
    """

    kind: Literal["inspect"]
    order: Slug | None = None
    look_for: tuple[Text, ...] = Field(min_length=1)
    accept: Text
    reject: Text
    dispositions: tuple[Literal["reuse", "replace", "mend", "ask"], ...] = ("reuse", "replace", "ask")
    photograph: bool = False
    max_age: Duration | None = None


class SenseStep(ItemStep):
    """See, hear or feel: what is right and what is wrong, in words and pictures."""

    kind: Literal["sense"]
    by: Literal["see", "hear", "feel"]
    right: Text
    wrong: Text
    right_picture: Picture | None = None
    wrong_picture: Picture | None = None


class FitStep(ItemStep):
    """Parts fitted the one way they go.

    Attributes:
        rule: which way round, from which landmark.
        identity: what is written down of the parts: part number, drawing, batch.
    """

    kind: Literal["fit"]
    rule: Text
    identity: Text | None = None


class MatchedPartStep(StepBase):
    """Parts that belong together and never change places, their identities read.

    Attributes:
        pairs: what belongs to what.
        identity: where the mark stands on both.
    """

    kind: Literal["matched_part"]
    pairs: tuple[Item, ...] = Field(min_length=1)
    identity: Text


class NewFastenersStep(RoundStep):
    """New fasteners in place of those that came out; their group says what is written down of them."""

    kind: Literal["new_fasteners"]


class LengthTally(Part):
    """How many fasteners of one length, and in which positions they go."""

    code: Text
    length: Length
    positions: tuple[PositionName, ...] = Field(min_length=1)


class SortByLengthStep(StepBase):
    """Fasteners sorted by length and counted before any goes in."""

    kind: Literal["sort_by_length"]
    tally: tuple[LengthTally, ...] = Field(min_length=1)


class FrictionTest(Part):
    """The oil at hand tried on a bolt of the group over a load cell, before the joint is tightened with it.

    Attributes:
        torque: torque that the test bolt is pulled to.
        torque_sensor: role of what shows the torque; not the wrench of the stages, which would hide its own error.
        load_cell: role of the load cell.
        readings: how often in all.
        bolts: on how many bolts of the batch, one after the other: bolts differ, and one says little of its like.
    """

    torque: Torque
    torque_sensor: Slug
    load_cell: Slug
    readings: int = Field(default=3, ge=2, le=9)
    bolts: int = Field(default=1, ge=1, le=6)


class LubricateStep(StepBase):
    """Lubrication, by face.

    Attributes:
        friction_test: how its friction is measured on the day, where the range of a table is not enough.
        group: fastener group; None for other faces.
        product: what is applied.
        faces: where.
        dry: what stays dry.
        max_age: how long it lasts before it is asked again.
    """

    kind: Literal["lubricate"]
    group: Slug | None = None
    product: Text
    faces: tuple[Text, ...] = Field(min_length=1)
    dry: tuple[Text, ...] = ()
    max_age: Duration | None = None
    friction_test: FrictionTest | None = None

    @model_validator(mode="after")
    def _test_of_fasteners(self) -> LubricateStep:
        if self.friction_test is not None and self.group is None:
            raise PydanticCustomError("friction_test_of", "'friction_test' needs the 'group' whose bolts are turned")
        return self


class SealantStep(StepBase):
    """Sealant: product, bead, cure, and where it must not go."""

    kind: Literal["sealant"]
    product: Text
    bead: Length
    at: tuple[Text, ...] = Field(min_length=1)
    not_at: tuple[Text, ...] = ()
    close_within: Duration
    cure: Duration


class LiftStep(StepBase):
    """A part lifted.

    Attributes:
        load: weight on the hook.
        points: where it hangs.
        clearance: what must be clear before it moves.
        by: lowest role that gives the signals.
    """

    kind: Literal["lift"]
    load: Force
    points: Text
    clearance: Text
    by: Literal[Role.MECHANIC, Role.LEAD_HAND, Role.CHIEF] = Role.MECHANIC


class LandStep(StepBase):
    """A part landed.

    Attributes:
        load: weight on the hook.
        points: where it hangs.
        guide: what guides it.
        last: how the last stretch is done.
    """

    kind: Literal["land"]
    load: Force
    points: Text
    guide: Text
    last: Text


class DrawHomeStep(StepBase):
    """A part drawn home evenly; the effort that means stop."""

    kind: Literal["draw_home"]
    text: Text
    last: Length
    stop_at: Text


class TrialFitStep(StepBase):
    """A dry fit that proves something before anything is sealed."""

    kind: Literal["trial_fit"]
    proves: Text
    text: Text


class StaggerStep(StepBase):
    """Gaps turned apart, such as piston ring gaps.

    Attributes:
        angles: where each gap stands, from the first landmark, top to bottom.
        apart_at_least: smallest angle between neighbours.
        avoid: places no gap may stand in.
    """

    kind: Literal["stagger"]
    angles: tuple[Angle, ...] = Field(min_length=2)
    apart_at_least: Angle
    avoid: tuple[Text, ...] = ()


class TwoPersonStep(StepBase):
    """An act of two people: who does what, the call and the answer."""

    kind: Literal["two_person"]
    first: Text
    second: Text
    call: Text
    answer: Text


class Port(Part):
    """A port of a support or lowering tool: name, colour, state of its valve."""

    id: Slug
    name: Text
    colour: Text
    valve: Literal["open", "shut"]


class SupportStep(StepBase):
    """Supports and lowering tools, their ports named; from then on they carry the part.

    Attributes:
        ports: in the order of connecting.
        carries: what is carried from here on.
        carriers: how many devices carry it.
        stages: how the load goes over, in order.
        carried_to: procedure that takes it off, when this one does not.
    """

    kind: Literal["support"]
    ports: tuple[Port, ...] = Field(min_length=1)
    carries: Text
    carriers: int = Field(default=1, ge=1, le=16)
    stages: tuple[Item, ...] = Field(min_length=1)
    carried_to: Slug | None = None


class ParkStep(StepBase):
    """Parts put where they can be found: place and tag."""

    kind: Literal["park"]
    parts: Text
    place: Text
    tag: Text
