"""Torque and preload: the three terms, their inverse, and the short form with K."""

from __future__ import annotations

import math
from dataclasses import dataclass

from jorvek.core import checks
from jorvek.core.bolting.thread import Thread
from jorvek.core.refusal import Refusal

COS_FLANK = math.cos(math.radians(30.0))
"""Cosine of half the flank angle of a 60° thread."""

FORMS = ("linear", "exact")
"""Ways to write the thread torque; a load and its torque must be reckoned with the same one."""


@dataclass(frozen=True)
class TighteningTorque:
    """A tightening torque and what it is spent on.

    Attributes:
        T_Nm: total torque.
        T_stretch_Nm: part that stretches the stud.
        T_thread_Nm: part lost to friction in the thread.
        T_head_Nm: part lost to friction under the nut or head.
        T_prev_Nm: prevailing torque of a locking element.
        share_stretch_pct: share of the total.
        share_thread_pct: share of the total.
        share_head_pct: share of the total.
        share_prev_pct: share of the total.
    """

    T_Nm: float
    T_stretch_Nm: float
    T_thread_Nm: float
    T_head_Nm: float
    T_prev_Nm: float
    share_stretch_pct: float
    share_thread_pct: float
    share_head_pct: float
    share_prev_pct: float


@dataclass(frozen=True)
class LooseningTorque:
    """A loosening torque at the friction of tightening.

    Attributes:
        T_Nm: torque; the first break is higher.
        self_locking: the thread alone holds without friction under the nut.
    """

    T_Nm: float
    self_locking: bool


@dataclass(frozen=True)
class MeasuredFriction:
    """Friction coefficients from a tightening test.

    Attributes:
        mu_tot: one coefficient for thread and bearing face.
        mu_th: in the thread, when its torque was measured.
        mu_b: under the nut or head, when the thread torque was measured.
    """

    mu_tot: float
    mu_th: float | None
    mu_b: float | None


def pitch_lever_mm(thread: Thread) -> float:
    """Return the lever arm in mm that turns into stretch: P/2π."""
    return thread.P_mm / (2.0 * math.pi)


def thread_lever_mm(thread: Thread) -> float:
    """Return the lever arm in mm per unit of thread friction: d2/(2 cos 30°)."""
    return thread.d2_mm / (2.0 * COS_FLANK)


def _thread_part_mm(thread: Thread, mu_t: float, form: str) -> float:
    """Lever arm of stretch and thread friction together."""
    if form == "linear":
        return pitch_lever_mm(thread) + mu_t * thread_lever_mm(thread)
    tan_phi, tan_rho = thread.P_mm / (math.pi * thread.d2_mm), mu_t / COS_FLANK
    product = tan_phi * tan_rho
    if product >= 1.0:
        raise checks.contradiction("mu_t", mu_t, "P_mm", thread.P_mm)
    return thread.d2_mm / 2.0 * (tan_phi + tan_rho) / (1.0 - product)


def _bearing(thread: Thread, Dkm_mm: float) -> float:
    Dkm = checks.positive("Dkm_mm", Dkm_mm)
    if Dkm < thread.d_mm:
        raise checks.contradiction("Dkm_mm", Dkm, "d_mm", thread.d_mm)
    return Dkm


def torque_lever_mm(thread: Thread, mu_t: float, mu_b: float, Dkm_mm: float, form: str = "linear") -> float:
    r"""Return the torque per unit of preload, a lever arm in mm.

    Args:
        thread: the thread.
        mu_t: friction in the thread, 0 … 1.
        mu_b: friction under nut or head, 0 … 1.
        Dkm_mm: mean diameter in mm of the bearing face that slides.
        form: ``linear`` or ``exact``.

    Returns:
        c in mm, so that T = c F.

    Raises:
        Refusal: ``E_TYPE``, ``E_FINITE``, ``E_RANGE``; ``E_TABLE`` for another form;
            ``E_GEOM`` when the bearing face lies inside the thread, or when thread friction and
            pitch together would jam the exact form.

    Formula:
        c = \frac{P}{2\pi} + \mu_t \frac{d_2}{2 \cos 30°} + \mu_b \frac{D_{Km}}{2}

    Standing: standard; the exact form is mechanics.

    Source: VDI 2230 Part 1; ISO 16047.
    """
    word = checks.choice("form", form, FORMS)
    Dkm = _bearing(thread, Dkm_mm)
    part = _thread_part_mm(thread, checks.friction("mu_t", mu_t), word)
    return part + checks.friction("mu_b", mu_b) * Dkm / 2.0


