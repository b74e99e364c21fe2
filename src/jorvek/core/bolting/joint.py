"""Resilience of clamped parts by the substitution deformation cone."""

from __future__ import annotations

import math
from dataclasses import dataclass
from itertools import pairwise
from typing import Final

from jorvek.core import checks
from jorvek.core.refusal import Refusal


@dataclass(frozen=True)
class Layer:
    """One clamped part along the grip: its thickness and modulus.

    Attributes:
        L_mm: thickness.
        E_MPa: modulus. Clamped parts have no default: steel is assumed for bolts only.
    """

    L_mm: float
    E_MPa: float


@dataclass(frozen=True)
class JointStiffness:
    """Elasticity of the clamped parts under one fastener.

    Attributes:
        delta_P: resilience in mm/N.
        tan_phi: tangent of the cone angle used, None for a plain sleeve.
        D_A_lim_mm: outer diameter from which the cones are complete, None for a plain sleeve.
        shape: ``cone``, ``cone+sleeve`` or ``sleeve``.
        grip_mm: total thickness of the layers.
        k_P_N_per_mm: stiffness, 1/delta_P.
    """

    delta_P: float
    tan_phi: float | None
    D_A_lim_mm: float | None
    shape: str
    grip_mm: float

    @property
    def k_P_N_per_mm(self) -> float:
        """Stiffness in N/mm."""
        return 1.0 / self.delta_P


@dataclass(frozen=True)
class LoadFactor:
    """How a concentric working load is shared.

    Attributes:
        Phi_K: load factor for a load that enters at the bearing faces.
        Phi: load factor for the real place of entry.
        F_SA_N: extra load in the bolt.
        F_KR_N: clamp load left between the parts.
        F_S_N: highest load in the bolt.
        gaps: the parts come apart.
    """

    Phi_K: float
    Phi: float
    F_SA_N: float
    F_KR_N: float
    F_S_N: float
    gaps: bool


@dataclass(frozen=True)
class Embedding:
    """Embedding of a joint.

    Attributes:
        f_Z_um: embedding in µm.
        F_Z_N: load it costs, None without resiliences.
    """

    f_Z_um: float
    F_Z_N: float | None


JOINTS: Final = ("through", "tapped")
"""Bolt and nut through the parts, or a thread in the lowest part."""

_EMBEDDING_UM: Final[dict[str, tuple[tuple[float, float, float], ...]]] = {
    "axial": ((3, 2.5, 1.5), (3, 3, 2), (3, 4, 3)),
    "shear": ((3, 3, 2), (3, 4.5, 2.5), (3, 6.5, 3.5)),
}


def sleeve_resilience(L_mm: float, Do_mm: float, Di_mm: float, E_MPa: float) -> float:
    r"""Return the resilience of a clamped sleeve in mm/N.

    Args:
        L_mm: length in mm.
        Do_mm: outer diameter in mm.
        Di_mm: inner diameter in mm, zero or above and below Do.
        E_MPa: modulus in MPa; clamped parts have no default.

    Returns:
        The resilience in mm/N.

    Raises:
        Refusal: ``E_TYPE``, ``E_FINITE``, ``E_RANGE``; ``E_GEOM`` when the hole is not smaller
            than the sleeve.

    Formula:
        \delta = \frac{4 L}{\pi E (D_o^2 - D_i^2)}

    Standing: mechanics.

    Source: Hooke's law.
    """
    L, E = checks.positive("L_mm", L_mm), checks.positive("E_MPa", E_MPa)
    outer, inner = checks.positive("Do_mm", Do_mm), checks.not_negative("Di_mm", Di_mm)
    if inner >= outer:
        raise checks.contradiction("Di_mm", inner, "Do_mm", outer)
    return _sleeve(L, E, outer, inner)


