"""The joint from above: outlines, landmarks, and each fastener with its paint strokes."""

from __future__ import annotations

from typing import Final, Literal

from jorvek.core.engine.layout import joints_of
from jorvek.core.figures import Figure, figure
from jorvek.core.metal.state import Face, Hold, JointState
from jorvek.core.procedure.cell_items import CellItem
from jorvek.core.procedure.contents import Circle
from jorvek.core.procedure.document import Procedure
from jorvek.core.procedure.metal_parts import Where
from jorvek.core.procedure.options import applies
from jorvek.core.run.log.cells import Cell, seats_tool
from jorvek.core.run.log.events import Verdict
from jorvek.core.run.log.state import RunState, once, once_a_step
from jorvek.core.run.rules.metal import metal_now, moves_of
from jorvek.core.run.rules.progress import open_cells
from jorvek.core.run.views.drawn import drawn_before
from jorvek.core.run.views.found import named_by_movement
from jorvek.core.run.views.gauges import Measuring, measuring_of
from jorvek.core.run.views.labels import View
from jorvek.core.units import Quantity

CellState = Literal["todo", "now", "done", "in_band", "out_of_band", "too_near", "accepted", "rejected", "left_out"]


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
    """One fastener from above; place in mm, y up.

    Attributes:
        hold: tight; in, and holding nothing; or out: no nut, no bolt. None where the document names no parts: its nuts
            may have come down by a step that only its words tell.
        named: its movement contradicts what its torque lets expect, or that of its like.
    """

    name: str
    x: float
    y: float
    across: float
    form: Literal["round", "hex", "points"]
    state: CellState
    tool_on: bool
    hold: Hold | None
    strokes: tuple[Stroke, ...]
    clamp: Figure | None
    named: bool


class HoseLine(View):
    """A hose and the tools on it, in the order the oil reaches them."""

    name: str
    tools: tuple[str, ...]


class PartSeen(View):
    """One part of the joint, or something brought to it, that is not as it was found or that stands on it for now.

    Attributes:
        part: its author's title, or its kind for the catalogue, with which of several before a colon.
        where: where it is.
        face: what was done to its faces.
        holds: it is what the joint holds: cap, head or liner.
    """

    part: str
    where: Where
    face: Face
    holds: bool


class Plan(View):
    """The joint plan.

    Attributes:
        parts: the parts that are not in their place, or that are there for now; none where the document names none.
        open: the part that the joint holds is not in its place.
        attitude: how the engine lies, as last confirmed in this run; None when nobody turned it.
        quarter_turns: quarter turns, clockwise, by which the picture is turned to match that.
        measuring: where the gauge stands in the measurement at work.
    """

    outline: tuple[Shape, ...]
    parts: tuple[PartSeen, ...]
    open: bool
    heads: tuple[Head, ...]
    hoses: tuple[HoseLine, ...]
    x_minus: str
    x_plus: str
    y_minus: str
    y_plus: str
    attitude: str | None
    quarter_turns: int
    measuring: Measuring | None


_STATE_OF: dict[Verdict, CellState] = {
    Verdict.NOTED: "done",
    Verdict.IN_BAND: "in_band",
    Verdict.OUT_OF_BAND: "out_of_band",
    Verdict.TOO_NEAR: "too_near",
    Verdict.LEFT_OUT: "left_out",
}


def cell_state(state: RunState, cell: Cell, now: frozenset[str]) -> CellState:
    """Return how a cell stands."""
    live = state.live(cell.key)
    if live is None:
        return "now" if cell.key in now else "todo"
    if live.accepted is not None:
        return "accepted"
    if live.rejected is not None:
        return "rejected"
    return _STATE_OF[live.judgement.verdict]


@once
def open_keys(state: RunState) -> frozenset[str]:
    """Return the keys of the cells that may be filled now."""
    return frozenset(c.key for c in open_cells(state))


def plan_of(state: RunState) -> Plan:
    """Return the joint plan of a run."""
    procedure, engine, lies = state.definition.procedure, state.started.engine, _attitude(state)
    joint = next((j for j in joints_of(engine) if j.key == state.started.joint_key), None)
    marks = engine.landmarks_of(joint)
    now, clamps = open_keys(state), _clamps(state)
    metal = metal_now(state)
    parts, named = _parts(state, metal), named_by_movement(state)
    holds = metal.holds if moves_of(state).simulated else {}
    return Plan(
        outline=outline_of(procedure),
        parts=parts,
        open=any(part.holds and part.where != "in_place" for part in parts),
        heads=tuple(
            _head_as_before(state, p.name, now, (clamps.get(p.name), holds.get(p.name), p.name in named))
            for p in procedure.positions()
        ),
        hoses=tuple(
            HoseLine(name=h.name, tools=(h.feeds, *h.linked))
            for h in procedure.hoses
            if metal.hoses and applies(h.only, state.started.selection)
        ),
        x_minus=marks.x_minus,
        x_plus=marks.x_plus,
        y_minus=marks.y_minus,
        y_plus=marks.y_plus,
        attitude=lies,
        quarter_turns=_QUARTER_TURNS.get(lies or "upright", 0),
        measuring=measuring_of(state, marks),
    )


def _parts(state: RunState, metal: JointState) -> tuple[PartSeen, ...]:
    """Return the parts worth a word: what is out or hung, and what is on only for now."""
    moves, seen = moves_of(state), list[PartSeen]()
    for name, part in moves.parts.items():
        now = metal.parts[name]
        for_now = part.traits.brought and not part.traits.stays
        if moves.simulated and (now.where not in ("in_place", "away") or (for_now and now.where == "in_place")):
            holds = bool(part.held_by) or part.kind == "liner"
            seen.append(PartSeen(part=part.called, where=now.where, face=now.face, holds=holds))
    return tuple(seen)


