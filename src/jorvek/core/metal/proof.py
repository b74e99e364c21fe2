"""The order proof: a procedure played step by step, and what cannot be done as it is written."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Final

from jorvek.core.metal.demands import DEMANDS
from jorvek.core.metal.moving import moved
from jorvek.core.metal.obstacle import Obstacle, clearing
from jorvek.core.metal.planned_moves import Script
from jorvek.core.metal.state import Metal, PartState
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


def beginning(script: Script) -> Metal:
    """Return what the joint is like when the procedure begins."""
    return Metal(
        parts={name: PartState(part.begins) for name, part in script.parts.items()},
        holds={p.name: script.starts_held for p in script.procedure.positions()},
    )


def advance(script: Script, metal: Metal, step: Step) -> Metal:
    """Return what the joint is like after a step."""
    act = script.act(step)
    for name in script.touched(step):
        metal = moved(script, metal, script.parts[name], act, step)
    return worked(script, metal, step)


def obstacles(script: Script, metal: Metal, step: Step, *, last_signed: bool = False) -> Iterator[Obstacle]:
    """Yield everything that stands in the way of a step."""
    act = script.act(step)
    here = metal
    for name in script.touched(step):
        part = script.parts[name]
        if here.where(name) == "unknown" and act in _NEEDS_TO_KNOW:
            yield Obstacle("not_known", name)
        else:
            yield from DEMANDS[act](script, here, part, step)
        # Parts of one step move one after the other, as they are named.
        here = moved(script, here, part, act, step)
    yield from asked(script, metal, step, last_signed=last_signed)


_NEEDS_TO_KNOW: Final[tuple[Act, ...]] = ("in", "measure", "oil", "seal")


def played(script: Script) -> Iterator[tuple[int, Step, Metal]]:
    """Yield each step in working order, repetitions unrolled, with what the joint is like before it."""
    metal = beginning(script)
    by_name = {step.id: (i, step) for i, step in script.steps}
    for i, step in script.steps:
        again = (by_name[name] for name in step.steps if name in by_name) if isinstance(step, RepeatStep) else ()
        for place, one in ((i, step), *again):
            yield place, one, metal
            metal = advance(script, metal, one)


def ending(script: Script) -> Metal:
    """Return what the joint is like when the procedure ends."""
    metal = beginning(script)
    for _, step, before in played(script):
        metal = advance(script, before, step)
    return metal


def stuck(script: Script) -> Iterator[Stuck]:
    """Yield every step that cannot be done as it is written."""
    signed = [i for i, s in script.steps if isinstance(s, HoldPointStep)]
    done: set[str] = set()
    for i, step, metal in played(script):
        last = not any(k > i for k in signed)
        for obstacle in obstacles(script, metal, step, last_signed=last):
            yield Stuck(i, obstacle, clearing(script, obstacle, i))
        for order in step.must_precede:
            if order.step in done:
                earlier = next(s.title for _, s in script.steps if s.id == order.step)
                yield Stuck(i, Obstacle("stated_order", earlier, words=order.reason), None)
        done.add(step.id)
