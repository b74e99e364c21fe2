"""The joint from above: outlines, landmarks, and each fastener with its paint strokes."""

from __future__ import annotations

from typing import Literal

from jorvek.core.procedure.document import Circle, Procedure
from jorvek.core.procedure.options import applies
from jorvek.core.run.cells import Cell
from jorvek.core.run.events import Verdict
from jorvek.core.run.figures import Figure
from jorvek.core.run.progress import open_cells
from jorvek.core.run.readings import View, row_of
from jorvek.core.run.state import RunState

CellState = Literal["todo", "now", "done", "in_band", "out_of_band", "too_near", "accepted"]


class Shape(View):
    """One outline; sizes in mm, y up."""

    shape: Literal["circle", "box"]
    x: float
    y: float
    width: float
    height: float


class Stroke(View):
    """The paint stroke of one pass on one head.

    Attributes:
        step: the pass.
        done: whether the fastener's part of the pass is finished and counts.
        ghosts: how often it was done and taken back.
        angle_deg: of an angle stage, where the line stands now: the angle actually turned.
    """

    step: str
    done: bool
    ghosts: int
    angle_deg: float | None = None


class Head(View):
    """One fastener from above; place in mm, y up."""

    name: str
    x: float
    y: float
    across: float
    form: Literal["round", "hex", "points"]
    state: CellState
    tool_on: bool
    strokes: tuple[Stroke, ...]
    clamp: Figure | None


class HoseLine(View):
    """A hose and the tools on it, in the order the oil reaches them."""

    name: str
    tools: tuple[str, ...]


class Plan(View):
    """The joint plan."""

    outline: tuple[Shape, ...]
    heads: tuple[Head, ...]
    hoses: tuple[HoseLine, ...]
    x_minus: str
    x_plus: str
    y_minus: str
    y_plus: str


_STATE_OF: dict[Verdict, CellState] = {
    Verdict.NOTED: "done",
    Verdict.IN_BAND: "in_band",
    Verdict.OUT_OF_BAND: "out_of_band",
    Verdict.TOO_NEAR: "too_near",
}


def cell_state(state: RunState, cell: Cell, now: frozenset[str]) -> CellState:
    """Return how a cell stands."""
    live = state.live(cell.key)
    if live is None:
        return "now" if cell.key in now else "todo"
    if live.accepted is not None:
        return "accepted"
    return _STATE_OF[live.judgement.verdict]


def open_keys(state: RunState) -> frozenset[str]:
    """Return the keys of the cells that may be filled now."""
    return frozenset(c.key for c in open_cells(state))


def plan_of(state: RunState) -> Plan:
    """Return the joint plan of a run."""
    procedure, marks = state.definition.procedure, state.started.engine.landmarks
    now = open_keys(state)
    return Plan(
        outline=outline_of(procedure),
        heads=tuple(_head(state, p.name, now) for p in procedure.positions()),
        hoses=tuple(
            HoseLine(name=h.name, tools=(h.feeds, *h.linked))
            for h in procedure.hoses
            if applies(h.only, state.started.selection)
        ),
        x_minus=marks.x_minus,
        x_plus=marks.x_plus,
        y_minus=marks.y_minus,
        y_plus=marks.y_plus,
    )


def outline_of(procedure: Procedure) -> tuple[Shape, ...]:
    """Return the outlines drawn by the author."""
    shapes: list[Shape] = []
    for drawn in procedure.outline:
        width = drawn.diameter.value if isinstance(drawn, Circle) else drawn.width.value
        height = drawn.diameter.value if isinstance(drawn, Circle) else drawn.height.value
        shapes.append(Shape(shape=drawn.shape, x=drawn.x.value, y=drawn.y.value, width=width, height=height))
    return tuple(shapes)


_WORST_FIRST: tuple[CellState, ...] = ("out_of_band", "too_near", "now", "accepted", "in_band", "done")


def _head(state: RunState, name: str, now: frozenset[str]) -> Head:
    group = state.definition.procedure.group_of(name)
    position = next(p for p in group.positions if p.name == name)
    cells = [c for c in state.definition.cells if c.fastener == name]
    states = [cell_state(state, c, now) for c in cells]
    worst = next((s for s in _WORST_FIRST if s in states), "todo")
    seats = [c for c in cells if (c.kind, c.item) == ("seat_tool", "seat") and state.live(c.key) is not None]
    offs = [c for c in cells if c.kind == "remove_tool" and state.live(c.key) is not None]
    return Head(
        name=name,
        x=position.x.value,
        y=position.y.value,
        across=group.across.value,
        form=_FORMS[group.form],
        state=worst,
        tool_on=len(seats) > len(offs),
        strokes=tuple(_strokes(state, cells)),
        clamp=_clamp(state, name),
    )


_FORMS: dict[str, Literal["round", "hex", "points"]] = {
    "round_nut": "round",
    "hex_nut": "points",
    "hex": "hex",
    "twelve_point": "hex",
    "socket": "points",
}
_PAINTED = {"tension": "nut", "torque": "pull", "angle": "turn"}


def _strokes(state: RunState, cells: list[Cell]) -> list[Stroke]:
    """Only tightening leaves paint: one stroke per stage of the newest cycle, the line where the angle stands.

    A full release wipes what was painted before it.
    """
    wiped = max((k for k, c in enumerate(cells) if c.kind == "full_release" and state.live(c.key)), default=-1)
    passes = dict.fromkeys(c.step for c in cells[wiped + 1 :] if c.kind in _PAINTED)
    strokes: list[Stroke] = []
    for step in passes:
        mine = [c for c in cells if c.step == step]
        tries = [a for c in mine for a in state.tries(c.key)]
        done = all(state.live(c.key) is not None for c in mine)
        turned = state.live(mine[-1].key) if mine[-1].item == "turn" else None
        angle = turned.judgement.corrected if turned else None
        strokes.append(Stroke(step=step, done=done, ghosts=sum(not a.live for a in tries), angle_deg=angle))
    return strokes


def _clamp(state: RunState, name: str) -> Figure | None:
    """Return the newest load that a reading on this fastener, or on the tools round it, speaks for."""
    speaking = [
        live
        for c in state.definition.cells
        if state.definition.speaks_for(c, name)
        for live in (state.live(c.key),)
        if live is not None and live.judgement.clamp_kN is not None
    ]
    newest = max(speaking, key=lambda a: a.seq, default=None)
    return row_of(state, newest).clamp if newest else None
