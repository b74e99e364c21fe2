"""Stress while tightening and afterwards, against yield and proof."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Final, Literal

from jorvek.core import checks
from jorvek.core.bolting.thread import Thread, circle_area
from jorvek.core.bolting.torque import COS_FLANK, pitch_lever_mm, thread_lever_mm, torque_lever_mm
from jorvek.core.refusal import Refusal

_CLASSES: Final[dict[str, tuple[float, float, float]]] = {
    "4.6": (400, 240, 225),
    "4.8": (420, 340, 310),
    "5.6": (500, 300, 280),
    "5.8": (520, 420, 380),
    "6.8": (600, 480, 440),
    "8.8": (830, 660, 600),
    "9.8": (900, 720, 650),
    "10.9": (1040, 940, 830),
    "12.9": (1220, 1100, 970),
}
_SMALL_8_8: Final = (800.0, 640.0, 580.0)
_SCOPE_MM: Final = (1.6, 39.0)
_SPLIT_MM: Final = 16.0
TORSION = ("elastic", "plastic")
"""Ways to spread the torsion over the section: elastic, or fully plastic as in the standard's tables."""


@dataclass(frozen=True)
class PropertyClass:
    """Minimum strengths of a property class.

    Attributes:
        Rm_MPa: tensile strength.
        Rp02_MPa: yield strength (R_eL, R_p0.2 or R_pf).
        Sp_MPa: proof stress.
        in_scope: the size lies within the standard; larger studs take theirs from the certificate.
    """

    Rm_MPa: float
    Rp02_MPa: float
    Sp_MPa: float
    in_scope: bool


@dataclass(frozen=True)
class TighteningStress:
    """Stress in the governing section while tightening by torque, and afterwards.

    Attributes:
        d0_mm: diameter of the governing section.
        A0_mm2: its area.
        sigma_MPa: axial stress.
        tau_MPa: torsion from the thread torque.
        sigma_red_MPa: equivalent stress while tightening.
        sigma_red_after_MPa: equivalent stress when part of the torsion has sprung back.
        util_yield: equivalent stress over yield.
        util_yield_after: the same afterwards.
        util_axial_yield: axial stress alone over yield.
        util_proof: load over proof load of the thread, None without a proof stress.
        M_G_Nm: thread torque.
    """

    d0_mm: float
    A0_mm2: float
    sigma_MPa: float
    tau_MPa: float
    sigma_red_MPa: float
    sigma_red_after_MPa: float
    util_yield: float
    util_yield_after: float
    util_axial_yield: float
    util_proof: float | None
    M_G_Nm: float


@dataclass(frozen=True)
class ProofTorque:
    """Load and torque for a share of the proof load.

    Attributes:
        F_N: preload.
        T_Nm: tightening torque.
    """

    F_N: float
    T_Nm: float


@dataclass(frozen=True)
class PullStress:
    """Stress of a stud that is pulled and not twisted.

    Attributes:
        sigma_MPa: axial stress on the smallest section.
        utilisation: that stress over yield.
        allowed: it stays within the limit.
        F_max_N: load at which the limit is reached.
    """

    sigma_MPa: float
    utilisation: float
    allowed: bool
    F_max_N: float


def governing_diameter_mm(thread: Thread, d_shank_mm: float | None) -> float:
    """Return the smaller of stress diameter and shank diameter in mm.

    Raises:
        Refusal: ``E_TYPE``, ``E_FINITE``, ``E_RANGE`` for a shank that is not above zero.
    """
    if d_shank_mm is None:
        return thread.ds_mm
    return min(thread.ds_mm, checks.positive("d_shank_mm", d_shank_mm))


def property_class(cls: str, d_mm: float, allow_out_of_scope: bool = False) -> PropertyClass:
    r"""Return the minimum strengths of a property class.

    Args:
        cls: class as a text, for example ``10.9``; a number is refused, 8.80 is no class.
        d_mm: nominal diameter in mm; 8.8 splits at 16 mm, 9.8 ends there.
        allow_out_of_scope: give figures for sizes outside M1.6 … M39, marked as such.

    Returns:
        Strengths in MPa.

    Raises:
        Refusal: ``E_TYPE``, ``E_FINITE``, ``E_RANGE``; ``E_TABLE`` for another class;
            ``E_SCOPE`` for a size the standard does not cover.

    Standing: standard.

    Source: ISO 898-1:2013.
    """
    name, d = checks.choice("cls", cls, tuple(_CLASSES)), checks.positive("d_mm", d_mm)
    in_scope = _SCOPE_MM[0] <= d <= _SCOPE_MM[1] and not (name == "9.8" and d > _SPLIT_MM)
    if not in_scope and not allow_out_of_scope:
        raise Refusal("E_SCOPE", name="d_mm", got=d)
    Rm, Rp02, Sp = _SMALL_8_8 if name == "8.8" and d <= _SPLIT_MM else _CLASSES[name]
    return PropertyClass(float(Rm), float(Rp02), float(Sp), in_scope)


