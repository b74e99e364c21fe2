"""Thread geometry."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Final

from jorvek.core import checks
from jorvek.core.refusal import Refusal

MM_PER_INCH: Final = 25.4

COARSE_PITCH_MM: Final[dict[float, float]] = {
    1: 0.25, 1.2: 0.25, 1.6: 0.35, 2: 0.4, 2.5: 0.45, 3: 0.5, 3.5: 0.6, 4: 0.7, 5: 0.8, 6: 1.0, 7: 1.0,
    8: 1.25, 10: 1.5, 12: 1.75, 14: 2.0, 16: 2.0, 18: 2.5, 20: 2.5, 22: 2.5, 24: 3.0, 27: 3.0, 30: 3.5,
    33: 3.5, 36: 4.0, 39: 4.0, 42: 4.5, 45: 4.5, 48: 5.0, 52: 5.0, 56: 5.5, 60: 5.5, 64: 6.0,
}  # fmt: skip
"""Coarse pitch by nominal diameter, both in mm (ISO 261)."""


@dataclass(frozen=True)
class Thread:
    """Basic dimensions of an external screw thread.

    Attributes:
        d_mm: nominal diameter.
        P_mm: pitch.
        H_mm: height of the fundamental triangle.
        d2_mm: pitch diameter.
        d1_mm: minor diameter of the basic profile.
        d3_mm: root diameter.
        ds_mm: diameter of the stress area.
        As_mm2: stress area.
        Ad3_mm2: root area, for the elastic length of free loaded thread.
        AN_mm2: area of the nominal diameter.
        lead_mm: advance per turn.
        lead_angle_deg: lead angle at the pitch diameter.
    """

    d_mm: float
    P_mm: float
    H_mm: float
    d2_mm: float
    d1_mm: float
    d3_mm: float
    ds_mm: float
    As_mm2: float
    Ad3_mm2: float
    AN_mm2: float
    lead_mm: float
    lead_angle_deg: float


@dataclass(frozen=True)
class UnifiedThread:
    """Basic dimensions of an external unified inch thread, in mm.

    Attributes:
        D_mm: nominal diameter.
        P_mm: pitch.
        d2_mm: pitch diameter.
        d1_mm: minor diameter of the basic profile.
        d3_older_mm: root diameter of the older edition, D − 17/12 H.
        d3_newer_mm: root diameter of the newer edition, D − 11/8 H.
        ds_mm: diameter of the stress area.
        At_in2: stress area in square inches.
        As_mm2: the same in mm².
        AN_mm2: area of the nominal diameter.
        lead_mm: advance per turn.
        lead_angle_deg: lead angle at the pitch diameter.
    """

    D_mm: float
    P_mm: float
    d2_mm: float
    d1_mm: float
    d3_older_mm: float
    d3_newer_mm: float
    ds_mm: float
    At_in2: float
    As_mm2: float
    AN_mm2: float
    lead_mm: float
    lead_angle_deg: float


def circle_area(d_mm: float) -> float:
    """Return the area in mm² of a circle of diameter ``d_mm``."""
    return math.pi / 4.0 * d_mm**2


def lead_angle_deg(lead_mm: float, d2_mm: float) -> float:
    """Return the lead angle in degrees at a pitch diameter in mm."""
    return math.degrees(math.atan(lead_mm / (math.pi * d2_mm)))


def iso_thread(d_mm: float, P_mm: float, starts: int = 1) -> Thread:
    r"""Return the basic dimensions of an ISO metric thread with 60° flanks.

    Args:
        d_mm: nominal diameter in mm, above zero.
        P_mm: pitch in mm, above zero and at most d/2. Always given: M52 alone is no thread.
        starts: number of starts, 1 … 8.

    Returns:
        The thread.

    Raises:
        Refusal: ``E_TYPE``, ``E_FINITE``, ``E_RANGE``; ``E_GEOM`` when the pitch is so coarse
            that no such thread exists.

    Formula:
        H = \frac{\sqrt{3}}{2} P
        d_2 = d - \frac{3}{4} H, \quad d_1 = d - \frac{5}{4} H, \quad d_3 = d - \frac{17}{12} H
        d_s = \frac{d_2 + d_3}{2}, \quad A_s = \frac{\pi}{4} d_s^2
        \varphi = \arctan \frac{n P}{\pi d_2}

    Standing: standard.

    Source: ISO 68-1 (profile), ISO 724 (basic dimensions), ISO 898-1 (stress area).
    """
    d, P = checks.positive("d_mm", d_mm), checks.positive("P_mm", P_mm)
    n = checks.count("starts", starts, 1, 8)
    H = math.sqrt(3.0) / 2.0 * P
    d3 = d - 17.0 / 12.0 * H
    if d / 2.0 < P or d3 <= 0.0:
        raise checks.contradiction("P_mm", P, "d_mm", d)
    d2 = d - 0.75 * H
    ds = (d2 + d3) / 2.0
    return Thread(
        d_mm=d,
        P_mm=P,
        H_mm=H,
        d2_mm=d2,
        d1_mm=d - 1.25 * H,
        d3_mm=d3,
        ds_mm=ds,
        As_mm2=circle_area(ds),
        Ad3_mm2=circle_area(d3),
        AN_mm2=circle_area(d),
        lead_mm=n * P,
        lead_angle_deg=lead_angle_deg(n * P, d2),
    )


def un_thread(D_in: float, n_tpi: float, starts: int = 1) -> UnifiedThread:
    r"""Return the basic dimensions of a unified inch thread, converted to mm.

    Its stress area is not the ISO metric one: 9/8 H is taken off, not 13/12 H.

    Args:
        D_in: nominal diameter in inches, above zero.
        n_tpi: threads per inch, above zero; 1/n is at most D/2.
        starts: number of starts, 1 … 8.

    Returns:
        The thread in mm, with the root diameters of both editions in circulation.

    Raises:
        Refusal: ``E_TYPE``, ``E_FINITE``, ``E_RANGE``; ``E_GEOM`` when the pitch is so coarse
            that no such thread exists.

    Formula:
        p = \frac{1}{n}, \quad H = \frac{\sqrt{3}}{2} p, \quad E = D - \frac{3}{4} H
        A_t = \frac{\pi}{4} \left( D - \frac{9 \sqrt{3}}{16\, n} \right)^2

    Standing: standard; the two root diameters are quoted.

    Source: ASME B1.1.
    """
    D, tpi = checks.positive("D_in", D_in), checks.positive("n_tpi", n_tpi)
    n = checks.count("starts", starts, 1, 8)
    p = 1.0 / tpi
    H = math.sqrt(3.0) / 2.0 * p
    if p > D / 2.0:
        raise checks.contradiction("n_tpi", tpi, "D_in", D)
    ds = D - 9.0 / 8.0 * H
    d2 = D - 0.75 * H
    return UnifiedThread(
        D_mm=D * MM_PER_INCH,
        P_mm=p * MM_PER_INCH,
        d2_mm=d2 * MM_PER_INCH,
        d1_mm=(D - 1.25 * H) * MM_PER_INCH,
        d3_older_mm=(D - 17.0 / 12.0 * H) * MM_PER_INCH,
        d3_newer_mm=(D - 11.0 / 8.0 * H) * MM_PER_INCH,
        ds_mm=ds * MM_PER_INCH,
        At_in2=circle_area(ds),
        As_mm2=circle_area(ds * MM_PER_INCH),
        AN_mm2=circle_area(D * MM_PER_INCH),
        lead_mm=n * p * MM_PER_INCH,
        lead_angle_deg=lead_angle_deg(n * p, d2),
    )


def coarse_pitch(d_mm: float) -> float:
    r"""Return the coarse pitch in mm of a metric thread.

    Args:
        d_mm: nominal diameter in mm; it must stand in the table, nothing is interpolated.

    Returns:
        The pitch in mm.

    Raises:
        Refusal: ``E_TYPE``, ``E_FINITE``, ``E_RANGE``; ``E_TABLE`` for a diameter that the
            table does not hold.

    Standing: standard.

    Source: ISO 261.
    """
    d = checks.positive("d_mm", d_mm)
    if d not in COARSE_PITCH_MM:
        raise Refusal("E_TABLE", name="d_mm", got=d, allowed=", ".join(f"{size:g}" for size in COARSE_PITCH_MM))
    return COARSE_PITCH_MM[d]
