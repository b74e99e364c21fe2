"""What must be so before a step can be done on the parts it names."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from itertools import chain
from typing import Final

from jorvek.core.metal.obstacle import Obstacle
from jorvek.core.metal.planned_moves import PlannedMoves
from jorvek.core.metal.state import JointState
from jorvek.core.procedure.metal_parts import Act, MetalPart
from jorvek.core.procedure.steps import GateStep, LandStep, Step

_MATING: Final = ("shell", "sealing_ring", "gasket", "strip")
"""Kinds whose own face lies against another while they are in place."""
_LETS_SEE: Final = ("strip", "clamp", "guide_stud", "gasket", "puller")
"""What lies on a face and does not hide it."""


def to_move(moves: PlannedMoves, metal: JointState, part: MetalPart, act: Act) -> Iterator[Obstacle]:
    """A part that is taken off or hung is there, nothing lies on it, and nothing holds it."""
    where = metal.where(part.id)
    if where == "away" or (where == "aside" and act == "take_off"):
        yield Obstacle("part_not_there", part.id, "put_in")
    if part.kind == "crankcase_door" and act == "take_off" and moves.fresh and not metal.cooled:
        yield Obstacle("door_before_wait", part.id, "wait")
    if act == "hang":
        yield from _carried(moves, metal, part)
    if where != "in_place":
        return
    for over in moves.covers[part.id]:
        if metal.fitted(over) and over not in moves.attached_parts[part.id]:
            yield Obstacle("part_under", over, "take_off")
    held = [name for name in moves.names_of(*part.held_by) if metal.holds[name] != "out"]
    if held:
        yield Obstacle("part_held", ", ".join(held), "nuts_off")
    if act == "take_off":
        yield from _carried(moves, metal, part)
    yield from _would_fall(moves, metal, part)


def _carried(moves: PlannedMoves, metal: JointState, part: MetalPart) -> Iterator[Obstacle]:
    """A part for which the document names what carries it is moved on that."""
    carriers = [q.id for q in moves.parts.values() if q.carries == part.id]
    if carriers and not any(metal.fitted(q) for q in carriers):
        yield Obstacle("not_carried", carriers[0], "put_in")


def _would_fall(moves: PlannedMoves, metal: JointState, carrier: MetalPart) -> Iterator[Obstacle]:
    """What carries a part stays until the part's fasteners hold it, or until it lies somewhere."""
    part = moves.parts.get(carrier.carries or "")
    if part is None or not part.held_by or metal.attitude == "inverted":
        return
    out = all(metal.holds[name] == "out" for name in moves.names_of(*part.held_by))
    if metal.where(part.id) == "hung" or (metal.fitted(part.id) and out):
        yield Obstacle("would_fall", part.id, "runs_down")


def to_come(moves: PlannedMoves, metal: JointState, part: MetalPart) -> Iterator[Obstacle]:
    """A part that comes to its place is not there yet, has what it lies on, and nothing is left between."""
    if metal.fitted(part.id):
        yield Obstacle("part_never_left", part.id, "take_off")
        return
    yield from _ready(moves, metal, part)
    if part.goes_with is not None and not metal.fitted(part.goes_with):
        return
    for seat in part.lies_on:
        if seat in moves.parts and metal.where(seat) not in ("in_place", "with", "unknown"):
            yield Obstacle("no_seat", seat, "put_in")
    for over in moves.covers[part.id]:
        if metal.fitted(over) and over not in moves.attached_parts[part.id]:
            yield Obstacle("part_under", over, "take_off")
    yield from _carried(moves, metal, part)
    if part.kind == "strip":
        yield from (o for seat in part.lies_on for o in bare(moves, metal, moves.parts[seat]))
    if not part.traits.shuts:
        yield from left_between(moves, metal, part)


def _ready(moves: PlannedMoves, metal: JointState, part: MetalPart) -> Iterator[Obstacle]:
    """What closes on a face is clean; a ring that slides is soaped or oiled."""
    faces = [part.id] if part.kind in ("head", "cap") else [seat for seat in part.lies_on if part.kind == "liner"]
    for name in faces:
        if metal.parts[name].face == "as_it_was" and metal.where(part.id) != "unknown":
            yield Obstacle("not_clean", name, "clean")
    for joint in moves.parts.values():
        wanted = part.kind == "head" and joint.kind == "gasket" and set(joint.lies_on) & set(part.lies_on)
        if wanted and not metal.fitted(joint.id):
            yield Obstacle("closed_without", joint.id, "put_in")
    for attached in moves.attached_parts[part.id]:
        fitted = moves.parts[attached].kind == "sealing_ring" and metal.where(attached) == "with"
        if fitted and metal.parts[attached].face != "oiled":
            yield Obstacle("ring_dry", attached, "oil")


