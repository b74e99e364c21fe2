"""What each fastener holds, from all evidence of one moment: that of its last stretch, else of the last release."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Final, Literal

from jorvek.core.bolting.interaction import Pull, compliance_geom, pull, simulate_tensioning
from jorvek.core.bolting.stretch import STEEL_EXPANSION_PER_K
from jorvek.core.bolting.torque import torque_lever_mm
from jorvek.core.measuring.evidence import ClampEstimate, Evidence, EvidenceKind, combine_evidence
from jorvek.core.measuring.uncertainty import USUAL, u_preload_hydraulic, u_preload_torque
from jorvek.core.procedure.cell_items import CellItem
from jorvek.core.procedure.clamp import BoltModel, ClampModel
from jorvek.core.procedure.fasteners import FastenerGroup
from jorvek.core.procedure.steps import StretchStep, TensionStep, TorqueStep
from jorvek.core.run.log import events as ev
from jorvek.core.run.log.cells import Cell, InputType, Rule
from jorvek.core.run.log.state import Attempt, RunState
from jorvek.core.run.rules.friction import model_in, tested, torque_Nm
from jorvek.core.run.rules.torque_angle_verdict import before
from jorvek.core.run.views.moved_as_expected import BOLT_FRICTION_DOUBT, Told, told_by_movement

_MOMENT: Final = "of the last stretch, else after the last release"
_TEMPERATURE_DOUBT_K: Final = 0.5
"""Standard uncertainty of the difference of two metal temperatures read with one probe."""
_JOINT_DOUBT_K: Final = 1.0
"""Standard uncertainty of the stud's temperature against the joint's, which nobody has read."""
_MARK_DOUBT_DEG: Final = 2.0 / 3.0**0.5
"""Standard uncertainty of an angle read from paint marks: 2 degrees either way, all equally likely."""
_EMBEDDING_DOUBT: Final = 0.5
"""Relative standard uncertainty of how far the faces embed."""
_RUN_DOWN_DOUBT: Final = 0.25
"""Relative standard uncertainty of the load that the nut bar leaves: effort by hand, friction unknown."""
_INTERACTION_DOUBT: Final = 0.3
"""Relative standard uncertainty of what neighbours take away when they are pulled later."""
_FELT: Final = 0.02
"""Relative standard uncertainty of a torque that is read while the wrench turns on. Model."""
_YIELD_LEAST, _YIELD_MOST = 1.0, 1.15
"""Yield strength of a delivered fastener over the least that its class promises, with what it hardens."""


def _last(state: RunState, evidence: Literal["pressure", "stretch", "turning"], fastener: str) -> Attempt | None:
    """Return the newest live reading of a sort of evidence that speaks for a fastener's load."""
    cells = [
        c for c in state.definition.cells if c.traits.evidence == evidence and state.definition.speaks_for(c, fastener)
    ]
    told = [a for c in cells for a in (state.live(c.key),) if a is not None and _tells(c, a)]
    return max(told, key=lambda a: a.seq, default=None)


def _tells(cell: Cell, attempt: Attempt) -> bool:
    """A stretch tells also where it is none, and no load follows from it."""
    if cell.traits.evidence == "stretch":
        return cell.rule is Rule.STRETCH and attempt.judgement.judged is not None
    return attempt.judgement.clamp_kN is not None


def spoiled(state: RunState, fastener: str) -> bool:
    """Tell whether a blade or a stretch of a fastener stands outside its limits: then nothing is said together."""
    for cell in state.definition.cells_of.get(fastener, ()):
        proves = cell.ask is InputType.FEELER or cell.traits.evidence == "stretch"
        live = state.live(cell.key)
        if proves and live is not None and live.judgement.verdict is ev.Verdict.OUT_OF_BAND:
            return True
    return False


@dataclass(frozen=True)
class _Warmth:
    """What a difference between the temperatures of a stud and its joint does to the load.

    Attributes:
        shift_N: load at the last stretch less the load as set.
        doubt_N: its standard uncertainty.
    """

    shift_N: float
    doubt_N: float


