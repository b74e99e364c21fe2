"""From the names of published cases to the functions of the core, and back to plain data."""

from __future__ import annotations

import dataclasses
import inspect
from collections.abc import Callable
from dataclasses import dataclass, field
from enum import StrEnum
from typing import Any, Final

from jorvek.core import units
from jorvek.core.bolting import (
    angle,
    curve,
    interaction,
    joint,
    order,
    release,
    scatter,
    strength,
    stretch,
    stroke,
    stud,
    tensioner,
    thread,
    torque,
    transfer,
    wrench,
)
from jorvek.core.guard_band import guard_band_decision
from jorvek.core.measuring import bearing, bore, gates, rings, uncertainty
from jorvek.core.refusal import Refusal

Data = Any
"""Plain data as JSON carries it."""


@dataclass(frozen=True)
class CaseMapping:
    """How one published name reaches its function.

    Attributes:
        function: function of the core.
        results: published key for each field of the result that goes by another name.
    """

    function: Callable[..., Data]
    results: dict[str, str] = field(default_factory=dict)


_LENGTHS: Final = {"min_mm": "min", "max_mm": "max", "mean_mm": "mean", "within_mm": "within"}

ENTRIES: Final[dict[str, CaseMapping]] = {
    **{
        function.__name__: CaseMapping(function)
        for function in (
            thread.coarse_pitch,
            strength.property_class,
            torque.bearing_diameter,
            torque.torque_from_preload,
            torque.preload_from_torque,
            torque.loosening_torque,
            torque.nut_factor,
            torque.torque_from_K,
            torque.preload_from_K,
            torque.friction_from_K,
            torque.friction_from_test,
            strength.preload_at_utilisation,
            strength.torque_for_proof_fraction,
            scatter.preload_scatter,
            scatter.alpha_A,
            scatter.scatter_from_alpha_A,
            stud.bolt_resilience,
            joint.sleeve_resilience,
            joint.vdi_cone_tan,
            joint.load_factor,
            joint.embedding,
            joint.thermal_preload_change,
            stretch.elongation_from_preload,
            stretch.preload_from_elongation,
            stretch.elongation_temp_corrected,
            stretch.ultrasonic_elongation,
            guard_band_decision,
            stretch.permanent_set,
            stretch.elongation_window,
            angle.flats_to_deg,
            angle.preload_after_angle,
            angle.angle_for_preload,
            angle.stud_windup,
            angle.knee,
            angle.preload_after_angle_plastic,
            stretch.reuse_count,
            angle.angle_error_to_preload,
            angle.torque_angle_compare,
            curve.analyse_torque_angle,
            tensioner.annular_area,
            tensioner.tensioner_force,
            tensioner.tensioner_pressure,
            transfer.transfer_given,
            transfer.transfer_rule_of_thumb,
            stud.stud_split,
            transfer.transfer_derived,
            transfer.tool_load_for_residual,
            transfer.pressure_for_residual,
            transfer.transfer_vs_grip,
            strength.stud_stress_check,
            stroke.stroke_budget_tighten,
            stroke.loosening_budget,
            tensioner.pump_oil_pressure,
            tensioner.pump_air_setting,
            tensioner.gauge_uncertainty,
            release.residual_from_breakaway,
            release.shared_hose_bounds,
            order.circle_positions,
            interaction.compliance_geom,
            interaction.interaction_coefficients,
            tensioner.pass_pressures,
            wrench.extension_setting,
            wrench.extension_actual,
            wrench.multiplier_input,
            wrench.multiplier_output,
            wrench.wrench_range,
            wrench.cal_actual,
            wrench.cal_setting,
            wrench.iso6789_deviation_pct,
            order.star_sequence,
            order.group_sequence,
            order.reverse_sequence,
            order.spiral_sequence,
            order.row_layout,
            order.imbalance,
            bearing.bearing_clearance,
            bearing.strip_clearance,
            gates.end_float,
            gates.gasket_grade,
            uncertainty.std_uncertainty,
            uncertainty.gum_combine,
            uncertainty.u_preload_torque,
            uncertainty.u_preload_angle,
            uncertainty.u_preload_hydraulic,
            uncertainty.u_preload_elongation,
        )
    },
    "convert": CaseMapping(units.convert_named),
    "iso_thread": CaseMapping(
        thread.iso_thread,
        {
            "H_mm": "H",
            "d2_mm": "d2",
            "d1_mm": "d1",
            "d3_mm": "d3",
            "ds_mm": "ds",
            "As_mm2": "A_s",
            "Ad3_mm2": "A_d3",
            "AN_mm2": "A_N",
            "lead_mm": "lead",
        },
    ),
    "un_thread": CaseMapping(
        thread.un_thread,
        {
            "d2_mm": "d2",
            "d1_mm": "d1",
            "d3_older_mm": "d3_17_12H",
            "d3_newer_mm": "d3_11_8H",
            "ds_mm": "ds",
            "At_in2": "A_t_in2",
            "As_mm2": "A_s",
            "AN_mm2": "A_N",
            "lead_mm": "lead",
        },
    ),
    "tightening_stress": CaseMapping(
        strength.tightening_stress,
        {
            "d0_mm": "d0",
            "A0_mm2": "A0",
            "sigma_MPa": "sigma",
            "tau_MPa": "tau",
            "sigma_red_MPa": "sigma_red",
            "sigma_red_after_MPa": "sigma_red_after",
        },
    ),
    "joint_resilience": CaseMapping(joint.joint_resilience, {"D_A_lim_mm": "D_A_lim", "grip_mm": "lK"}),
    "breakaway_analysis": CaseMapping(release.breakaway_analysis, {"classes": "cls", "noted": "n_noted"}),
    "simulate_tensioning": CaseMapping(interaction.simulate_tensioning, {"final_N": "final", "history_N": "history"}),
    "loads_for_equal_residual": CaseMapping(
        interaction.loads_for_equal_residual,
        {
            "set_loads_N": "set_loads",
            "group_mean_loads_N": "group_mean_loads",
            "finals_with_group_mean_N": "finals_with_group_mean",
            "check_final_N": "check_final",
        },
    ),
    "eicm_single_pass": CaseMapping(interaction.eicm_single_pass, {"final_N": "final"}),
    "liner_standout": CaseMapping(
        gates.liner_standout,
        {
            **_LENGTHS,
            "neighbour_mm": "neighbour",
            "neighbour_max_mm": "neighbour_max",
            "overall_min_mm": "overall_min",
            "overall_max_mm": "overall_max",
        },
    ),
    "bore_form": CaseMapping(
        bore.bore_form,
        {
            "ovality_mm": "ovality",
            "ovality_max_mm": "ovality_max",
            "ovality_fourier_mm": "ovality_fourier",
            "taper_mm": "taper",
            "taper_max_mm": "taper_max",
            "taper_signed_mm": "taper_signed",
            "mean_D_mm": "mean_D",
            "max_D_mm": "max_D",
            "min_D_mm": "min_D",
            "wear_max_mm": "wear_max",
        },
    ),
    "straightness": CaseMapping(
        bore.straightness,
        {"end_point_mm": "end_point", "least_squares_mm": "least_squares", "min_zone_mm": "min_zone"},
    ),
    "axis_offsets": CaseMapping(bore.axis_offsets, {"offset_mm": "offset", "dD_mm": "dD"}),
    "ring_gap_check": CaseMapping(rings.ring_gap_check, {"sep_deg": "sep", "sep_min_deg": "sep_min"}),
    "ring_gap_positions": CaseMapping(rings.ring_gap_positions, {"angles_deg": "angles"}),
}
"""Every published name."""


