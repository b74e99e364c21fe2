"""What a procedure leaves: nothing inside, covered, unlocked or unmeasured, and the condition it names."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from jorvek.core.engine.layout import JointKind
from jorvek.core.metal.planned_moves import PlannedMoves
from jorvek.core.metal.proof import ending
from jorvek.core.metal.state import JointState
from jorvek.core.procedure.kinds import KINDS
from jorvek.core.procedure.metal_parts import Condition
from jorvek.core.procedure.steps import LockStep, MatchedPartStep, ParkStep, RoundStep, TurnsFreelyStep

_BEARINGS = (JointKind.MAIN, JointKind.ROD, JointKind.CROSSHEAD, JointKind.CRANKPIN)


@dataclass(frozen=True)
class Left:
    """Something that is not as it should be when the procedure ends.

    Attributes:
        code: what it is.
        index: step it belongs to, or the last one.
        part: part or fasteners.
        words: more.
    """

    code: str
    index: int
    part: str
    words: str = ""


def left(planned: PlannedMoves) -> Iterator[Left]:
    """Yield what a procedure leaves undone."""
    if not planned.steps:
        return
    metal, last = ending(planned), planned.steps[-1][0]
    yield from _still_on(planned, metal)
    if not planned.simulated:
        return
    yield from _unmeasured(planned, metal, last)
    yield from _unpaired(planned, metal, last)
    yield from _unlocked(planned, last)
    yield from _not_turned(planned)
    yield from _left_about(planned, metal, last)
    wanted = planned.procedure.leaves
    if wanted is not None and (found := condition(planned, metal)) is not None and found != wanted:
        yield Left("leaves_otherwise", last, wanted, found)


def _still_on(planned: PlannedMoves, metal: JointState) -> Iterator[Left]:
    """Yield what was fitted and never taken off again, by the step that fitted it."""
    for name, part in planned.parts.items():
        if not part.traits.brought or part.traits.stays or not metal.fitted(name):
            continue
        fitted = [(i, s) for i, s in planned.steps if name in planned.touched(s) and planned.act(s) == "put_in"]
        if fitted and getattr(fitted[-1][1], "carried_to", None) is None:
            yield Left("left_in", fitted[-1][0], name)


def _unmeasured(planned: PlannedMoves, metal: JointState, last: int) -> Iterator[Left]:
    for name, part in planned.parts.items():
        state = metal.parts[name]
        missed = [m for m in part.traits.measured if m not in state.measured]
        if state.moved and state.where == "in_place" and missed:
            moves = [i for i, s in planned.steps if name in planned.touched(s) and planned.act(s) == "put_in"]
            yield Left("not_measured_since", (moves or [last])[-1], name, missed[0])


def _unpaired(planned: PlannedMoves, metal: JointState, last: int) -> Iterator[Left]:
    read = {n for _, s in planned.steps if isinstance(s, MatchedPartStep) for n in planned.touched(s)}
    for name, part in planned.parts.items():
        if part.matched and metal.parts[name].moved and name not in read:
            moves = [i for i, s in planned.steps if name in planned.touched(s)]
            yield Left("pair_not_read", (moves or [last])[0], name)


def _unlocked(planned: PlannedMoves, last: int) -> Iterator[Left]:
    if planned.procedure.applies_to.purpose != "tighten":
        return
    for group in planned.procedure.fasteners:
        if group.locked is None:
            continue
        names = {p.name for p in group.positions}
        loads = [
            i
            for i, s in planned.steps
            if KINDS[s.kind].load == "adds" and isinstance(s, RoundStep) and names & set(planned.names(s))
        ]
        locks = [i for i, s in planned.steps if isinstance(s, LockStep) and names <= set(planned.names(s))]
        if loads and not any(k > loads[-1] for k in locks):
            yield Left("left_unlocked", loads[-1], group.title, group.locked)


def _not_turned(planned: PlannedMoves) -> Iterator[Left]:
    """A bearing that was closed is turned through before anybody leaves it."""
    applies = planned.procedure.applies_to
    loads = [i for i, s in planned.steps if KINDS[s.kind].load == "adds"]
    if applies.purpose != "tighten" or applies.joint not in _BEARINGS or not loads:
        return
    if not any(k > loads[-1] for k, s in planned.steps if isinstance(s, TurnsFreelyStep)):
        yield Left("never_turned", loads[-1], "")


def _left_about(planned: PlannedMoves, metal: JointState, last: int) -> Iterator[Left]:
    """Nothing stays on the hook, no shell stays in a cap that is off, no liner stands loose, no engine on its back."""
    laid = {n for _, s in planned.steps if isinstance(s, ParkStep) for n in planned.touched(s)}
    for name, part in planned.parts.items():
        state = metal.parts[name]
        touching = [i for i, s in planned.steps if name in planned.touched(s)]
        if state.where == "hung":
            yield Left("left_hanging", touching[-1], name)
        if part.kind == "shell" and state.moved and state.where in ("with", "aside") and name not in laid:
            yield Left("not_laid_out", (touching or [last])[-1], name)
        if part.kind == "clamp" and part.starts is None and not metal.fitted(name) and _liner_stands(planned, metal):
            yield Left("not_held_down", last, name)
    if metal.attitude != "upright" and planned.procedure.applies_to.purpose == "tighten":
        yield Left("left_turned_over", last, "", metal.attitude)


def _liner_stands(planned: PlannedMoves, metal: JointState) -> bool:
    return any(p.kind == "liner" and metal.parts[n].moved and metal.fitted(n) for n, p in planned.parts.items())


def condition(planned: PlannedMoves, metal: JointState) -> Condition | None:
    """Return what a joint is like, from its parts and fasteners; None where that is not known."""
    mains = {p.name for g in planned.procedure.fasteners if g.acts == "along" for p in g.positions}
    liner = planned.procedure.applies_to.joint is JointKind.LINER
    parts = [p for p in planned.parts.values() if p.held_by or (liner and p.kind == "liner")]
    if not parts or any(metal.where(p.id) == "unknown" for p in parts):
        return None
    if any(metal.where(p.id) != "in_place" for p in parts):
        return "open"
    holds = {metal.holds[name] for name in mains}
    if not holds or holds == {"out"}:
        return "landed"
    if "tight" not in holds:
        return "loose"
    return "closed_up" if metal.isolated is False else "tight"
