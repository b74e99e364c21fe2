"""Measured stretch: from two lengths at two metal temperatures to a load."""

from __future__ import annotations

from jorvek.core import checks
from jorvek.core.refusal import Refusal

STEEL_EXPANSION_PER_K = 11.5e-6
"""Default expansion of steel per kelvin."""

_PLAUSIBLE_LENGTH_SHARE = 0.2


def elongation_temp_corrected(
    L1_mm: float,
    T1_C: float,
    L2_mm: float,
    T2_C: float,
    alpha: float = STEEL_EXPANSION_PER_K,
) -> float:
    """Return the mechanical elongation in mm between two length readings.

    Args:
        L1_mm: first length in mm.
        T1_C: metal temperature of the stud at the first reading in °C.
        L2_mm: second length in mm.
        T2_C: metal temperature at the second reading in °C.
        alpha: expansion of the stud per kelvin, 0 … 1e-4.

    Returns:
        L2 − L1 (1 + α (T2 − T1)) in mm; negative when the stud became shorter.

    Raises:
        Refusal: ``E_TYPE``, ``E_FINITE``, ``E_RANGE``; also when the two lengths differ by
            more than 20 %, which no stud survives.

    Source: derived here from linear expansion.
    """
    L1, L2 = checks.positive("L1_mm", L1_mm), checks.positive("L2_mm", L2_mm)
    T1, T2 = checks.metal_temperature("T1_C", T1_C), checks.metal_temperature("T2_C", T2_C)
    expansion = checks.within("alpha", alpha, 0.0, 1e-4)
    if abs(L2 - L1) > _PLAUSIBLE_LENGTH_SHARE * L1:
        raise Refusal("E_RANGE", name="L2_mm", got=L2, low=0.8 * L1, high=1.2 * L1)
    return L2 - L1 * (1.0 + expansion * (T2 - T1))


def preload_from_elongation(dL_mm: float, delta_own: float) -> float:
    """Return the load in N of an elastic elongation measured end to end.

    Args:
        dL_mm: elongation in mm.
        delta_own: resilience of the stud end to end in mm/N, above zero.

    Returns:
        The load in N (negative for a shortened stud).

    Raises:
        Refusal: ``E_TYPE``, ``E_FINITE``, ``E_RANGE``.

    Source: Hooke's law.
    """
    return checks.number("dL_mm", dL_mm) / checks.positive("delta_own", delta_own)
