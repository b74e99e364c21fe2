"""A procedure, under one choice of its options, with what rules need to know about it."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from functools import cached_property
from typing import TypeVar

from jorvek.core.metal.planned_moves import PlannedMoves
from jorvek.core.procedure.clamp import BoltModel, ClampModel, models
from jorvek.core.procedure.loads import Stage, stages
from jorvek.core.procedure.options import selections
from jorvek.core.procedure.steps import CeilingStep, Step, TensionStep, ToolIssueStep, WantedTool
from jorvek.core.procedure_check.finding import CheckFinding, Path

StepT = TypeVar("StepT", bound=Step)


@dataclass(frozen=True)
class Reading(PlannedMoves):
    """One way through a procedure, with what rules need to know about it beside its parts."""

    def first_way(self) -> Reading:
        """Return the first way through the procedure, which the others are held against."""
        return Reading(self.procedure, selections(self.procedure)[0])

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