def tightening_stress(
    F_N: float,
    thread: Thread,
    mu_t: float,
    Rp02_MPa: float,
    Sp_MPa: float | None = None,
    d_shank_mm: float | None = None,
    torsion: str = "elastic",
    k_tau: float = 0.5,
) -> TighteningStress:
    r"""Return the combined stress of a stud tightened by torque.

    Friction under the nut does not twist the stud; only the thread torque does.

    Args:
        F_N: preload in N, zero or above.
        thread: the thread.
        mu_t: friction in the thread, 0 … 1.
        Rp02_MPa: yield strength in MPa.
        Sp_MPa: proof stress in MPa, if known.
        d_shank_mm: shank diameter in mm; governs when smaller than the stress diameter.
        torsion: ``elastic`` or ``plastic``.
        k_tau: share of the torsion that stays after tightening, 0 … 1.

    Returns:
        Stresses in MPa and shares of yield and proof.

    Raises:
        Refusal: ``E_TYPE``, ``E_FINITE``, ``E_RANGE``; ``E_TABLE`` for another torsion.

    Formula:
        M_G = F \left( \frac{P}{2\pi} + \mu_t \frac{d_2}{2 \cos 30°} \right)
        \sigma = \frac{F}{A_0}
        \tau = \frac{M_G}{W_p}
        W_p = \frac{\pi d_0^3}{16} \text{ or } \frac{\pi d_0^3}{12}
        \sigma_{red} = \sqrt{\sigma^2 + 3 (k_\tau \tau)^2}

    Standing: standard.

    Source: VDI 2230 Part 1.
    """
    F, friction = checks.not_negative("F_N", F_N), checks.friction("mu_t", mu_t)
    yield_MPa = checks.positive("Rp02_MPa", Rp02_MPa)
    proof = None if Sp_MPa is None else checks.positive("Sp_MPa", Sp_MPa)
    word, left = checks.choice("torsion", torsion, TORSION), checks.within("k_tau", k_tau, 0.0, 1.0)
    d0 = governing_diameter_mm(thread, d_shank_mm)
    moment = F * (pitch_lever_mm(thread) + friction * thread_lever_mm(thread))
    sigma = F / circle_area(d0)
    tau = moment / (math.pi * d0**3 / (16.0 if word == "elastic" else 12.0))
    during, after = (math.sqrt(sigma**2 + 3.0 * (share * tau) ** 2) for share in (1.0, left))
    return TighteningStress(
        d0_mm=d0,
        A0_mm2=circle_area(d0),
        sigma_MPa=sigma,
        tau_MPa=tau,
        sigma_red_MPa=during,
        sigma_red_after_MPa=after,
        util_yield=during / yield_MPa,
        util_yield_after=after / yield_MPa,
        util_axial_yield=sigma / yield_MPa,
        util_proof=None if proof is None else F / (thread.As_mm2 * proof),
        M_G_Nm=moment / 1000.0,
    )


def preload_at_utilisation(
    nu: float,
    Rp02_MPa: float,
    thread: Thread,
    mu_t: float,
    d_shank_mm: float | None = None,
    torsion: str = "plastic",
) -> float:
    r"""Return the preload in N at which a turning bolt reaches a share of yield.

    Args:
        nu: share of yield, above 0 and at most 1.2; 1 is where the turning bolt begins to yield.
        Rp02_MPa: yield strength in MPa.
        thread: the thread.
        mu_t: friction in the thread, 0 … 1.
        d_shank_mm: shank diameter in mm; governs when smaller than the stress diameter.
        torsion: ``plastic`` (the standard's tables) or ``elastic``.

    Returns:
        The preload in N.

    Raises:
        Refusal: ``E_TYPE``, ``E_FINITE``, ``E_RANGE``; ``E_TABLE`` for another torsion.

    Formula:
        F = \frac{\nu R_{p0.2} A_0}{\sqrt{1 + 3 w^2}}
        w = c \frac{d_2}{d_0} \left( \frac{P}{\pi d_2} + \frac{2}{\sqrt{3}} \mu_t \right)

    Standing: standard.

    Source: VDI 2230 Part 1, c = 3/2 (plastic) or 2 (elastic). Checked against
    ``tightening_stress``: at this load its equivalent stress is ν R_p0.2.
    """
    share, yield_MPa = checks.positive("nu", nu, 1.2), checks.positive("Rp02_MPa", Rp02_MPa)
    friction, word = checks.friction("mu_t", mu_t), checks.choice("torsion", torsion, TORSION)
    d0 = governing_diameter_mm(thread, d_shank_mm)
    c = 1.5 if word == "plastic" else 2.0
    twist = c * thread.d2_mm / d0 * (thread.P_mm / (math.pi * thread.d2_mm) + friction / COS_FLANK)
    return share * yield_MPa * circle_area(d0) / math.sqrt(1.0 + 3.0 * twist**2)


