"""What a step of the job asks for: the items that its calls are made of."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum
from typing import Final, NewType


class CellItem(StrEnum):
    """What a call is about, within its step; the words for each stand in the catalogue.

    Authors name points of their own, which may be called like one of these: rules ask for the item, never for a name.
    """

    AFT = "aft"
    APART = "apart"
    ATTITUDE = "attitude"
    BACK_OFF = "back_off"
    BATCH = "batch"
    BEAD = "bead"
    BEGAN = "began"
    BORE = "bore"
    BORE_TEMPERATURE = "bore_temperature"
    CLEAR = "clear"
    CLEARANCE = "clearance"
    CLOSES = "closes"
    CONTACT = "contact"
    COUNT = "count"
    DECISION = "decision"
    DIFFERENCE = "difference"
    DRAUGHT = "draught"
    DRY = "dry"
    DUE = "due"
    END_TORQUE = "end_torque"
    FACE = "face"
    FEELER = "feeler"
    FLOAT = "float"
    FORWARD = "forward"
    FREE = "free"
    FREED = "freed"
    FREE_LOW = "free_low"
    FREE_ZERO = "free_zero"
    FRICTION = "friction"
    GAP = "gap"
    GO = "go"
    GO_ON = "go_on"
    GUIDED = "guided"
    HOLD = "hold"
    HOME = "home"
    HORIZONTAL = "horizontal"
    IDENTITY = "identity"
    INCHED = "inched"
    JOINT_TEMPERATURE = "joint_temperature"
    JOURNAL = "journal"
    JOURNAL_TEMPERATURE = "journal_temperature"
    LANDED = "landed"
    LENGTH = "length"
    LIFTED = "lifted"
    LOCKED = "locked"
    LOWEST = "lowest"
    MARK = "mark"
    MARKS = "marks"
    MATE = "mate"
    MEANS = "means"
    NARROWEST = "narrowest"
    NEW = "new"
    NO_GO = "no_go"
    NUT = "nut"
    OFF = "off"
    OFF_FIRST = "off_first"
    OUT = "out"
    OVALITY = "ovality"
    OVER = "over"
    PARKED = "parked"
    PART = "part"
    PEOPLE = "people"
    POINT = "point"
    PORT_OPEN = "port_open"
    PORT_SHUT = "port_shut"
    PRODUCT = "product"
    PROOF = "proof"
    PROVE = "prove"
    PROVES = "proves"
    PULL = "pull"
    RAISE = "raise"
    REACHED = "reached"
    SEAT = "seat"
    SECOND = "second"
    SETTING = "setting"
    SIDE_FLOAT = "side_float"
    SIGN = "sign"
    SLACK = "slack"
    SPREAD = "spread"
    STANDARD_AFTER = "standard_after"
    STANDARD_BEFORE = "standard_before"
    STRAIGHTNESS = "straightness"
    TAPER = "taper"
    TEMPERATURE = "temperature"
    TESTED_LOAD = "tested_load"
    THREAD = "thread"
    TOGETHER = "together"
    TURN = "turn"
    TURNED = "turned"
    TURN_BACK = "turn_back"
    VERTICAL = "vertical"
    WEAR = "wear"
    WEB_BOTTOM_FIRST = "web_bottom_first"
    WEB_BOTTOM_LAST = "web_bottom_last"
    WEB_CAMSHAFT_SIDE = "web_camshaft_side"
    WEB_EXHAUST_SIDE = "web_exhaust_side"
    WEB_TOP = "web_top"
    WIDEST = "widest"
    WIPED = "wiped"
    WITHIN = "within"
    WITHOUT = "without"
    WITNESS_CLASS = "witness_class"
    WITNESS_OWNER = "witness_owner"
    ZERO = "zero"

    def at(self, which: int | str) -> Numbered:
        """Return one of several of this item: by its number, its place or the name of what it belongs to."""
        return Numbered(self, str(which))


@dataclass(frozen=True)
class Numbered:
    """One of several of an item: the third point, the batch of one group."""

    item: CellItem
    which: str

    def __str__(self) -> str:
        """Return it as keys have it: ``point:3``."""
        return f"{self.item}:{self.which}"


AuthorPoint = NewType("AuthorPoint", str)
"""The name that an author gave a point, or the role of a tool: it means nothing to a rule."""

WEBS: Final = (
    CellItem.WEB_BOTTOM_FIRST,
    CellItem.WEB_CAMSHAFT_SIDE,
    CellItem.WEB_TOP,
    CellItem.WEB_EXHAUST_SIDE,
    CellItem.WEB_BOTTOM_LAST,
)
"""The five places at which a dial between crank webs is read, in the order of ``deflection.READ_AT``."""
