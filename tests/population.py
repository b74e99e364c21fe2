"""A population of bolted joints by itself: it shares no code with the simulated joint of the product.

One bolt advances along its thread; the joint under it gives; its neighbours feel that. Loads follow from one linear
system each time, in closed form, without stepping. Nominal stiffness and sizes are the document's; everything that
differs from joint to joint, from bolt to bolt and from pull to pull is drawn here.
"""

from __future__ import annotations

import copy
import math
import random
from dataclasses import dataclass, replace
from datetime import date
from functools import lru_cache
from typing import Final

import numpy as np
from numpy.typing import NDArray

from jorvek.core.procedure.cell_items import CellItem
from jorvek.core.procedure.document import Procedure
from jorvek.core.procedure.steps import (
    AngleStep,
    CheckTripStep,
    FullReleaseStep,
    LubricateStep,
    NutsOffStep,
    SettlingPassStep,
    TorqueStep,
)
from jorvek.core.run.log import events as ev
from jorvek.core.run.log.cells import Cell, InputType
from jorvek.core.run.log.definition import Definition
from jorvek.core.run.log.state import RunState
from jorvek.core.run.rules.progress import next_call
from jorvek.core.tools import Tool
from jorvek.local.player import usual_answer
from tests.core.paper_run import BRAM, INES, TODAY, TOOLS, PaperRun

Array = NDArray[np.float64]


@dataclass(frozen=True)
class Case:
    """What is wrong, if anything: factors and shares; a seating gasket in degrees of the full movement.

    Attributes:
        one_dry: friction of one bolt over its own.
        all_dry: friction of all over theirs.
        wrench: by how much the wrench is off, as a share.
        soft_yield: strength of one bolt over its own.
        soft_stiffness: stiffness of one bolt over its own.
        gasket_deg: how far a seating gasket lets each bolt turn further, with its standard deviation.
    """

    one_dry: float = 1.0
    all_dry: float = 1.0
    wrench: float = 0.0
    soft_yield: float = 1.0
    soft_stiffness: float = 1.0
    gasket_deg: tuple[float, float] = (0.0, 0.0)


HEALTHY: Final = Case()
FRICTION_OF_JOINTS: Final = 0.07
FRICTION_OF_BOLTS: Final = 0.04
STIFFNESS: Final = 0.03
WRENCH_OF_ITSELF: Final = 0.005
"""Standard deviation of one wrench from pull to pull: within ± 1 % of itself nineteen times in twenty."""
READ_DEG: Final = 1.2
MARK_DEG: Final = 1.0
FELT: Final = 0.015
"""Of a torque read while it turns."""
RIG: Final = 0.02
"""Of the load that a test bolt shows."""
STILL_DEG: Final = 0.5
AFTER_YIELD: Final = 0.03
STRONGER: Final = (1.0, 1.12)
"""Strength over what the class promises."""


