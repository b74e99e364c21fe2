"""Each fastener group of a procedure, with its joint and tool, as figures to reckon with."""

from __future__ import annotations

from dataclasses import dataclass

from jorvek.core.bolting.angle import PlasticAngleStage, preload_after_angle_plastic
from jorvek.core.bolting.joint import Layer, joint_resilience
from jorvek.core.bolting.strength import preload_at_utilisation
from jorvek.core.bolting.stretch import elongation_temp_corrected, preload_from_elongation
from jorvek.core.bolting.stroke import LooseningBudget, StrokeBudget, loosening_budget, stroke_budget_tighten
from jorvek.core.bolting.stud import Section, StudElasticity, bolt_resilience, section_area, stud_split
from jorvek.core.bolting.tensioner import tensioner_force
from jorvek.core.bolting.thread import Thread, iso_thread
from jorvek.core.bolting.torque import preload_from_torque
from jorvek.core.bolting.transfer import transfer_derived
from jorvek.core.procedure.document import Procedure
from jorvek.core.procedure.fasteners import FastenerGroup, TensionerSpec
from jorvek.core.procedure.measure import Measure
from jorvek.core.refusal import Refusal


@dataclass(frozen=True)
class BoltModel:
    """Elastic model of one fastener in its joint.

    Attributes:
        thread: its thread.
        delta_S: resilience of the fastener as the joint feels it, mm/N.
        delta_own: stretch of the fastener end to end, mm/N.
        dP: resilience of the clamped parts, mm/N.
        smallest_mm2: smallest loaded section.
        shank_mm: smallest shank diameter, None for thread all along.
        yield_MPa: R_p0.2.
        face_mm: mean diameter of the bearing face.
        friction: coefficient of friction, least, usual and most; None when not stated.
        prevailing_Nm: running torque of a self-locking nut.
    """

    thread: Thread
    delta_S: float
    delta_own: float
    dP: float
    smallest_mm2: float
    shank_mm: float | None
    yield_MPa: float
    face_mm: float
    friction: tuple[float, float, float] | None
    prevailing_Nm: float

    def yield_N(self) -> float:
        """Return the load in N at which the smallest section yields under pure pull."""
        return self.smallest_mm2 * self.yield_MPa

    def turned_yield_N(self, mu: float | None = None) -> float:
        """Return the load in N at which the fastener yields while it is being turned, at usual friction or another.

        Raises:
            Refusal: ``E_DATA`` without a stated friction.
        """
        friction = self._usual() if mu is None else mu
        return preload_at_utilisation(1.0, self.yield_MPa, self.thread, friction, self.shank_mm)

    def torque_load_N(self, torque_Nm: float, mu: float) -> float:
        """Return the load in N of a torque in N·m at one friction in thread and face."""
        return preload_from_torque(torque_Nm, self.thread, mu, mu, self.face_mm, self.prevailing_Nm)

    def after_angle(self, snug_N: float, angle_deg: float, yield_share: float = 1.0) -> PlasticAngleStage:
        """Return the load after turning through an angle from a snug load in N.

        Args:
            snug_N: load before.
            angle_deg: how far it is turned.
            yield_share: yield strength over the least that is promised.
        """
        at_yield = yield_share * self.turned_yield_N()
        return preload_after_angle_plastic(snug_N, angle_deg, self.thread.P_mm, self.delta_S, self.dP, at_yield)

    def stretch_mm(self, load_N: float) -> float:
        """Return the end-to-end stretch in mm under a load in N."""
        return load_N * self.delta_own

    def datum_resilience(self, datum: str) -> float:
        """Return what a stretch reading moves by per load, in mm/N, for a datum.

        Args:
            datum: ``end_to_end``, ``end_to_face`` or ``at_tool_under_pressure``.

        Raises:
            Refusal: ``E_DATA`` for a datum that this fastener cannot be read at.

        Source: derived here. End to end only the fastener counts; against the joint's face the
        joint's compression comes on top; at the tool the pulled thread above the nut does, too.
        """
        if datum != "end_to_end":
            raise Refusal("E_DATA", name="datum")
        return self.delta_own

    def load_from_stretch_N(self, stretch_mm: float, datum: str = "end_to_end") -> float:
        """Return the load in N that a stretch in mm speaks for; at the tool, the tool's load."""
        return preload_from_elongation(stretch_mm, self.datum_resilience(datum)).F_N

    def _usual(self) -> float:
        if self.friction is None:
            raise Refusal("E_DATA", name="friction")
        return self.friction[1]