def bearing_diameter(Do_mm: float, Di_mm: float, model: str = "arithmetic", cone_half_angle_deg: float = 90.0) -> float:
    r"""Return the mean friction diameter in mm of the face under a nut or head.

    Args:
        Do_mm: outer diameter of the face in mm.
        Di_mm: inner diameter in mm, zero or above and below Do.
        model: ``arithmetic`` (as the standards) or ``uniform_pressure``.
        cone_half_angle_deg: half angle of a conical seat, 10 … 90; 90 is flat.

    Returns:
        D_Km in mm.

    Raises:
        Refusal: ``E_TYPE``, ``E_FINITE``, ``E_RANGE``; ``E_TABLE`` for another model;
            ``E_GEOM`` when the inner diameter is not below the outer.

    Formula:
        D_{Km} = \frac{D_o + D_i}{2 \sin \gamma}
        D_{Km} = \frac{2}{3} \cdot \frac{D_o^3 - D_i^3}{(D_o^2 - D_i^2) \sin \gamma}

    Standing: standard for the arithmetic mean; mechanics for uniform pressure and the cone.

    Source: VDI 2230 Part 1; ISO 16047; derived here by integrating μ p r over the ring. Checked
    in the limit Di → Do, where both models give the one diameter that is left.
    """
    outer, inner = checks.positive("Do_mm", Do_mm), checks.not_negative("Di_mm", Di_mm)
    angle = checks.within("cone_half_angle_deg", cone_half_angle_deg, 10.0, 90.0)
    word = checks.choice("model", model, ("arithmetic", "uniform_pressure"))
    if inner >= outer:
        raise checks.contradiction("Di_mm", inner, "Do_mm", outer)
    # (a³ − b³)/(a² − b²) with the common factor taken out, so that a thin ring loses no digits.
    uniform = 2.0 / 3.0 * (outer**2 + outer * inner + inner**2) / (outer + inner)
    flat = (outer + inner) / 2.0 if word == "arithmetic" else uniform
    return flat / math.sin(math.radians(angle))


def torque_from_preload(
    F_N: float,
    thread: Thread,
    mu_t: float,
    mu_b: float,
    Dkm_mm: float,
    T_prev_Nm: float = 0.0,
    form: str = "linear",
) -> TighteningTorque:
    r"""Return the tightening torque for a preload, in its three terms.

    Args:
        F_N: preload in N, zero or above.
        thread: the thread.
        mu_t: friction in the thread, 0 … 1.
        mu_b: friction under nut or head, 0 … 1.
        Dkm_mm: mean diameter in mm of the bearing face that slides.
        T_prev_Nm: prevailing torque in N·m, zero or above.
        form: ``linear`` or ``exact``; the linear form lies 0.2 … 0.9 % below in the thread.

    Returns:
        The torque and its shares.

    Raises:
        Refusal: ``E_TYPE``, ``E_FINITE``, ``E_RANGE``; ``E_TABLE`` for another form; ``E_GEOM``
            for a bearing face inside the thread.

    Formula:
        T = F \left( \frac{P}{2\pi} + \mu_t \frac{d_2}{2 \cos 30°} + \mu_b \frac{D_{Km}}{2} \right) + T_{prev}
        T_{thread} = F \frac{d_2}{2} \tan(\varphi + \rho'), \quad \tan \rho' = \frac{\mu_t}{\cos 30°}

    Standing: standard for the linear form; mechanics for the exact one.

    Source: VDI 2230 Part 1; ISO 16047. The exact form is the power screw of the textbooks;
    checked at zero friction, where both forms leave F P/2π, the work of one turn.
    """
    F, previous = checks.not_negative("F_N", F_N), checks.not_negative("T_prev_Nm", T_prev_Nm)
    total = F * torque_lever_mm(thread, mu_t, mu_b, Dkm_mm, form) / 1000.0 + previous
    stretch = F * pitch_lever_mm(thread) / 1000.0
    head = F * mu_b * Dkm_mm / 2000.0
    friction = total - previous - head - stretch
    share = 100.0 / total if total > 0.0 else 0.0
    return TighteningTorque(
        total,
        stretch,
        friction,
        head,
        previous,
        stretch * share,
        friction * share,
        head * share,
        previous * share,
    )


