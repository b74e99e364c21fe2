"""The torque wrench: extensions, multipliers, range, deviation."""

from __future__ import annotations

import math
from dataclasses import dataclass
from enum import StrEnum
from typing import Final

from jorvek.core import checks
from jorvek.core.calibration import Points, shown_for, true_value


class RangeState(StrEnum):
    """Where a torque lies on a wrench's scale."""

    LOW = "low"
    OK = "ok"
    HIGH = "high"


@dataclass(frozen=True)
class WrenchRange:
    """A torque against the usable part of a scale.

    Attributes:
        state: below, within or above the usable part.
        pct_of_scale: torque in % of full scale.
        usable_from_Nm: lower end of the usable part.
    """

    state: RangeState
    pct_of_scale: float
    usable_from_Nm: float


def _arm(L_mm: float, e_mm: float, theta_deg: float) -> tuple[float, float]:
    """Return grip length and effective length in mm."""
    L, e = checks.positive("L_mm", L_mm), checks.not_negative("e_mm", e_mm)
    angle = math.radians(checks.within("theta_deg", theta_deg, -180.0, 180.0))
    whole = L + e * math.cos(angle)
    if whole <= 1e-9 * L:
        raise checks.contradiction("e_mm", e, "L_mm", L)
    return L, whole


def extension_setting(T_Nm: float, L_mm: float, e_mm: float, theta_deg: float = 0.0) -> float:
    r"""Return the setting in N·m of a wrench with an extension.

    Args:
        T_Nm: torque wanted at the bolt in N·m, zero or above.
        L_mm: from the drive to the middle of the hand grip in mm.
        e_mm: from the drive to the bolt in mm, zero or above.
        theta_deg: angle of the extension to the handle, −180 … 180; 0 straight ahead, 90 needs no
            correction.

    Returns:
        The setting in N·m.

    Raises:
        Refusal: ``E_TYPE``, ``E_FINITE``, ``E_RANGE``; ``E_GEOM`` when the extension folds back
            over the grip.

    Formula:
        T_{set} = T \frac{L}{L + e \cos \theta}

    Standing: mechanics.

    Source: derived here; the hand force is square to the handle at the middle of the grip.
    """
    L, whole = _arm(L_mm, e_mm, theta_deg)
    return checks.not_negative("T_Nm", T_Nm) * L / whole


def extension_actual(T_set_Nm: float, L_mm: float, e_mm: float, theta_deg: float = 0.0) -> float:
    r"""Return the torque in N·m at the bolt for a setting with an extension.

    Args:
        T_set_Nm: setting in N·m, zero or above.
        L_mm: from the drive to the middle of the hand grip in mm.
        e_mm: from the drive to the bolt in mm, zero or above.
        theta_deg: angle of the extension to the handle, −180 … 180.

    Returns:
        The torque at the bolt in N·m.

    Raises:
        Refusal: ``E_TYPE``, ``E_FINITE``, ``E_RANGE``; ``E_GEOM`` when the extension folds back
            over the grip.

    Formula:
        T = T_{set} \frac{L + e \cos \theta}{L}

    Standing: mechanics.

    Source: derived here.
    """
    L, whole = _arm(L_mm, e_mm, theta_deg)
    return checks.not_negative("T_set_Nm", T_set_Nm) * whole / L


_HIGHEST_RATIO: Final = 1000.0
"""A multiplier multiplies: a ratio below 1 is a ratio written the wrong way round."""


def _gain(ratio: float, eta: float) -> float:
    return checks.within("ratio", ratio, 1.0, _HIGHEST_RATIO) * checks.within("eta", eta, 0.3, 1.0)


def multiplier_input(T_out_Nm: float, ratio: float, eta: float) -> float:
    r"""Return the torque in N·m to put into a multiplier.

    Args:
        T_out_Nm: torque wanted at the bolt in N·m, zero or above.
        ratio: gear ratio; a stated torque ratio holds the efficiency already, then eta is 1.
        eta: efficiency, 0.3 … 1.

    Returns:
        The input torque in N·m.

    Raises:
        Refusal: ``E_TYPE``, ``E_FINITE``, ``E_RANGE``.

    Formula:
        T_{in} = \frac{T_{out}}{i\, \eta}

    Standing: mechanics.

    Source: balance of power.
    """
    return checks.not_negative("T_out_Nm", T_out_Nm) / _gain(ratio, eta)


