"""What was found: when each piece of work is done and at which angle, and how good that is proven to be."""

from __future__ import annotations

from typing import Literal, TypeAlias

from jorvek.core.plan.problem import Data

Aim: TypeAlias = Literal["earliest_finish", "least_barring"]


class Placed(Data):
    """A piece of work in its place.

    Attributes:
        start_min: minutes from midnight of the first day; its place in the order where only turning counts.
        angle_deg: where the crank stands meanwhile; None where it does not matter.
    """

    id: str
    start_min: int
    end_min: int
    angle_deg: float | None


class Move(Data):
    """A move of the crank between two pieces of work."""

    start_min: int
    end_min: int
    from_deg: float
    to_deg: float
    turning_deg: float


class BoundPart(Data):
    """One reason why it cannot be better than this.

    Attributes:
        code: what it rests on: the longest chain, hands, a set, the crank's own way.
        value: minutes, or degrees where only turning counts.
        what: names that make it up.
    """

    code: Literal["longest_chain", "hands", "set", "turning", "solver"]
    value: float
    what: tuple[str, ...] = ()


class Plan(Data):
    """A plan.

    Attributes:
        finish_min: when the last piece of work ends.
        barring_deg: by how much the crank is turned in all.
        bound: no plan is better than this, by the aim.
        bound_parts: what the bound is made of, the strongest first.
        proven: it is the best there is.
        since_min: the moment from which it counts; nothing of the time before can be planned away.
    """

    aim: Aim
    placed: tuple[Placed, ...]
    moves: tuple[Move, ...]
    finish_min: int
    barring_deg: float
    bound: float
    bound_parts: tuple[BoundPart, ...]
    proven: bool
    since_min: int = 0

    @property
    def reached(self) -> float:
        """The figure that was aimed at."""
        return float(self.finish_min) if self.aim == "earliest_finish" else self.barring_deg

    @property
    def gap(self) -> float:
        """By how much the plan may be above the best, as a share of itself."""
        whole = self.reached - self.since_min
        return 0.0 if whole <= 0 else max(0.0, (self.reached - self.bound) / whole)
