"""Resilience of clamped parts by the substitution deformation cone."""

from __future__ import annotations

import math
from dataclasses import dataclass
from itertools import pairwise

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
        tan_phi: tangent of the cone angle used (0 for a plain sleeve).
        D_A_lim_mm: outer diameter from which the cones are complete.
        shape: ``cone``, ``cone+sleeve`` or ``sleeve``.
        grip_mm: total thickness of the layers.
    """

    delta_P: float
    tan_phi: float
    D_A_lim_mm: float
    shape: str
    grip_mm: float


def vdi_cone_tan(lK_mm: float, dW_mm: float, DA_mm: float, joint: str = "through") -> float:
    """Return the tangent of the deformation cone angle.

    Args:
        lK_mm: grip in mm.
        dW_mm: outer diameter of the bearing face in mm.
        DA_mm: outer diameter available to the joint in mm.
        joint: ``through`` (bolt and nut) or ``tapped`` (thread in the lowest part).

    Returns:
        tan φ, without unit.

    Raises:
        Refusal: ``E_TYPE``, ``E_FINITE``, ``E_RANGE``; ``E_TABLE`` for another joint kind;
            ``E_DATA`` when the proportions give a cone that does not open.

    Source: VDI 2230 Part 1, deformation cone for through and tapped joints.
    """
    lK, dW = checks.positive("lK_mm", lK_mm), checks.positive("dW_mm", dW_mm)
    y = checks.positive("DA_mm", DA_mm) / dW
    beta = lK / dW
    if joint == "through":
        tangent = 0.362 + 0.032 * math.log(beta / 2.0) + 0.153 * math.log(y)
    elif joint == "tapped":
        tangent = 0.348 + 0.013 * math.log(beta) + 0.193 * math.log(y)
    else:
        raise Refusal("E_TABLE", name="joint", got=joint)
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
    """Return the resilience of layered clamped parts.

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

    Source: VDI 2230 Part 1 for one layer; several layers are a model (each slice of the same
    cone with its own modulus, integrated in closed form).
    """
    if not layers:
        raise Refusal("E_LEN", name="layers")
    for layer in layers:
        checks.positive("L_mm", layer.L_mm)
        checks.positive("E_MPa", layer.E_MPa)
    dW, DA = checks.positive("dW_mm", dW_mm), checks.positive("DA_mm", DA_mm)
    dh = checks.not_negative("dh_mm", dh_mm)
    if dh >= dW or dh >= DA:
        raise Refusal("E_GEOM", name="dh_mm", got=dh)
    if joint not in ("through", "tapped"):
        raise Refusal("E_TABLE", name="joint", got=joint)
    grip = sum(layer.L_mm for layer in layers)
    if dW >= DA:
        total = sum(_sleeve(layer.L_mm, layer.E_MPa, DA, dh) for layer in layers)
        return JointStiffness(total, 0.0, dW, "sleeve", grip)
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