def _warmth(state: RunState, fastener: str, reading: Attempt | None) -> _Warmth:
    """Return what unequal warmth does; a joint whose temperature was taken with the stretch leaves less in doubt.

    Source: derived here, the change of ``thermal_preload_change`` for equal metals: a stud that is warmer than its
    joint by one kelvin holds less by its own growth over the resilience of both. Stud and joint are taken to be alike
    when they were tightened.
    """
    model, parts = state.definition.model_of(fastener), state.definition.groups[fastener].clamped.layers
    # Only along the grip do stud and parts pull against each other.
    grip = sum(layer.thickness.value for layer in parts)
    per_K = STEEL_EXPANSION_PER_K * grip / (model.delta_S + model.dP)
    taken = None if reading is None else _joint_temperature(state, reading)
    if taken is None or reading is None:
        return _Warmth(0.0, _JOINT_DOUBT_K * per_K)
    stud = state.live(state.definition.by_key[reading.cell].uses[0])
    warmer = 0.0 if stud is None else (stud.judgement.corrected or 0.0) - taken
    return _Warmth(-warmer * per_K, _TEMPERATURE_DOUBT_K * per_K)


def _joint_temperature(state: RunState, reading: Attempt) -> float | None:
    step = state.definition.by_key[reading.cell].step
    live = state.live(f"{step}/{CellItem.JOINT_TEMPERATURE}")
    return None if live is None else live.judgement.corrected


def _by_pressure(state: RunState, attempt: Attempt, carried: float | None, warmth: _Warmth) -> Evidence | None:
    """Return what a tool pressure speaks for once the nut holds, carried through later pulls of the neighbours."""
    pressure = attempt.judgement.corrected
    if not pressure:
        return None
    model = state.definition.clamp_of(state.definition.by_key[attempt.cell])
    load = model.residual_N(pressure)
    doubt = u_preload_hydraulic(
        pressure,
        model.area_mm2,
        model.elements,
        model.eta,
        min(1.0, load / model.tool_load_N(pressure)),
        (attempt.judgement.uncertainty or 0.0) / 2.0,
        USUAL.area,
        USUAL.efficiency,
        USUAL.transfer,
    )
    give = model.stud.dS0 + model.dP + model.stud.dNut
    share = 1.0 if carried is None else carried / load
    own = [
        _EMBEDDING_DOUBT * model.f_Z_um / 1000.0 / give,
        _RUN_DOWN_DOUBT * model.rundown_N,
        warmth.doubt_N,
        _INTERACTION_DOUBT * abs(1.0 - share) * load,
    ]
    # Gauge, tools and the reckoned transfer are the same for every stud of the joint.
    return _piece(EvidenceKind.PRESSURE, share * load + warmth.shift_N, own, {"tool": doubt.u_rel * load})


def _piece(kind: EvidenceKind, load_N: float, own: list[float], shared: dict[str, float]) -> Evidence:
    """Return a piece of evidence whose doubt is made of its own parts and of those alike for the whole joint."""
    return Evidence(kind, load_N, math.hypot(*own, *shared.values()), _MOMENT, shared)


def _by_stretch(state: RunState, attempt: Attempt, fastener: str) -> Evidence | None:
    """Return what a stretch speaks for: divided by the resilience of its datum, whatever its sign.

    Source: derived here, u^2 = (u_dL / delta)^2 + (u_delta F)^2. At the tool under pressure the stud carries the
    tool's load; what the nut holds of it after release follows by the transfer.
    """
    stretch = attempt.judgement.judged
    step = state.definition.steps_by_id[state.definition.by_key[attempt.cell].step_id]
    if stretch is None or not isinstance(step, StretchStep):
        return None
    model = state.definition.model_of(fastener)
    delta = model.datum_resilience(step.datum)
    length = state.definition.groups[fastener].free_length.value
    # U belongs to the stretch, which is the difference of two readings.
    reading = (attempt.judgement.uncertainty or 0.0) / 2.0
    warmth = STEEL_EXPANSION_PER_K * length * _TEMPERATURE_DOUBT_K
    load, stiffness = stretch / delta, USUAL.stiffness * stretch / delta
    own = [reading / delta, warmth / delta]
    if step.datum == "at_tool_under_pressure" and isinstance(model, ClampModel) and load > 0.0:
        bar = load / model.tool_load_N(1.0)
        share = model.residual_N(bar) / load
        shared = {"stiffness": share * stiffness, "transfer": USUAL.transfer * load}
        return _piece(EvidenceKind.STRETCH, share * load, [share * part for part in own], shared)
    return _piece(EvidenceKind.STRETCH, load, own, {"stiffness": stiffness})