def vdi_cone_tan(lK_mm: float, dW_mm: float, DA_mm: float, joint: str = "through") -> float:
    r"""Return the tangent of the deformation cone angle.

    Args:
        lK_mm: grip in mm.
        dW_mm: outer diameter of the bearing face in mm.
        DA_mm: outer diameter available to the joint in mm.
        joint: ``through`` (bolt and nut) or ``tapped`` (thread in the lowest part).

    Returns:
        tan φ, without unit.

    Raises:
        Refusal: ``E_TYPE``, ``E_FINITE``, ``E_RANGE``; ``E_TABLE`` for another joint kind;
            ``E_GEOM`` when the part is no wider than the face; ``E_DATA`` when the proportions
            give a cone that does not open.

    Formula:
        \tan \varphi = 0.362 + 0.032 \ln \frac{\beta_L}{2} + 0.153 \ln y \quad (through)
        \tan \varphi = 0.348 + 0.013 \ln \beta_L + 0.193 \ln y \quad (tapped)
        \beta_L = \frac{l_K}{d_W}, \quad y = \frac{D_A}{d_W}

    Standing: standard.

    Source: VDI 2230 Part 1, deformation cone for through and tapped joints. Between 2 and 15 %
    off an axisymmetric finite-element answer, depending on how the load enters.
    """
    word = checks.choice("joint", joint, JOINTS)
    lK, dW = checks.positive("lK_mm", lK_mm), checks.positive("dW_mm", dW_mm)
    DA = checks.positive("DA_mm", DA_mm)
    if dW >= DA:
        raise checks.contradiction("DA_mm", DA, "dW_mm", dW)
    y, beta = DA / dW, lK / dW
    if word == "through":
        tangent = 0.362 + 0.032 * math.log(beta / 2.0) + 0.153 * math.log(y)
    else:
        tangent = 0.348 + 0.013 * math.log(beta) + 0.193 * math.log(y)
    if tangent <= 0.0:
        raise Refusal("E_DATA", name="tan_phi")
    return tangent


def _sleeve(dz: float, E: float, D: float, dh: float) -> float:
    return 4.0 * dz / (math.pi * E * (D**2 - dh**2))


def _cone(D1: float, D2: float, E: float, dh: float, tan_phi: float) -> float:
    # Without a hole the closed form below has the limit of a plain cone.
    if dh == 0.0:
        return 2.0 / (math.pi * E * tan_phi) * (1.0 / D1 - 1.0 / D2)
    ratio = (D2 - dh) * (D1 + dh) / ((D2 + dh) * (D1 - dh))
    return math.log(ratio) / (math.pi * E * dh * tan_phi)


def _layer_pieces(layers: list[Layer], breaks: list[float]) -> list[tuple[float, float, float]]:
    """Cut the layers at the breaks: (from, to, modulus) along the grip."""
    pieces: list[tuple[float, float, float]] = []
    start = 0.0
    for layer in layers:
        end = start + layer.L_mm
        marks = [start, *sorted(b for b in breaks if start < b < end), end]
        pieces += [(a, b, layer.E_MPa) for a, b in pairwise(marks)]
        start = end
    return pieces


