"""Hands that work on the simulated joint: what they read is what the metal shows, through tools that may lie."""

from __future__ import annotations

import random
from dataclasses import dataclass
from datetime import date
from statistics import median

from jorvek.core.bolting.stretch import STEEL_EXPANSION_PER_K
from jorvek.core.procedure.cell_items import CellItem
from jorvek.core.procedure.clamp import ClampModel
from jorvek.core.procedure.steps import (
    AngleStep,
    CheckTripStep,
    FullReleaseStep,
    LoosenPressureStep,
    LubricateStep,
    NutsOffStep,
    SettlingPassStep,
    StretchStep,
    TensionStep,
    TorqueStep,
)
from jorvek.core.run.log import events as ev
from jorvek.core.run.log.cells import Cell, InputType
from jorvek.core.run.log.definition import Definition
from jorvek.core.run.log.state import RunState
from jorvek.core.run.rules.on_instrument import true_of
from jorvek.core.tools import Tool
from jorvek.core.twin import metal
from jorvek.core.twin.seeded import USUAL_POPULATION, Fault, Population, seeded
from jorvek.local.player import usual_answer

_SEEN_DEG = 0.5
"""A head that moves less is said to stand still."""


@dataclass(frozen=True)
class ToolFaults:
    """How far the tools are off, as shares: a wrench that clicks late, a gauge that reads low."""

    wrench: float = 0.0
    gauge: float = 0.0


