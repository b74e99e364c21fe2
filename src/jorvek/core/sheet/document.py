"""What an engine sheet holds: ladders, access rules, crank, doors, isolations, further joints."""

from __future__ import annotations

import json
from typing import Annotated, Final, Literal, TypeAlias

from pydantic import ConfigDict, Field, model_validator

from jorvek.core.canonical import canonical_text, sha256_hex
from jorvek.core.engine.layout import FurtherJoints, JointKind, ShortText, Slug
from jorvek.core.procedure.measure import Angle, Duration, Length
from jorvek.core.procedure.metal_parts import Condition
from jorvek.core.procedure.parts import Isolation, Part, Source, Text
from jorvek.core.rights import Role

SHEET_FORMAT: Final = "jorvek-engine-sheet/1"

Mutual: TypeAlias = Literal["itself", "same_cylinder", "same_pin", "beside", "same_kind", "all"]
"""Which joints a rule means: the joint itself; those of the same cylinder (or bank, where heads cover one); those on
the same crankpin; those on either side along the crankshaft; all others of its kind; all of a kind on the engine."""

Relation: TypeAlias = Mutual | Literal["lower", "higher"]
"""Also those before it and those after it along the engine, counted from the first cylinder: an order among joints."""

Unless: TypeAlias = Literal["inverted", "crank_supported", "shaft_jacked"]
"""What makes a rule idle: the engine lies on its head; the crank is carried; the shaft is jacked."""


class ConditionLadder(Part):
    """The conditions of a kind of joint in the order in which it is undone, and in which it is put back.

    Attributes:
        undone: from closed up to open.
        put_back: from open to closed up.
    """

    undone: tuple[Condition, ...] = Field(min_length=2, max_length=8)
    put_back: tuple[Condition, ...] = Field(min_length=2, max_length=8)

    @property
    def conditions(self) -> tuple[Condition, ...]:
        """Every condition once."""
        return tuple(dict.fromkeys((*self.undone, *self.put_back)))

    def path(self, begins: Condition, leaves: Condition) -> tuple[Condition, ...]:
        """Return what a joint goes through from one condition to another; both ways, where there is no straight one."""
        for way in (self.undone, self.put_back):
            if begins in way and leaves in way and way.index(begins) <= way.index(leaves):
                return way[way.index(begins) : way.index(leaves) + 1]
        return self.conditions


class Standing(Part):
    """Joints of one kind in some conditions."""

    joint: JointKind
    in_: tuple[Condition, ...] = Field(min_length=1, alias="in")

    model_config = ConfigDict(frozen=True, extra="forbid", serialize_by_alias=True)


class Never(Part):
    """Two conditions that never stand together.

    Attributes:
        id: name of the rule.
        one: a joint in these conditions.
        other: another in these.
        of: how they are related.
        unless: what makes the rule idle.
        reason: why, in the trade's words.
        hurts: people are hurt: no departure.
    """

    id: Slug
    one: Standing
    other: Standing
    of: Mutual
    unless: tuple[Unless, ...] = ()
    reason: Text
    hurts: bool = False


class WorkOn(Part):
    """Work that a rule is about.

    Attributes:
        joint: kind of joint.
        begins: only work that begins in one of these conditions; any, where none is named.
        leaves: only work that leaves the joint in one of these.
        chosen: only where the procedure's options are chosen so: by option, the choices that are meant.
    """

    joint: JointKind
    begins: tuple[Condition, ...] = ()
    leaves: tuple[Condition, ...] = ()
    chosen: dict[Slug, tuple[Slug, ...]] = Field(default={})


class Needs(Part):
    """What work on a joint needs of others, when it begins and until it ends.

    Attributes:
        id: name of the rule.
        work: which work.
        other: the joints that have to stand so.
        of: how they are related to the joint of the work.
        gates: the gates measured on them are good, where ``other`` is worked on in this overhaul at all.
        unless: what makes the rule idle.
        reason: why, in the trade's words.
        hurts: people are hurt: no departure.
    """

    id: Slug
    work: WorkOn
    other: Standing
    of: Relation
    gates: bool = False
    unless: tuple[Unless, ...] = ()
    reason: Text
    hurts: bool = False