@dataclass(frozen=True)
class _TorqueDoubt:
    """Relative standard uncertainties of a load by torque.

    Attributes:
        wrench: of the wrench, alike for all bolts it pulls.
        oil: of the joint's friction, alike for all its bolts.
        bolt: of a bolt's own friction.
    """

    wrench: float
    oil: float
    bolt: float

    @property
    def whole(self) -> float:
        return math.hypot(self.wrench, self.oil, self.bolt)


def _torque_doubt(model: BoltModel, torque_Nm: float, accuracy_pct: float, *, tested: bool) -> _TorqueDoubt:
    """Return what makes a load by torque uncertain.

    A friction range out of a table covers 95 % of the oil and of the bolts; one that was tested is that of the middle
    of the bolts, which differ besides.
    """
    assert model.friction is not None
    least, usual, most = model.friction
    wide = (most - least) / 4.0
    bound = accuracy_pct / 100.0 / 3.0**0.5

    def part(u_T_rel: float, u_mu: float) -> float:
        # One lubricant serves thread and face: their frictions go up and down together.
        return u_preload_torque(torque_Nm, model.thread, usual, usual, model.face_mm, u_T_rel, u_mu, u_mu, 1.0).u_rel

    friction = part(0.0, wide)
    if tested:
        return _TorqueDoubt(part(bound, 0.0), friction, BOLT_FRICTION_DOUBT)
    bolt = min(friction, BOLT_FRICTION_DOUBT)
    return _TorqueDoubt(part(bound, 0.0), math.sqrt(max(0.0, friction**2 - bolt**2)), bolt)


def _wrench_of(state: RunState, cell: Cell) -> float:
    tool = state.tool(cell.tool_role)
    return tool.accuracy_pct or 0.0 if tool is not None else 0.0


def _snug_wrench(state: RunState, turned: Cell) -> float:
    """Return the bound of the wrench that pulled the snug torque before an angle, in %."""
    assert turned.fastener is not None
    earlier = state.definition.cells_of[turned.fastener]
    pulls = [c for c in earlier[: earlier.index(turned)] if c.ask is InputType.PULL and state.worked(c.key)]
    return _wrench_of(state, pulls[-1]) if pulls else 0.0


def _doubt_before(state: RunState, turned: Cell, model: BoltModel, torque_Nm: float) -> _TorqueDoubt:
    """Return what makes the load before an angle uncertain."""
    assert turned.fastener is not None
    bound = _snug_wrench(state, turned)
    return _torque_doubt(model, torque_Nm, bound, tested=tested(state, turned.fastener))


def _by_movement(load_N: float, told: Told, embeds_N: float, warmth: _Warmth) -> Evidence:
    """Return the load by torque as its movement tells it: neither wrench nor the oil's friction has a part in it."""
    load = (told.share + told.share / told.softer) / 2.0 * load_N
    between = (told.share - told.share / told.softer) / 2.0 * load_N
    own = [BOLT_FRICTION_DOUBT * load, between, embeds_N, warmth.doubt_N]
    return _piece(EvidenceKind.TORQUE, load + warmth.shift_N, own, {"stiffness": told.doubt * load})


def _yield_share(model: BoltModel, load_share: float) -> float:
    """Return the load at which a fastener yields while it is turned, over that at usual friction.

    Source: derived here. The same torque gives ``load_share`` of the load where its lever is longer by one over that,
    and the lever is a straight line in the friction.
    """
    assert model.friction is not None
    usual = model.friction[1]
    none, lever = (torque_lever_mm(model.thread, mu, mu, model.face_mm) for mu in (0.0, usual))
    friction = usual * (lever / load_share - none) / (lever - none)
    return model.turned_yield_N(max(0.0, friction)) / model.turned_yield_N()