class Group:
    """Like fasteners in one joint: what is true of each, and how far each has been advanced."""

    def __init__(
        self, definition: Definition, group: str, case: Case, chance: np.random.Generator, common: float
    ) -> None:
        written = next(g for g in definition.procedure.fasteners if g.id == group)
        model = definition.models[group]
        assert model.friction is not None
        n = len(written.positions)
        self.names = [p.name for p in written.positions]
        self.odd = self.names[int(chance.integers(n))]
        odd = self.names.index(self.odd)
        mu = model.friction[1] * common * case.all_dry * np.exp(chance.normal(0.0, FRICTION_OF_BOLTS, n))
        mu[odd] *= case.one_dry
        pitch, d2, face = model.thread.P_mm, model.thread.d2_mm, model.face_mm
        # Lever of the ramp, of the flank of 30 degrees and of the bearing face, mm.
        self.lever_mm = pitch / (2.0 * math.pi) + mu * (d2 / (2.0 * math.cos(math.pi / 6.0)) + face / 2.0)
        self.bolt = model.delta_S / chance.normal(1.0, STIFFNESS, n)
        self.bolt[odd] /= case.soft_stiffness
        xy = np.array([(p.x.value, p.y.value) for p in written.positions])
        apart = np.hypot(*(xy[:, None, :] - xy[None, :, :]).transpose(2, 0, 1))
        give = model.dP / chance.normal(1.0, STIFFNESS)
        reach = written.clamped.reach
        self.joint = give * (np.eye(n) if reach is None else np.exp(-apart / reach.value))
        # Distortion energy of pull and of the twist that the thread alone passes on.
        d0 = math.sqrt(4.0 * model.smallest_mm2 / math.pi)
        twist = 1.5 * (d2 / d0) * (pitch / (math.pi * d2) + mu / math.cos(math.pi / 6.0))
        strength = chance.uniform(*STRONGER, n) * model.yield_MPa
        strength[odd] *= case.soft_yield
        self.yields_N = model.smallest_mm2 * strength / np.sqrt(1.0 + 3.0 * twist**2)
        beds = written.clamped.embedding.value * np.clip(chance.normal(1.0, 0.3, n), 0.2, None)
        seats = np.clip(chance.normal(*case.gasket_deg, n), 0.0, None) * pitch / 360.0
        self.beds_mm, self.beds_at_N = beds + seats, 0.5 * model.yield_N()
        self.pitch_mm, self.prevailing_Nm = pitch, model.prevailing_Nm
        self.advance, self.grown, self.most_N, self.load_N = (np.zeros(n) for _ in range(4))
        # Further bolts of the batch, with the oil of the can: what is forgotten on the joint is not forgotten on them.
        self.test_mu = model.friction[1] * common * np.exp(chance.normal(0.0, FRICTION_OF_BOLTS, 6))

    def _bedded(self, most_N: Array) -> Array:
        return self.beds_mm * np.minimum(1.0, most_N / self.beds_at_N)

    def _loads(self, free: Array, held: dict[int, float]) -> Array:
        """Loads that fit the advances ``free``, with some of them held; a bolt never pushes."""
        n, loose = len(self.names), set[int]()
        while True:
            A, b = np.diag(self.bolt) + self.joint, free.copy()
            for k, load in held.items():
                A[k], b[k] = np.eye(n)[k], load
            for k in loose:
                A[k], b[k] = np.eye(n)[k], 0.0
            F = np.linalg.solve(A, b)
            gone = {k for k in range(n) if F[k] < -1e-6} - loose
            if not gone:
                return np.asarray(np.maximum(F, 0.0), np.float64)
            loose |= gone

    def _settled(self, held: dict[int, float]) -> Array:
        """Loads after faces have bedded in under the highest that each has seen."""
        most = self.most_N
        for _ in range(8):
            F = self._loads(self.advance - self.grown - self._bedded(most), held)
            most = np.maximum(most, F)
        self.most_N = most
        return F

    def pull(self, name: str, torque_Nm: float) -> float:
        """Turn a fastener until it resists so much; return by how many degrees it moved."""
        k = self.names.index(name)
        wanted = max(0.0, 1000.0 * (torque_Nm - self.prevailing_Nm) / self.lever_mm[k])
        if wanted <= self.load_N[k]:
            return 0.0
        wanted = min(wanted, self.yields_N[k])
        F = self._settled({k: wanted})
        reached = self.bolt[k] * F[k] + self.joint[k] @ F + self.grown[k] + self._bedded(self.most_N)[k]
        moved = 360.0 * (reached - self.advance[k]) / self.pitch_mm
        self.advance[k], self.load_N = reached, F
        return float(moved)

    def turn(self, name: str, deg: float) -> None:
        """Turn a fastener by an angle, into its yield where it comes to that."""
        k = self.names.index(name)
        self.advance[k] += deg * self.pitch_mm / 360.0
        F = self._settled({})
        if F[k] > self.yields_N[k]:
            held = self.yields_N[k] + AFTER_YIELD * (F[k] - self.yields_N[k])
            self.most_N[k] = held
            F = self._settled({k: held})
            strained = self.bolt[k] * F[k] + self.joint[k] @ F + self._bedded(self.most_N)[k]
            self.grown[k] = self.advance[k] - strained
        self.load_N = F

    def free(self, name: str) -> None:
        """Slacken a fastener until it holds nothing; what has grown and bedded in stays."""
        k = self.names.index(name)
        F = self._settled({k: 0.0})
        self.advance[k] = self.joint[k] @ F + self.grown[k] + self._bedded(self.most_N)[k]
        self.load_N = F

    def torque_Nm(self, name: str) -> float:
        """The torque at which it would turn on."""
        k = self.names.index(name)
        return float(self.load_N[k] * self.lever_mm[k] / 1000.0 + self.prevailing_Nm)


