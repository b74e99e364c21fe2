"""Each step of each shipped procedure left out, or taken before the one that it follows: found, or harmless and why.

The tables say for kinds of step why the model need not find it.
"""

from __future__ import annotations

import copy
from collections.abc import Callable

import pytest
from pydantic import ValidationError

from jorvek.core.procedure.document import Procedure
from jorvek.core.procedure_check import check
from jorvek.core.procedure_check.among import Others, beside
from tests.core.drafts import Data, drop
from tests.core.test_procedure_check import GOOD, PLAIN

LEFT_OUT: dict[str, str] = {
    "confirm": "What a person looks at before a step; nothing in the metal tells that nobody looked.",
    "follow_up": "What is due later; the joint of today is whole without it.",
    "inspect": "What is looked for is the author's; the parts are where they were.",
    "gate": "A measurement more than the joint's kind demands: the author's or the maker's.",
    "sense": "A look or a feel; no part moves by it.",
    "tension": "One pressure fewer on the way: the last one decides what the stud holds.",
    "hold_point": "Who signs for what was found is the author's; what is tightened is signed for by a rule.",
    "torque": "One torque fewer on the way: the last one decides what the bolt holds.",
    "wait": "Another wait stands before the first thing that is opened; how long a sealant cures is the author's.",
    "stud_length": "Each stud is looked at by a decision, which may be taken by length.",
    "support": "Which port is which is told; the carrier itself is fitted by a step of its own.",
    "ceiling": "The pump stays set from the round before.",
    "crank_position": "Where the crank stands for this act is the author's; nothing stands in its sweep.",
    "choose_part": "The table is the author's; what was measured stays on the record.",
    "sort_by_length": "Counted beforehand; a long bolt in a short hole is found at the run-down.",
    "full_release": "One cycle in place of two: a gasket without settling is the author's.",
    "repeat": "One cycle in place of two: a gasket without settling is the author's.",
    "check_trip": "A check more; the load was there before it.",
    "back_off": "Bolts run down by hand hold next to nothing.",
    "settling_pass": "Another trip at the same torque; the load was there before it.",
    "feeler": "A check more; the joint was closed before it.",
    "angle": "A plain torque joint is a joint, too; how much it holds stands on the staircase.",
    "draw_home": "How hard a liner is to break loose is told; the lift that follows takes it out.",
    "trial_fit": "What is tried dry is told; the parts come in and out by steps of their own.",
    "no_return": "What must have passed before is told.",
    "sealant": "Which faces want sealant is the author's.",
    "lift": "The liner goes from the bench into the bore on one hook, in one lift or in two.",
    "land": "The liner is drawn home from the hook as well.",
    "stagger": "Where the gaps of the rings stand is the author's.",
}
"""Kinds of step that may be missing without being missed, and why."""