def _by_turning(state: RunState, attempt: Attempt, fastener: str, warmth: _Warmth) -> Evidence | None:
    """Return what the last pull or turn speaks for."""
    cell, load = state.definition.by_key[attempt.cell], 1000.0 * (attempt.judgement.clamp_kN or 0.0)
    model, step = model_in(state, fastener), state.definition.steps_by_id[cell.step_id]
    if load <= 0.0 or model.friction is None:
        return None
    embedding_mm = state.definition.groups[fastener].clamped.embedding.value
    embeds = _EMBEDDING_DOUBT * embedding_mm / (model.delta_S + model.dP)
    told = told_by_movement(state).get(fastener)
    if not isinstance(step, TorqueStep):
        return _by_angle(state, cell, attempt, told, [embeds, warmth.doubt_N], warmth.shift_N)
    if told is not None:
        return _by_movement(load, told, embeds, warmth)
    doubt = _torque_doubt(
        model, torque_Nm(state, cell, step.torque.value), _wrench_of(state, cell), tested=tested(state, fastener)
    )
    shared = {"wrench": doubt.wrench * load, "friction": doubt.oil * load}
    own = [doubt.bolt * load, embeds, warmth.doubt_N]
    return _piece(EvidenceKind.TORQUE, load + warmth.shift_N, own, shared)


def _by_angle(
    state: RunState, cell: Cell, attempt: Attempt, told: Told | None, others_N: list[float], shift_N: float
) -> Evidence | None:
    """Return what an angle from a snug torque speaks for. Source: derived here, slopes taken by central differences."""
    assert cell.fastener is not None
    model, held = model_in(state, cell.fastener), before(state, cell)
    angle = attempt.judgement.corrected or 0.0
    if held.load_N is None or held.torque_Nm <= 0.0 or model.friction is None:
        return None
    snug, doubt, turned = held.load_N, _doubt_before(state, cell, model, held.torque_Nm), 1.0
    if told is not None:
        snug, doubt = snug * told.share, _TorqueDoubt(0.0, told.doubt, BOLT_FRICTION_DOUBT)
        turned = _yield_share(model, told.share)

    def after(from_N: float, deg: float = angle, strength: float = 1.0) -> float:
        return model.after_angle(max(0.0, from_N), deg, turned * strength).F_N

    # On the plateau the load is what the fastener yields at: at least what its class promises, and a range above;
    # it yields earlier where friction twists it more.
    weak, strong = (after(snug, angle, share) for share in (_YIELD_LEAST, _YIELD_MOST))
    load, softer = (weak + strong) / 2.0, 1.0 if told is None else told.softer
    # A soft fastener that held what the others hold gained less by the angle; which of the two it is, nothing tells.
    soft = snug / softer + (load - snug) / softer
    wide, whole = snug * doubt.whole, doubt.whole or 1.0
    by_snug = (after(snug + wide) - after(snug - wide)) / 2.0
    far, near = angle + _MARK_DOUBT_DEG, max(0.0, angle - _MARK_DOUBT_DEG)
    eased, twisted = (
        after(snug, angle, model.turned_yield_N(mu) / model.turned_yield_N(model.friction[1]))
        for mu in (model.friction[0], model.friction[2])
    )
    own = [
        by_snug * doubt.bolt / whole,
        (after(snug, far) - after(snug, near)) / 2.0,
        *others_N,
        (strong - weak) / 2.5,
        (eased - twisted) / 4.0,
        (load - soft) / 2.0,
    ]
    shared = {
        "wrench": by_snug * doubt.wrench / whole,
        "friction": by_snug * doubt.oil / whole,
        "stiffness": USUAL.stiffness * (load - snug),
    }
    return _piece(EvidenceKind.ANGLE, (load + soft) / 2.0 + shift_N, own, shared)


