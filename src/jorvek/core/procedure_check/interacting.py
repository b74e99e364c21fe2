"""Rules for joints with fewer tools than studs: what later groups take from earlier ones, and what makes them even."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Final

from jorvek.core.bolting.interaction import compliance_geom, loads_for_equal_residual, pull
from jorvek.core.procedure.clamp import ClampModel
from jorvek.core.procedure.fasteners import FastenerGroup
from jorvek.core.procedure.loads import Stage
from jorvek.core.procedure.steps import TensionStep
from jorvek.core.procedure_check.finding import CheckFinding, error, percent, warning
from jorvek.core.procedure_check.reading import Reading, Rule
from jorvek.core.refusal import Refusal

_EVEN: Final = 0.02
_ON_5_BAR: Final = 5.0


def equal_pressures(r: Reading, group: FastenerGroup, stages: list[Stage]) -> list[float]:
    """Return the pressures in bar of the groups of the last pass that leave every stud alike, in their order.

    The last group keeps its load; what it takes from the others they get beforehand. Empty where the last pass does
    not go round every stud once, or no pressures do it.

    Args:
        r: one way through the procedure.
        group: fasteners with a stated reach.
        stages: their released stages, in working order.
    """
    places, reach, model = [p.name for p in group.positions], group.clamped.reach, r.models[group.id]
    last: list[Stage] = []
    for stage in reversed(stages):
        if sum(len(s.names) for s in last) < len(places):
            last.insert(0, stage)
    if reach is None or not isinstance(model, ClampModel) or sorted(n for s in last for n in s.names) != sorted(places):
        return []
    earlier = stages[: len(stages) - len(last)]
    pulls = [pull([places.index(n) for n in s.names], s.held.usual, len(places)) for s in earlier]
    xy = [(p.x.value, p.y.value) for p in group.positions]
    compliance = compliance_geom(xy, model.dP, reach.value)
    groups = [[places.index(name) for name in s.names] for s in last]
    try:
        wanted = loads_for_equal_residual(model.delta_S, compliance, pulls, groups, stages[-1].held.usual)
        return [_ON_5_BAR * round(_pressure_bar(model, load) / _ON_5_BAR) for load in wanted.group_mean_loads_N]
    except Refusal:
        return []


def _pressure_bar(model: ClampModel, residual_N: float) -> float:
    """Return the pressure in bar that leaves a load in N; what is left rises in a straight line with it."""
    low, high = (model.residual_N(share * model.rating_bar) for share in (0.5, 1.0))
    return model.rating_bar * (0.5 + 0.5 * (residual_N - low) / (high - low))


def groups_even(r: Reading) -> Iterator[CheckFinding]:
    """With fewer tools than studs, what the later groups take from the earlier ones."""
    for group in r.procedure.fasteners:
        mine = [s for s in r.stages if s.group == group.id and s.kind == "tension" and s.released]
        if not mine or len(mine[-1].each) < len(group.positions):
            continue
        loads = mine[-1].each.values()
        loss = 1.0 - min(loads) / max(loads)
        if loss > _EVEN:
            equal = " → ".join(f"{bar:.0f} bar" for bar in equal_pressures(r, group, mine)) or "–"
            params = {"loss": percent(loss), "allowed": percent(_EVEN)}
            yield error("groups_uneven", ("steps", mine[-1].index), equal=equal, **params)
    for i, step in r.of(TensionStep):
        for group in r.groups(step):
            if group.clamped.reach is None and len(r.names(step)) < len(group.positions):
                yield warning("reach_unknown", ("steps", i, "order"), group=group.title)


RULES: Final[tuple[Rule, ...]] = (groups_even,)