class Hands:
    """Hands on one joint, drawn by a seed."""

    def __init__(self, definition: Definition, seed: int, case: Case = HEALTHY) -> None:
        self.chance, self.case = np.random.default_rng(seed), case
        common = float(np.exp(self.chance.normal(0.0, FRICTION_OF_JOINTS)))
        pulled = {c.fastener for c in definition.cells if c.kind in ("torque", "angle") and c.fastener is not None}
        turned = {definition.groups[name].id for name in pulled}
        turned = {group for group in turned if definition.models[group].friction is not None}
        self.groups = {g: Group(definition, g, case, self.chance, common) for g in sorted(turned)}
        self.usual = random.Random(seed)

    def group_of(self, state: RunState, name: str) -> Group:
        """The group of a fastener."""
        return self.groups[state.definition.groups[name].id]

    def answer(self, state: RunState, cell: Cell, tools: list[Tool], today: date) -> ev.Answer:
        """Do what a call asks for and say what is seen."""
        step, name = state.definition.steps_by_id[cell.step_id], cell.fastener
        match step:
            case TorqueStep() | SettlingPassStep() | CheckTripStep() if cell.ask is InputType.PULL and name:
                off = 1.0 + self.case.wrench + self.chance.normal(0.0, WRENCH_OF_ITSELF)
                moved = self.group_of(state, name).pull(name, step.torque.value * off)
                seen = moved + self.chance.normal(0.0, READ_DEG)
                if moved < STILL_DEG or round(seen) < 1:
                    return ev.PullAnswer(outcome=ev.PullOutcome.STILL)
                return ev.PullAnswer(outcome=ev.PullOutcome.MOVED, moved=f"{seen:.0f}")
            case AngleStep() if cell.ask is InputType.TURN and name:
                self.group_of(state, name).turn(name, (cell.target or 0.0) + self.chance.normal(0.0, MARK_DEG))
                return ev.TurnAnswer(to_mark=True)
            case AngleStep() if cell.what is CellItem.END_TORQUE and name:
                felt = self.group_of(state, name).torque_Nm(name) * self.chance.normal(1.0, FELT)
                gauge = state.tool(cell.tool_role)
                return ev.ValueAnswer(text=f"{felt if gauge is None else min(felt, gauge.full_scale):.0f}", unit="N.m")
            case FullReleaseStep() | NutsOffStep() if name and state.definition.groups[name].id in self.groups:
                self.group_of(state, name).free(name)
                return usual_answer(state, cell, self.usual, tools, today)
            case LubricateStep() if cell.what is CellItem.TESTED_LOAD and step.friction_test and step.group:
                which = (int(cell.which) - 1) % step.friction_test.bolts
                return self._test_bolt(state, step.group, step.friction_test.torque.value, which)
            case _:
                return usual_answer(state, cell, self.usual, tools, today)

    def _test_bolt(self, state: RunState, group: str, torque_Nm: float, which: int) -> ev.ValueAnswer:
        model, mu = state.definition.models[group], float(self.groups[group].test_mu[which])
        lever = model.thread.P_mm / (2.0 * math.pi) + mu * (
            model.thread.d2_mm / (2.0 * math.cos(math.pi / 6.0)) + model.face_mm / 2.0
        )
        load_kN = torque_Nm / lever * self.chance.normal(1.0, RIG)
        return ev.ValueAnswer(text=f"{load_kN:.2f}", unit="kN")


@lru_cache(maxsize=16)
def _ready(key: str) -> PaperRun:
    """A run up to what depends on the joint: its friction test, or its first pull."""
    procedure, way = _KEPT[key]
    run = PaperRun(procedure, **way)
    usual = random.Random(1)
    while (cell := next_call(run.state)) is not None:
        if cell.ask is InputType.PULL or cell.what is CellItem.TESTED_LOAD:
            break
        _answer(run, cell, usual_answer(run.state, cell, usual, TOOLS, TODAY))
    return run


_KEPT: dict[str, tuple[Procedure, dict[str, str]]] = {}


def _answer(run: PaperRun, cell: Cell, answer: ev.Answer) -> None:
    run.now += run.waiting(cell)
    by = INES if cell.ask is InputType.SIGNATURE else BRAM
    run.record(cell.key, answer, by, pin=by is INES)


def drawn(
    procedure: Procedure, way: dict[str, str], seed: int, case: Case = HEALTHY, until: InputType | None = None
) -> tuple[PaperRun, Hands]:
    """A joint drawn by a seed, worked to its end, or up to the first call that asks for ``until``."""
    key = f"{id(procedure)} {way}"
    _KEPT[key] = (procedure, way)
    ready = _ready(key)
    run = copy.copy(ready)
    run.events = list(ready.events)
    hands = Hands(run.state.definition, seed, case)
    while (cell := next_call(run.state)) is not None and cell.ask is not until:
        _answer(run, cell, hands.answer(run.state, cell, TOOLS, TODAY))
    return run, hands


def interval(hits: list[bool], share: float = 0.95) -> tuple[float, float, float]:
    """A share in %, with the interval that a sample of so many joints leaves (Wilson)."""
    n, z = len(hits), 1.96 if share == 0.95 else 1.645
    p = sum(hits) / n
    middle, half = p + z**2 / (2 * n), z * math.sqrt(p * (1 - p) / n + z**2 / (4 * n**2))
    return 100 * p, 100 * (middle - half) / (1 + z**2 / n), 100 * (middle + half) / (1 + z**2 / n)


def resampled(
    per_joint: list[tuple[int, int]], chance: np.random.Generator, times: int = 1000
) -> tuple[float, float, float]:
    """A share over fasteners in %, with the interval by drawing whole joints anew: those of one joint go together."""
    hits, whole = (np.array(x, dtype=float) for x in zip(*per_joint, strict=True))
    picks = chance.integers(0, len(hits), (times, len(hits)))
    shares = hits[picks].sum(axis=1) / whole[picks].sum(axis=1)
    low, high = np.percentile(shares, [2.5, 97.5])
    return 100 * float(hits.sum() / whole.sum()), 100 * float(low), 100 * float(high)


__all__ = ["HEALTHY", "Case", "Hands", "drawn", "interval", "replace", "resampled"]