def preload_from_torque(
    T_Nm: float,
    thread: Thread,
    mu_t: float,
    mu_b: float,
    Dkm_mm: float,
    T_prev_Nm: float = 0.0,
    form: str = "linear",
) -> float:
    r"""Return the preload in N that a tightening torque gives.

    Args:
        T_Nm: torque in N·m, not below the prevailing torque.
        thread: the thread.
        mu_t: friction in the thread, 0 … 1.
        mu_b: friction under nut or head, 0 … 1.
        Dkm_mm: mean diameter in mm of the bearing face that slides.
        T_prev_Nm: prevailing torque in N·m, zero or above.
        form: ``linear`` or ``exact``, the same as for the way there.

    Returns:
        The preload in N.

    Raises:
        Refusal: ``E_TYPE``, ``E_FINITE``, ``E_RANGE`` (also when the torque does not even turn
            the locking nut); ``E_TABLE`` for another form; ``E_GEOM`` for a bearing face inside
            the thread.

    Formula:
        F = \frac{T - T_{prev}}{\frac{P}{2\pi} + \mu_t \frac{d_2}{2 \cos 30°} + \mu_b \frac{D_{Km}}{2}}

    Standing: standard.

    Source: VDI 2230 Part 1; ISO 16047.
    """
    T, previous = checks.not_negative("T_Nm", T_Nm), checks.not_negative("T_prev_Nm", T_prev_Nm)
    if previous > T:
        raise Refusal("E_RANGE", name="T_Nm", got=T, low=previous, high=None)
    return 1000.0 * (T - previous) / torque_lever_mm(thread, mu_t, mu_b, Dkm_mm, form)


def loosening_torque(
    F_N: float, thread: Thread, mu_t: float, mu_b: float, Dkm_mm: float, T_prev_Nm: float = 0.0
) -> LooseningTorque:
    r"""Return the loosening torque at the friction of tightening; the first break is higher.

    Args:
        F_N: preload in N, zero or above.
        thread: the thread.
        mu_t: friction in the thread, 0 … 1.
        mu_b: friction under nut or head, 0 … 1.
        Dkm_mm: mean diameter in mm of the bearing face that slides.
        T_prev_Nm: prevailing torque in N·m, zero or above.

    Returns:
        The torque, and whether the thread holds by itself.

    Raises:
        Refusal: ``E_TYPE``, ``E_FINITE``, ``E_RANGE``; ``E_GEOM`` for a bearing face inside the
            thread.

    Formula:
        T = F \left( -\frac{P}{2\pi} + \mu_t \frac{d_2}{2 \cos 30°} + \mu_b \frac{D_{Km}}{2} \right) + T_{prev}

    Standing: standard.

    Source: VDI 2230 Part 1.
    """
    F, previous = checks.not_negative("F_N", F_N), checks.not_negative("T_prev_Nm", T_prev_Nm)
    lever = torque_lever_mm(thread, mu_t, mu_b, Dkm_mm) - 2.0 * pitch_lever_mm(thread)
    holds = mu_t / COS_FLANK >= thread.P_mm / (math.pi * thread.d2_mm)
    return LooseningTorque(F * lever / 1000.0 + previous, holds)


def nut_factor(thread: Thread, mu_t: float, mu_b: float, Dkm_mm: float, form: str = "linear") -> float:
    r"""Return the nut factor K that a pair of friction coefficients amounts to.

    K is neither a friction coefficient nor a constant of a material.

    Args:
        thread: the thread.
        mu_t: friction in the thread, 0 … 1.
        mu_b: friction under nut or head, 0 … 1.
        Dkm_mm: mean diameter in mm of the bearing face that slides.
        form: ``linear`` or ``exact``.

    Returns:
        K, without unit.

    Raises:
        Refusal: ``E_TYPE``, ``E_FINITE``, ``E_RANGE``; ``E_TABLE`` for another form; ``E_GEOM``
            for a bearing face inside the thread.

    Formula:
        K = \frac{1}{d} \left( \frac{P}{2\pi} + \mu_t \frac{d_2}{2 \cos 30°} + \mu_b \frac{D_{Km}}{2} \right)

    Standing: mechanics.

    Source: derived here from the three terms.
    """
    return torque_lever_mm(thread, mu_t, mu_b, Dkm_mm, form) / thread.d_mm


def torque_from_K(K: float, F_N: float, d_mm: float) -> float:
    r"""Return the torque in N·m of the short form.

    Args:
        K: nut factor, 0.03 … 0.6.
        F_N: preload in N, zero or above.
        d_mm: nominal diameter in mm, above zero.

    Returns:
        T in N·m.

    Raises:
        Refusal: ``E_TYPE``, ``E_FINITE``, ``E_RANGE``.

    Formula:
        T = K F d

    Standing: standard.

    Source: textbooks of machine design (short torque equation, nominal diameter).
    """
    factor, F = checks.within("K", K, 0.03, 0.6), checks.not_negative("F_N", F_N)
    return factor * F * checks.positive("d_mm", d_mm) / 1000.0