_QUARTER_TURNS: Final = {"upright": 0, "on_right_side": 1, "inverted": 2, "on_left_side": 3, "on_end": 1}


def _attitude(state: RunState) -> str | None:
    """Return how the engine was last laid in this run."""
    laid = [attitude for key, attitude in state.definition.laying if state.live(key) is not None]
    return laid[-1] if laid else None


def outline_of(procedure: Procedure) -> tuple[Shape, ...]:
    """Return the outlines drawn by the author."""
    shapes: list[Shape] = []
    for drawn in procedure.outline:
        width = drawn.diameter.value if isinstance(drawn, Circle) else drawn.width.value
        height = drawn.diameter.value if isinstance(drawn, Circle) else drawn.height.value
        shapes.append(Shape(shape=drawn.shape, x=drawn.x.value, y=drawn.y.value, width=width, height=height))
    return tuple(shapes)


_WORST_FIRST: tuple[CellState, ...] = (
    "out_of_band",
    "rejected",
    "too_near",
    "now",
    "accepted",
    "left_out",
    "in_band",
    "done",
)


Held = tuple[Figure | None, Hold | None, bool]
"""What a fastener holds, where a reading tells, whether it is there at all, and whether its movement names it."""


def _head_as_before(state: RunState, name: str, now: frozenset[str], held: Held) -> Head:
    """Return a head, the very one that was drawn before where nothing on its fastener has changed since."""
    cells = state.definition.cells_of.get(name, ())
    tries = tuple(state.attempts.get(c.key) for c in cells)
    beside = (frozenset(c.key for c in cells if c.key in now), held)
    return drawn_before(state, f"head {name}", tries, beside, lambda: _head(state, name, now, held))


def _head(state: RunState, name: str, now: frozenset[str], held: Held) -> Head:
    clamp, hold, named = held
    group = state.definition.groups[name]
    position = next(p for p in group.positions if p.name == name)
    cells = state.definition.cells_of.get(name, ())
    states = [cell_state(state, c, now) for c in cells]
    worst = next((s for s in _WORST_FIRST if s in states), "todo")
    seats = [c for c in cells if seats_tool(c) and state.worked(c.key)]
    offs = [c for c in cells if c.traits.tool == "off" and state.worked(c.key)]
    return Head(
        name=name,
        x=position.x.value,
        y=position.y.value,
        across=group.across.value,
        form=_FORMS[group.form],
        state=worst,
        tool_on=len(seats) > len(offs),
        hold=hold,
        strokes=tuple(_strokes(state, cells)),
        clamp=clamp,
        named=named,
    )


_FORMS: dict[str, Literal["round", "hex", "points"]] = {
    "round_nut": "round",
    "hex_nut": "points",
    "hex": "hex",
    "twelve_point": "hex",
    "socket": "points",
}


def _strokes(state: RunState, cells: tuple[Cell, ...]) -> list[Stroke]:
    """Only tightening leaves paint: one stroke per stage of the newest cycle, the line where the angle stands.

    A full release wipes what was painted before it.
    """
    wiped = max((k for k, c in enumerate(cells) if c.traits.wipes_paint and state.live(c.key)), default=-1)
    passes = dict.fromkeys(c.step for c in cells[wiped + 1 :] if c.traits.paint is not None)
    strokes: list[Stroke] = []
    for step in passes:
        mine = [c for c in cells if c.step == step]
        tries = [a for c in mine for a in state.tries(c.key)]
        done = all(state.worked(c.key) for c in mine)
        turned = state.live(mine[-1].key) if mine[-1].what is CellItem.TURN else None
        angle = turned.judgement.corrected if turned else None
        strokes.append(Stroke(step=step, done=done, ghosts=sum(not a.live for a in tries), angle_deg=angle))
    return strokes


def _clamps(state: RunState) -> dict[str, Figure]:
    """Return for each fastener the newest load that a reading on it, or on the tools round it, speaks for.

    Once it was let go it holds nothing: no load stands beside a free nut.
    """
    newest: dict[str, tuple[int, float | None]] = {}
    for step, _ in state.definition.steps:
        for name, told in _loads_told(state, step).items():
            newest[name] = max(told, newest.get(name, told), key=lambda one: one[0])
    return {name: figure(1000.0 * kilo, Quantity.FORCE, "kN") for name, (_, kilo) in newest.items() if kilo is not None}


@once_a_step
def _loads_told(state: RunState, step: str) -> dict[str, tuple[int, float | None]]:
    """Return for each fastener the newest that a step tells of its load in kN, with its sequence; None once let go."""
    newest: dict[str, tuple[int, float | None]] = {}
    told = (a for c in state.definition.by_step[step] if (a := state.live(c.key)) is not None)
    for attempt in sorted(told, key=lambda a: a.seq):
        cell, kilo = state.definition.by_key[attempt.cell], attempt.judgement.clamp_kN
        names = (cell.fastener,) if cell.fastener else state.definition.went_round[step]
        if cell.traits.load == "takes" and cell.fastener is not None and not attempt.left_out:
            newest[cell.fastener] = (attempt.seq, None)
        elif kilo is not None:
            newest |= dict.fromkeys(names, (attempt.seq, kilo))
    return newest
