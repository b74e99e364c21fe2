"""The guard-banded decision on a measured value."""

from __future__ import annotations

from enum import StrEnum

from jorvek.core import checks
from jorvek.core.refusal import Refusal


class Decision(StrEnum):
    """Outcome of comparing a measured value with its limits."""

    ACCEPT = "accept"
    REJECT = "reject"
    UNCERTAIN = "uncertain"


def guard_band_decision(
    value: float,
    lower: float | None = None,
    upper: float | None = None,
    U: float = 0.0,
    guard: float = 1.0,
) -> Decision:
    r"""Decide whether a measured value conforms, allowing for its uncertainty.

    Accept when ``lower + g <= value <= upper - g``; reject when the value lies further than
    ``g`` outside; otherwise the measurement cannot tell. ``g = guard * U``.

    Args:
        value: the measured value, in the unit of the limits.
        lower: lower limit, or None when there is none.
        upper: upper limit, or None when there is none.
        U: expanded uncertainty (k = 2) of the value, same unit, zero or above.
        guard: share of U used as guard band, 0 … 3.

    Returns:
        The decision.

    Raises:
        Refusal: ``E_TYPE``, ``E_FINITE``; ``E_RANGE`` for a negative U, a guard outside
            0 … 3, or a lower limit above the upper one; ``E_DATA`` without any limit.

    Formula:
        accept: a + g \le x \le b - g, \quad reject: x < a - g \text{ or } x > b + g, \quad g = \gamma U

    Standing: standard.

    Source: ISO 14253-1, decision rule for proving conformity and non-conformity.
    """
    x = checks.number("value", value)
    g = checks.within("guard", guard, 0.0, 3.0) * checks.not_negative("U", U)
    low = None if lower is None else checks.number("lower", lower)
    high = None if upper is None else checks.number("upper", upper)
    if low is None and high is None:
        raise Refusal("E_DATA", name="limits")
    if low is not None and high is not None and low > high:
        raise Refusal("E_RANGE", name="lower", got=low, low=None, high=high)
    inside = (low is None or x >= low + g) and (high is None or x <= high - g)
    if inside:
        return Decision.ACCEPT
    outside = (low is not None and x < low - g) or (high is not None and x > high + g)
    return Decision.REJECT if outside else Decision.UNCERTAIN
