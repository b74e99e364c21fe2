"""The load that each stage of a procedure builds up in each fastener."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, field
from typing import Literal

from jorvek.core.bolting.interaction import Pull, compliance_geom, pull, simulate_tensioning
from jorvek.core.measuring.uncertainty import USUAL, u_preload_hydraulic
from jorvek.core.procedure.clamp import BoltModel, ClampModel, models
from jorvek.core.procedure.document import Procedure
from jorvek.core.procedure.fasteners import FastenerGroup
from jorvek.core.procedure.options import Selection, applies
from jorvek.core.procedure.parts import half_width
from jorvek.core.procedure.steps import (
    AngleStep,
    FullReleaseStep,
    LoosenAngleStep,
    LoosenPressureStep,
    NutsOffStep,
    RepeatStep,
    Step,
    TensionStep,
    TorqueStep,
)


@dataclass(frozen=True)
class Load:
    """A load in N with its range."""

    least: float
    usual: float
    most: float


NOTHING = Load(0.0, 0.0, 0.0)


@dataclass(frozen=True)
class Stage:
    """What one stage leaves in the fasteners of one group.

    Attributes:
        index: place of its step in the document.
        step: the step.
        cycle: 1 for the first time round, 2 for the first repetition …
        group: fastener group.
        names: fasteners that this stage works on.
        peak_N: load in the fastener under the tool, None for turned ones.
        held: load after the stage.
        each: load of every fastener of the group that holds something, neighbours' pulls counted.
        permanent_mm: lengthening that stays, of an angle into yield.
        elastic_limit_deg: angle at which yield would begin, of an angle stage.
    """

    index: int
    step: TorqueStep | AngleStep | TensionStep
    cycle: int
    group: str
    names: tuple[str, ...]
    peak_N: float | None
    held: Load
    each: dict[str, float]
    permanent_mm: float = 0.0
    elastic_limit_deg: float | None = None

    @property
    def kind(self) -> Literal["torque", "angle", "tension"]:
        """What kind of stage it is."""
        return self.step.kind

    @property
    def released(self) -> bool:
        """Whether the fastener holds this load by itself afterwards."""
        return not isinstance(self.step, TensionStep) or self.step.afterwards == "release"


@dataclass
class _Book:
    """Loads so far, by fastener, and the pulls that led to them, by group."""

    loads: dict[str, Load] = field(default_factory=dict)
    pulls: dict[str, list[Pull]] = field(default_factory=dict)


def unrolled(procedure: Procedure, selection: Selection) -> Iterator[tuple[int, Step, int]]:
    """Yield the steps with their places and cycles, repetitions unrolled."""
    steps = [(i, s) for i, s in enumerate(procedure.steps) if applies(s.only, selection)]
    seen: dict[str, int] = {}
    for i, step in steps:
        if not isinstance(step, RepeatStep):
            seen[step.id] = 1
            yield i, step, 1
            continue
        for _ in range(len(step.each) - 1 if step.each else step.times):
            for j, again in steps:
                if again.id in step.steps:
                    seen[again.id] = seen.get(again.id, 0) + 1
                    yield j, again, seen[again.id]


def stages(procedure: Procedure, selection: Selection) -> tuple[Stage, ...]:
    """Return what the stages of a procedure build up, in working order.

    Stages of groups whose friction is not stated say nothing about a load and are left out.

    Raises:
        Refusal: when a number cannot be reckoned with.
    """
    book, found = _Book(), list[Stage]()
    by_group = models(procedure)
    for i, step, cycle in unrolled(procedure, selection):
        if isinstance(step, FullReleaseStep | LoosenAngleStep | LoosenPressureStep | NutsOffStep):
            _let_go(procedure, book, procedure.orders[step.order].names())
        elif isinstance(step, TorqueStep | AngleStep | TensionStep):
            found += _stage(procedure, by_group, book, i, step, cycle)
    return tuple(found)


def _let_go(procedure: Procedure, book: _Book, names: tuple[str, ...]) -> None:
    for name in names:
        book.loads.pop(name, None)
    for group in procedure.fasteners:
        if any(p.name in names for p in group.positions):
            book.pulls.pop(group.id, None)


def _stage(
    procedure: Procedure,
    by_group: dict[str, BoltModel],
    book: _Book,
    index: int,
    step: TorqueStep | AngleStep | TensionStep,
    cycle: int,
) -> Iterator[Stage]:
    listed = procedure.orders[step.order].names()
    for group in procedure.fasteners:
        members = {p.name for p in group.positions}
        names = tuple(name for name in listed if name in members)
        model = by_group[group.id]
        if not names or not _speaks(model, step):
            continue
        before = book.loads.get(names[0], NOTHING)
        held, peak, permanent, limit = _after(model, step, before)
        for name in names:
            book.loads[name] = held
        each = _together(group, model, book, names, held, step)
        yield Stage(index, step, cycle, group.id, names, peak, held, each, permanent, limit)


def _speaks(model: BoltModel, step: TorqueStep | AngleStep | TensionStep) -> bool:
    return isinstance(model, ClampModel) if isinstance(step, TensionStep) else model.friction is not None


def _after(
    model: BoltModel, step: TorqueStep | AngleStep | TensionStep, before: Load
) -> tuple[Load, float | None, float, float | None]:
    """Return the load after a stage, the peak under the tool, the permanent set and the elastic limit."""
    if isinstance(step, TensionStep):
        assert isinstance(model, ClampModel)
        return _pulled(model, step), model.tool_load_N(step.pressure.value) + model.rundown_N, 0.0, None
    assert model.friction is not None
    least, usual, most = model.friction
    if isinstance(step, TorqueStep):
        low, mid, high = (model.torque_load_N(step.torque.value, mu) for mu in (most, usual, least))
        return Load(low, mid, high), None, 0.0, None
    short, mean, far = (model.after_angle(snug, step.angle.value) for snug in (before.least, before.usual, before.most))
    return Load(short.F_N, mean.F_N, far.F_N), None, mean.plastic_mm, mean.elastic_limit_angle_deg


def _pulled(model: ClampModel, step: TensionStep) -> Load:
    """Return what is left after release; the band is taken as a rectangular doubt of the pressure."""
    p = step.pressure.value
    held, tool = model.residual_N(p), model.tool_load_N(p)
    doubt = u_preload_hydraulic(
        p,
        model.area_mm2,
        model.elements,
        model.eta,
        min(1.0, held / tool),
        half_width(step.pressure, step.band) / 3.0**0.5,
        USUAL.area,
        USUAL.efficiency,
        USUAL.transfer,
    )
    spread = doubt.U_rel_pct / 100.0 * held
    return Load(max(0.0, held - spread), held, held + spread)


def _together(
    group: FastenerGroup,
    model: BoltModel,
    book: _Book,
    names: tuple[str, ...],
    held: Load,
    step: TorqueStep | AngleStep | TensionStep,
) -> dict[str, float]:
    """Return the load of every fastener of a group, pulls of its neighbours counted where a reach is stated."""
    places = [p.name for p in group.positions]
    reach = group.clamped.reach
    if reach is None or not isinstance(step, TensionStep):
        return {name: book.loads[name].usual for name in places if name in book.loads}
    if step.afterwards == "raise" and set(names) == set(places):
        return dict.fromkeys(places, held.usual)
    pulls = book.pulls.setdefault(group.id, [])
    pulls.append(pull([places.index(name) for name in names], held.usual, len(places)))
    xy = [(p.x.value, p.y.value) for p in group.positions]
    final = simulate_tensioning(model.delta_S, compliance_geom(xy, model.dP, reach.value), pulls).final_N
    return {name: load for name, load in zip(places, final, strict=True) if load > 0.0}
