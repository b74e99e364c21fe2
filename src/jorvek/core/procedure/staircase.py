"""The clamp staircase: the load that the stages of a procedure build up in its fasteners."""

from __future__ import annotations

from typing import Literal

from pydantic import BaseModel, ConfigDict

from jorvek.core.procedure.clamp import ClampModel, models
from jorvek.core.procedure.document import Procedure
from jorvek.core.procedure.loads import Stage, stages
from jorvek.core.procedure.options import Selection
from jorvek.core.procedure.steps import AngleStep, CeilingStep, StretchStep, TensionStep, TorqueStep

ALLOWED_SHARE = 0.9
"""Highest share of yield that a stud may see under the tool."""


class _Shown(BaseModel):
    model_config = ConfigDict(frozen=True)


class Stair(_Shown):
    """One stage: what the tool pulls and what stays.

    Attributes:
        step: id of the step.
        title: its heading.
        kind: torque, angle or tension.
        cycle: 1 for the first time round.
        aim: the target as the author wrote it.
        names: fasteners that this stage works on, when not all.
        tool_N: load in the fastener under the tool, run-down included; None where it is turned.
        held_N: load that stays.
        least_N: lower end of its range (friction, or k = 2 of pressure, tool and transfer).
        most_N: upper end.
        released: the fastener holds it by itself afterwards.
        each_N: load of every fastener, where pulls of neighbours make them differ.
    """

    step: str
    title: str
    kind: Literal["torque", "angle", "tension"]
    cycle: int
    aim: str
    names: tuple[str, ...]
    tool_N: float | None
    held_N: float
    least_N: float
    most_N: float
    released: bool
    each_N: dict[str, float]


class Staircase(_Shown):
    """The stages of one group against what must not be passed and what is aimed for.

    Attributes:
        group: fastener group.
        title: what it is called.
        stairs: the stages in order.
        yield_N: load at yield of the smallest section; with torsion where it is turned.
        allowed_N: highest load allowed under the tool; None where it is turned.
        rating_N: load at the rating of the tool; None where it is turned.
        ceiling_N: load at the ceiling, None without one.
        target_N: load that the author aims for, None where none is stated.
    """

    group: str
    title: str
    stairs: tuple[Stair, ...]
    yield_N: float
    allowed_N: float | None
    rating_N: float | None
    ceiling_N: float | None
    target_N: float | None


def aim_text(step: TorqueStep | AngleStep | TensionStep) -> str:
    """Return the target of a stage as its author wrote it."""
    match step:
        case TorqueStep():
            return step.torque.shown
        case AngleStep():
            return f"+{step.angle.shown}"
        case TensionStep():
            return step.pressure.shown


def _stair(stage: Stage, size: int) -> Stair:
    apart = max(stage.each.values()) - min(stage.each.values()) if stage.each else 0.0
    return Stair(
        step=stage.step.id,
        title=stage.step.title,
        kind=stage.kind,
        cycle=stage.cycle,
        aim=aim_text(stage.step),
        names=stage.names if len(stage.names) < size else (),
        tool_N=stage.peak_N,
        held_N=stage.held.usual,
        least_N=stage.held.least,
        most_N=stage.held.most,
        released=stage.released,
        each_N=stage.each if apart > 1.0 else {},
    )


def staircases(procedure: Procedure, selection: Selection) -> tuple[Staircase, ...]:
    """Return the clamp staircase of every group that a procedure loads.

    Args:
        procedure: the document.
        selection: how its options are chosen.

    Raises:
        Refusal: when its geometry is impossible, which import refuses already.
    """
    found = stages(procedure, selection)
    made = (_of_group(procedure, group.id, [s for s in found if s.group == group.id]) for group in procedure.fasteners)
    return tuple(stairs for stairs in made if stairs is not None)


def _of_group(procedure: Procedure, group_id: str, mine: list[Stage]) -> Staircase | None:
    if not mine:
        return None
    group = next(g for g in procedure.fasteners if g.id == group_id)
    model = models(procedure)[group_id]
    pulled = model if isinstance(model, ClampModel) else None
    turned = any(s.kind != "tension" for s in mine)
    tops = [s.ceiling.value for s in procedure.steps if isinstance(s, CeilingStep) and _is_of(procedure, s, group_id)]
    return Staircase(
        group=group_id,
        title=group.title,
        stairs=tuple(_stair(s, len(group.positions)) for s in mine),
        yield_N=model.turned_yield_N() if turned else model.yield_N(),
        allowed_N=ALLOWED_SHARE * model.yield_N() if pulled else None,
        rating_N=pulled.tool_load_N(pulled.rating_bar) if pulled else None,
        ceiling_N=pulled.tool_load_N(max(tops)) + pulled.rundown_N if pulled and tops else None,
        target_N=_target_N(procedure, group_id),
    )


def _is_of(procedure: Procedure, ceiling: CeilingStep, group_id: str) -> bool:
    """Tell whether a ceiling holds for a group: its own, or one for all."""
    tool = next((t for t in procedure.tensioners if t.group == group_id), None)
    return tool is not None and ceiling.tools in (None, tool.role)


def _target_N(procedure: Procedure, group_id: str) -> float | None:
    """Return the load aimed for: by the last stretch window, or as the author wrote it beside a stage."""
    model = models(procedure)[group_id]
    members = {p.name for g in procedure.fasteners if g.id == group_id for p in g.positions}
    target: float | None = None
    for step in procedure.steps:
        if isinstance(step, StretchStep | TorqueStep | AngleStep) and members & set(
            procedure.orders[step.order].names()
        ):
            if isinstance(step, StretchStep):
                # A stretch read under pressure tells the load of the tool, not the load that stays in the stud.
                at_tool = step.datum == "at_tool_under_pressure"
                target = target if at_tool else model.load_from_stretch_N(step.target.value, step.datum)
            elif step.aims_at is not None:
                target = step.aims_at.value
    return target