def joint_resilience(
    layers: list[Layer],
    dW_mm: float,
    dh_mm: float,
    DA_mm: float,
    joint: str = "through",
    tan_phi: float | None = None,
) -> JointStiffness:
    r"""Return the resilience of layered clamped parts.

    The cone opens from the nearer bearing face (both faces when ``through``, the nut side
    only when ``tapped``) until it reaches ``DA_mm``; from there it is a sleeve.

    Args:
        layers: parts in order from the nut or head side; for ``tapped`` down to the interface.
        dW_mm: outer diameter of the bearing face in mm.
        dh_mm: hole diameter in mm, below dW.
        DA_mm: outer diameter available in mm, above the hole.
        joint: ``through`` or ``tapped``.
        tan_phi: cone tangent 0.05 … 2 to use in place of the standard's expression.

    Returns:
        The stiffness, resilience in mm/N.

    Raises:
        Refusal: ``E_TYPE``, ``E_FINITE``, ``E_RANGE``, ``E_TABLE``; ``E_LEN`` without layers;
            ``E_GEOM`` when the hole is not smaller than the face or the part.

    Formula:
        \delta_P = \int_0^{l_K} \frac{dz}{E(z) \frac{\pi}{4} (D(z)^2 - d_h^2)}
        D(z) = \min(D_A,\ d_W + 2 z \tan \varphi)
        \delta_{cone} = \frac{1}{\pi E d_h \tan \varphi} \ln \frac{(D_2 - d_h)(D_1 + d_h)}{(D_2 + d_h)(D_1 - d_h)}

    Standing: standard for one layer; several layers are a model.

    Source: VDI 2230 Part 1; layers: each slice of the same cone with its own modulus, integrated
    in closed form. Checked by numeric integration of dz/(E A) and by cutting one layer in two.
    """
    if not layers:
        raise Refusal("E_LEN", name="layers", got=0)
    for layer in layers:
        checks.positive("L_mm", layer.L_mm)
        checks.positive("E_MPa", layer.E_MPa)
    dW, DA = checks.positive("dW_mm", dW_mm), checks.positive("DA_mm", DA_mm)
    dh = checks.not_negative("dh_mm", dh_mm)
    if dh >= dW or dh >= DA:
        raise checks.contradiction("dh_mm", dh, "dW_mm" if dh >= dW else "DA_mm", dW if dh >= dW else DA)
    checks.choice("joint", joint, JOINTS)
    grip = sum(layer.L_mm for layer in layers)
    if dW >= DA:
        total = sum(_sleeve(layer.L_mm, layer.E_MPa, DA, dh) for layer in layers)
        return JointStiffness(total, None, None, "sleeve", grip)
    t = vdi_cone_tan(grip, dW, DA, joint) if tan_phi is None else checks.within("tan_phi", tan_phi, 0.05, 2.0)
    return _cone_joint(layers, dW, dh, DA, joint, t, grip)


def _cone_joint(
    layers: list[Layer], dW: float, dh: float, DA: float, joint: str, t: float, grip: float
) -> JointStiffness:
    depth = (DA - dW) / (2.0 * t)
    through = joint == "through"
    breaks = [depth, grip - depth, grip / 2.0] if through else [depth]

    def width(z: float) -> float:
        return min(DA, dW + 2.0 * t * (min(z, grip - z) if through else z))

    total = 0.0
    for a, b, E in _layer_pieces(layers, breaks):
        low, high = sorted((width(a), width(b)))
        flat = width((a + b) / 2.0) >= DA
        total += _sleeve(b - a, E, DA, dh) if flat else _cone(low, high, E, dh, t)
    limit = dW + (1.0 if through else 2.0) * grip * t
    return JointStiffness(total, t, limit, "cone" if limit <= DA else "cone+sleeve", grip)


def load_factor(
    delta_S: float, delta_P: float, n_intro: float = 1.0, F_V_N: float = 0.0, F_A_N: float = 0.0
) -> LoadFactor:
    r"""Return how a concentric working load is shared between bolt and parts.

    Args:
        delta_S: resilience of the bolt in mm/N.
        delta_P: resilience of the parts in mm/N, zero or above.
        n_intro: load introduction factor, 0 … 1.
        F_V_N: preload in N, zero or above.
        F_A_N: working load in N along the bolt; below zero it presses the parts together.

    Returns:
        Load factor, extra bolt load, clamp load left.

    Raises:
        Refusal: ``E_TYPE``, ``E_FINITE``, ``E_RANGE``.

    Formula:
        \Phi_K = \frac{\delta_P}{\delta_S + \delta_P}, \quad \Phi = n \Phi_K
        F_{SA} = \Phi F_A, \quad F_{KR} = F_V - (1 - \Phi) F_A

    Standing: standard.

    Source: VDI 2230 Part 1; the additional resilience of tapped joints of the 2014 edition is
    not included.
    """
    S, P = checks.positive("delta_S", delta_S), checks.not_negative("delta_P", delta_P)
    n = checks.within("n_intro", n_intro, 0.0, 1.0)
    preload, working = checks.not_negative("F_V_N", F_V_N), checks.number("F_A_N", F_A_N)
    whole = P / (S + P)
    phi = n * whole
    left = preload - (1.0 - phi) * working
    return LoadFactor(whole, phi, phi * working, left, preload + phi * working, left < 0.0)