def _by_end_torque(state: RunState, turned: Attempt, fastener: str, warmth: _Warmth) -> Evidence | None:
    """Return what the torque at the end of an angle speaks for.

    Source: derived here. It is the load times the lever of friction, so it knows that better than the strength of the
    fastener, on which an angle into its yield rests: a soft one shows here.
    """
    cells = state.definition.by_step[state.definition.by_key[turned.cell].step]
    mine = (c for c in cells if c.what is CellItem.END_TORQUE and c.fastener == fastener)
    cell = next(mine, None)
    read = None if cell is None else state.live(cell.key)
    model = model_in(state, fastener)
    if cell is None or read is None or read.seq < turned.seq or model.friction is None:
        return None
    torque = read.judgement.corrected
    if torque is None or torque <= model.prevailing_Nm:
        return None
    load = model.torque_load_N(torque, model.friction[1])
    doubt = _torque_doubt(model, torque, _wrench_of(state, cell), tested=tested(state, fastener))
    told = told_by_movement(state).get(fastener)
    if told is not None:
        # The friction that movement tells: the same torque holds so much of what usual friction lets expect.
        load, doubt = load * told.share, _TorqueDoubt(doubt.wrench, told.doubt, doubt.bolt)
    shared = {"wrench": doubt.wrench * load, "friction": doubt.oil * load}
    own = [doubt.bolt * load, _FELT * load, warmth.doubt_N]
    return _piece(EvidenceKind.TORQUE, load + warmth.shift_N, own, shared)


def estimate(state: RunState, fastener: str) -> ClampEstimate | None:
    """Return the load that all evidence together speaks for, or that it disagrees.

    Everything is of one moment: where a stretch was read after the last pull of its stud, a load as set is carried
    through whatever neighbours were pulled before that reading; otherwise through all of them.

    Args:
        state: the run.
        fastener: name on the metal.

    Returns:
        The estimate; None while nothing speaks for a load, or where a blade or a stretch of it is out of limits.
    """
    if spoiled(state, fastener):
        return None
    pressed, stretched = _last(state, "pressure", fastener), _last(state, "stretch", fastener)
    turned = _last(state, "turning", fastener)
    loaded = max((a.seq for a in (pressed, turned) if a is not None), default=0)
    # A stretch read before the last pressure or pull belongs to another moment.
    reading = stretched if stretched is not None and stretched.seq > loaded else None
    carried = after_neighbours(state, reading.seq if reading is not None else None).get(fastener)
    warmth = _warmth(state, fastener, reading)
    pieces = [_by_pressure(state, pressed, carried, warmth)] if pressed is not None else []
    pieces += [_by_turning(state, turned, fastener, warmth)] if turned is not None else []
    pieces += [_by_end_torque(state, turned, fastener, warmth)] if turned is not None else []
    pieces += [_by_stretch(state, reading, fastener)] if reading is not None else []
    found = [piece for piece in pieces if piece is not None]
    return combine_evidence(found) if found else None


def after_neighbours(state: RunState, until: int | None = None) -> dict[str, float]:
    """Return the load in N of each tensioned stud after its neighbours were pulled.

    As set, a stud has what its own pressure left in it; a group pulled later presses the joint
    together and takes some away. Only for fasteners whose reach in the joint the document states.

    Args:
        state: the run.
        until: only pulls before this event; all of them when None.
    """
    found: dict[str, float] = {}
    for group in state.definition.procedure.fasteners:
        found |= _group_after_neighbours(state, group, until)
    return found


def _group_after_neighbours(state: RunState, group: FastenerGroup, until: int | None) -> dict[str, float]:
    places, reach = [p.name for p in group.positions], group.clamped.reach
    pulls = [_pull_of(state, cells, places, until) for _, cells in state.definition.steps]
    made = [one for one in pulls if one is not None]
    if reach is None or not made:
        return {}
    model = state.definition.models[group.id]
    xy = [(p.x.value, p.y.value) for p in group.positions]
    final = simulate_tensioning(model.delta_S, compliance_geom(xy, model.dP, reach.value), made).final_N
    return {name: load for name, load in zip(places, final, strict=True) if load > 0.0}


def _pull_of(state: RunState, cells: tuple[Cell, ...], places: list[str], until: int | None) -> Pull | None:
    """Return what a pressure stage left in the studs of a group; None when it was not released on their nuts."""
    step = state.definition.steps_by_id[cells[0].step_id]
    if not isinstance(step, TensionStep) or step.afterwards != "release":
        return None
    lowest = next((state.live(c.key) for c in cells if c.what is CellItem.LOWEST), None)
    down = [c.fastener for c in cells if c.what is CellItem.NUT and state.live(c.key) is not None]
    studs = [places.index(name) for name in down if name in places]
    if lowest is None or (until is not None and lowest.seq > until):
        return None
    held = lowest.judgement.clamp_kN
    return pull(studs, 1000.0 * held, len(places)) if studs and held else None
