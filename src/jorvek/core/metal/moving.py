"""What a step leaves behind on the parts it names."""

from __future__ import annotations

from dataclasses import replace

from jorvek.core.metal.planned_moves import PlannedMoves
from jorvek.core.metal.state import Face, JointState, PartState
from jorvek.core.procedure.metal_parts import Act, MetalPart, Where
from jorvek.core.procedure.steps import GateStep, Step

_FACES: dict[Act, Face] = {"oil": "oiled", "seal": "sealed", "clean": "clean"}


def moved(moves: PlannedMoves, metal: JointState, part: MetalPart, act: Act, step: Step) -> JointState:
    """Return the joint after a step has done its act to a part."""
    state = metal.parts[part.id]
    match act:
        case "put_in":
            return _home(moves, metal, part)
        case "take_off" | "hang" | "lay":
            gone: Where = "hung" if act == "hang" else ("away" if part.traits.brought else "aside")
            return _gone(moves, metal, part, gone)
        case "oil" | "seal" | "clean":
            return metal.with_part(part.id, replace(state, face=_FACES[act]))
        case "measure" if isinstance(step, GateStep):
            taken = state.measured | {step.gate.measure}
            return metal.with_part(part.id, replace(state, measured=taken))
        case "unknown":
            return metal.with_part(part.id, replace(state, where="unknown", measured=frozenset()))
        case _:
            return metal


def _home(moves: PlannedMoves, metal: JointState, part: MetalPart) -> JointState:
    waits = part.goes_with is not None and not metal.fitted(part.goes_with)
    metal = metal.with_part(part.id, _now(metal.parts[part.id], "with" if waits else "in_place"))
    if not waits:
        for attached in moves.attached_parts[part.id]:
            if metal.where(attached) == "with":
                metal = metal.with_part(attached, _now(metal.parts[attached], "in_place"))
    return metal


def _gone(moves: PlannedMoves, metal: JointState, part: MetalPart, where: Where) -> JointState:
    if metal.fitted(part.id):
        for attached in moves.attached_parts[part.id]:
            if metal.fitted(attached):
                metal = metal.with_part(attached, _now(metal.parts[attached], "with"))
    return metal.with_part(part.id, _now(metal.parts[part.id], where))


def _now(state: PartState, where: Where) -> PartState:
    return replace(
        state, where=where, moved=True, measured=frozenset(), squeezed=state.squeezed and where == "in_place"
    )


def squeezed(moves: PlannedMoves, metal: JointState) -> JointState:
    """Return the joint after it was pulled together over a strip that lies in it."""
    closed = [p.id for p in moves.parts.values() if p.kind == "cap" and metal.fitted(p.id)]
    for part in moves.parts.values():
        if part.kind == "strip" and metal.fitted(part.id) and closed:
            metal = metal.with_part(part.id, replace(metal.parts[part.id], squeezed=True))
    return metal
