"""The joint of a run as metal: what its calls have done to its parts so far, and what stands in the way of the next."""

from __future__ import annotations

from typing import Final

from jorvek.core.metal.obstacle import Obstacle
from jorvek.core.metal.planned_moves import PlannedMoves
from jorvek.core.metal.proof import advance, beginning, obstacles
from jorvek.core.metal.state import JointState
from jorvek.core.metal.working import worked_on
from jorvek.core.refusal import Refusal
from jorvek.core.run.log.cells import Cell
from jorvek.core.run.log.state import RunState, once, once_a_step

Done = tuple[tuple[str, tuple[str, ...]], ...]
"""Each step that was begun: whole with no names, or in part with the fasteners that it is finished on."""
_KEPT: Final = 4


@once
def moves_of(state: RunState) -> PlannedMoves:
    """Return the way through the procedure that the run takes."""
    return PlannedMoves(state.definition.procedure, dict(state.started.selection))


@once
def metal_now(state: RunState) -> JointState:
    """Return what the joint is like after all that was done; what was left out was not done."""
    done, moves = _done(state), moves_of(state)
    known: tuple[tuple[Done, tuple[JointState, ...]], ...] = state.definition.metal.get(str(moves.selection), ())
    before, stood = max(known, key=lambda one: _alike(one[0], done), default=((), (beginning(moves),)))
    same = _alike(before, done)
    after = list(stood[: same + 1])
    for step_id, names in done[same:]:
        step = state.definition.steps_by_id[step_id]
        after.append(worked_on(moves, after[-1], step, names) if names else advance(moves, after[-1], step))
    if before != done:
        state.definition.metal[str(moves.selection)] = ((done, tuple(after)), *known[: _KEPT - 1])
    return after[-1]


def _alike(before: Done, done: Done) -> int:
    """Return how many steps from the first on are begun in the same way."""
    return next((k for k, (a, b) in enumerate(zip(before, done, strict=False)) if a != b), min(len(before), len(done)))


def _done(state: RunState) -> Done:
    found: list[tuple[str, tuple[str, ...]]] = []
    for step, cells in state.definition.steps:
        names = _begun(state, step)
        found += [] if names is None else [(cells[0].step_id, names)]
    return tuple(found)


@once_a_step
def _begun(state: RunState, step: str) -> tuple[str, ...] | None:
    """Return the fasteners that a step is finished on, none for the whole step; None where nothing is finished."""
    cells = state.definition.by_step[step]
    begun = [c for c in cells if state.worked(c.key)]
    if len(begun) == len(cells):
        return ()
    return (_finished(state, cells) or None) if begun else None


def _finished(state: RunState, cells: tuple[Cell, ...]) -> tuple[str, ...]:
    names = dict.fromkeys(c.fastener for c in cells if c.fastener is not None)
    return tuple(n for n in names if all(state.worked(c.key) for c in cells if c.fastener == n))


DANGEROUS: Final = frozenset(
    {
        "would_fall",
        "not_carried",
        "sweep_not_clear",
        "left_between",
        "clamps_nothing",
        "closed_without",
        "no_seat",
        "part_held",
        "part_under",
        "off_under_pressure",
        "hoses_before_ceiling",
        "let_go_before_jack",
        "under_the_tool",
    }
)
"""What no departure by name makes harmless: a part would fall, be crushed, or be loaded with nothing under it."""


def in_the_way(state: RunState, cell: Cell) -> tuple[Obstacle, ...]:
    """Return what stands in the way of the step that a call belongs to, once something before it was left out."""
    if not any(attempt.left_out for attempt in state.counting.values()):
        return ()
    step = state.definition.steps_by_id[cell.step_id]
    if any(state.worked(c.key) for c in state.definition.by_step[cell.step]):
        return ()
    return tuple(obstacles(moves_of(state), metal_now(state), step))


def demand_metal_ready(state: RunState, cell: Cell) -> None:
    """Refuse a call that the metal does not allow after what was left out before it.

    Raises:
        Refusal: ``metal_not_ready`` naming the part.
    """
    for obstacle in in_the_way(state, cell):
        if obstacle.code in DANGEROUS:
            moves = moves_of(state)
            part = moves.parts.get(obstacle.part)
            raise Refusal("metal_not_ready", cell=cell.key, part=part.called if part else obstacle.part)
