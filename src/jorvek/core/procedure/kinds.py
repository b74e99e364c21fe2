"""What each kind of step means beyond its own fields: one row a kind, one meaning in one place.

Everything that rules, views and checks want to know of a kind is a column here. A kind without a row
does not type-check, columns on which safety rests have no default, and the others default to the
safe side: what a row does not say is forbidden.
"""

from __future__ import annotations

from dataclasses import dataclass
from enum import Enum
from typing import Final, Literal, TypedDict, get_args

from jorvek.core.procedure.metal_parts import Act
from jorvek.core.procedure.steps import StepKind


class Redo(Enum):
    """What is done again together with a cell of a step."""

    ALONE = "alone"
    FASTENER = "fastener"
    TURN = "turn"
    PULL = "pull"
    LOADED = "loaded"


EVERY: Final = ("*",)
"""Every item of the step."""


@dataclass(frozen=True, kw_only=True)
class Kind:
    """One row of the table.

    Attributes:
        leave_out: somebody with the authority may leave it out; what carries a part excepted.
        proves: items of it that prove that it is safe or sound: they are never left out.
        offline: a tablet without a link may record it.
        crank: whether the crank turns in it.
        load: whether it adds to or takes from what the fasteners hold.
        load_item: item that first puts a reckoned load on a fastener.
        pressure: whether oil pressure comes up or goes off in it.
        support: whether it gives a part its support, or needs one to be there.
        tool: whether a tool comes onto the studs or off them.
        closes: it covers faces that were prepared before it.
        paint: item after which a paint mark stands on the metal.
        wipes_paint: its marks are wiped and the cycle begins anew.
        in_order: its points are done one after the other, as they are listed.
        ages: how its outcome may be renewed when it has grown old: by a look, or only by doing it again.
        never_held_up: taking pressure and tools off is not held up by a question.
        never_accepted: items of which a verdict outside its limits has no acceptance by name.
        read_again: items that are simply set or read anew when they are outside their limits.
        pumped_on: items that are simply read again when they are still too low.
        moment: when a reading of it can no longer be taken.
        redo: what goes with it when it is done again.
        after_pull: it is done again when the pull before it is.
        evidence: which evidence of a fastener's load it gives.
        settled_by: kind that pays back what it leaves owed.
        names_pieces: its answers name single fasteners or parts.
        on_sisters: a cause found in it may be there on joints of the same kind, too.
        worded: the author's words say what is asked, not the catalogue.
        does: what it does to the parts it names, where the step itself does not say it.
        hands_off: it needs no isolation: nobody has hands, tools or parts in the engine for it.
        changes: items that change a fact on which other joints rely: such a reading is decided under
            the engine's lock.
    """

    leave_out: bool
    offline: bool
    crank: Literal["turns", "still"]
    load: Literal["adds", "takes", "none"]
    proves: tuple[str, ...] = ()
    load_item: str | None = None
    pressure: Literal["raises", "relieves", "none"] = "none"
    support: Literal["gives", "gives_if_stated", "needs", "none"] = "none"
    tool: Literal["on", "off", "none"] = "none"
    closes: bool = False
    paint: str | None = None
    wipes_paint: bool = False
    in_order: bool = False
    ages: Literal["never", "look", "again"] = "never"
    never_held_up: bool = False
    never_accepted: tuple[str, ...] = ()
    read_again: tuple[str, ...] = ()
    pumped_on: tuple[str, ...] = ()
    moment: Literal["any", "before_load", "before_release"] = "any"
    redo: Redo = Redo.ALONE
    after_pull: bool = False
    evidence: Literal["pressure", "stretch", "turning"] | None = None
    settled_by: StepKind | None = None
    names_pieces: bool = False
    on_same_kind: bool = False
    worded: bool = False
    does: Act | None = None
    hands_off: bool = False
    changes: tuple[str, ...] = ()

    def shared(self, item: str) -> bool:
        """Tell whether an item of the step changes a fact on which other joints rely.

        That a check was made is such a fact: a cause found on one joint opens it again on joints of the same kind.
        """
        return self.on_same_kind or self.changes == EVERY or item in self.changes

    @property
    def uncovers_or_loads(self) -> bool:
        """Whether a temperature taken before it is relied on by it."""
        return self.load != "none"

    @property
    def covers(self) -> bool:
        """Whether what was clean, greased or sealed is shut in by it."""
        return self.closes or self.load == "adds"


