"""What stands in the sweep of the crank, by the state of a joint's parts."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Final

from jorvek.core.metal.planned_moves import PlannedMoves
from jorvek.core.metal.state import JointState
from jorvek.core.procedure.metal_parts import MetalPart

_SWINGS: Final = ("rod", "piston", "cap")
"""What hangs where the pin comes by."""


def standing(moves: PlannedMoves, metal: JointState) -> Iterator[MetalPart]:
    """Yield what was brought for the work and stands where the crank comes by."""
    yield from (p for p in moves.parts.values() if p.traits.in_sweep and metal.fitted(p.id))


def hanging(moves: PlannedMoves, metal: JointState) -> Iterator[MetalPart]:
    """Yield what hangs where the crank comes by."""
    yield from (p for p in moves.parts.values() if p.kind in _SWINGS and metal.where(p.id) == "hung")