def preload_from_K(K: float, T_Nm: float, d_mm: float) -> float:
    r"""Return the preload in N of the short form.

    Args:
        K: nut factor, 0.03 … 0.6.
        T_Nm: torque in N·m, zero or above.
        d_mm: nominal diameter in mm, above zero.

    Returns:
        F in N.

    Raises:
        Refusal: ``E_TYPE``, ``E_FINITE``, ``E_RANGE``.

    Formula:
        F = \frac{T}{K d}

    Standing: standard.

    Source: textbooks of machine design.
    """
    factor, T = checks.within("K", K, 0.03, 0.6), checks.not_negative("T_Nm", T_Nm)
    return 1000.0 * T / (factor * checks.positive("d_mm", d_mm))


def friction_from_K(K: float, thread: Thread, Dkm_mm: float) -> float:
    r"""Return the one friction coefficient, thread and face alike, that a nut factor stands for.

    Args:
        K: nut factor, 0 … 0.6, not below the frictionless limit P/(2 π d).
        thread: the thread.
        Dkm_mm: mean diameter in mm of the bearing face that slides.

    Returns:
        μ, without unit.

    Raises:
        Refusal: ``E_TYPE``, ``E_FINITE``, ``E_RANGE`` (also below the frictionless limit);
            ``E_GEOM`` for a bearing face inside the thread.

    Formula:
        \mu = \frac{K d - \frac{P}{2\pi}}{\frac{d_2}{2 \cos 30°} + \frac{D_{Km}}{2}}

    Standing: mechanics.

    Source: derived here, the nut factor solved for equal friction.
    """
    factor, Dkm = checks.within("K", K, 0.0, 0.6), _bearing(thread, Dkm_mm)
    limit = pitch_lever_mm(thread) / thread.d_mm
    if factor < limit:
        raise Refusal("E_RANGE", name="K", got=factor, low=limit, high=0.6)
    return (factor - limit) * thread.d_mm / (thread_lever_mm(thread) + Dkm / 2.0)


def _plausible_mu(name: str, mu: float) -> float:
    """A test that gives friction outside 0 … 1 has a wrong number in it."""
    # A frictionless test leaves a rounding error of either sign.
    return checks.within(name, 0.0 if abs(mu) < 1e-12 else mu, 0.0, 1.0)


def friction_from_test(
    T_Nm: float, F_N: float, thread: Thread, Db_mm: float, T_thread_Nm: float | None = None
) -> MeasuredFriction:
    r"""Return friction coefficients from a measured torque and load.

    Args:
        T_Nm: tightening torque in N·m.
        F_N: preload in N, above zero.
        thread: the thread.
        Db_mm: mean diameter in mm of the bearing face.
        T_thread_Nm: torque of the thread alone in N·m, when it was measured.

    Returns:
        The coefficients.

    Raises:
        Refusal: ``E_TYPE``, ``E_FINITE``, ``E_RANGE`` (also when a coefficient would lie outside
            0 … 1, or the thread took more than the whole); ``E_GEOM`` for a bearing face inside
            the thread.

    Formula:
        \mu_{tot} = \frac{T/F - P/2\pi}{\frac{d_2}{2 \cos 30°} + \frac{D_b}{2}}
        \mu_{th} = \frac{T_{th}/F - P/2\pi}{d_2 / (2 \cos 30°)}, \quad \mu_b = \frac{T - T_{th}}{F D_b / 2}

    Standing: standard.

    Source: ISO 16047, with 1/(2 cos 30°) exact in place of 0.577.
    """
    T, F = checks.positive("T_Nm", T_Nm), checks.positive("F_N", F_N)
    face = _bearing(thread, Db_mm) / 2.0
    lever, stretch = thread_lever_mm(thread), pitch_lever_mm(thread)
    total = _plausible_mu("mu_tot", (1000.0 * T / F - stretch) / (lever + face))
    if T_thread_Nm is None:
        return MeasuredFriction(total, None, None)
    part = checks.positive("T_thread_Nm", T_thread_Nm, T)
    in_thread = _plausible_mu("mu_th", (1000.0 * part / F - stretch) / lever)
    return MeasuredFriction(total, in_thread, _plausible_mu("mu_b", 1000.0 * (T - part) / (F * face)))