def multiplier_output(T_in_Nm: float, ratio: float, eta: float) -> float:
    r"""Return the torque in N·m that a multiplier gives.

    Args:
        T_in_Nm: input torque in N·m, zero or above.
        ratio: gear ratio.
        eta: efficiency, 0.3 … 1.

    Returns:
        The torque at the bolt in N·m.

    Raises:
        Refusal: ``E_TYPE``, ``E_FINITE``, ``E_RANGE``.

    Formula:
        T_{out} = T_{in}\, i\, \eta

    Standing: mechanics.

    Source: balance of power.
    """
    return checks.not_negative("T_in_Nm", T_in_Nm) * _gain(ratio, eta)


def wrench_range(
    T_Nm: float, scale_max_Nm: float, lo_frac: float = 0.2, scale_min_Nm: float | None = None
) -> WrenchRange:
    r"""Return where a torque lies on the usable part of a wrench's scale.

    Args:
        T_Nm: torque in N·m, above zero.
        scale_max_Nm: full scale in N·m.
        lo_frac: share of full scale from which it is verified, 0 … 1.
        scale_min_Nm: lowest mark of the scale in N·m, if known.

    Returns:
        Below, within or above, and the share of full scale.

    Raises:
        Refusal: ``E_TYPE``, ``E_FINITE``, ``E_RANGE``; ``E_GEOM`` for a scale that ends before it
            begins.

    Formula:
        T_{low} = \max(f T_{max},\ T_{min})

    Standing: standard.

    Source: ISO 6789, verified at 20, 60 and 100 % of full scale.
    """
    T, top = checks.positive("T_Nm", T_Nm), checks.positive("scale_max_Nm", scale_max_Nm)
    low = checks.within("lo_frac", lo_frac, 0.0, 1.0) * top
    if scale_min_Nm is not None:
        mark = checks.not_negative("scale_min_Nm", scale_min_Nm)
        if mark > top:
            raise checks.contradiction("scale_min_Nm", mark, "scale_max_Nm", top)
        low = max(low, mark)
    state = RangeState.LOW if low > T else RangeState.HIGH if top < T else RangeState.OK
    return WrenchRange(state, 100.0 * T / top, low)


def cal_actual(setting_Nm: float, points: Points) -> float:
    r"""Return the true torque in N·m for a setting, by the wrench's certificate.

    Args:
        setting_Nm: setting in N·m, above zero.
        points: (setting, actual) in N·m, at least two, rising in both.

    Returns:
        The true torque in N·m.

    Raises:
        Refusal: ``E_TYPE``, ``E_FINITE``, ``E_RANGE``; ``E_LEN``, ``E_MONO`` for bad points;
            ``E_TABLE`` outside them.

    Standing: mechanics.

    Source: derived here (polyline, no extrapolation).
    """
    return true_value(checks.positive("setting_Nm", setting_Nm), points)


def cal_setting(T_Nm: float, points: Points) -> float:
    r"""Return the setting in N·m for a true torque, by the wrench's certificate.

    Args:
        T_Nm: wanted true torque in N·m, above zero.
        points: (setting, actual) in N·m, at least two, rising in both.

    Returns:
        The setting in N·m.

    Raises:
        Refusal: ``E_TYPE``, ``E_FINITE``, ``E_RANGE``; ``E_LEN``, ``E_MONO`` for bad points;
            ``E_TABLE`` outside them.

    Standing: mechanics.

    Source: derived here (the same polyline read backwards).
    """
    return shown_for(checks.positive("T_Nm", T_Nm), points)


def iso6789_deviation_pct(target_Nm: float, reference_Nm: float) -> float:
    r"""Return the relative deviation of a wrench in %.

    Args:
        target_Nm: set or indicated torque in N·m, zero or above.
        reference_Nm: torque of the calibration device in N·m, above zero.

    Returns:
        The deviation in % of the reference value.

    Raises:
        Refusal: ``E_TYPE``, ``E_FINITE``, ``E_RANGE``.

    Formula:
        a_s = 100\, \frac{X_a - X_r}{X_r}

    Standing: standard.

    Source: ISO 6789-2; the denominator is the reference value, not the target.
    """
    target, reference = checks.not_negative("target_Nm", target_Nm), checks.positive("reference_Nm", reference_Nm)
    return 100.0 * (target - reference) / reference