@dataclass(frozen=True)
class ClampModel(BoltModel):
    """The same for a stud with its tensioner.

    Attributes:
        stud: elasticity of the stud, split by what loads when.
        area_mm2: area of one tool element.
        elements: stacked elements.
        eta: efficiency of the tool.
        rundown_N: load from the nut bar.
        f_Z_um: embedding at release.
        take_up_mm: slack of tool and threads.
        stroke_mm: stroke of the tool.
        rating_bar: highest pressure the tool may see.
    """

    stud: StudElasticity
    area_mm2: float
    elements: int
    eta: float
    rundown_N: float
    f_Z_um: float
    take_up_mm: float
    stroke_mm: float
    rating_bar: float

    def datum_resilience(self, datum: str) -> float:
        """Return what a stretch reading moves by per load, in mm/N, for a datum."""
        ways = {
            "end_to_end": self.delta_own,
            "end_to_face": self.stud.dS0 + self.stud.dGN + self.dP,
            "at_tool_under_pressure": self.stud.dS0 + self.dP + self.stud.dU,
        }
        return ways[datum]

    def tool_load_N(self, pressure_bar: float) -> float:
        """Return the tool load on one stud in N at an oil pressure in bar."""
        return tensioner_force(pressure_bar, self.area_mm2, self.elements, self.eta)

    def residual_N(self, pressure_bar: float) -> float:
        """Return the load in N left after nuts run down at a pressure in bar and release.

        Raises:
            Refusal: when nothing would be left.
        """
        load = self.tool_load_N(pressure_bar)
        return transfer_derived(load, self.stud.dS0, self.dP, self.stud.dNut, self.f_Z_um, self.rundown_N).F_res_N

    def peak_share_of_yield(self, pressure_bar: float, rundown: bool = True) -> float:
        """Return the stress on the smallest section at tool pressure as a share of yield."""
        load = self.tool_load_N(pressure_bar) + (self.rundown_N if rundown else 0.0)
        return load / self.smallest_mm2 / self.yield_MPa

    def stroke_budget(self, pressure_bar: float) -> StrokeBudget:
        """Return the piston travel for tightening a slack stud up to a pressure in bar."""
        return stroke_budget_tighten(
            self.tool_load_N(pressure_bar),
            self.stud.dS0,
            self.dP,
            self.stud.dU,
            self.take_up_mm,
            gap_mm=0.0,
            stroke_max_mm=self.stroke_mm,
        )

    def loosening(self, load_N: float, pressure_bar: float, jack_turns: float, nut_turns: float) -> LooseningBudget:
        """Return whether nut and tool come free when a stud with a load in N is opened at a pressure in bar."""
        s = self.stud
        return loosening_budget(
            load_N,
            self.tool_load_N(pressure_bar),
            s.dS0,
            self.dP,
            s.dNut,
            s.dU,
            self.thread.P_mm,
            jack_turns,
            nut_turns,
            self.stroke_mm,
            self.take_up_mm,
            s.dGN,
        )


_TOP_END = {
    "round_nut": "nut",
    "hex_nut": "nut",
    "hex": "hex_head",
    "twelve_point": "hex_head",
    "socket": "socket_head",
}


def _sections(group: FastenerGroup) -> list[Section]:
    return [
        Section(s.length.value, s.diameter.value if isinstance(s.diameter, Measure) else None) for s in group.sections
    ]


def bolt_model(group: FastenerGroup) -> BoltModel:
    """Build the model of a group.

    Raises:
        Refusal: when the geometry in the document is impossible.
    """
    c = group.clamped
    thread = iso_thread(group.thread.diameter.value, group.thread.pitch.value)
    sections = _sections(group)
    layers = [Layer(layer.thickness.value, layer.modulus.value) for layer in c.layers]
    tapped = layers[-1].E_MPa if group.bottom_end == "tapped" else None
    ends = (_TOP_END[group.form], group.bottom_end)
    bolt = bolt_resilience(thread, sections, ends, E_MPa=group.modulus.value, E_tapped_MPa=tapped)
    way = "tapped" if group.bottom_end == "tapped" else "through"
    joint = joint_resilience(layers, c.bearing.value, c.hole.value, c.outer.value, way)
    shanks = [s.d_mm for s in sections if s.d_mm is not None]
    friction = group.lubricant.friction
    return BoltModel(
        thread=thread,
        delta_S=bolt.delta_S,
        delta_own=bolt.delta_own,
        dP=joint.delta_P,
        smallest_mm2=min([thread.As_mm2, *(section_area(s, thread) for s in sections if s.d_mm is not None)]),
        shank_mm=min(shanks) if shanks else None,
        yield_MPa=group.yield_strength.value,
        face_mm=(c.bearing.value + c.hole.value) / 2.0,
        friction=(friction.least.value, friction.usual.value, friction.most.value) if friction else None,
        prevailing_Nm=group.prevailing.value if group.prevailing else 0.0,
    )


def clamp_model(group: FastenerGroup, tool: TensionerSpec) -> ClampModel:
    """Build the model of a group that a tensioner pulls.

    Raises:
        Refusal: when the geometry in the document is impossible.
    """
    bolt = bolt_model(group)
    assert group.nut_height is not None
    assert group.free_above_nut is not None
    layers = group.clamped.layers
    stud = stud_split(
        bolt.thread,
        _sections(group),
        group.bottom_end,
        group.nut_height.value,
        group.free_above_nut.value,
        E_MPa=group.modulus.value,
        E_tapped_MPa=layers[-1].modulus.value if group.bottom_end == "tapped" else None,
    )
    return ClampModel(
        **{**vars(bolt), "delta_S": stud.dS0 + stud.dNut, "delta_own": stud.delta_own},
        stud=stud,
        area_mm2=tool.element_mm2(),
        elements=tool.elements,
        eta=tool.efficiency.value / 100.0,
        rundown_N=tool.rundown_load.value,
        f_Z_um=group.clamped.embedding.value * 1000.0,
        take_up_mm=tool.take_up.value,
        stroke_mm=tool.stroke.value,
        rating_bar=tool.rating.value,
    )


def models(procedure: Procedure) -> dict[str, BoltModel]:
    """Build the models of all groups of a procedure, by group id.

    Raises:
        Refusal: when the geometry in the document is impossible.
    """
    tools = {tool.group: tool for tool in procedure.tensioners}
    return {g.id: clamp_model(g, tools[g.id]) if g.id in tools else bolt_model(g) for g in procedure.fasteners}


def stretch_between(first: tuple[float, float], second: tuple[float, float]) -> float:
    """Return the stretch in mm between two (length_mm, temperature_C) readings."""
    return elongation_temp_corrected(first[0], first[1], second[0], second[1]).dL_mm