class KindTable(TypedDict):
    """A row for every kind; a kind that is added to the steps and not here does not type-check."""

    ancillary_off: Kind
    ancillary_on: Kind
    angle: Kind
    attitude: Kind
    back_off: Kind
    ceiling: Kind
    check_trip: Kind
    choose_part: Kind
    close_item: Kind
    confirm: Kind
    crank_position: Kind
    deflection: Kind
    disturb: Kind
    draw_home: Kind
    feeler: Kind
    fit: Kind
    follow_up: Kind
    full_release: Kind
    gate: Kind
    hold_point: Kind
    inch: Kind
    inspect: Kind
    land: Kind
    lift: Kind
    lock: Kind
    loosen_angle: Kind
    loosen_pressure: Kind
    lubricate: Kind
    make_safe: Kind
    matched_part: Kind
    no_return: Kind
    nuts_off: Kind
    open_item: Kind
    park: Kind
    put_right: Kind
    relieve: Kind
    remove_tool: Kind
    repeat: Kind
    restore: Kind
    run_down: Kind
    sealant: Kind
    seat_tool: Kind
    sense: Kind
    settling_pass: Kind
    sort_by_length: Kind
    stagger: Kind
    stretch: Kind
    stud_length: Kind
    support: Kind
    temperature_gate: Kind
    temporary_off: Kind
    temporary_on: Kind
    tension: Kind
    thread_above_nut: Kind
    tool_issue: Kind
    torque: Kind
    trial_fit: Kind
    turns_freely: Kind
    two_person: Kind
    vent: Kind
    wait: Kind


