"""The clamp staircase: the load that the stages of a procedure build up in one fastener."""

from __future__ import annotations

from pydantic import BaseModel, ConfigDict

from jorvek.core.measuring.uncertainty import USUAL, u_preload_hydraulic
from jorvek.core.procedure.check import ALLOWED_SHARE
from jorvek.core.procedure.clamp import ClampModel, clamp_model
from jorvek.core.procedure.document import Procedure
from jorvek.core.procedure.steps import CeilingStep, StretchStep, TensionStep


class Stair(BaseModel):
    """One stage: what the tool pulls and what stays when the nut takes over.

    Attributes:
        step: id of the step.
        title: its heading.
        pressure: pressure as the author wrote it.
        tool_N: load in the stud under the tool, run-down included.
        held_N: load left if the stage is released.
        spread_N: expanded uncertainty (k = 2) of that.
        released: the stage is released, not followed by a higher one.
    """

    model_config = ConfigDict(frozen=True)

    step: str
    title: str
    pressure: str
    tool_N: float
    held_N: float
    spread_N: float
    released: bool


class Staircase(BaseModel):
    """The stages against what must not be passed and what is aimed for.

    Attributes:
        stairs: the stages in order.
        yield_N: load at yield of the smallest section.
        allowed_N: highest load allowed under the tool.
        rating_N: load at the rating of the tool.
        ceiling_N: load at the ceiling, None without one.
        target_N: load that the stretch target stands for, None without one.
    """

    model_config = ConfigDict(frozen=True)

    stairs: tuple[Stair, ...]
    yield_N: float
    allowed_N: float
    rating_N: float
    ceiling_N: float | None
    target_N: float | None


def _stair(model: ClampModel, step: TensionStep) -> Stair:
    p = step.pressure.value
    held, tool = model.residual_N(p), model.tool_load_N(p)
    # The band is where the pressure may lie; its half width is taken as a rectangular doubt.
    doubt = u_preload_hydraulic(
        p,
        model.area_mm2,
        model.elements,
        model.eta,
        min(1.0, held / tool),
        p * step.band.value / 100.0 / 3.0**0.5,
        USUAL.area,
        USUAL.efficiency,
        USUAL.transfer,
    )
    return Stair(
        step=step.id,
        title=step.title,
        pressure=step.pressure.text,
        tool_N=tool + model.rundown_N,
        held_N=held,
        spread_N=doubt.U_rel_pct / 100.0 * held,
        released=step.afterwards == "release",
    )


def staircase(procedure: Procedure) -> Staircase:
    """Return the clamp staircase of a procedure.

    Raises:
        Refusal: when its geometry is impossible, which import refuses already.
    """
    model = clamp_model(procedure)
    at_yield = model.smallest_mm2 * model.yield_MPa
    ceilings = [s.ceiling.value for s in procedure.steps if isinstance(s, CeilingStep)]
    targets = [s.target.value for s in procedure.steps if isinstance(s, StretchStep)]
    return Staircase(
        stairs=tuple(_stair(model, s) for s in procedure.steps if isinstance(s, TensionStep)),
        yield_N=at_yield,
        allowed_N=ALLOWED_SHARE * at_yield,
        rating_N=model.tool_load_N(procedure.tensioner.rating.value),
        ceiling_N=model.tool_load_N(max(ceilings)) + model.rundown_N if ceilings else None,
        target_N=model.load_from_stretch_N(targets[-1]) if targets else None,
    )