class CrankSheet(Part):
    """How the crank is turned and what goes with it.

    Attributes:
        cycle: of the engine: 720° for four strokes, 360° for two.
        ways: how it may be turned.
        turn: time of one turn on the turning gear.
        prepare: time to prepare a move: people out, looked round, gear in.
        moves_with: what turns or lifts with it.
        crank_radius: half the stroke.
        rod_length: between the eyes of the rod.
        bank_angle: of a vee, between its banks.
        pins: of a vee: the two rods of a throw share a pin, or each has one of its own, turned against the other.
        pin_offset: by how much the second bank's pin is turned towards the first bank, where each has its own.
    """

    cycle: Angle
    ways: tuple[Literal["ahead", "astern"], ...] = Field(min_length=1)
    turn: Duration
    prepare: Duration
    moves_with: tuple[Text, ...] = ()
    crank_radius: Length | None = None
    rod_length: Length | None = None
    bank_angle: Angle | None = None
    pins: Literal["common", "offset"] = "common"
    pin_offset: Angle | None = None

    @model_validator(mode="after")
    def _offset_is_stated(self) -> CrankSheet:
        if (self.pins == "offset") != (self.pin_offset is not None):
            raise ValueError("pin_offset belongs to offset pins, and only to them")
        return self


class IsolationPoint(Part):
    """One point that is shut, locked or blanked.

    Attributes:
        point: what it keeps out.
        text: what is done there, as it is read on the spot.
        place: where.
        by: lowest rank that may isolate and give it back.
        locks: a lock is hung on it.
        for_test: it may be lifted for a named test.
    """

    point: Isolation
    text: Text
    place: Text | None = None
    by: Literal[Role.MECHANIC, Role.LEAD_HAND, Role.CHIEF] = Role.LEAD_HAND
    locks: bool = False
    for_test: bool = False


class Door(Part):
    """A door of the crankcase or the scavenge space, and the cylinders that are reached through it."""

    id: Slug
    space: Literal["crankcase", "scavenge"]
    cylinders: tuple[ShortText, ...] = Field(min_length=1)


class DeflectionLimits(Part):
    """How far the webs of a throw may open and close over a turn.

    Attributes:
        vertical: with the pin at the top against the bottom.
        horizontal: from side to side.
        closes_within: between the first reading and the last: a dial that slipped does not close.
    """

    vertical: Length
    horizontal: Length
    closes_within: Length


FIRST_START: Final = "first-start"
"""Name of the stop from which the others are counted."""


class RunningIn(Part):
    """A named stop of the running-in.

    Attributes:
        after: since the first start.
        text: what is done there.
    """

    id: Slug
    after: Duration
    text: Text


class EngineSheet(Part):
    """One revision of the sheet of an engine type.

    Attributes:
        ladders: for each kind of joint its conditions.
        never: pairs of conditions that never stand together.
        needs: what work needs of other joints.
        restore: order in which isolations are given back.
        after_shutdown: time after shutdown before a door is moved.
        after_alarm: the same after an oil mist alarm, a hot bearing, a seizure, or for a cause that nobody knows.
        own_lock: whoever goes in has hung a lock of their own before.
        deflection: limits of the crank webs; None where the type states none.
        witnesses: who has to have attended before an overhaul is closed.
        running_in: stops after the first start, in order.
    """

    model_config = ConfigDict(frozen=True, extra="forbid", serialize_by_alias=True)

    format: Literal["jorvek-engine-sheet/1"]
    id: Slug
    title: Text
    revision: Annotated[str, Field(pattern=r"^[A-Z0-9]{1,6}$")]
    author: Text
    source: Source
    engine_type: Text
    ladders: dict[JointKind, ConditionLadder]
    never: tuple[Never, ...] = Field(default=(), max_length=200)
    needs: tuple[Needs, ...] = Field(default=(), max_length=200)
    crank: CrankSheet
    doors: tuple[Door, ...] = Field(default=(), max_length=200)
    isolations: tuple[IsolationPoint, ...] = Field(default=(), max_length=40)
    restore: tuple[Isolation, ...] = ()
    joints: tuple[FurtherJoints, ...] = Field(default=(), max_length=40)
    after_shutdown: Duration | None = None
    after_alarm: Duration | None = None
    own_lock: bool = False
    deflection: DeflectionLimits | None = None
    witnesses: tuple[ShortText, ...] = Field(default=(), max_length=6)
    running_in: tuple[RunningIn, ...] = Field(default=(), max_length=20)

    def plain(self) -> dict[str, object]:
        """Return the document as plain data, without what was left to its default."""
        data: dict[str, object] = self.model_dump(mode="json", exclude_defaults=True)
        return data

    def canonical(self) -> str:
        """Return the canonical text of the revision, from which its address is made."""
        return canonical_text(json.loads(json.dumps(self.plain())))

    def content_hash(self) -> str:
        """Return the content address: 64 hex digits."""
        return sha256_hex(SHEET_FORMAT, self.canonical())

    def point(self, name: str) -> IsolationPoint | None:
        """Return an isolation point by what it keeps out."""
        return next((p for p in self.isolations if p.point == name), None)
