"""Scatter of preload when only the torque is controlled."""

from __future__ import annotations

from dataclasses import dataclass

from jorvek.core import checks
from jorvek.core.bolting.thread import Thread
from jorvek.core.bolting.torque import torque_lever_mm
from jorvek.core.refusal import Refusal


@dataclass(frozen=True)
class Scatter:
    """Preload band of one torque.

    Attributes:
        F_min_N: at the highest friction and the lowest torque.
        F_mid_N: at mean friction and the nominal torque.
        F_max_N: at the lowest friction and the highest torque.
        alpha_A: F_max over F_min.
        scatter_pct: half the band over its middle.
    """

    F_min_N: float
    F_mid_N: float
    F_max_N: float
    alpha_A: float
    scatter_pct: float


def friction_band(mu_min: float, mu_max: float) -> tuple[float, float]:
    """Return a friction range whose ends are in order.

    Raises:
        Refusal: ``E_TYPE``, ``E_FINITE``; ``E_RANGE`` outside 0 … 1 or when the lower end lies
            above the upper.
    """
    low, high = checks.friction("mu_min", mu_min), checks.friction("mu_max", mu_max)
    if low > high:
        raise Refusal("E_RANGE", name="mu_min", got=low, low=0.0, high=high)
    return low, high


def preload_scatter(
    T_Nm: float,
    thread: Thread,
    mu_min: float,
    mu_max: float,
    Dkm_mm: float,
    tool_tol_pct: float = 0.0,
    T_prev_Nm: float = 0.0,
) -> Scatter:
    r"""Return the preload band of one torque over a friction range.

    Args:
        T_Nm: torque in N·m.
        thread: the thread.
        mu_min: lowest friction, the same in thread and face, 0 … 1.
        mu_max: highest friction, 0 … 1.
        Dkm_mm: mean diameter in mm of the bearing face that slides.
        tool_tol_pct: tolerance of the wrench in %, 0 … 50.
        T_prev_Nm: prevailing torque in N·m.

    Returns:
        The band in N.

    Raises:
        Refusal: ``E_TYPE``, ``E_FINITE``, ``E_RANGE`` (also when the lowest torque does not reach
            the prevailing torque); ``E_GEOM`` for a bearing face inside the thread.

    Formula:
        F_{max} = \frac{T (1 + e) - T_{prev}}{c(\mu_{min})}, \quad F_{min} = \frac{T (1 - e) - T_{prev}}{c(\mu_{max})}
        \alpha_A = \frac{F_{max}}{F_{min}}, \quad s = \frac{F_{max} - F_{min}}{F_{max} + F_{min}}

    Standing: mechanics; the tightening factor α_A is the standard's.

    Source: derived here; VDI 2230 Part 1 for α_A.
    """
    T, previous = checks.positive("T_Nm", T_Nm), checks.not_negative("T_prev_Nm", T_prev_Nm)
    low, high = friction_band(mu_min, mu_max)
    e = checks.within("tool_tol_pct", tool_tol_pct, 0.0, 50.0) / 100.0
    if T * (1.0 - e) <= previous:
        raise Refusal("E_RANGE", name="T_Nm", got=T, low=previous / (1.0 - e), high=None)

    def load(torque: float, mu: float) -> float:
        return 1000.0 * (torque - previous) / torque_lever_mm(thread, mu, mu, Dkm_mm)

    F_min, F_max = load(T * (1.0 - e), high), load(T * (1.0 + e), low)
    middle = load(T, (low + high) / 2.0)
    return Scatter(F_min, middle, F_max, F_max / F_min, 100.0 * (F_max - F_min) / (F_max + F_min))


def alpha_A(scatter_pct: float) -> float:
    r"""Return the tightening factor of a symmetric scatter.

    Args:
        scatter_pct: half width in % of the mean, 0 … below 100.

    Returns:
        α_A, largest over smallest preload.

    Raises:
        Refusal: ``E_TYPE``, ``E_FINITE``, ``E_RANGE``.

    Formula:
        \alpha_A = \frac{1 + s}{1 - s}

    Standing: standard.

    Source: VDI 2230 Part 1.
    """
    s = checks.not_negative("scatter_pct", scatter_pct) / 100.0
    if s >= 1.0:
        raise Refusal("E_RANGE", name="scatter_pct", got=scatter_pct, low=0.0, high=100.0)
    return (1.0 + s) / (1.0 - s)


def scatter_from_alpha_A(alpha: float) -> float:
    r"""Return the symmetric scatter in % of a tightening factor; inverse of ``alpha_A``.

    Args:
        alpha: tightening factor, 1 or above.

    Returns:
        Half width in % of the mean.

    Raises:
        Refusal: ``E_TYPE``, ``E_FINITE``, ``E_RANGE``.

    Formula:
        s = \frac{\alpha_A - 1}{\alpha_A + 1}

    Standing: standard.

    Source: VDI 2230 Part 1.
    """
    a = checks.number("alpha", alpha)
    if a < 1.0:
        raise Refusal("E_RANGE", name="alpha", got=a, low=1.0, high=None)
    return 100.0 * (a - 1.0) / (a + 1.0)
