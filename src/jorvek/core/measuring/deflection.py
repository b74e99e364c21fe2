"""Deflection of a crank web: how the gap between the webs of a throw changes over a turn, and what it tells."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from jorvek.core import checks
from jorvek.core.refusal import Refusal

READ_AT = ("bottom_first", "camshaft_side", "top", "exhaust_side", "bottom_last")
"""Where the pin stands at each reading: past the rod on one side of the bottom, a quarter on, at the top, a quarter on,
and short of the rod on the other side."""
_POINTS = len(READ_AT)

Tells = Literal["bearings_low", "bearings_high", "straight"]


@dataclass(frozen=True)
class Deflection:
    """What five readings of the gap between two webs tell.

    Attributes:
        vertical_mm: reading with the pin at the top less the mean of the two with it at the bottom; the gap opens
            with a larger reading.
        horizontal_mm: reading towards the camshaft side less the one towards the exhaust side.
        closes_mm: by how much the two readings at the bottom differ: a gauge that slipped does not close.
        tells: whether the bearings beside this throw lie low or high against the others; straight within the limit.
    """

    vertical_mm: float
    horizontal_mm: float
    closes_mm: float
    tells: Tells


def web_deflection(readings_mm: list[float], limit_mm: float) -> Deflection:
    """Return the deflection of a web from readings of a dial that stands opposite the pin.

    With the pin at the top the dial stands below the shaft's axis, with the pin at the bottom above it. A shaft that
    hangs between bearings which lie too low is bent downwards there: its lower side is stretched, and the gap below
    the axis opens. So a gap that is wider with the pin at the top tells of low bearings beside this throw, a narrower
    one of high ones.

    Args:
        readings_mm: five readings in the order of ``READ_AT``, in mm, larger for a wider gap.
        limit_mm: largest vertical deflection to either side, in mm.

    Raises:
        Refusal: ``E_LEN`` unless there are five readings; ``E_FINITE``, ``E_RANGE``.

    Source: derived here, from the bending of a shaft over supports of unequal height.
    """
    readings = checks.numbers("readings_mm", readings_mm)
    limit = checks.not_negative("limit_mm", limit_mm)
    if len(readings) != _POINTS:
        raise Refusal("E_LEN", name="readings_mm", got=len(readings))
    first, camshaft, top, exhaust, last = readings
    vertical = top - (first + last) / 2.0
    tells: Tells = "straight"
    if abs(vertical) > limit:
        tells = "bearings_low" if vertical > 0.0 else "bearings_high"
    return Deflection(vertical, camshaft - exhaust, abs(first - last), tells)
