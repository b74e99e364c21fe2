"""What each kind of step means beyond its own fields: one row a kind, one meaning in one place.

Everything that rules, views and checks want to know of a kind is a column here (``kind.py`` says what each means).
A kind without a row does not type-check.
"""

from __future__ import annotations

from typing import Final, TypedDict, get_args

from jorvek.core.procedure.cell_items import CellItem
from jorvek.core.procedure.kind import EVERY, Kind, Redo
from jorvek.core.procedure.steps import StepKind


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
    new_fasteners: Kind
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


# fmt: off
KINDS: Final[KindTable] = {
    "ancillary_off": Kind(
        leave_out=True, offline=True, crank="still", load="none", hands_off=False, never_held_up=False, proves=(),
        never_accepted=(), changes=EVERY, does="take_off", in_order=True, settled_by="ancillary_on"
    ),
    "ancillary_on": Kind(
        leave_out=False, offline=True, crank="still", load="none", hands_off=False, never_held_up=False, proves=(),
        never_accepted=(), changes=EVERY, does="put_in", in_order=True
    ),
    "angle": Kind(
        leave_out=True, offline=True, crank="still", load="adds", hands_off=False, never_held_up=False, proves=(),
        never_accepted=(), changes=(CellItem.TURN,), load_item=CellItem.TURN, paint=CellItem.TURN, redo=Redo.TURN,
        evidence="turning"
    ),
    "attitude": Kind(
        leave_out=True, offline=True, crank="still", load="none", hands_off=False, never_held_up=False, proves=(),
        never_accepted=(), changes=EVERY
    ),
    "back_off": Kind(
        leave_out=True, offline=True, crank="still", load="takes", hands_off=False, never_held_up=False, proves=(),
        never_accepted=(), changes=EVERY
    ),
    "ceiling": Kind(
        leave_out=False, offline=False, crank="still", load="none", hands_off=False, never_held_up=False, proves=(),
        never_accepted=(CellItem.PROVE,), changes=(), redo=Redo.PULL, after_pull=True, read_again=(CellItem.PROVE,)
    ),
    "check_trip": Kind(
        leave_out=True, offline=True, crank="still", load="adds", hands_off=False, never_held_up=False, proves=(),
        never_accepted=(), changes=(CellItem.PULL,), paint=CellItem.PULL, redo=Redo.TURN
    ),
    "choose_part": Kind(
        leave_out=True, offline=False, crank="still", load="none", hands_off=True, never_held_up=False, proves=(),
        never_accepted=(), changes=(), on_same_kind=True
    ),
    "close_item": Kind(
        leave_out=False, offline=True, crank="still", load="none", hands_off=True, never_held_up=False, proves=(),
        never_accepted=(), changes=()
    ),
    "confirm": Kind(
        leave_out=True, offline=True, crank="still", load="none", hands_off=True, never_held_up=False, proves=(),
        never_accepted=(), changes=(), ages="look", worded=True, on_same_kind=True
    ),
    "crank_position": Kind(
        leave_out=False, offline=False, crank="turns", load="none", hands_off=False, never_held_up=False, proves=(),
        never_accepted=(), changes=EVERY
    ),
    "deflection": Kind(
        leave_out=True, offline=False, crank="turns", load="none", hands_off=False, never_held_up=False, proves=(),
        never_accepted=(), changes=EVERY, in_order=True, redo=Redo.STEP
    ),
    "disturb": Kind(
        leave_out=True, offline=True, crank="still", load="none", hands_off=False, never_held_up=False, proves=(),
        never_accepted=(), changes=EVERY, settled_by="put_right"
    ),
    "draw_home": Kind(
        leave_out=True, offline=True, crank="still", load="none", hands_off=False, never_held_up=False, proves=(),
        never_accepted=(), changes=EVERY, does="put_in", closes=True
    ),
    "feeler": Kind(
        leave_out=False, offline=True, crank="still", load="none", hands_off=False, never_held_up=False, proves=(),
        never_accepted=(), changes=(), after_pull=True
    ),
    "fit": Kind(
        leave_out=True, offline=True, crank="still", load="none", hands_off=False, never_held_up=False, proves=(),
        never_accepted=(), changes=EVERY, does="put_in", closes=True
    ),
    "follow_up": Kind(
        leave_out=True, offline=True, crank="still", load="none", hands_off=True, never_held_up=False, proves=(),
        never_accepted=(), changes=()
    ),
    "full_release": Kind(
        leave_out=True, offline=True, crank="still", load="takes", hands_off=False, never_held_up=False, proves=(),
        never_accepted=(), changes=EVERY, wipes_paint=True
    ),
    "gate": Kind(
        leave_out=True, offline=True, crank="still", load="none", hands_off=False, never_held_up=False, proves=(),
        never_accepted=(), changes=(), does="measure", on_same_kind=True, redo=Redo.STEP
    ),
    "hold_point": Kind(
        leave_out=False, offline=False, crank="still", load="none", hands_off=False, never_held_up=False, proves=(),
        never_accepted=(), changes=(), after_pull=True
    ),
    "inch": Kind(
        leave_out=True, offline=False, crank="turns", load="none", hands_off=False, never_held_up=False, proves=(),
        never_accepted=(), changes=EVERY
    ),
    "inspect": Kind(
        leave_out=True, offline=True, crank="still", load="none", hands_off=False, never_held_up=False, proves=(),
        never_accepted=(), changes=(CellItem.DECISION,), does="look", ages="look", names_pieces=True, on_same_kind=True
    ),
    "land": Kind(
        leave_out=True, offline=True, crank="still", load="none", hands_off=False, never_held_up=False, proves=(),
        never_accepted=(), changes=EVERY, does="put_in", closes=True
    ),
    "lift": Kind(
        leave_out=True, offline=True, crank="still", load="none", hands_off=False, never_held_up=False, proves=(),
        never_accepted=(), changes=EVERY, does="hang"
    ),
    "lock": Kind(
        leave_out=True, offline=True, crank="still", load="none", hands_off=False, never_held_up=False, proves=(),
        never_accepted=(), changes=()
    ),
    "loosen_angle": Kind(
        leave_out=True, offline=True, crank="still", load="takes", hands_off=False, never_held_up=False, proves=(),
        never_accepted=(), changes=EVERY
    ),
    "loosen_pressure": Kind(
        leave_out=True, offline=False, crank="still", load="takes", hands_off=False, never_held_up=False,
        proves=(CellItem.FREE_LOW,), never_accepted=(), changes=(CellItem.CLEAR, CellItem.FREE),
        moment="before_release", redo=Redo.PULL,
        after_pull=True, pressure="raises"
    ),
    "lubricate": Kind(
        leave_out=True, offline=True, crank="still", load="none", hands_off=False, never_held_up=False, proves=(),
        never_accepted=(), changes=(), does="oil", ages="look"
    ),
    "make_safe": Kind(
        leave_out=False, offline=True, crank="still", load="none", hands_off=True, never_held_up=False, proves=(),
        never_accepted=(), changes=EVERY, ages="look"
    ),
    "matched_part": Kind(
        leave_out=True, offline=True, crank="still", load="none", hands_off=False, never_held_up=False, proves=(),
        never_accepted=(CellItem.MATE,), changes=EVERY, does="look", read_again=(CellItem.MATE,), names_pieces=True
    ),
    "new_fasteners": Kind(
        leave_out=False, offline=True, crank="still", load="none", hands_off=False, never_held_up=False, proves=(),
        never_accepted=(), changes=EVERY, names_pieces=True
    ),
    "no_return": Kind(
        leave_out=False, offline=False, crank="still", load="none", hands_off=True, never_held_up=False, proves=(),
        never_accepted=(), changes=()
    ),
    "nuts_off": Kind(
        leave_out=True, offline=True, crank="still", load="takes", hands_off=False, never_held_up=False, proves=(),
        never_accepted=(), changes=EVERY, support="needs"
    ),
    "open_item": Kind(
        leave_out=True, offline=True, crank="still", load="none", hands_off=True, never_held_up=False, proves=(),
        never_accepted=(), changes=(), settled_by="close_item"
    ),
    "park": Kind(
        leave_out=True, offline=True, crank="still", load="none", hands_off=False, never_held_up=False, proves=(),
        never_accepted=(), changes=EVERY, does="lay"
    ),
    "put_right": Kind(
        leave_out=False, offline=True, crank="still", load="none", hands_off=False, never_held_up=False, proves=(),
        never_accepted=(), changes=EVERY
    ),
    "relieve": Kind(
        leave_out=False, offline=False, crank="still", load="none", hands_off=False, never_held_up=True, proves=(),
        never_accepted=(CellItem.ZERO,), changes=(CellItem.ZERO,), redo=Redo.PULL, after_pull=True, pressure="relieves",
        read_again=(CellItem.ZERO,)
    ),
    "remove_tool": Kind(
        leave_out=False, offline=True, crank="still", load="none", hands_off=False, never_held_up=True, proves=(),
        never_accepted=(), changes=EVERY, redo=Redo.PULL, after_pull=True, tool="off"
    ),
    "repeat": Kind(
        leave_out=False, offline=False, crank="still", load="none", hands_off=False, never_held_up=False, proves=(),
        never_accepted=(), changes=()
    ),
    "restore": Kind(
        leave_out=False, offline=True, crank="still", load="none", hands_off=True, never_held_up=True, proves=(),
        never_accepted=(), changes=EVERY, in_order=True
    ),
    "run_down": Kind(
        leave_out=True, offline=True, crank="still", load="adds", hands_off=False, never_held_up=False, proves=(),
        never_accepted=(), changes=(CellItem.CONTACT,)
    ),
    "sealant": Kind(
        leave_out=True, offline=True, crank="still", load="none", hands_off=False, never_held_up=False, proves=(),
        never_accepted=(), changes=(), does="seal", ages="again"
    ),
    "seat_tool": Kind(
        leave_out=True, offline=True, crank="still", load="none", hands_off=False, never_held_up=False, proves=(),
        never_accepted=(), changes=EVERY, redo=Redo.PULL, after_pull=True, tool="on"
    ),
    "sense": Kind(
        leave_out=True, offline=True, crank="still", load="none", hands_off=True, never_held_up=False, proves=(),
        never_accepted=(), changes=(), does="look", on_same_kind=True
    ),
    "settling_pass": Kind(
        leave_out=True, offline=True, crank="still", load="adds", hands_off=False, never_held_up=False, proves=(),
        never_accepted=(), changes=(CellItem.PULL,), paint=CellItem.PULL, redo=Redo.TURN
    ),
    "sort_by_length": Kind(
        leave_out=True, offline=True, crank="still", load="none", hands_off=False, never_held_up=False, proves=(),
        never_accepted=(), changes=()
    ),
    "stagger": Kind(
        leave_out=True, offline=True, crank="still", load="none", hands_off=False, never_held_up=False, proves=(),
        never_accepted=(), changes=()
    ),
    "stretch": Kind(
        leave_out=True, offline=True, crank="still", load="none", hands_off=False, never_held_up=False, proves=(),
        never_accepted=(), changes=(), redo=Redo.FASTENER, after_pull=True, evidence="stretch",
        read_again=(CellItem.STANDARD_BEFORE,)
    ),
    "stud_length": Kind(
        leave_out=True, offline=True, crank="still", load="none", hands_off=False, never_held_up=False, proves=(),
        never_accepted=(), changes=(), moment="before_load", redo=Redo.FASTENER,
        read_again=(CellItem.STANDARD_BEFORE,)
    ),
    "support": Kind(
        leave_out=False, offline=True, crank="still", load="none", hands_off=False, never_held_up=False, proves=(),
        never_accepted=(), changes=EVERY, does="put_in", in_order=True, support="gives"
    ),
    "temperature_gate": Kind(
        leave_out=True, offline=True, crank="still", load="none", hands_off=True, never_held_up=False, proves=(),
        never_accepted=(), changes=(), ages="again"
    ),
    "temporary_off": Kind(
        leave_out=False, offline=True, crank="still", load="none", hands_off=False, never_held_up=False, proves=(),
        never_accepted=(), changes=EVERY, does="take_off"
    ),
    "temporary_on": Kind(
        leave_out=True, offline=True, crank="still", load="none", hands_off=False, never_held_up=False, proves=(),
        never_accepted=(), changes=EVERY, does="put_in", settled_by="temporary_off", support="gives_if_stated"
    ),
    "tension": Kind(
        leave_out=True, offline=False, crank="still", load="adds", hands_off=False, never_held_up=False,
        proves=(CellItem.HOLD, CellItem.LOWEST, CellItem.FEELER), never_accepted=(CellItem.FEELER,),
        changes=(CellItem.CLEAR, CellItem.RAISE, CellItem.NUT, CellItem.LOWEST),
        load_item=CellItem.RAISE, paint=CellItem.NUT, moment="before_release", redo=Redo.PULL, after_pull=True,
        pressure="raises",
        evidence="pressure", pumped_on=(CellItem.RAISE,)
    ),
    "thread_above_nut": Kind(
        leave_out=False, offline=True, crank="still", load="none", hands_off=False, never_held_up=False, proves=(),
        never_accepted=(), changes=(), moment="before_load"
    ),
    "tool_issue": Kind(
        leave_out=False, offline=False, crank="still", load="none", hands_off=False, never_held_up=False, proves=(),
        never_accepted=(), changes=EVERY, worded=True
    ),
    "torque": Kind(
        leave_out=True, offline=True, crank="still", load="adds", hands_off=False, never_held_up=False, proves=(),
        never_accepted=(), changes=(CellItem.PULL,), load_item=CellItem.PULL, paint=CellItem.PULL, redo=Redo.TURN,
        evidence="turning",
        read_again=(CellItem.SETTING,)
    ),
    "trial_fit": Kind(
        leave_out=True, offline=True, crank="still", load="none", hands_off=False, never_held_up=False, proves=(),
        never_accepted=(), changes=(), on_same_kind=True
    ),
    "turns_freely": Kind(
        leave_out=True, offline=False, crank="turns", load="none", hands_off=False, never_held_up=False, proves=(),
        never_accepted=(), changes=EVERY, redo=Redo.LOADED, on_same_kind=True
    ),
    "two_person": Kind(
        leave_out=False, offline=True, crank="still", load="none", hands_off=False, never_held_up=False, proves=(),
        never_accepted=(), changes=()
    ),
    "vent": Kind(
        leave_out=False, offline=False, crank="still", load="none", hands_off=False, never_held_up=False, proves=(),
        never_accepted=(), changes=(), worded=True, redo=Redo.PULL, after_pull=True
    ),
    "wait": Kind(
        leave_out=True, offline=True, crank="still", load="none", hands_off=True, never_held_up=False, proves=(),
        never_accepted=(), changes=()
    ),
}
# fmt: on

_NAMES: Final[tuple[StepKind, ...]] = get_args(StepKind)

SETTLED_BY: Final[dict[StepKind, StepKind]] = {
    name: pays for name, pays in ((name, KINDS[name].settled_by) for name in _NAMES) if pays is not None
}
"""Which kind pays back which."""
