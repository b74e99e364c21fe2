"""A procedure, under one choice of its options, with what rules need to know about it."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from functools import cached_property
from typing import TypeVar

from jorvek.core.procedure.check.finding import CheckFinding, Path
from jorvek.core.procedure.clamp import BoltModel, ClampModel, models
from jorvek.core.procedure.document import Procedure
from jorvek.core.procedure.fasteners import FastenerGroup
from jorvek.core.procedure.loads import Stage, stages
from jorvek.core.procedure.options import Selection, applies
from jorvek.core.procedure.steps import CeilingStep, RoundStep, Step, TensionStep, ToolIssueStep, WantedTool

StepT = TypeVar("StepT", bound=Step)


@dataclass(frozen=True)
class Reading:
    """One way through a procedure.

    Attributes:
        procedure: the document.
        selection: how its options are chosen.
    """

    procedure: Procedure
    selection: Selection

    @cached_property
    def steps(self) -> tuple[tuple[int, Step], ...]:
        """The steps that are there, with their places."""
        return tuple((i, s) for i, s in enumerate(self.procedure.steps) if applies(s.only, self.selection))

    @cached_property
    def models(self) -> dict[str, BoltModel]:
        """The groups as figures to reckon with."""
        return models(self.procedure)

    @cached_property
    def stages(self) -> tuple[Stage, ...]:
        """What the stages build up."""
        return stages(self.procedure, self.selection)

    @property
    def loosens(self) -> bool:
        """Whether the procedure undoes the joint."""
        return self.procedure.applies_to.purpose == "loosen"

    def of(self, kind: type[StepT]) -> list[tuple[int, StepT]]:
        """Return the steps of one kind with their places."""
        return [(i, s) for i, s in self.steps if isinstance(s, kind)]

    def kinds(self, *kinds: str) -> list[tuple[int, Step]]:
        """Return the steps of some kinds with their places."""
        return [(i, s) for i, s in self.steps if s.kind in kinds]

    def names(self, step: RoundStep) -> tuple[str, ...]:
        """Return the fasteners that a step goes round."""
        return self.procedure.orders[step.order].names()

    def groups(self, step: RoundStep) -> list[FastenerGroup]:
        """Return the groups that a step goes round."""
        names = set(self.names(step))
        return [g for g in self.procedure.fasteners if any(p.name in names for p in g.positions)]

    def pulled(self, role: str) -> ClampModel:
        """Return the model of the group that a tensioner pulls."""
        tool = next(t for t in self.procedure.tensioners if t.role == role)
        model = self.models[tool.group]
        assert isinstance(model, ClampModel)
        return model

    def ceiling_before(self, index: int, role: str) -> CeilingStep | None:
        """Return the ceiling in force for a tensioner before a step."""
        found = [s for i, s in self.of(CeilingStep) if i < index and s.tools in (None, role)]
        return found[-1] if found else None

    def wanted(self, role: str) -> tuple[Path, WantedTool] | None:
        """Return the tool drawn for a role, and where it is asked for."""
        for i, s in self.steps:
            if isinstance(s, ToolIssueStep):
                for j, tool in enumerate(s.tools):
                    if tool.role == role:
                        return ("steps", i, "tools", j), tool
        return None

    def tensions_of(self, role: str) -> list[tuple[int, TensionStep]]:
        """Return the pressure stages of one tensioner."""
        return [(i, s) for i, s in self.of(TensionStep) if s.tools == role]


Rule = Callable[[Reading], Iterator[CheckFinding]]