def left_between(moves: PlannedMoves, metal: JointState, part: MetalPart) -> Iterator[Obstacle]:
    """Nothing that shuts faces in is left, or may be left, between those that meet."""
    faces = moves.faces(part)
    for other in moves.parts.values():
        if other.id != part.id and other.traits.shuts and metal.perhaps(other.id) and faces & set(other.lies_on):
            yield Obstacle("left_between", other.id, "take_off")


def bare(moves: PlannedMoves, metal: JointState, part: MetalPart) -> Iterator[Obstacle]:
    """A face that is oiled, cleaned, sealed or looked at can be reached."""
    where = metal.where(part.id)
    if where == "away":
        yield Obstacle("part_not_there", part.id, "put_in")
    if where == "in_place" and part.kind in _MATING:
        yield Obstacle("face_covered", part.id, "take_off")
        return
    over = [q for q in moves.covers[part.id] if q not in moves.attached_parts[part.id]]
    lying = [q for q in over if metal.fitted(q) and moves.parts[q].kind not in _LETS_SEE]
    halves = [q for q in over if moves.parts[q].kind == "shell"]
    # With one half of a bearing off, half of the journal's surface can be reached.
    half_bare = part.kind in ("journal", "pin") and not all(metal.fitted(q) for q in halves)
    if half_bare:
        lying = [q for q in lying if moves.parts[q].kind != "shell"]
    if lying:
        yield Obstacle("face_covered", lying[0], "take_off")


def _wiped(moves: PlannedMoves, metal: JointState, part: MetalPart) -> Iterator[Obstacle]:
    """A strip is gone before oil comes to its face."""
    strips = [q for q in moves.covers[part.id] if moves.parts[q].kind == "strip" and metal.fitted(q)]
    yield from (Obstacle("face_covered", strip, "take_off") for strip in strips)


def still_in(_: PlannedMoves, metal: JointState, part: MetalPart) -> Iterator[Obstacle]:
    """A part that is laid aside has come out before."""
    if metal.fitted(part.id):
        yield Obstacle("part_still_in", part.id, "take_off")
    if metal.where(part.id) == "away":
        yield Obstacle("part_not_there", part.id, "take_off")


def to_measure(moves: PlannedMoves, metal: JointState, part: MetalPart, step: Step) -> Iterator[Obstacle]:
    """What is measured is there, and the gauge gets to it."""
    measure = step.gate.measure if isinstance(step, GateStep) else ""
    if measure == "strip_clearance":
        yield from _strip(moves, metal, part)
    elif measure == "diameter_clearance":
        if part.kind == "journal" and metal.fitted(part.id):
            yield Obstacle("gauge_cannot_reach", part.id, "take_off")
    elif not metal.fitted(part.id):
        yield Obstacle("measured_out", part.id, "put_in")
    elif measure not in _THROUGH or part.kind == "shell":
        over = [q for q in moves.covers[part.id] if metal.fitted(q) and q not in moves.attached_parts[part.id]]
        yield from (Obstacle("part_under", q, "take_off") for q in over)


_THROUGH: Final = ("side_float", "end_float", "level")
"""Measurements that are taken with the joint closed, or beside what lies on the part."""


def _strip(moves: PlannedMoves, metal: JointState, part: MetalPart) -> Iterator[Obstacle]:
    state = metal.parts[part.id]
    if state.where != "in_place":
        yield Obstacle("strip_never_laid", part.id, "put_in")
    elif not state.squeezed:
        yield Obstacle("strip_loose", part.id)
    caps = [p.id for p in moves.parts.values() if p.kind == "cap" and metal.fitted(p.id)]
    if caps:
        yield Obstacle("strip_under_cap", caps[0], "take_off")


def to_land(moves: PlannedMoves, metal: JointState, part: MetalPart, step: Step) -> Iterator[Obstacle]:
    """What is landed hangs on the hook."""
    if isinstance(step, LandStep) and metal.where(part.id) not in ("hung", "unknown"):
        yield Obstacle("not_on_hook", part.id, "hang")


DEMANDS: Final[dict[Act, Callable[[PlannedMoves, JointState, MetalPart, Step], Iterator[Obstacle]]]] = {
    "put_in": lambda moves, metal, part, step: chain(to_land(moves, metal, part, step), to_come(moves, metal, part)),
    "take_off": lambda moves, metal, part, step: chain(
        to_land(moves, metal, part, step), to_move(moves, metal, part, "take_off")
    ),
    "hang": lambda moves, metal, part, _: to_move(moves, metal, part, "hang"),
    "lay": lambda moves, metal, part, _: still_in(moves, metal, part),
    "oil": lambda moves, metal, part, _: chain(bare(moves, metal, part), _wiped(moves, metal, part)),
    "seal": lambda moves, metal, part, _: bare(moves, metal, part),
    "clean": lambda moves, metal, part, _: bare(moves, metal, part),
    "look": lambda moves, metal, part, _: bare(moves, metal, part),
    "measure": to_measure,
    "unknown": lambda *_: iter(()),
}
"""What each act asks of each part it is done to."""