EXCHANGED: list[tuple[str, dict[str, tuple[str, ...]]]] = [
    (
        "Both are read, looked at or told; neither moves anything, and what they bar comes after both.",
        {
            "check_trip": ("sense",),
            "choose_part": ("close_item",),
            "close_item": ("confirm",),
            "confirm": (
                "deflection",
                "gate",
                "inspect",
                "open_item",
                "sense",
                "sort_by_length",
                "thread_above_nut",
                "tool_issue",
            ),
            "deflection": ("crank_position", "gate", "hold_point"),
            "feeler": ("turns_freely",),
            "follow_up": ("follow_up",),
            "gate": ("deflection", "gate", "trial_fit", "turns_freely"),
            "inspect": (
                "sense",
                "stud_length",
            ),
            "matched_part": ("confirm",),
            "open_item": ("gate",),
            "new_fasteners": ("lubricate",),
            "sense": ("confirm", "inspect", "new_fasteners", "stud_length"),
            "sort_by_length": ("inspect",),
            "stretch": ("gate", "stretch"),
            "stud_length": ("inspect",),
            "temperature_gate": ("confirm",),
            "tool_issue": ("confirm", "temperature_gate", "tool_issue"),
            "turns_freely": ("deflection", "gate"),
            "wait": ("tool_issue", "wait"),
        },
    ),
    (
        "The tools may be on the studs or still in the box while the pump is set: no hose is connected.",
        {
            "seat_tool": ("ceiling",),
        },
    ),
    (
        "The pump stays set from the round before.",
        {
            "ceiling": ("vent",),
        },
    ),
    (
        "Isolated before the wait or after it: nothing is opened before both are done.",
        {
            "make_safe": ("wait",),
        },
    ),
    (
        "What is due later is only written down.",
        {
            "restore": ("follow_up",),
        },
    ),
    (
        "Drawing, reading or looking on one side; on the other something that neither needs it nor spoils it.",
        {
            "ancillary_off": ("confirm", "thread_above_nut"),
            "angle": ("gate",),
            "attitude": ("confirm", "hold_point", "tool_issue"),
            "confirm": ("ancillary_on", "crank_position", "disturb", "fit"),
            "crank_position": ("matched_part", "thread_above_nut"),
            "disturb": ("disturb", "gate"),
            "draw_home": ("matched_part",),
            "gate": ("crank_position", "put_right", "restore", "stagger", "temporary_off"),
            "hold_point": ("ancillary_on",),
            "inspect": ("fit", "lubricate", "temporary_off", "temporary_on"),
            "land": ("matched_part", "sense"),
            "lift": ("no_return",),
            "lubricate": ("stud_length",),
            "matched_part": ("inch", "lift", "lubricate", "park", "run_down", "temporary_off"),
            "nuts_off": ("thread_above_nut",),
            "park": ("inspect", "stud_length"),
            "put_right": ("hold_point",),
            "remove_tool": ("stretch", "thread_above_nut"),
            "run_down": ("thread_above_nut",),
            "settling_pass": ("feeler",),
            "stud_length": ("lubricate", "run_down"),
            "support": ("thread_above_nut",),
            "temperature_gate": ("ancillary_off", "crank_position"),
            "temporary_off": ("confirm", "matched_part", "stud_length", "thread_above_nut"),
            "temporary_on": ("sense", "stud_length", "thread_above_nut", "wait"),
            "tool_issue": ("attitude", "crank_position", "temporary_off"),
            "trial_fit": ("lift",),
            "turns_freely": ("lock",),
            "two_person": ("matched_part",),
            "wait": ("attitude",),
        },
    ),
    (
        "Different parts or different faces: the one is not in the other's way.",
        {
            "ancillary_off": ("loosen_angle",),
            "ancillary_on": ("crank_position",),
            "disturb": ("loosen_angle",),
            "fit": ("crank_position", "fit", "lift", "lubricate", "temporary_on"),
            "land": ("fit", "lubricate", "temporary_off", "temporary_on"),
            "lift": ("land",),
            "loosen_angle": ("loosen_angle", "temporary_on"),
            "lubricate": ("fit", "lubricate", "run_down", "sealant"),
            "nuts_off": ("loosen_angle", "nuts_off"),
            "park": ("temporary_off",),
            "put_right": ("attitude",),
            "remove_tool": ("temporary_on",),
            "repeat": ("torque",),
            "run_down": ("run_down",),
            "sealant": ("lift",),
            "stagger": ("lubricate",),
            "support": ("temporary_on",),
            "temporary_off": ("lubricate", "park", "temporary_off"),
            "temporary_on": ("fit", "nuts_off"),
        },
    ),
]
"""Why a step of one kind may come after the step that follows it, by the kinds of both."""
MAY_BE_EXCHANGED = {(first, second) for _, rows in EXCHANGED for first, then in rows.items() for second in then}


def is_found(name: str, spoil: Callable[[Data], None]) -> bool:
    """Whether the check finds anything, in the document or where it meets the others of its joint."""
    data = copy.deepcopy(PLAIN[name])
    spoil(data)
    try:
        draft = Procedure.model_validate(data)
    except ValidationError:
        return True
    if check(draft):
        return True
    mine = draft.applies_to
    shelf = [draft if p.id == name else p for p in GOOD.values()]
    for one in shelf:
        near = one.applies_to.engine_type == mine.engine_type and one.applies_to.joint is mine.joint
        rest = tuple(p for p in shelf if p.id != one.id)
        if near and any(True for _ in beside(one, Others(rest, rest))):
            return True
    return False


def exchanged(k: int) -> Callable[[Data], None]:
    def apply(data: Data) -> None:
        steps = data["steps"]
        steps[k], steps[k + 1] = steps[k + 1], steps[k]

    return apply


@pytest.mark.parametrize("name", GOOD)
def test_a_step_that_is_left_out_is_missed_or_the_table_says_why_not(name: str) -> None:
    steps = PLAIN[name]["steps"]
    unfound = {s["kind"]: s["id"] for s in steps if not is_found(name, drop(s["id"]))}
    assert {kind: step for kind, step in unfound.items() if kind not in LEFT_OUT} == {}


@pytest.mark.parametrize("name", GOOD)
def test_a_step_before_the_one_it_follows_is_found_or_the_table_says_why_not(name: str) -> None:
    steps = PLAIN[name]["steps"]
    pairs = {k: (steps[k]["kind"], steps[k + 1]["kind"]) for k in range(len(steps) - 1)}
    unfound = {steps[k]["id"]: pair for k, pair in pairs.items() if not is_found(name, exchanged(k))}
    assert {step: pair for step, pair in unfound.items() if pair not in MAY_BE_EXCHANGED} == {}
