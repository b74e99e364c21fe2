"""What may be put into each field of the Reckoner: outside, a figure is a slip of the hand or of the unit.

In glossary units, shares as fractions. Source: the admissible ranges of the core where it states one; the others model,
wide enough for any bolt of an engine and narrow enough for MPa in place of GPa.
"""

from __future__ import annotations

from typing import Final

ADMISSIBLE: Final[dict[str, tuple[float, float]]] = {
    **dict.fromkeys(("F_N", "F_res_N", "F_test_N"), (1.0, 1e8)),
    **dict.fromkeys(("F_A_N", "F_rundown_N"), (0.0, 1e8)),
    **dict.fromkeys(("T_Nm", "T_book_Nm", "T_snug_Nm", "T_test_Nm"), (0.01, 1e6)),
    **dict.fromkeys(("d_mm", "d_shank_mm"), (1.0, 500.0)),
    **dict.fromkeys(("face_mm", "hole_mm"), (1.0, 1000.0)),
    **dict.fromkeys(("thread_low_mm", "thread_high_mm", "free_above_mm", "grip_off_mm", "run_out_mm"), (0.0, 5000.0)),
    **dict.fromkeys(("full_scale_bar", "p_ceiling_bar", "p_max_bar"), (1.0, 10_000.0)),
    **dict.fromkeys(("mark_clearance_1", "mark_clearance_2"), (0.001, 5.0)),
    **dict.fromkeys(("mark_width_1", "mark_width_2", "width_mm"), (0.01, 50.0)),
    **dict.fromkeys(("U_reading_mm", "U_width_mm"), (0.0, 5.0)),
    **dict.fromkeys(("mu_min", "mu_max", "mu_book"), (0.0, 1.0)),
    **dict.fromkeys(("dT_S_K", "dT_P_K"), (-400.0, 900.0)),
    **dict.fromkeys(("alpha_S", "alpha_P"), (0.0, 100.0)),
    **dict.fromkeys(("nut_turns", "jack_turns"), (0.0, 100.0)),
    **dict.fromkeys(("tool_tol", "test_doubt"), (0.0, 0.5)),
    **dict.fromkeys(("tau_MPa", "tau_bolt_MPa"), (10.0, 3000.0)),
    "A_mm2": (1.0, 1e6),
    "E_clamped_MPa": (20_000.0, 700_000.0),
    "L_mm": (1.0, 10_000.0),
    "P_mm": (0.2, 20.0),
    "Rp02_MPa": (50.0, 3000.0),
    "angle_deg": (0.0, 3600.0),
    "class_pct": (0.0, 0.10),
    "e_mm": (-2000.0, 2000.0),
    "engaged_mm": (0.1, 2000.0),
    "eta": (0.5, 1.0),
    "f_Z_mm": (0.0, 0.5),
    "n_intro": (0.0, 1.0),
    "n_stack": (1.0, 10.0),
    "nut_clearance_mm": (0.0, 500.0),
    "nut_height_mm": (0.1, 1000.0),
    "outer_mm": (1.0, 5000.0),
    "p_seat_MPa": (1.0, 5000.0),
    "shank_length_mm": (0.0, 10_000.0),
    "strip_dia_mm": (0.01, 10.0),
    "stroke_max_mm": (0.1, 500.0),
    "takeup_mm": (0.0, 100.0),
    "theta_deg": (-180.0, 180.0),
    "u_dT_K": (0.0, 50.0),
    "value_angle": (-1e6, 1e6),
    "value_force": (-1e9, 1e9),
    "value_length": (-1e6, 1e6),
    "value_pressure": (-1.1, 1e5),
    "value_temperature": (-273.15, 1e4),
    "value_torque": (-1e7, 1e7),
}
"""Least and most of each field, by its name."""
