"""What each kind of step asks of the joint as a whole, and what it leaves: loads, oil, tools, crank, isolation."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace
from typing import Final

from jorvek.core.metal.demands import left_between
from jorvek.core.metal.moving import squeezed
from jorvek.core.metal.obstacle import Obstacle
from jorvek.core.metal.planned_moves import PlannedMoves
from jorvek.core.metal.state import JointState
from jorvek.core.metal.sweep import hanging
from jorvek.core.procedure.fasteners import FastenerGroup
from jorvek.core.procedure.kinds import KINDS
from jorvek.core.procedure.steps import (
    AttitudeStep,
    CeilingStep,
    CrankPositionStep,
    DeflectionStep,
    FullReleaseStep,
    HoldPointStep,
    InchStep,
    LoosenPressureStep,
    MakeSafeStep,
    NutsOffStep,
    RelieveStep,
    RemoveToolStep,
    RestoreStep,
    RoundStep,
    RunDownStep,
    SeatToolStep,
    Step,
    StretchStep,
    TensionStep,
    ThreadAboveStep,
    TurnsFreelyStep,
    VentStep,
    WaitStep,
)

Found = Iterator[Obstacle]


def asked(moves: PlannedMoves, metal: JointState, step: Step, *, last_signed: bool) -> Found:
    """Yield what stands in the way of a step, beside its parts.

    Args:
        moves: the way through the procedure.
        metal: what the joint is like before the step.
        step: the step.
        last_signed: nobody signs after it.
    """
    traits = KINDS[step.kind]
    if metal.isolated is False and not traits.hands_off:
        yield Obstacle("after_isolation_lifted", cleared_by="restore")
    proves = step.kind in _SIGNED_FOR or traits.crank == "turns"
    if metal.signed and last_signed and moves.simulated and (traits.load == "adds" or proves):
        yield Obstacle("after_signature", cleared_by="hold_point")
    if traits.crank == "turns":
        yield from _crank(moves, metal, step)
    if isinstance(step, RoundStep) and traits.load == "adds":
        yield from _loads(moves, metal, step)
    if isinstance(step, RoundStep) and traits.load == "takes" and not isinstance(step, NutsOffStep):
        yield from _lets_go(moves, metal, step)
    if isinstance(step, NutsOffStep | StretchStep):
        under = [name for name in moves.names(step) if name in metal.seated]
        at_tool = isinstance(step, StretchStep) and step.datum == "at_tool_under_pressure"
        if under and not at_tool:
            yield Obstacle("under_the_tool", ", ".join(under), "remove_tool")
    yield from _oil(moves, metal, step)


_SIGNED_FOR: Final = ("lock", "gate", "stretch", "stud_length", "feeler", "sense")
"""What a signature answers for, beside loads and turning through."""


def _crank(moves: PlannedMoves, metal: JointState, step: Step) -> Found:
    # These are all kinds of step that turn the crank.
    assert isinstance(step, CrankPositionStep | DeflectionStep | InchStep | TurnsFreelyStep)
    hung = {part.id for part in hanging(moves, metal)}
    for name, part in moves.parts.items():
        # A part whose place is not known counts as still fitted.
        if ((part.traits.in_sweep and metal.perhaps(name)) or name in hung) and name not in step.allows:
            yield Obstacle("sweep_not_clear", name, "put_in" if name in hung else "take_off")
    if not step.people_out:
        yield Obstacle("people_not_asked")
    if isinstance(step, CrankPositionStep) and step.proof_on is not None and not metal.fitted(step.proof_on):
        yield Obstacle("proof_not_there", step.proof_on, "put_in")


def _loads(moves: PlannedMoves, metal: JointState, step: RoundStep) -> Found:
    names = moves.names(step)
    if not isinstance(step, RunDownStep):
        out = [name for name in names if metal.holds[name] == "out"]
        if out and moves.simulated:
            yield Obstacle("not_run_down", ", ".join(out), "runs_down")
    for group in moves.groups(step):
        yield from _nothing_to_clamp(moves, metal, group)


def _nothing_to_clamp(moves: PlannedMoves, metal: JointState, group: FastenerGroup) -> Found:
    for part in moves.held_by(group):
        if not metal.fitted(part.id):
            yield Obstacle("clamps_nothing", part.id, "put_in")
            continue
        for attached in moves.attached_parts[part.id]:
            if moves.parts[attached].kind == "shell" and not metal.fitted(attached):
                yield Obstacle("closed_without", attached, "put_in")
        yield from left_between(moves, metal, part)
        faces = moves.faces(part)
        for shell in moves.parts.values():
            own = (
                shell.id in moves.attached_parts[part.id]
                or shell.kind not in _CLOSED_WITH
                or not set(shell.lies_on) & faces
            )
            if not own and metal.where(shell.id) not in ("in_place", "unknown"):
                yield Obstacle("closed_without", shell.id, "put_in")
        yield from _dry(moves, metal, faces)


_CLOSED_WITH: Final = ("shell", "gasket")


def _dry(moves: PlannedMoves, metal: JointState, faces: set[str]) -> Found:
    """A journal is oiled before its bearing closes for good; over a strip it stays dry."""
    if any(p.kind == "strip" and metal.fitted(p.id) for p in moves.parts.values()):
        return
    for name in sorted(faces):
        part = moves.parts.get(name)
        if part is not None and part.kind in ("journal", "pin") and metal.parts[name].face != "oiled":
            yield Obstacle("closed_dry", name, "oil")


def _lets_go(moves: PlannedMoves, metal: JointState, step: RoundStep) -> Found:
    out = [name for name in moves.names(step) if metal.holds[name] == "out"]
    if out and moves.simulated:
        yield Obstacle("out_already", ", ".join(out), "runs_down")
    if metal.attitude == "inverted":
        return
    for group in moves.groups(step):
        for part in moves.held_by(group):
            jacks = [q for q in moves.parts.values() if q.kind == "cap_jack" and q.carries == part.id]
            if jacks and metal.fitted(part.id) and not any(metal.fitted(q.id) for q in jacks):
                yield Obstacle("let_go_before_jack", jacks[0].id, "put_in")


def _oil(moves: PlannedMoves, metal: JointState, step: Step) -> Found:
    match step:
        case VentStep():
            roles = _roles(moves, metal)
            if roles and not roles & metal.proved:
                yield Obstacle("hoses_before_ceiling", cleared_by="ceiling")
        case TensionStep() | LoosenPressureStep():
            if not metal.hoses:
                yield Obstacle("no_oil", cleared_by="vent")
            bare_studs = [name for name in moves.names(step) if name not in metal.seated]
            if bare_studs and isinstance(step, LoosenPressureStep):
                yield Obstacle("no_tool_on", ", ".join(bare_studs), "seat_tool")
        case FullReleaseStep():
            tight = [name for name in moves.names(step) if metal.holds[name] == "tight"]
            if len(tight) > 2 and moves.simulated:
                yield Obstacle("released_at_once", ", ".join(tight), "loosen_angle")
        case RemoveToolStep():
            if metal.pressure:
                yield Obstacle("off_under_pressure", cleared_by="relieve")
        case SeatToolStep():
            bare_ends = [name for name in moves.names(step) if name not in metal.engaged]
            if bare_ends and moves.simulated:
                yield Obstacle("puller_not_proved", ", ".join(bare_ends), "thread_above_nut")
        case _:
            return


def _roles(moves: PlannedMoves, metal: JointState) -> set[str]:
    """Return the roles of the tools that are on the studs."""
    return {t.role for t in moves.procedure.tensioners if set(moves.names_of(t.group)) & metal.seated}


_STARTS: Final = ("turning_gear", "generator_breaker", "remote_start", "starting_air", "valve_gear", "signs")
"""What could move the engine once it is given back; coolant for a test could not."""


def worked(moves: PlannedMoves, metal: JointState, step: Step) -> JointState:
    """Return the joint after a step, its parts left aside."""
    return worked_on(moves, metal, step, moves.names(step) if isinstance(step, RoundStep) else ())


def worked_on(moves: PlannedMoves, metal: JointState, step: Step, names: tuple[str, ...]) -> JointState:
    """Return the joint after a step was done on some of its fasteners."""
    match step:
        case MakeSafeStep():
            return replace(metal, isolated=True)
        case RestoreStep():
            lifted = any(item.isolates in _STARTS or item.isolates is None for item in step.items)
            return replace(metal, isolated=False) if lifted else metal
        case HoldPointStep():
            return replace(metal, signed=True)
        case AttitudeStep():
            return replace(metal, attitude=step.attitude)
        case WaitStep():
            return replace(metal, cooled=True)
        case CeilingStep():
            roles = {t.role for t in moves.procedure.tensioners if step.tools in (None, t.role)}
            return replace(metal, proved=metal.proved | roles)
        case ThreadAboveStep():
            return replace(metal, engaged=metal.engaged | set(names))
        case VentStep():
            return replace(metal, hoses=True)
        case RelieveStep():
            return replace(metal, pressure=False)
        case SeatToolStep():
            return replace(metal, seated=metal.seated | set(names))
        case RemoveToolStep():
            on = metal.seated - set(names)
            return replace(metal, seated=on, hoses=metal.hoses and bool(on), engaged=metal.engaged - set(names))
        case _:
            return _fastened(moves, metal, step, names)


def _fastened(moves: PlannedMoves, metal: JointState, step: Step, names: tuple[str, ...]) -> JointState:
    traits = KINDS[step.kind]
    if traits.pressure == "raises":
        metal = replace(metal, pressure=True)
    if isinstance(step, NutsOffStep):
        return metal.with_holds(names, "out")
    if isinstance(step, RunDownStep):
        loose = tuple(name for name in names if metal.holds[name] == "out")
        return metal.with_holds(loose, "slack")
    if traits.load == "adds":
        return squeezed(moves, metal.with_holds(names, "tight"))
    if traits.load == "takes":
        held = tuple(name for name in names if metal.holds[name] == "tight")
        return metal.with_holds(held, "slack")
    return metal