def torque_for_proof_fraction(
    frac: float,
    Sp_MPa: float,
    thread: Thread,
    mu_t: float,
    mu_b: float,
    Dkm_mm: float,
    T_prev_Nm: float = 0.0,
) -> ProofTorque:
    r"""Return preload and torque for a share of the proof load.

    Args:
        frac: share of the proof load, 0 … 1; 0.75 means 75 %.
        Sp_MPa: proof stress in MPa.
        thread: the thread.
        mu_t: friction in the thread, 0 … 1.
        mu_b: friction under nut or head, 0 … 1.
        Dkm_mm: mean diameter in mm of the bearing face that slides.
        T_prev_Nm: prevailing torque in N·m.

    Returns:
        Preload and torque.

    Raises:
        Refusal: ``E_TYPE``, ``E_FINITE``, ``E_RANGE``; ``E_GEOM`` for a bearing face inside the
            thread.

    Formula:
        F = f S_p A_s, \quad T = c F + T_{prev}

    Standing: standard.

    Source: ISO 898-1 (proof load), VDI 2230 Part 1 (torque).
    """
    F = checks.within("frac", frac, 0.0, 1.0) * checks.positive("Sp_MPa", Sp_MPa) * thread.As_mm2
    previous = checks.not_negative("T_prev_Nm", T_prev_Nm)
    return ProofTorque(F, F * torque_lever_mm(thread, mu_t, mu_b, Dkm_mm) / 1000.0 + previous)


def stud_stress_check(
    F_tool_N: float,
    thread: Thread,
    Rp02_MPa: float,
    d_shank_mm: float | None = None,
    limit: float = 0.9,
) -> PullStress:
    r"""Hold the stress of a pulled stud against a share of yield.

    Args:
        F_tool_N: highest load in the stud in N, tool and run-down together.
        thread: the thread.
        Rp02_MPa: yield strength in MPa.
        d_shank_mm: shank diameter in mm; governs when smaller than the stress diameter.
        limit: allowed share of yield, 0.3 … 1.

    Returns:
        Stress, share of yield, and the load at the limit.

    Raises:
        Refusal: ``E_TYPE``, ``E_FINITE``, ``E_RANGE``.

    Formula:
        \sigma = \frac{F}{A_0}, \quad \frac{\sigma}{R_{p0.2}} \le \nu

    Standing: mechanics.

    Source: derived here; a tensioner pulls straight, so there is no torsion.
    """
    F, yield_MPa = checks.not_negative("F_tool_N", F_tool_N), checks.positive("Rp02_MPa", Rp02_MPa)
    share = checks.within("limit", limit, 0.3, 1.0)
    area = circle_area(governing_diameter_mm(thread, d_shank_mm))
    sigma = F / area
    return PullStress(sigma, sigma / yield_MPa, sigma <= share * yield_MPa, share * yield_MPa * area)


@dataclass(frozen=True)
class ThreadHold:
    """What an engaged thread holds before it shears.

    Attributes:
        area_mm2: sheared area of the thread that gives way first.
        F_N: load at which it shears.
        needed_mm: engagement, run-out counted, that would just hold the wanted load.
        ratio: strength of the hole's thread over that of the bolt's, each strength times its own area.
        gives: which of the two shears.
        full_mm: length of engagement with full turns.
    """

    area_mm2: float
    F_N: float
    needed_mm: float
    ratio: float
    gives: Literal["hole", "bolt"]
    full_mm: float