class TwinHands:
    """Hands on one simulated joint.

    Attributes:
        joints: the truth of each fastener group, by its id.
        stands: how each stands now.
        odd: the fastener of each group in which a fault of one was sown.
    """

    def __init__(
        self,
        definition: Definition,
        seed: int,
        faults: frozenset[Fault] = frozenset(),
        tools: ToolFaults = ToolFaults(),
        population: Population = USUAL_POPULATION,
    ) -> None:
        self.chance = random.Random(seed)  # noqa: S311 — measuring noise, not secrets
        self.tools = tools
        self.dry = population.dry if Fault.ALL_DRY in faults else None
        self.tool_share = self.chance.gauss(1.0, population.tool)
        self.kept_share = self.chance.gauss(1.0, population.transfer)
        self.joints: dict[str, metal.Joint] = {}
        self.odd: dict[str, str] = {}
        for group in definition.procedure.fasteners:
            made = seeded(group, definition.models[group.id], seed, faults, population)
            self.joints[group.id], self.odd[group.id] = made
        self.stands = {key: metal.slack(joint) for key, joint in self.joints.items()}

    def holds_N(self, definition: Definition, name: str) -> float:
        """Return what a fastener really holds."""
        group = definition.groups[name].id
        return self.stands[group].loads_N[self.joints[group].place(name)]

    def answer(self, state: RunState, cell: Cell, tools: list[Tool], today: date) -> ev.Answer:
        """Do what a call asks for, and return what is seen."""
        step = state.definition.steps_by_id[cell.step_id]
        match step:
            case TorqueStep() | SettlingPassStep() | CheckTripStep() if cell.ask is InputType.PULL:
                return self._pull(state, cell, step.torque.value)
            case AngleStep() if cell.ask is InputType.TURN:
                self._turn(state, cell, cell.target or 0.0)
                return ev.TurnAnswer(to_mark=True)
            case AngleStep() if cell.what is CellItem.END_TORQUE:
                return ev.ValueAnswer(text=f"{self._torque_Nm(state, cell):.0f}", unit="N.m")
            case FullReleaseStep() | NutsOffStep() if cell.fastener is not None:
                group, name = self._of(state, cell)
                self.stands[group] = metal.free(self.joints[group], self.stands[group], name)
                return usual_answer(state, cell, self.chance, tools, today)
            case LubricateStep() if cell.what is CellItem.TESTED_LOAD and step.friction_test and step.group:
                return self._tested(step.group, step.friction_test.torque.value)
            case StretchStep() if cell.what is CellItem.LENGTH:
                return ev.ValueAnswer(text=f"{self._length_mm(state, cell, step):.3f}", unit="mm")
            case LoosenPressureStep() if cell.what is CellItem.FREE:
                return self._released(state, cell, step)
            case TensionStep() if cell.what is CellItem.LOWEST:
                return self._run_down(state, cell, step, tools, today)
            case _:
                return usual_answer(state, cell, self.chance, tools, today)

    def _of(self, state: RunState, cell: Cell) -> tuple[str, str]:
        assert cell.fastener is not None
        return state.definition.groups[cell.fastener].id, cell.fastener

    def _pull(self, state: RunState, cell: Cell, torque_Nm: float) -> ev.PullAnswer:
        group, name = self._of(state, cell)
        true = torque_Nm * (1.0 + self.tools.wrench + self.chance.gauss(0.0, 0.01))
        self.stands[group], moved = metal.pull(self.joints[group], self.stands[group], name, true)
        if moved < _SEEN_DEG:
            return ev.PullAnswer(outcome=ev.PullOutcome.STILL)
        seen = max(1.0, moved + self.chance.gauss(0.0, 1.0))
        return ev.PullAnswer(outcome=ev.PullOutcome.MOVED, moved=f"{seen:.0f}")

    def _turn(self, state: RunState, cell: Cell, deg: float) -> None:
        group, name = self._of(state, cell)
        true = deg + self.chance.gauss(0.0, 1.0)
        self.stands[group] = metal.turn(self.joints[group], self.stands[group], name, true)

    def _torque_Nm(self, state: RunState, cell: Cell) -> float:
        group, name = self._of(state, cell)
        joint = self.joints[group]
        k = joint.place(name)
        felt = joint.bolts[k].torque_Nm(self.stands[group].loads_N[k]) * (1.0 + self.chance.gauss(0.0, 0.015))
        shown = state.tool(cell.tool_role)
        # Past the end of the scale nothing more can be read.
        return felt if shown is None else min(felt, shown.full_scale)

    def _tested(self, group: str, torque_Nm: float) -> ev.ValueAnswer:
        """Pull one more bolt of the set, with the oil of the joint, on a rig that shows torque and load truly."""
        per_N = median(b.torque_Nm(1000.0) - b.prevailing_Nm for b in self.joints[group].bolts) / 1000.0
        # Whoever forgets the oil on the joint has it on the test bolt.
        oiled = per_N / self.dry if self.dry else per_N
        load_N = torque_Nm / oiled * self.chance.gauss(1.0, 0.02)
        return ev.ValueAnswer(text=f"{load_N / 1000.0:.2f}", unit="kN")

    def _run_down(
        self, state: RunState, cell: Cell, step: TensionStep, tools: list[Tool], today: date
    ) -> ev.ValueAnswer:
        """Run the nuts down at what the gauge shows; what is left in them is what the oil really did."""
        shown = usual_answer(state, cell, self.chance, tools, today)
        assert isinstance(shown, ev.ValueAnswer)
        if step.afterwards != "release":
            return shown
        model = state.definition.clamp_of(cell)
        bar = true_of(state, cell, float(shown.text)) * (1.0 + self.tools.gauge)
        names = [c.fastener for c in state.definition.by_step[cell.step] if c.what is CellItem.NUT and c.fastener]
        group = state.definition.groups[names[0]].id
        joint = self.joints[group]
        left = {name: self._left_N(model, joint.bolts[joint.place(name)], bar) for name in names}
        self.stands[group] = metal.leave(joint, self.stands[group], left)
        return shown

    def _left_N(self, model: ClampModel, bolt: metal.Bolt, bar: float) -> float:
        """Return what a nut keeps of the tool's load, with this stud's own stiffness, seating and run-down."""
        stiff = bolt.delta_S / model.delta_S
        below, nut = model.stud.dS0 * stiff, model.stud.dNut * stiff
        tool = model.tool_load_N(bar) * self.tool_share * self.chance.gauss(1.0, 0.003)
        run_down = max(0.0, model.rundown_N * self.chance.gauss(1.0, 0.2))
        kept = (tool * (below + model.dP) - bolt.seats_mm) / (below + model.dP + nut)
        return run_down + self.kept_share * kept

    def _length_mm(self, state: RunState, cell: Cell, step: StretchStep) -> float:
        """Return the length now: the first reading, more by what this stud's load does at the datum."""
        group, name = self._of(state, cell)
        joint, model = self.joints[group], state.definition.model_of(name)
        k = joint.place(name)
        read = [state.live(key) for key in cell.uses]
        now_C, first_C, first_mm = (a.judgement.corrected or 0.0 for a in read if a is not None)
        stiff = joint.bolts[k].delta_own / model.delta_own
        give = model.datum_resilience(step.datum) * stiff
        stretched = give * self.stands[group].loads_N[k]
        return first_mm * (1.0 + STEEL_EXPANSION_PER_K * (now_C - first_C)) + stretched + self.chance.gauss(0.0, 0.004)

    def _released(self, state: RunState, cell: Cell, step: LoosenPressureStep) -> ev.ValueAnswer:
        """Return the first pressure of the ladder at which the nut moves."""
        group, name = self._of(state, cell)
        model, joint = state.definition.clamp_of(cell), self.joints[group]
        held = self.stands[group].loads_N[joint.place(name)]
        # The nut moves when tool and joint have taken over what it carried.
        ratio = (model.stud.dS0 + model.dP) / (model.stud.dS0 + model.dP + model.stud.dNut)
        bar = held / ratio / model.tool_load_N(1.0)
        tried = step.step.value * -(-bar // step.step.value)
        self.stands[group] = metal.free(joint, self.stands[group], name)
        return ev.ValueAnswer(text=f"{tried:.0f}", unit="bar")
