"""A procedure under one choice of its options, as what happens to its parts."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property
from typing import Final

from jorvek.core.metal.state import Hold
from jorvek.core.procedure.document import Procedure
from jorvek.core.procedure.fasteners import FastenerGroup
from jorvek.core.procedure.kinds import KINDS
from jorvek.core.procedure.metal_parts import Act, Condition, MetalPart
from jorvek.core.procedure.options import Selection, applies
from jorvek.core.procedure.steps import MakeSafeStep, RoundStep, Step, SupportStep, TemporaryOffStep, TemporaryOnStep

_STARTS: Final[dict[Condition, Hold]] = {
    "closed_up": "tight",
    "tight": "tight",
    "loose": "slack",
    "open": "out",
    "landed": "out",
}


@dataclass(frozen=True)
class PlannedMoves:
    """One way through a procedure.

    Attributes:
        procedure: the document.
        selection: how its options are chosen.
    """

    procedure: Procedure
    selection: Selection

    @cached_property
    def steps(self) -> tuple[tuple[int, Step], ...]:
        """The steps that are there, with their places in the document; a repetition stands in its own place."""
        return tuple((i, s) for i, s in enumerate(self.procedure.steps) if applies(s.only, self.selection))

    @property
    def simulated(self) -> bool:
        """Whether the document names its parts; one that does not is worked as before, its metal is not known."""
        return bool(self.procedure.parts)

    @cached_property
    def parts(self) -> dict[str, MetalPart]:
        """The parts that are there, by name; carriers that no author named stand under the name of their step."""
        stated = {p.id: p for p in self.procedure.parts if applies(p.only, self.selection)}
        for _, step in self.steps:
            if _carries(step) and not step.touches:
                stated[step.id] = MetalPart(id=step.id, title=step.title, kind="carrier")
        return stated

    @cached_property
    def attached_parts(self) -> dict[str, tuple[str, ...]]:
        """For each part those that come and go with it, and those with them."""
        return {name: tuple(self._with(name)) for name in self.parts}

    def _with(self, name: str) -> list[str]:
        found: list[str] = []
        queue = [name]
        while queue:
            here = queue.pop()
            new = [p.id for p in self.parts.values() if p.goes_with == here and p.id not in found]
            found += new
            queue += new
        return found

    @cached_property
    def covers(self) -> dict[str, tuple[str, ...]]:
        """For each part those that lie on its faces while they are in place."""
        return {name: tuple(q.id for q in self.parts.values() if name in q.lies_on) for name in self.parts}

    def faces(self, part: MetalPart) -> set[str]:
        """Return a part, those that come with it, and everything that they lie on."""
        along = (part, *(self.parts[attached] for attached in self.attached_parts[part.id]))
        return {name for one in along for name in (one.id, *one.lies_on)}

    def touched(self, step: Step) -> tuple[str, ...]:
        """Return the parts that a step is about, as far as they are there."""
        named = step.touches or self._implied(step)
        return tuple(name for name in named if name in self.parts)

    def _implied(self, step: Step) -> tuple[str, ...]:
        if _carries(step):
            return (step.id,)
        return (step.of,) if isinstance(step, TemporaryOffStep) else ()

    def act(self, step: Step) -> Act:
        """Return what a step does to the parts it names; what only its words say is not known."""
        return step.does or KINDS[step.kind].does or "unknown"

    def groups(self, step: RoundStep) -> list[FastenerGroup]:
        """Return the fastener groups that a step goes round."""
        names = set(self.names(step))
        return [g for g in self.procedure.fasteners if any(p.name in names for p in g.positions)]

    def names(self, step: RoundStep) -> tuple[str, ...]:
        """Return the fasteners that a step goes round."""
        return self.procedure.orders[step.order].names()

    def held_by(self, group: FastenerGroup) -> list[MetalPart]:
        """Return the parts that a group holds."""
        return [p for p in self.parts.values() if group.id in p.held_by]

    def names_of(self, *groups: str) -> tuple[str, ...]:
        """Return the fasteners of some groups."""
        return tuple(p.name for g in self.procedure.fasteners if g.id in groups for p in g.positions)

    @property
    def fresh(self) -> bool:
        """Whether the engine was stopped for this procedure: it makes safe itself."""
        return any(isinstance(step, MakeSafeStep) for _, step in self.steps)

    @property
    def starts_held(self) -> Hold:
        """What the fasteners are like when the procedure begins."""
        condition = self.procedure.begins
        if condition is not None:
            return _STARTS[condition]
        return "tight" if self.procedure.applies_to.purpose == "loosen" else "out"


def _carries(step: Step) -> bool:
    return isinstance(step, SupportStep) or (isinstance(step, TemporaryOnStep) and step.carries_part)