KINDS: Final[KindTable] = {
    "ancillary_off": Kind(
        leave_out=True,
        does="take_off",
        offline=True,
        crank="still",
        load="none",
        in_order=True,
        settled_by="ancillary_on",
        changes=EVERY,
    ),
    "ancillary_on": Kind(
        leave_out=False, does="put_in", offline=True, crank="still", load="none", in_order=True, changes=EVERY
    ),
    "angle": Kind(
        leave_out=True,
        offline=True,
        crank="still",
        load="adds",
        load_item="turn",
        paint="turn",
        redo=Redo.TURN,
        evidence="turning",
        changes=("turn",),
    ),
    "attitude": Kind(leave_out=True, offline=True, crank="still", load="none", changes=EVERY),
    "back_off": Kind(leave_out=True, offline=True, crank="still", load="takes", changes=EVERY),
    "ceiling": Kind(
        leave_out=False,
        offline=False,
        crank="still",
        load="none",
        redo=Redo.PULL,
        after_pull=True,
        never_accepted=("prove",),
        read_again=("prove",),
    ),
    "check_trip": Kind(
        leave_out=True, offline=True, crank="still", load="adds", paint="pull", redo=Redo.TURN, changes=("pull",)
    ),
    "choose_part": Kind(leave_out=True, hands_off=True, offline=False, crank="still", load="none", on_same_kind=True),
    "close_item": Kind(leave_out=False, hands_off=True, offline=True, crank="still", load="none"),
    "confirm": Kind(
        leave_out=True,
        hands_off=True,
        offline=True,
        crank="still",
        load="none",
        ages="look",
        worded=True,
        on_same_kind=True,
    ),
    "crank_position": Kind(leave_out=False, offline=False, crank="turns", load="none", changes=EVERY),
    "deflection": Kind(leave_out=True, offline=False, crank="turns", load="none", in_order=True, changes=EVERY),
    "disturb": Kind(leave_out=True, offline=True, crank="still", load="none", settled_by="put_right", changes=EVERY),
    "draw_home": Kind(
        leave_out=True, does="put_in", offline=True, crank="still", load="none", closes=True, changes=EVERY
    ),
    "feeler": Kind(leave_out=False, offline=True, crank="still", load="none", after_pull=True),
    "fit": Kind(leave_out=True, does="put_in", offline=True, crank="still", load="none", closes=True, changes=EVERY),
    "follow_up": Kind(leave_out=True, hands_off=True, offline=True, crank="still", load="none"),
    "full_release": Kind(leave_out=True, offline=True, crank="still", load="takes", wipes_paint=True, changes=EVERY),
    "gate": Kind(leave_out=True, does="measure", offline=True, crank="still", load="none", on_same_kind=True),
    "hold_point": Kind(leave_out=False, offline=False, crank="still", load="none", after_pull=True),
    "inch": Kind(leave_out=True, offline=False, crank="turns", load="none", changes=EVERY),
    "inspect": Kind(
        leave_out=True,
        does="look",
        offline=True,
        crank="still",
        load="none",
        ages="look",
        names_pieces=True,
        on_same_kind=True,
        changes=("decision",),
    ),
    "land": Kind(leave_out=True, does="put_in", offline=True, crank="still", load="none", closes=True, changes=EVERY),
    "lift": Kind(leave_out=True, does="hang", offline=True, crank="still", load="none", changes=EVERY),
    "lock": Kind(leave_out=True, offline=True, crank="still", load="none"),
    "loosen_angle": Kind(leave_out=True, offline=True, crank="still", load="takes", changes=EVERY),
    "loosen_pressure": Kind(
        leave_out=True,
        offline=False,
        crank="still",
        load="takes",
        proves=("free_low",),
        moment="before_release",
        redo=Redo.PULL,
        after_pull=True,
        pressure="raises",
        changes=("clear", "free"),
    ),
    "lubricate": Kind(leave_out=True, does="oil", offline=True, crank="still", load="none", ages="look"),
    "make_safe": Kind(
        leave_out=False, hands_off=True, offline=True, crank="still", load="none", ages="look", changes=EVERY
    ),
    "matched_part": Kind(
        leave_out=True,
        does="look",
        offline=True,
        crank="still",
        load="none",
        never_accepted=("mate",),
        read_again=("mate",),
        names_pieces=True,
        changes=EVERY,
    ),
    "no_return": Kind(leave_out=False, hands_off=True, offline=False, crank="still", load="none"),
    "nuts_off": Kind(leave_out=True, offline=True, crank="still", load="takes", support="needs", changes=EVERY),
    "open_item": Kind(
        leave_out=True, hands_off=True, offline=True, crank="still", load="none", settled_by="close_item"
    ),
    "park": Kind(leave_out=True, does="lay", offline=True, crank="still", load="none", changes=EVERY),
    "put_right": Kind(leave_out=False, offline=True, crank="still", load="none", changes=EVERY),
    "relieve": Kind(
        leave_out=False,
        offline=False,
        crank="still",
        load="none",
        redo=Redo.PULL,
        after_pull=True,
        never_held_up=True,
        pressure="relieves",
        never_accepted=("zero",),
        read_again=("zero",),
        changes=("zero",),
    ),
    "remove_tool": Kind(
        leave_out=False,
        offline=True,
        crank="still",
        load="none",
        redo=Redo.PULL,
        after_pull=True,
        never_held_up=True,
        tool="off",
        changes=EVERY,
    ),
    "repeat": Kind(leave_out=False, offline=False, crank="still", load="none"),
    "restore": Kind(
        leave_out=False,
        hands_off=True,
        offline=True,
        crank="still",
        load="none",
        in_order=True,
        never_held_up=True,
        changes=EVERY,
    ),
    "run_down": Kind(leave_out=True, offline=True, crank="still", load="adds", changes=("contact",)),
    "sealant": Kind(leave_out=True, does="seal", offline=True, crank="still", load="none", ages="again"),
    "seat_tool": Kind(
        leave_out=True,
        offline=True,
        crank="still",
        load="none",
        redo=Redo.PULL,
        after_pull=True,
        tool="on",
        changes=EVERY,
    ),
    "sense": Kind(
        leave_out=True, does="look", hands_off=True, offline=True, crank="still", load="none", on_same_kind=True
    ),
    "settling_pass": Kind(
        leave_out=True, offline=True, crank="still", load="adds", paint="pull", redo=Redo.TURN, changes=("pull",)
    ),
    "sort_by_length": Kind(leave_out=True, offline=True, crank="still", load="none"),
    "stagger": Kind(leave_out=True, offline=True, crank="still", load="none"),
    "stretch": Kind(
        leave_out=True,
        offline=True,
        crank="still",
        load="none",
        redo=Redo.FASTENER,
        after_pull=True,
        evidence="stretch",
    ),
    "stud_length": Kind(
        leave_out=True, offline=True, crank="still", load="none", moment="before_load", redo=Redo.FASTENER
    ),
    "support": Kind(
        leave_out=False,
        does="put_in",
        offline=True,
        crank="still",
        load="none",
        in_order=True,
        support="gives",
        changes=EVERY,
    ),
    "temperature_gate": Kind(leave_out=True, hands_off=True, offline=True, crank="still", load="none", ages="again"),
    "temporary_off": Kind(leave_out=False, does="take_off", offline=True, crank="still", load="none", changes=EVERY),
    "temporary_on": Kind(
        leave_out=True,
        does="put_in",
        offline=True,
        crank="still",
        load="none",
        settled_by="temporary_off",
        support="gives_if_stated",
        changes=EVERY,
    ),
    "tension": Kind(
        leave_out=True,
        offline=False,
        crank="still",
        load="adds",
        load_item="raise",
        paint="nut",
        moment="before_release",
        redo=Redo.PULL,
        after_pull=True,
        pressure="raises",
        evidence="pressure",
        proves=("hold", "lowest", "feeler"),
        never_accepted=("feeler",),
        pumped_on=("raise",),
        changes=("clear", "raise", "nut", "lowest"),
    ),
    "thread_above_nut": Kind(leave_out=False, offline=True, crank="still", load="none", moment="before_load"),
    "tool_issue": Kind(leave_out=False, offline=False, crank="still", load="none", worded=True, changes=EVERY),
    "torque": Kind(
        leave_out=True,
        offline=True,
        crank="still",
        load="adds",
        load_item="pull",
        paint="pull",
        redo=Redo.TURN,
        evidence="turning",
        read_again=("setting",),
        changes=("pull",),
    ),
    "trial_fit": Kind(leave_out=True, offline=True, crank="still", load="none", on_same_kind=True),
    "turns_freely": Kind(
        leave_out=True,
        offline=False,
        crank="turns",
        load="none",
        redo=Redo.LOADED,
        on_same_kind=True,
        changes=EVERY,
    ),
    "two_person": Kind(leave_out=False, offline=True, crank="still", load="none"),
    "vent": Kind(
        leave_out=False, offline=False, crank="still", load="none", worded=True, redo=Redo.PULL, after_pull=True
    ),
    "wait": Kind(leave_out=True, hands_off=True, offline=True, crank="still", load="none"),
}

_NAMES: Final[tuple[StepKind, ...]] = get_args(StepKind)

SETTLED_BY: Final[dict[StepKind, StepKind]] = {
    name: pays for name, pays in ((name, KINDS[name].settled_by) for name in _NAMES) if pays is not None
}
"""Which kind pays back which."""
