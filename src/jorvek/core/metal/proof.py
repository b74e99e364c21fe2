"""The order proof: a procedure played step by step, and what cannot be done as it is written."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Final

from jorvek.core.metal.demands import DEMANDS
from jorvek.core.metal.moving import moved
from jorvek.core.metal.obstacle import Obstacle, clearing
from jorvek.core.metal.planned_moves import PlannedMoves
from jorvek.core.metal.state import JointState, PartState
from jorvek.core.metal.working import asked, worked
from jorvek.core.procedure.metal_parts import Act
from jorvek.core.procedure.steps import HoldPointStep, RepeatStep, Step


@dataclass(frozen=True)
class Stuck:
    """A step that cannot be done as written.

    Attributes:
        index: its place in the document.
        obstacle: what stands in the way.
        cleared_by: title of the step that would clear it; None when none does.
    """

    index: int
    obstacle: Obstacle
    cleared_by: str | None


def beginning(moves: PlannedMoves) -> JointState:
    """Return what the joint is like when the procedure begins."""
    return JointState(
        parts={name: PartState(part.begins) for name, part in moves.parts.items()},
        holds={p.name: moves.starts_held for p in moves.procedure.positions()},
    )


def advance(moves: PlannedMoves, metal: JointState, step: Step) -> JointState:
    """Return what the joint is like after a step."""
    act = moves.act(step)
    for name in moves.touched(step):
        metal = moved(moves, metal, moves.parts[name], act, step)
    return worked(moves, metal, step)


def obstacles(moves: PlannedMoves, metal: JointState, step: Step, *, last_signed: bool = False) -> Iterator[Obstacle]:
    """Yield everything that stands in the way of a step."""
    act = moves.act(step)
    here = metal
    for name in moves.touched(step):
        part = moves.parts[name]
        if here.where(name) == "unknown" and act in _NEEDS_TO_KNOW:
            yield Obstacle("not_known", name)
        else:
            yield from DEMANDS[act](moves, here, part, step)
        # Parts of one step move one after the other, as they are named.
        here = moved(moves, here, part, act, step)
    yield from asked(moves, metal, step, last_signed=last_signed)


_NEEDS_TO_KNOW: Final[tuple[Act, ...]] = ("put_in", "measure", "oil", "seal")


def simulated(moves: PlannedMoves) -> Iterator[tuple[int, Step, JointState]]:
    """Yield each step in working order, repetitions unrolled, with what the joint is like before it."""
    metal = beginning(moves)
    by_name = {step.id: (i, step) for i, step in moves.steps}
    for i, step in moves.steps:
        again = (by_name[name] for name in step.steps if name in by_name) if isinstance(step, RepeatStep) else ()
        for place, one in ((i, step), *again):
            yield place, one, metal
            metal = advance(moves, metal, one)


def ending(moves: PlannedMoves) -> JointState:
    """Return what the joint is like when the procedure ends."""
    metal = beginning(moves)
    for _, step, before in simulated(moves):
        metal = advance(moves, before, step)
    return metal


def stuck(moves: PlannedMoves) -> Iterator[Stuck]:
    """Yield every step that cannot be done as it is written."""
    signed = [i for i, s in moves.steps if isinstance(s, HoldPointStep)]
    done: set[str] = set()
    for i, step, metal in simulated(moves):
        last = not any(k > i for k in signed)
        for obstacle in obstacles(moves, metal, step, last_signed=last):
            yield Stuck(i, obstacle, clearing(moves, obstacle, i))
        for order in step.must_precede:
            if order.step in done:
                earlier = next(s.title for _, s in moves.steps if s.id == order.step)
                yield Stuck(i, Obstacle("stated_order", earlier, words=order.reason), None)
        done.add(step.id)
