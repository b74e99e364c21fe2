"""Thread geometry."""

from __future__ import annotations

import math
from dataclasses import dataclass

from jorvek.core import checks
from jorvek.core.refusal import Refusal


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


def circle_area(d_mm: float) -> float:
    """Return the area in mm² of a circle of diameter ``d_mm``."""
    return math.pi / 4.0 * d_mm**2


def iso_thread(d_mm: float, P_mm: float, starts: int = 1) -> Thread:
    """Return the basic dimensions of an ISO metric thread with 60° flanks.

    Args:
        d_mm: nominal diameter in mm, above zero.
        P_mm: pitch in mm, above zero and at most d/2. Always given: M52 alone is no thread.
        starts: number of starts, 1 … 8.

    Returns:
        The thread.

    Raises:
        Refusal: ``E_TYPE``, ``E_FINITE``, ``E_RANGE``; ``E_GEOM`` when the pitch is so coarse
            that no such thread exists.

    Source: ISO 68-1 (profile), ISO 724 (basic dimensions), ISO 898-1 (stress area).
    """
    d, P = checks.positive("d_mm", d_mm), checks.positive("P_mm", P_mm)
    n = checks.count("starts", starts, 1, 8)
    H = math.sqrt(3.0) / 2.0 * P
    d3 = d - 17.0 / 12.0 * H
    if d / 2.0 < P or d3 <= 0.0:
        raise Refusal("E_GEOM", name="P_mm", got=P)
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
        lead_angle_deg=math.degrees(math.atan(n * P / (math.pi * d2))),
    )