def internal_thread_hold(
    thread: Thread, engaged_mm: float, run_out_mm: float, tau_hole_MPa: float, tau_bolt_MPa: float, F_N: float = 0.0
) -> ThreadHold:
    r"""Return the load at which an engaged thread shears, in the hole or on the bolt.

    In cast iron and light metal the hole gives way before the bolt does; a stud that is to break first needs
    more engagement there. The turns of the weaker side bend; that weakens both the more, the closer their
    strengths lie together.

    Args:
        thread: the thread.
        engaged_mm: length of engagement in mm, from the first turn that bites to the last.
        run_out_mm: of it, chamfers and half-cut turns at both ends, which carry nothing.
        tau_hole_MPa: shear strength of the part in MPa.
        tau_bolt_MPa: shear strength of the bolt in MPa.
        F_N: load in N that must be held, zero or above.

    Returns:
        Sheared area, load at shearing, and the engagement that would just hold ``F_N``.

    Raises:
        Refusal: ``E_TYPE``, ``E_FINITE``, ``E_RANGE``; ``E_GEOM`` where the run-out leaves no full turn.

    Formula:
        A_h = \pi d \frac{m}{P} \left( \frac{P}{2} + (d - d_2) \tan 30° \right), \quad
        A_b = \pi d_1 \frac{m}{P} \left( \frac{P}{2} + (d_2 - d_1) \tan 30° \right), \quad
        F = \min(\tau_h A_h C_3, \tau_b A_b C_2)

    Standing: model; the hole is taken as thick-walled, so that it does not spread.

    Source: E. M. Alexander, Analysis and design of threaded assemblies, SAE 770420 (areas, C2 and C3 by the ratio of
    strengths), as taken over by VDI 2230 Part 1; at basic dimensions.
    """
    engaged, run_out = checks.positive("engaged_mm", engaged_mm), checks.not_negative("run_out_mm", run_out_mm)
    hole, bolt = checks.positive("tau_hole_MPa", tau_hole_MPa), checks.positive("tau_bolt_MPa", tau_bolt_MPa)
    wanted, full = checks.not_negative("F_N", F_N), engaged - run_out
    if full <= 0.0:
        raise Refusal("E_GEOM", name="run_out_mm", got=run_out, against="engaged_mm", other=engaged)
    hole_per_mm = _sheared_per_mm(thread, thread.d_mm, thread.d_mm - thread.d2_mm)
    bolt_per_mm = _sheared_per_mm(thread, thread.d1_mm, thread.d2_mm - thread.d1_mm)
    ratio = hole * hole_per_mm / (bolt * bolt_per_mm)
    holds = {"hole": hole * hole_per_mm * _bends_hole(ratio), "bolt": bolt * bolt_per_mm * _bends_bolt(ratio)}
    gives: Literal["hole", "bolt"] = "hole" if holds["hole"] <= holds["bolt"] else "bolt"
    area = full * (hole_per_mm if gives == "hole" else bolt_per_mm)
    return ThreadHold(area, full * holds[gives], wanted / holds[gives] + run_out, ratio, gives, full)


def _sheared_per_mm(thread: Thread, at_mm: float, depth_mm: float) -> float:
    return math.pi * at_mm / thread.P_mm * (thread.P_mm / 2.0 + depth_mm * math.tan(math.radians(30.0)))


_EVEN: Final = 0.897
"""C2 and C3 where the other side is clearly the stronger one."""


def _bends_hole(ratio: float) -> float:
    """C3: what bending leaves of the hole's thread, by the ratio of strengths; below 0.4 as at 0.4."""
    x = max(0.4, ratio)
    return _EVEN if x >= 1.0 else 0.728 + 1.769 * x - 2.896 * x**2 + 1.296 * x**3


def _bends_bolt(ratio: float) -> float:
    """C2: the same of the bolt's thread; as at 2.2 beyond it."""
    x = min(2.2, ratio)
    return _EVEN if x <= 1.0 else 5.594 - 13.682 * x + 14.107 * x**2 - 6.057 * x**3 + 0.9353 * x**4


@dataclass(frozen=True)
class SeatPressure:
    """The pressure under a nut or head.

    Attributes:
        p_MPa: pressure.
        share: of what the seat bears.
        F_max_N: load at which the seat begins to give way.
    """

    p_MPa: float
    share: float
    F_max_N: float


def seat_pressure(F_N: float, outer_mm: float, hole_mm: float, limit_MPa: float) -> SeatPressure:
    r"""Return the pressure under a nut or head and what the part below it bears.

    Args:
        F_N: highest load in N, zero or above.
        outer_mm: outer diameter of the bearing face in mm.
        hole_mm: diameter of the hole in mm, chamfer included.
        limit_MPa: pressure that the part below bears without creeping, in MPa.

    Returns:
        Pressure, share of the limit, and the load at the limit.

    Raises:
        Refusal: ``E_TYPE``, ``E_FINITE``, ``E_RANGE``; ``E_GEOM`` when the hole is not smaller than the face.

    Formula:
        p = \frac{4 F}{\pi (D^2 - d_h^2)}

    Standing: mechanics; the limit is the material's.

    Source: VDI 2230 Part 1, surface pressure.
    """
    F, outer, hole = (
        checks.not_negative("F_N", F_N),
        checks.positive("outer_mm", outer_mm),
        checks.positive("hole_mm", hole_mm),
    )
    limit = checks.positive("limit_MPa", limit_MPa)
    if hole >= outer:
        raise checks.contradiction("hole_mm", hole, "outer_mm", outer)
    area = circle_area(outer) - circle_area(hole)
    return SeatPressure(F / area, F / area / limit, limit * area)
