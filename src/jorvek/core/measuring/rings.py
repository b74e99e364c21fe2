"""Piston ring gaps: how they stand to each other and to the places they must avoid."""

from __future__ import annotations

from dataclasses import dataclass
from itertools import pairwise
from typing import Final

from jorvek.core import checks
from jorvek.core.refusal import Refusal

_SAME_DEG: Final = 1e-9
Zones = list[tuple[float, float]]
"""Zones to avoid: centre and half width in degrees."""


@dataclass(frozen=True)
class RingGaps:
    """Gaps of a ring pack against the rules.

    Attributes:
        sep_deg: separation of each ring's gap and the next.
        sep_min_deg: smallest, None with one ring.
        sep_ok: none is too small.
        in_avoid: rings (from 0, top first) whose gap lies in a zone to avoid.
    """

    sep_deg: tuple[float, ...]
    sep_min_deg: float | None
    sep_ok: bool
    in_avoid: tuple[int, ...]


@dataclass(frozen=True)
class RingPositions:
    """Gaps set out evenly.

    Attributes:
        angles_deg: angle of each gap.
        shift_deg: how far the start was shifted to clear the zones.
    """

    angles_deg: tuple[float, ...]
    shift_deg: float


def _apart(a: float, b: float) -> float:
    turn = abs(a - b) % 360.0
    return min(turn, 360.0 - turn)


def _zones(avoid: Zones | None) -> Zones:
    if avoid is None:
        return []
    if not isinstance(avoid, list | tuple):
        raise Refusal("E_TYPE", name="avoid", got=str(avoid))
    rows = [checks.numbers("avoid", zone, 2) for zone in avoid]
    return [(row[0], checks.within("avoid", row[1], 0.0, 180.0)) for row in rows]


def _inside(angle: float, zones: Zones) -> bool:
    """On the very edge of a zone is outside it."""
    return any(_apart(angle, centre) < half - _SAME_DEG for centre, half in zones)


def ring_gap_check(angles_deg: list[float], min_sep_deg: float, avoid: Zones | None = None) -> RingGaps:
    r"""Judge the gaps of a ring pack, top ring first.

    Args:
        angles_deg: angle of each gap in degrees.
        min_sep_deg: least separation in degrees of neighbouring rings, 0 … 180.
        avoid: zones of (centre, half width) in degrees.

    Returns:
        Separations and the rings in a zone.

    Raises:
        Refusal: ``E_TYPE``, ``E_FINITE``, ``E_RANGE``; ``E_LEN`` without rings, or for a zone
            without two numbers.

    Formula:
        s = \min(|\Delta \theta| \bmod 360°,\ 360° - |\Delta \theta| \bmod 360°)

    Standing: model.

    Source: derived here.
    """
    angles, least = checks.numbers("angles_deg", angles_deg), checks.within("min_sep_deg", min_sep_deg, 0.0, 180.0)
    zones = _zones(avoid)
    sep = tuple(_apart(a, b) for a, b in pairwise(angles))
    return RingGaps(
        sep_deg=sep,
        sep_min_deg=min(sep) if sep else None,
        sep_ok=all(s >= least - _SAME_DEG for s in sep),
        in_avoid=tuple(k for k, a in enumerate(angles) if _inside(a, zones)),
    )


def ring_gap_positions(
    n: int, start_deg: float = 0.0, avoid: Zones | None = None, step_deg: float = 1.0
) -> RingPositions:
    r"""Set out ring gaps evenly, shifted until none lies in a zone to avoid.

    Args:
        n: rings, 1 … 20.
        start_deg: wanted angle of the first gap in degrees.
        avoid: zones of (centre, half width) in degrees.
        step_deg: step of the shift in degrees, 0.01 … 360.

    Returns:
        Angles in degrees, 0 … below 360.

    Raises:
        Refusal: ``E_TYPE``, ``E_FINITE``, ``E_RANGE``; ``E_LEN`` for a zone without two numbers;
            ``E_DATA`` when no shift clears the zones.

    Formula:
        \theta_k = \theta_0 + s + \frac{360°\, k}{n}

    Standing: model.

    Source: derived here.
    """
    count, start = checks.count("n", n, 1, 20), checks.number("start_deg", start_deg)
    zones, step = _zones(avoid), checks.within("step_deg", step_deg, 0.01, 360.0)
    shifts = 0
    while shifts * step < 360.0 / count - _SAME_DEG:
        shift = shifts * step
        angles = tuple((start + shift + 360.0 * k / count) % 360.0 for k in range(count))
        if not any(_inside(a, zones) for a in angles):
            return RingPositions(angles, shift)
        shifts += 1
    raise Refusal("E_DATA", name="avoid")
