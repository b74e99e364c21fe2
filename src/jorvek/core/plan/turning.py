"""The crank's circle: at which angles a piece of work can be done, and what lies between two angles."""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import cached_property
from typing import Final

from jorvek.core.plan.problem import PieceOfWork, Problem

_SAME_DEG: Final = 1e-6


@dataclass(frozen=True)
class Circle:
    """The angles that matter to a problem: where the crank stands, and the ends of all intervals.

    An optimum lies at such angles alone: between two of them nothing changes but the length of the way.
    """

    problem: Problem

    @cached_property
    def points_deg(self) -> tuple[float, ...]:
        """Every angle once, rising."""
        cycle = self.problem.cycle_deg
        found = [self.problem.start_deg % cycle]
        found += [end % cycle for piece in self.problem.work for pair in piece.crank or () for end in pair]
        kept: list[float] = []
        for angle in sorted(found):
            if not kept or angle - kept[-1] > _SAME_DEG:
                kept.append(angle)
        if len(kept) > 1 and kept[0] + cycle - kept[-1] <= _SAME_DEG:
            kept.pop()
        return tuple(kept)

    @cached_property
    def start(self) -> int:
        """Index of the angle at which the crank stands."""
        return self.nearest(self.problem.start_deg)

    def nearest(self, angle_deg: float) -> int:
        """Return the index of an angle."""
        cycle = self.problem.cycle_deg
        apart = [abs((angle_deg - p + cycle / 2) % cycle - cycle / 2) for p in self.points_deg]
        return apart.index(min(apart))

    def allowed(self, piece: PieceOfWork) -> tuple[int, ...]:
        """Return the indices of the angles at which a piece can be done; none where the crank does not matter."""
        if piece.crank is None:
            return ()
        return tuple(k for k, angle in enumerate(self.points_deg) if self._within(piece.crank, angle))

    def _within(self, intervals: tuple[tuple[float, float], ...], angle: float) -> bool:
        cycle = self.problem.cycle_deg
        for start, end in intervals:
            width = end - start if end >= start else (end - start) % cycle
            ahead = (angle - start) % cycle
            if width >= cycle or ahead <= width + _SAME_DEG or ahead >= cycle - _SAME_DEG:
                return True
        return False

    def turning_deg(self, one: int, other: int) -> float:
        """Return by how much the crank is turned from one angle to another."""
        cycle = self.problem.cycle_deg
        forward = (self.points_deg[other] - self.points_deg[one]) % cycle
        if self.problem.direction == "forward":
            return forward
        return min(forward, cycle - forward)

    def move_min(self, one: int, other: int) -> int:
        """Return the time of a move: to prepare it, and the turning in whole minutes; nothing for none."""
        if one == other:
            return 0
        turning = self.turning_deg(one, other) / self.problem.deg_per_minute
        return self.problem.minutes_per_move + math.ceil(turning - 1e-9)
