"""What each fastener holds, from all evidence of the run's last release."""

from __future__ import annotations

from typing import Literal

from jorvek.core.bolting.interaction import Pull, compliance_geom, pull, simulate_tensioning
from jorvek.core.measuring.evidence import ClampEstimate, Evidence, EvidenceKind, combine_evidence
from jorvek.core.measuring.uncertainty import USUAL, u_preload_elongation, u_preload_hydraulic, u_preload_torque
from jorvek.core.procedure.clamp import BoltModel
from jorvek.core.procedure.fasteners import FastenerGroup
from jorvek.core.procedure.steps import TensionStep, TorqueStep
from jorvek.core.run.log.cells import Cell
from jorvek.core.run.log.state import Attempt, RunState
from jorvek.core.run.rules.turned import before

_MOMENT = "after the last release"
_TEMPERATURE_DOUBT_K = 0.5
"""Standard uncertainty of the difference of two metal temperatures read with one probe."""
_MARK_DOUBT_DEG = 2.0 / 3.0**0.5
"""Standard uncertainty of an angle read from paint marks: 2 degrees either way, all equally likely."""


def _last(state: RunState, evidence: Literal["pressure", "stretch", "turning"], fastener: str) -> Attempt | None:
    """Return the newest live reading of a sort of evidence that speaks for a fastener's load."""
    cells = [
        c for c in state.definition.cells if c.means.evidence == evidence and state.definition.speaks_for(c, fastener)
    ]
    live = [state.live(c.key) for c in cells]
    loaded = [a for a in live if a is not None and a.judgement.clamp_kN is not None]
    return max(loaded, key=lambda a: a.seq, default=None)


def _by_pressure(state: RunState, attempt: Attempt) -> Evidence | None:
    pressure = attempt.judgement.corrected
    if not pressure:
        return None
    model = state.definition.clamp_of(state.definition.by_key[attempt.cell])
    ratio = model.residual_N(pressure) / model.tool_load_N(pressure)
    doubt = u_preload_hydraulic(
        pressure,
        model.area_mm2,
        model.elements,
        model.eta,
        min(1.0, ratio),
        (attempt.judgement.uncertainty or 0.0) / 2.0,
        USUAL.area,
        USUAL.efficiency,
        USUAL.transfer,
    )
    load = model.residual_N(pressure)
    return Evidence(EvidenceKind.PRESSURE, load, doubt.u_rel * load, _MOMENT)


def _by_stretch(state: RunState, attempt: Attempt, fastener: str) -> Evidence | None:
    stretch = attempt.judgement.judged
    if not stretch or stretch <= 0.0:
        return None
    doubt = u_preload_elongation(
        stretch,
        state.definition.model_of(fastener).delta_own,
        # U belongs to the stretch, which is the difference of two readings.
        (attempt.judgement.uncertainty or 0.0) / 2.0 / 2.0**0.5,
        _TEMPERATURE_DOUBT_K,
        state.definition.groups[fastener].free_length.value,
        USUAL.stiffness,
    )
    return Evidence(EvidenceKind.STRETCH, doubt.F_N, doubt.u_rel * doubt.F_N, _MOMENT)


def _torque_doubt(model: BoltModel, torque_Nm: float, accuracy_pct: float) -> float:
    """Return the relative standard uncertainty of a load by torque; the friction range covers 95 %."""
    assert model.friction is not None
    least, usual, most = model.friction
    wide = (most - least) / 4.0
    bound = accuracy_pct / 100.0 / 3.0**0.5
    # One lubricant serves thread and face: their frictions go up and down together.
    found = u_preload_torque(torque_Nm, model.thread, usual, usual, model.face_mm, bound, wide, wide, 1.0)
    return found.u_rel


def _wrench_of(state: RunState, cell: Cell) -> float:
    tool = state.tool(cell.tool_role)
    return tool.accuracy_pct or 0.0 if tool is not None else 0.0