def _item(row: Data, name: str) -> dict[str, Data]:
    if not isinstance(row, dict):
        raise Refusal("E_TYPE", name=name, got=str(row))
    return row


def _section(row: Data) -> stud.Section:
    part = _item(row, "sections")
    # A section that is neither thread nor has a size would silently become thread.
    if not part.get("thread") and "d" not in part and "A" not in part:
        raise Refusal("E_TYPE", name="sections", got=str(row))
    # Published cases hold what the core refuses, too.
    return stud.Section(part.get("L"), part.get("d"), part.get("bore") or 0.0, part.get("A"))  # type: ignore[arg-type]


def _layer(row: Data) -> joint.Layer:
    part = _item(row, "layers")
    # Published cases hold what the core refuses, too.
    return joint.Layer(part.get("L"), part.get("E"))  # type: ignore[arg-type]


def _grade(row: Data) -> gates.GasketGrade:
    part = _item(row, "grades")
    # Published cases hold what the core refuses, too.
    return gates.GasketGrade(str(part.get("grade")), part.get("lo"), part.get("hi"), part.get("t"))  # type: ignore[arg-type]


_ROWS: Final[dict[str, Callable[[Data], Data]]] = {
    "sections": _section,
    "sections_below": _section,
    "layers": _layer,
    "grades": _grade,
}


def _rows(name: str, value: Data) -> Data:
    if not isinstance(value, list):
        raise Refusal("E_TYPE", name=name, got=str(value))
    return [_ROWS[name](row) for row in value]


def _pulls(value: Data, n: int) -> list[interaction.Pull]:
    if not isinstance(value, list):
        raise Refusal("E_TYPE", name="steps", got=str(value))
    steps = [_item(row, "steps") for row in value]
    # Published cases hold what the core refuses, too.
    return [interaction.pull(step.get("studs"), step.get("load"), n) for step in steps]  # type: ignore[arg-type]


def arguments(op: str, args: dict[str, Data]) -> dict[str, Data]:
    """Return published arguments as the function takes them.

    Raises:
        Refusal: when an argument cannot be made from what is there; ``E_DATA`` when one is
            missing or unknown.
    """
    accepted = inspect.signature(ENTRIES[op].function).parameters
    given = dict(args)
    if "thread" in accepted:
        given["thread"] = thread.iso_thread(given.pop("d_mm", None), given.pop("P_mm", None))
    for name in _ROWS.keys() & given.keys():
        given[name] = _rows(name, given[name])
    for name in {"steps", "prior_steps"} & given.keys():
        matrix = given.get("C")
        given[name] = _pulls(given[name], len(matrix) if isinstance(matrix, list) else 0)
    missing = {p.name for p in accepted.values() if p.default is inspect.Parameter.empty} - given.keys()
    if missing or given.keys() - accepted.keys():
        raise Refusal("E_DATA", name=", ".join(sorted(missing or given.keys() - accepted.keys())))
    return given


def plain(value: Data, results: dict[str, str]) -> Data:
    """Return a result of the core as plain data under published keys."""
    if isinstance(value, StrEnum):
        return str(value)
    if isinstance(value, list | tuple):
        return [plain(item, results) for item in value]
    if dataclasses.is_dataclass(value) and not isinstance(value, type):
        names = [f.name for f in dataclasses.fields(value)]
        names += [n for n, member in inspect.getmembers(type(value)) if isinstance(member, property)]
        return {results.get(name, name): plain(getattr(value, name), results) for name in names}
    return value


def evaluate(op: str, args: dict[str, Data]) -> Data:
    """Return the answer of the core to a published question, as plain data.

    Raises:
        Refusal: the core's own, or ``E_DATA`` for an unknown name.
    """
    if op not in ENTRIES:
        raise Refusal("E_DATA", name=op)
    entry = ENTRIES[op]
    return plain(entry.function(**arguments(op, args)), entry.results)
