"""What the pressure says at which a nut came free."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Final

from jorvek.core.bolting.interaction import compliance_geom, pull, simulate_tensioning
from jorvek.core.bolting.release import ReleaseAnalysis, breakaway_analysis, release_ratio, residual_from_breakaway
from jorvek.core.figures import figure
from jorvek.core.procedure.cell_items import CellItem
from jorvek.core.procedure.clamp import ClampModel
from jorvek.core.procedure.steps import LoosenPressureStep
from jorvek.core.run.log import events as ev
from jorvek.core.run.log.cells import Cell
from jorvek.core.run.log.state import RunState
from jorvek.core.units import Quantity

LOW, HIGH = 0.85, 1.15
"""Shares of the expected pressure between which a stud is healthy. Model; the author's step states what is expected."""
_STEADY: Final = 1e-9


def _pressure_reason(cell: Cell, code: str, **params: float) -> ev.Reason:
    shown = {name: figure(value, Quantity.PRESSURE, cell.unit or "bar") for name, value in params.items()}
    return ev.Reason(code=code, params={name: f"{f.text} {f.unit}" for name, f in shown.items()})


def judge_release(
    state: RunState, cell: Cell, base: ev.Judgement, ceiling: float | None, last_tight: float | None = None
) -> ev.Judgement:
    """Judge a release pressure against the ceiling and what a healthy stud shows, and turn it into load.

    The nut was tight one try before: the true value lies in an interval, which the record keeps.
    Without a pressure tried on the ladder before, it was one step lower.
    What the document expects of a step has the groups freed before it in it; the load is what the
    stud held before anything was freed.
    """
    step = state.definition.steps_by_id[cell.step_id]
    assert isinstance(step, LoosenPressureStep)
    model, got = state.definition.clamp_of(cell), base.corrected or 0.0
    reasons: list[ev.Reason] = []
    if ceiling is not None and got > ceiling + _STEADY:
        reasons.append(_pressure_reason(cell, "above_ceiling", ceiling=ceiling))
    if step.expected is not None and got < LOW * step.expected.value:
        reasons.append(_pressure_reason(cell, "came_free_low", expected=step.expected.value))
    if step.expected is not None and got > HIGH * step.expected.value:
        reasons.append(_pressure_reason(cell, "came_free_high", expected=step.expected.value))
    tight = last_tight if last_tight is not None else max(0.0, got - step.step.value)
    load = residual_from_breakaway(got, model.area_mm2, model.elements, model.eta, _ratio(model), got - tight)
    return base.model_copy(
        update={
            "verdict": ev.Verdict.OUT_OF_BAND if reasons else ev.Verdict.IN_BAND,
            "reasons": tuple(reasons),
            "lower": tight,
            "upper": got,
            "clamp_kN": load.F_N / 1000.0 / more_after_earlier_groups(state, cell.step).get(cell.fastener or "", 1.0),
        }
    )


def _ratio(model: ClampModel) -> float:
    return release_ratio(model.stud.dS0, model.dP, model.stud.dNut)


def more_after_earlier_groups(state: RunState, key: str) -> dict[str, float]:
    """Return how many times its load a stud carries once the groups before it have been let free.

    With fewer tools than studs part of the first group's load goes over to the rest, which then come
    free at a higher pressure without holding more than they were given.

    Args:
        state: the run.
        key: a loosening step, with its cycle.

    Returns:
        Factor by fastener, for the fasteners of the step; 1 where the document states no reach.
    """
    steps = dict(state.definition.steps)
    names = {c.fastener for c in steps[key] if c.what is CellItem.FREE}
    earlier = [c.fastener or "" for step in _before(state, key) for c in steps[step] if c.what is CellItem.FREE]
    found: dict[str, float] = {}
    for group in state.definition.procedure.fasteners:
        places, reach = [p.name for p in group.positions], group.clamped.reach
        gone = [places.index(name) for name in earlier if name in places]
        if reach is None or not gone:
            continue
        model = state.definition.models[group.id]
        whole = pull(list(range(len(places))), 1.0, len(places))
        free = pull(gone, 0.0, len(places), freed=True)
        xy = [(p.x.value, p.y.value) for p in group.positions]
        final = simulate_tensioning(model.delta_S, compliance_geom(xy, model.dP, reach.value), [whole, free]).final_N
        found |= {name: load for name, load in zip(places, final, strict=True) if name in names}
    return found


def _before(state: RunState, key: str) -> list[str]:
    kinds = ((step, state.definition.steps_by_id[cells[0].step_id]) for step, cells in state.definition.steps)
    loosening = [step for step, of in kinds if isinstance(of, LoosenPressureStep)]
    return loosening[: loosening.index(key)]


@dataclass(frozen=True)
class Strip:
    """The release pressures of one step.

    Attributes:
        step: the step, with its cycle.
        names: fasteners in working order.
        pressures: corrected pressure in bar of each, None where it is not noted yet.
        tight: the last at which each was tried and tight.
        loads_kN: load each speaks for.
        expected_bar: where healthy nuts come free.
        ceiling_bar: never to be passed.
        try_bar: how far the pressure rises between tries.
        analysis: classes and pattern; None before the first.
    """

    step: str
    names: tuple[str, ...]
    pressures: tuple[float | None, ...]
    tight: tuple[float | None, ...]
    loads_kN: tuple[float | None, ...]
    expected_bar: float | None
    ceiling_bar: float | None
    try_bar: float
    analysis: ReleaseAnalysis | None


def strips(state: RunState, ceiling_of: dict[str, float | None]) -> tuple[Strip, ...]:
    """Return the release pressures of a run, step by step."""
    found: list[Strip] = []
    for key, cells in state.definition.steps:
        step = state.definition.steps_by_id[cells[0].step_id]
        if not isinstance(step, LoosenPressureStep):
            continue
        free = [c for c in cells if c.what is CellItem.FREE]
        live = [state.live(c.key) for c in free]
        pressures = tuple(a.judgement.corrected if a else None for a in live)
        tight = tuple(a.judgement.lower if a else None for a in live)
        model = state.definition.clamp_of(free[0])
        # A nut came free somewhere between two tries: load and share are both of the middle between them.
        middles = tuple(
            None if p is None else (p + (p if low is None else low)) / 2.0
            for p, low in zip(pressures, tight, strict=True)
        )
        analysis = _analysed(model, step, middles)
        found.append(
            Strip(
                step=key,
                names=tuple(c.fastener or "" for c in free),
                pressures=pressures,
                tight=tight,
                loads_kN=tuple(a.judgement.clamp_kN if a else None for a in live),
                expected_bar=None if step.expected is None else step.expected.value,
                ceiling_bar=ceiling_of.get(key),
                try_bar=step.step.value,
                analysis=analysis,
            )
        )
    return tuple(found)


def _analysed(
    model: ClampModel, step: LoosenPressureStep, pressures: tuple[float | None, ...]
) -> ReleaseAnalysis | None:
    """Return classes and pattern; None before the first, or where nothing says what a healthy nut shows."""
    if step.expected is None or all(p is None for p in pressures):
        return None
    tool = (model.area_mm2, model.elements, model.eta, _ratio(model))
    healthy = residual_from_breakaway(step.expected.value, *tool, 0.0)
    return breakaway_analysis(list(pressures), healthy.F_N, *tool)
