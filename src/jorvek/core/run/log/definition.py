"""A procedure with its cells: everything about a run that never changes."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from functools import cached_property
from typing import Any, Literal

from jorvek.core.procedure.clamp import BoltModel, ClampModel, models
from jorvek.core.procedure.document import Procedure
from jorvek.core.procedure.fasteners import FastenerGroup, Pump
from jorvek.core.procedure.follow import follow_up_of
from jorvek.core.procedure.options import Selection
from jorvek.core.procedure.stated import Stated, stated
from jorvek.core.procedure.steps import (
    AttitudeStep,
    CeilingStep,
    LoosenPressureStep,
    NewFastenersStep,
    SeatToolStep,
    Step,
    TensionStep,
    ToolIssueStep,
    WantedTool,
)
from jorvek.core.procedure.steps.debts import SettlingStep
from jorvek.core.run.log.cells import Cell, cells_hash, seats_tool
from jorvek.core.run.log.events import Again
from jorvek.core.run.log.expansion import expand
from jorvek.core.run.log.perishable import Perishable, perishables

_WITH_TENSIONERS = (CeilingStep, LoosenPressureStep, SeatToolStep, TensionStep)


@dataclass(frozen=True)
class Definition:
    """A procedure with its cells: everything about a run that never changes."""

    procedure: Procedure
    procedure_hash: str
    cells: tuple[Cell, ...]
    cells_hash: str

    def title(self, step: str) -> str:
        """Return the author's heading of a step, with its number from the second time round."""
        plain, _, cycle = step.partition("#")
        title = self.steps_by_id[plain].title
        return f"{title} ({cycle})" if cycle else title

    @cached_property
    def drawn(self) -> dict[str, tuple[Any, ...]]:
        """What views have drawn, newest first, for them to look up; nothing is decided by it."""
        return {}

    @cached_property
    def metal(self) -> dict[str, tuple[Any, ...]]:
        """What the joint was like after some steps, newest first; worked out again where it is not here."""
        return {}

    @cached_property
    def by_key(self) -> dict[str, Cell]:
        """Cells by key."""
        return {cell.key: cell for cell in self.cells}

    @cached_property
    def models(self) -> dict[str, BoltModel]:
        """Each fastener group with its joint and tool, as figures to reckon with."""
        return models(self.procedure)

    @cached_property
    def places(self) -> dict[str, int]:
        """Place of each cell in working order."""
        return {cell.key: k for k, cell in enumerate(self.cells)}

    def place_of(self, key: str) -> int:
        """Return the place of a cell in working order."""
        return self.places[key]

    @cached_property
    def steps_by_id(self) -> dict[str, Step]:
        """The document's steps by id."""
        return {step.id: step for step in self.procedure.steps}

    @cached_property
    def stated(self) -> dict[str, Stated]:
        """What each step states, by step id."""
        return {step.id: stated(step) for step in self.procedure.steps}

    def noun_of(self, fastener: str | None) -> Literal["stud", "bolt"]:
        """Return what a fastener is called; for none, what the first of the joint is."""
        groups = self.procedure.fasteners
        group = self.groups[fastener] if fastener else next(iter(groups), None)
        return "bolt" if group is not None and not group.nutted() else "stud"

    def model_of(self, fastener: str) -> BoltModel:
        """Return the model of a fastener's group."""
        return self.models[self.groups[fastener].id]

    def tensioner_of(self, cell: Cell) -> str | None:
        """Return the role of the tensioners that a cell's step works with; None when it works with none."""
        step = self.steps_by_id[cell.step_id]
        return step.tools if isinstance(step, _WITH_TENSIONERS) else None

    @cached_property
    def wanted_tools(self) -> dict[str, WantedTool]:
        """The tools that the document asks for, by role."""
        here = {cell.step_id for cell in self.cells}
        issues = (s for s in self.procedure.steps if isinstance(s, ToolIssueStep) and s.id in here)
        return {tool.role: tool for step in issues for tool in step.tools}

    def pump_of(self, cell: Cell) -> Pump | None:
        """Return the pump behind a cell's pressure; that of the only tensioner, where the step names none."""
        role = self.tensioner_of(cell)
        tools = [t for t in self.procedure.tensioners if role in (None, t.role)]
        return next((t.pump for t in tools if t.pump is not None), None)

    def clamp_of(self, cell: Cell) -> ClampModel:
        """Return the model of the group that the tensioner of a cell's step pulls.

        Raises:
            KeyError: when the step pulls nothing.
        """
        tool = {t.role: t for t in self.procedure.tensioners}[self.tensioner_of(cell) or ""]
        model = self.models[tool.group]
        assert isinstance(model, ClampModel)
        return model

    def speaks_for(self, cell: Cell, fastener: str) -> bool:
        """Tell whether a cell's reading concerns a fastener.

        A pressure belongs to all tools on the hose: it speaks for the fasteners that its step goes round.
        """
        return cell.fastener == fastener or (cell.fastener is None and fastener in self.went_round[cell.step])

    @cached_property
    def went_round(self) -> dict[str, frozenset[str]]:
        """For each step, the fasteners that it goes round."""
        return {step: frozenset(c.fastener for c in cells if c.fastener) for step, cells in self.steps}

    @cached_property
    def groups(self) -> dict[str, FastenerGroup]:
        """The fastener group of each position."""
        return {p.name: group for group in self.procedure.fasteners for p in group.positions}

    @cached_property
    def cells_of(self) -> dict[str, tuple[Cell, ...]]:
        """For each fastener, the cells about it, in working order."""
        grouped: dict[str, list[Cell]] = {}
        for cell in self.cells:
            if cell.fastener is not None:
                grouped.setdefault(cell.fastener, []).append(cell)
        return {name: tuple(cells) for name, cells in grouped.items()}

    @cached_property
    def by_step(self) -> dict[str, tuple[Cell, ...]]:
        """Cells by step, with its cycle."""
        return dict(self.steps)

    def renews(self, cell: Cell) -> bool:
        """Tell whether a cell puts a new fastener in its place."""
        return cell.fastener is not None and isinstance(self.steps_by_id[cell.step_id], NewFastenersStep)

    @cached_property
    def leaving(self) -> tuple[Cell, ...]:
        """Cells that leave something behind until another cell is filled: a tool on a stud, a part to be put right."""
        return tuple(cell for cell in self.cells if seats_tool(cell) or cell.traits.settled_by is not None)

    @cached_property
    def ended_by(self) -> dict[str, tuple[str, ...]]:
        """For each cell that leaves something behind, those that end it when all of them are filled; empty for none."""
        return {cell.key: tuple(c.key for c in self._ends(cell)) for cell in self.leaving}

    def _ends(self, leaving: Cell) -> list[Cell]:
        if seats_tool(leaving):
            later = self.cells[self.place_of(leaving.key) :]
            return [c for c in later if c.traits.tool == "off" and c.fastener == leaving.fastener][:1]
        steps = ((c, self.steps_by_id[c.step_id]) for c in self.cells if c.kind == leaving.traits.settled_by)
        settling = [c for c, step in steps if isinstance(step, SettlingStep) and step.of == leaving.step_id]
        return [c for c in settling if c.item == leaving.item] or settling

    @cached_property
    def laying(self) -> tuple[tuple[str, str], ...]:
        """The cells that lay the engine over, in working order, each with how it lies afterwards."""
        steps = ((c, self.steps_by_id[c.step_id]) for c in self.cells)
        return tuple((c.key, step.attitude) for c, step in steps if isinstance(step, AttitudeStep))

    @cached_property
    def perishables(self) -> tuple[Perishable, ...]:
        """What does not stay good for ever."""
        return perishables(self.procedure, self.steps)

    @cached_property
    def users(self) -> dict[str, tuple[str, ...]]:
        """For each cell, the cells whose judgement rests on it, directly or through others."""
        direct: dict[str, list[str]] = {}
        for cell in self.cells:
            for used in cell.uses:
                direct.setdefault(used, []).append(cell.key)
        return {cell.key: _closure(cell.key, direct) for cell in self.cells}

    @cached_property
    def steps(self) -> tuple[tuple[str, tuple[Cell, ...]], ...]:
        """Cells grouped by step, in order."""
        grouped: dict[str, list[Cell]] = {}
        for cell in self.cells:
            grouped.setdefault(cell.step, []).append(cell)
        return tuple((step, tuple(cells)) for step, cells in grouped.items())


def _closure(start: str, direct: Mapping[str, list[str]]) -> tuple[str, ...]:
    seen: dict[str, None] = {}
    queue = list(direct.get(start, ()))
    while queue:
        key = queue.pop(0)
        if key not in seen:
            seen[key] = None
            queue += direct.get(key, ())
    return tuple(seen)


def define(procedure: Procedure, selection: Selection | None = None, again: Again | None = None) -> Definition:
    """Return the definition of runs of a procedure, or of one of its follow-ups.

    Args:
        procedure: the document.
        selection: how its options are chosen; the first possible way when None.
        again: the follow-up; None for the whole procedure.

    Raises:
        Refusal: ``nothing_to_follow`` for a follow-up that it does not ask for.
    """
    if again is not None:
        procedure = follow_up_of(procedure, again.step, again.safety)
    cells = expand(procedure, selection)
    return Definition(procedure, procedure.content_hash(), cells, cells_hash(cells))