def _by_turning(state: RunState, attempt: Attempt, fastener: str) -> Evidence | None:
    """Return what the last pull or turn speaks for. Source: derived here, slopes taken by central differences."""
    cell, load = state.definition.by_key[attempt.cell], 1000.0 * (attempt.judgement.clamp_kN or 0.0)
    model, step = state.definition.model_of(fastener), state.definition.steps_by_id[cell.step_id]
    if load <= 0.0 or model.friction is None:
        return None
    if isinstance(step, TorqueStep):
        doubt = _torque_doubt(model, step.torque.value, _wrench_of(state, cell))
        return Evidence(EvidenceKind.TORQUE, load, doubt * load, _MOMENT)
    held, angle = before(state, cell), attempt.judgement.corrected or 0.0
    if held.load_N is None or held.torque_Nm <= 0.0:
        return None
    snug, wide = held.load_N, held.load_N * _torque_doubt(model, held.torque_Nm, 0.0)
    by_snug = (model.after_angle(snug + wide, angle).F_N - model.after_angle(max(0.0, snug - wide), angle).F_N) / 2.0
    far, near = angle + _MARK_DOUBT_DEG, max(0.0, angle - _MARK_DOUBT_DEG)
    by_angle = (model.after_angle(snug, far).F_N - model.after_angle(snug, near).F_N) / 2.0
    by_give = USUAL.stiffness * (load - snug)
    return Evidence(EvidenceKind.ANGLE, load, (by_snug**2 + by_angle**2 + by_give**2) ** 0.5, _MOMENT)


def estimate(state: RunState, fastener: str) -> ClampEstimate | None:
    """Return the load that all evidence together speaks for, or that it disagrees.

    Args:
        state: the run.
        fastener: name on the metal.

    Returns:
        The estimate; None while nothing speaks for a load.
    """
    pressed, stretched = _last(state, "pressure", fastener), _last(state, "stretch", fastener)
    turned = _last(state, "turning", fastener)
    pieces = [_by_pressure(state, pressed)] if pressed is not None else []
    pieces += [_by_turning(state, turned, fastener)] if turned is not None else []
    loaded = max((a.seq for a in (pressed, turned) if a is not None), default=0)
    # A stretch read before the last pressure or pull belongs to another moment.
    if stretched is not None and stretched.seq > loaded:
        pieces.append(_by_stretch(state, stretched, fastener))
    found = [piece for piece in pieces if piece is not None]
    return combine_evidence(found) if found else None


def after_neighbours(state: RunState) -> dict[str, float]:
    """Return the load in N of each tensioned stud after its neighbours were pulled.

    As set, a stud has what its own pressure left in it; a group pulled later presses the joint
    together and takes some away. Only for fasteners whose reach in the joint the document states.
    """
    found: dict[str, float] = {}
    for group in state.definition.procedure.fasteners:
        found |= _group_after_neighbours(state, group)
    return found


def _group_after_neighbours(state: RunState, group: FastenerGroup) -> dict[str, float]:
    places, reach = [p.name for p in group.positions], group.clamped.reach
    pulls = [_pull_of(state, cells, places) for _, cells in state.definition.steps]
    made = [one for one in pulls if one is not None]
    if reach is None or not made:
        return {}
    model = state.definition.models[group.id]
    xy = [(p.x.value, p.y.value) for p in group.positions]
    final = simulate_tensioning(model.delta_S, compliance_geom(xy, model.dP, reach.value), made).final_N
    return {name: load for name, load in zip(places, final, strict=True) if load > 0.0}


def _pull_of(state: RunState, cells: tuple[Cell, ...], places: list[str]) -> Pull | None:
    """Return what a pressure stage left in the studs of a group; None when it was not released on their nuts."""
    step = state.definition.steps_by_id[cells[0].step_id]
    if not isinstance(step, TensionStep) or step.afterwards != "release":
        return None
    lowest = next((state.live(c.key) for c in cells if c.item == "lowest"), None)
    down = [c.fastener for c in cells if c.item == "nut" and state.live(c.key) is not None]
    studs = [places.index(name) for name in down if name in places]
    held = lowest.judgement.clamp_kN if lowest is not None else None
    return pull(studs, 1000.0 * held, len(places)) if studs and held else None
