"""The stud, joint and tool of a procedure as figures to reckon with."""

from __future__ import annotations

from dataclasses import dataclass

from jorvek.core.bolting.joint import Layer, joint_resilience
from jorvek.core.bolting.stretch import elongation_temp_corrected, preload_from_elongation
from jorvek.core.bolting.stroke import StrokeBudget, stroke_budget_tighten
from jorvek.core.bolting.stud import Section, StudElasticity, section_area, stud_split
from jorvek.core.bolting.tensioner import tensioner_force
from jorvek.core.bolting.thread import iso_thread
from jorvek.core.bolting.transfer import transfer_derived
from jorvek.core.procedure.document import Procedure
from jorvek.core.procedure.measure import Measure


@dataclass(frozen=True)
class ClampModel:
    """Elastic model of one fastener with its tensioner.

    Attributes:
        stud: elasticity of the stud.
        dP: resilience of the clamped parts in mm/N.
        smallest_mm2: smallest loaded section.
        yield_MPa: R_p0.2 from the certificate.
        area_mm2: area of one tool element.
        elements: stacked elements.
        eta: efficiency of the tool.
        rundown_N: load from the nut bar.
        f_Z_um: embedding at release.
        take_up_mm: slack of tool and threads.
        stroke_mm: stroke of the tool.
    """

    stud: StudElasticity
    dP: float
    smallest_mm2: float
    yield_MPa: float
    area_mm2: float
    elements: int
    eta: float
    rundown_N: float
    f_Z_um: float
    take_up_mm: float
    stroke_mm: float

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

    def peak_share_of_yield(self, pressure_bar: float) -> float:
        """Return the stress on the smallest section at tool pressure as a share of yield."""
        return (self.tool_load_N(pressure_bar) + self.rundown_N) / self.smallest_mm2 / self.yield_MPa

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

    def stretch_mm(self, load_N: float) -> float:
        """Return the end-to-end stretch in mm of the stud under a load in N."""
        return load_N * self.stud.delta_own

    def load_from_stretch_N(self, stretch_mm: float) -> float:
        """Return the load in N that an end-to-end stretch in mm speaks for."""
        return preload_from_elongation(stretch_mm, self.stud.delta_own).F_N


def clamp_model(procedure: Procedure) -> ClampModel:
    """Build the clamp model of a procedure.

    Raises:
        Refusal: when the geometry in the document is impossible.
    """
    f, c, t = procedure.fasteners, procedure.clamped, procedure.tensioner
    thread = iso_thread(f.thread.diameter.value, f.thread.pitch.value)
    sections = [
        Section(s.length.value, s.diameter.value if isinstance(s.diameter, Measure) else None) for s in f.sections
    ]
    layers = [Layer(layer.thickness.value, layer.modulus.value) for layer in c.layers]
    stud = stud_split(
        thread,
        sections,
        f.bottom_end,
        f.nut_height.value,
        f.free_above_nut.value,
        E_MPa=f.modulus.value,
        E_tapped_MPa=layers[-1].E_MPa,
    )
    joint = joint_resilience(layers, c.bearing.value, c.hole.value, c.outer.value, f.bottom_end)
    shanks = [section_area(s, thread) for s in sections if s.d_mm is not None]
    return ClampModel(
        stud=stud,
        dP=joint.delta_P,
        smallest_mm2=min([thread.As_mm2, *shanks]),
        yield_MPa=f.yield_strength.value,
        area_mm2=t.area.value,
        elements=t.elements,
        eta=t.efficiency.value / 100.0,
        rundown_N=t.rundown_load.value,
        f_Z_um=c.embedding.value * 1000.0,
        take_up_mm=t.take_up.value,
        stroke_mm=t.stroke.value,
    )


def stretch_between(first: tuple[float, float], second: tuple[float, float]) -> float:
    """Return the stretch in mm between two (length_mm, temperature_C) readings."""
    return elongation_temp_corrected(first[0], first[1], second[0], second[1]).dL_mm