def embedding(
    Rz_um: float,
    n_threads: int,
    n_bearing: int,
    n_interfaces: int,
    loading: str = "axial",
    delta_S: float | None = None,
    delta_P: float | None = None,
) -> Embedding:
    r"""Return the guide value of embedding, and the load it costs.

    Args:
        Rz_um: roughness in µm, 0 … below 160.
        n_threads: loaded thread engagements, 0 … 4; counting both ends of a stud is a choice.
        n_bearing: bearing faces of heads and nuts, 0 … 4.
        n_interfaces: inner interfaces, 0 … 20.
        loading: ``axial`` or ``shear``.
        delta_S: resilience of the bolt in mm/N, for the load lost.
        delta_P: resilience of the parts in mm/N, for the load lost.

    Returns:
        Embedding in µm and load lost in N.

    Raises:
        Refusal: ``E_TYPE``, ``E_FINITE``, ``E_RANGE``; ``E_TABLE`` for another loading.

    Formula:
        f_Z = \sum_k n_k f_{Z,k}, \quad F_Z = \frac{f_Z}{\delta_S + \delta_P}

    Standing: standard, as guide values.

    Source: VDI 2230 Part 1, guide values by roughness.
    """
    Rz = checks.not_negative("Rz_um", Rz_um)
    if Rz >= 160.0:
        raise Refusal("E_RANGE", name="Rz_um", got=Rz, low=0.0, high=160.0)
    table = _EMBEDDING_UM[checks.choice("loading", loading, tuple(_EMBEDDING_UM))]
    row = table[0 if Rz < 10.0 else 1 if Rz < 40.0 else 2]
    counts = (
        checks.count("n_threads", n_threads, 0, 4),
        checks.count("n_bearing", n_bearing, 0, 4),
        checks.count("n_interfaces", n_interfaces, 0, 20),
    )
    total = sum(n * f for n, f in zip(counts, row, strict=True))
    if delta_S is None or delta_P is None:
        return Embedding(total, None)
    both = checks.positive("delta_S", delta_S) + checks.not_negative("delta_P", delta_P)
    return Embedding(total, total * 1e-3 / both)


def thermal_preload_change(
    delta_S: float, delta_P: float, lK_mm: float, alpha_S: float, dT_S: float, alpha_P: float, dT_P: float
) -> float:
    r"""Return the change of preload in N by unequal warming; positive when the joint grows more.

    Args:
        delta_S: resilience of the bolt in mm/N.
        delta_P: resilience of the parts in mm/N, zero or above.
        lK_mm: grip in mm.
        alpha_S: expansion of the bolt per kelvin, 0 … 1e-4.
        dT_S: warming of the bolt in K, −400 … 900.
        alpha_P: expansion of the parts per kelvin, 0 … 1e-4.
        dT_P: warming of the parts in K, −400 … 900.

    Returns:
        Change of preload in N.

    Raises:
        Refusal: ``E_TYPE``, ``E_FINITE``, ``E_RANGE``.

    Formula:
        \Delta F = \frac{l_K (\alpha_P \Delta T_P - \alpha_S \Delta T_S)}{\delta_S + \delta_P}

    Standing: mechanics.

    Source: derived here, moduli taken constant. Checked: equal warming of equal metals costs nothing.
    """
    S, P = checks.positive("delta_S", delta_S), checks.not_negative("delta_P", delta_P)
    grip = checks.positive("lK_mm", lK_mm)
    bolt = checks.within("alpha_S", alpha_S, 0.0, 1e-4) * checks.within("dT_S", dT_S, -400.0, 900.0)
    parts = checks.within("alpha_P", alpha_P, 0.0, 1e-4) * checks.within("dT_P", dT_P, -400.0, 900.0)
    return grip * (parts - bolt) / (S + P)
