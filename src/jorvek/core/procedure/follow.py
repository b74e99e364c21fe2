"""The procedure of a follow-up: what a procedure asks to be done again later, on a joint that is closed up.

Derived here from the revision that asked for it: its figures, its orders, its tools, and nothing of its other steps.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from typing import Final

from jorvek.core.procedure.document import Procedure
from jorvek.core.procedure.metal_parts import MetalPart
from jorvek.core.procedure.parts import Isolation, Item, Part, Text
from jorvek.core.procedure.steps import ConfirmStep, FollowUpStep, MakeSafeStep, RestoreStep, Step, ToolIssueStep
from jorvek.core.refusal import Refusal
from jorvek.core.rights import Role

KEEPS_STANDING: Final[tuple[Isolation, ...]] = ("starting_air", "remote_start", "generator_breaker", "gas", "fuel")
"""Points of an engine sheet that keep an engine from starting under somebody's hands."""


class SafePoint(Part):
    """A point that is made safe before a follow-up, in the words of the engine sheet."""

    point: Isolation
    text: Text


class Safety(Part):
    """How an engine is kept standing meanwhile: headings for before and after, and the points."""

    before: Text
    after: Text
    points: tuple[SafePoint, ...]


_SAFE: Final = "again-safe"
_BACK: Final = "again-back"


def follow_up_of(procedure: Procedure, step_id: str, safety: Safety) -> Procedure:
    """Return the procedure of a follow-up; it keeps the address of the revision that asked for it.

    Args:
        procedure: the revision.
        step_id: its follow-up.
        safety: how the engine is kept standing.

    Raises:
        Refusal: ``nothing_to_follow`` where it asks for no work again.
    """
    asked = next((s for s in procedure.steps if isinstance(s, FollowUpStep) and s.id == step_id), None)
    if asked is None or not asked.repeats:
        raise Refusal("nothing_to_follow", step=step_id)
    again = tuple(step for step in procedure.steps if step.id in asked.repeats)
    steps = (*_before(asked, safety), *_tools(procedure, again), *again, *_after(safety))
    known = {step.id for step in steps}
    made = procedure.model_copy(
        update={
            "title": f"{procedure.title} — {asked.title}",
            "begins": procedure.leaves,
            "parts": tuple(_in_place(part) for part in procedure.parts),
            "redo": tuple(group for group in procedure.redo if {*group.steps, group.from_step} <= known),
            "departures": tuple(one for one in procedure.departures if one.step in known),
            "steps": steps,
        }
    )
    made._body = procedure.canonical()
    return made


def _points(points: Iterable[SafePoint]) -> tuple[Item, ...]:
    return tuple(Item(id=p.point.replace("_", "-"), text=p.text, isolates=p.point) for p in points)


def _before(asked: FollowUpStep, safety: Safety) -> Iterator[Step]:
    if safety.points:
        items = _points(safety.points)
        yield MakeSafeStep(id=_SAFE, kind="make_safe", title=safety.before, items=items, by=Role.MECHANIC)
    items = (Item(id="state", text=asked.state), Item(id="method", text=asked.method))
    yield ConfirmStep(id=asked.id, kind="confirm", title=asked.title, items=items, cautions=asked.cautions)


def _after(safety: Safety) -> Iterator[Step]:
    if safety.points:
        items = tuple(
            Item(id=p.point.replace("_", "-"), text=p.text, isolates=p.point) for p in reversed(safety.points)
        )
        yield RestoreStep(id=_BACK, kind="restore", title=safety.after, of=_SAFE, items=items, by=Role.LEAD_HAND)


def _tools(procedure: Procedure, again: tuple[Step, ...]) -> Iterator[Step]:
    """Draw what the work itself names, and nothing else."""
    named = {value for step in again for value in step.model_dump().values() if isinstance(value, str)}
    for step in procedure.steps:
        if isinstance(step, ToolIssueStep):
            tools = tuple(tool for tool in step.tools if tool.role in named)
            if tools:
                yield step.model_copy(update={"tools": tools})


def _in_place(part: MetalPart) -> MetalPart:
    """What is of the engine is in its place, what is brought for work is away."""
    return part.model_copy(update={"starts": None})
