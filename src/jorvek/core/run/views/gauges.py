"""Where the points of a measurement are, and which way the gauge points there."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Final, Literal

from jorvek.core.engine.layout import Landmarks
from jorvek.core.procedure.contents import Circle
from jorvek.core.procedure.document import Procedure
from jorvek.core.procedure.steps import GateStep
from jorvek.core.procedure.steps.measuring import BoreForm, EndFloat, SideFloat
from jorvek.core.run.log.cells import Cell
from jorvek.core.run.log.state import RunState
from jorvek.core.run.rules.progress import next_call
from jorvek.core.run.views.labels import View

MarkState = Literal["todo", "now", "done"]


class GaugeMark(View):
    """One point of the measurement at work, seen from above; places in mm, y up.

    Attributes:
        label: its name, the author's word.
        state: whether it is read, being asked for, or to come.
        points_deg: which way the tip points, from ``x_plus`` towards ``y_plus``; None onto the face.
        across_mm: span of a gauge that stands across a bore; both its ends touch.
    """

    label: str
    state: MarkState
    x: float
    y: float
    points_deg: float | None
    across_mm: float | None


class DepthMark(View):
    """One depth at which a bore is measured.

    Attributes:
        share: of the deepest one.
    """

    label: str
    state: MarkState
    share: float


class Measuring(View):
    """The measurement at work, as it is drawn."""

    marks: tuple[GaugeMark, ...]
    depths: tuple[DepthMark, ...]


def measuring_of(state: RunState, landmarks: Landmarks) -> Measuring | None:
    """Return the points of the gate that is at work; None where there is none, or nothing tells where they are.

    Args:
        state: the run as it stands.
        landmarks: names of the four directions of this joint.
    """
    call = next_call(state)
    step = None if call is None else state.definition.steps_by_id[call.step_id]
    if call is None or not isinstance(step, GateStep):
        return None
    if isinstance(step.gate, BoreForm):
        return _bore(state, call, step.gate)
    marks = tuple(_ends(state, call, step) if isinstance(step.gate, EndFloat | SideFloat) else ())
    marks = marks or tuple(_points(state, call, step, landmarks))
    return Measuring(marks=marks, depths=()) if marks else None


def _bore(state: RunState, call: Cell, gate: BoreForm) -> Measuring:
    depth_now, angle_now = _grid_place(call)
    across = gate.nominal.value
    marks = tuple(
        GaugeMark(
            label=angle.shown,
            state=_state(state, [f"{call.step}/bore:{depth_now}.{a}"], now=a == angle_now),
            x=0.0,
            y=0.0,
            points_deg=angle.value,
            across_mm=across,
        )
        for a, angle in enumerate(gate.angles, 1)
    )
    deepest = max(depth.value for depth in gate.depths) or 1.0
    depths = tuple(
        DepthMark(
            label=depth.shown,
            state=_state(state, [f"{call.step}/bore:{d}.{a}" for a in range(1, len(gate.angles) + 1)], d == depth_now),
            share=depth.value / deepest,
        )
        for d, depth in enumerate(gate.depths, 1)
    )
    return Measuring(marks=marks, depths=depths)


def _grid_place(call: Cell) -> tuple[int, int]:
    """Return the depth and the angle that a call is about; the first ones while a figure is to be seen."""
    depth, _, angle = call.which.partition(".")
    return (int(depth), int(angle)) if angle else (1, 0)


def _state(state: RunState, keys: list[str], now: bool) -> MarkState:
    if now:
        return "now"
    return "done" if all(state.live(key) is not None for key in keys) else "todo"


def _ends(state: RunState, call: Cell, step: GateStep) -> Iterator[GaugeMark]:
    """A dial at the end of a shaft, or beside a rod, points along the crankshaft."""
    reach = _reach(state.definition.procedure)
    keys = [c.key for c in state.definition.by_step[call.step] if c.quantity is not None]
    now = call.quantity is not None
    yield GaugeMark(
        label="", state=_state(state, keys, now), x=reach, y=0.0, points_deg=_BACK_ALONG_X_DEG, across_mm=None
    )


_BACK_ALONG_X_DEG: Final = 180.0


def _points(state: RunState, call: Cell, step: GateStep, landmarks: Landmarks) -> Iterator[GaugeMark]:
    at = _places(state.definition.procedure, step, landmarks)
    for k, point in enumerate(getattr(step.gate, "points", ()), 1):
        if not isinstance(point, str) or point not in at:
            continue
        x, y, points_deg = at[point]
        keys = [c.key for c in state.definition.by_step[call.step] if c.which == str(k)]
        mark = _state(state, keys, now=call.key in keys)
        yield GaugeMark(label=point, state=mark, x=x, y=y, points_deg=points_deg, across_mm=None)


def _places(p: Procedure, step: GateStep, landmarks: Landmarks) -> dict[str, tuple[float, float, float | None]]:
    """Return where points stand: as the author says, else those that are named like a landmark at it."""
    reach = _reach(p)
    named: dict[str, tuple[float, float, float | None]] = {
        landmarks.x_plus: (reach, 0.0, None),
        landmarks.x_minus: (-reach, 0.0, None),
        landmarks.y_plus: (0.0, reach, None),
        landmarks.y_minus: (0.0, -reach, None),
    }
    stated = {
        name: (at.x.value, at.y.value, None if at.points is None else at.points.value)
        for name, at in step.places.items()
    }
    return {**named, **stated}


def _reach(p: Procedure) -> float:
    """Return how far from the middle a face is measured: between the two largest circles, else at the edge.

    Of a collar round a bore it is the middle of the collar.
    """
    rounds = sorted((s.diameter.value / 2.0 for s in p.outline if isinstance(s, Circle)), reverse=True)
    if len(rounds) > 1:
        return (rounds[0] + rounds[1]) / 2.0
    boxes = [min(s.width.value, s.height.value) / 2.0 for s in p.outline if not isinstance(s, Circle)]
    return max([*rounds, *boxes], default=100.0)
