"""Questions about torque and angle: which torque, what an angle adds, what to set on the wrench."""

from __future__ import annotations

from typing import Final

from jorvek.core import checks
from jorvek.core.bolting.angle import preload_after_angle_plastic
from jorvek.core.bolting.scatter import friction_band, preload_scatter
from jorvek.core.bolting.strength import preload_at_utilisation, tightening_stress
from jorvek.core.bolting.torque import (
    nut_factor,
    preload_from_torque,
    torque_from_preload,
    torque_lever_mm,
)
from jorvek.core.bolting.wrench import extension_setting
from jorvek.core.reckoner.parts import Field, Group, Inputs, Question, Reckoning, Step, Told, choice, field
from jorvek.core.reckoner.stud import FACE, THREAD, TURNED, YIELD, joint_of, mean_face_mm, number, thread_of
from jorvek.core.units import Quantity

_FRICTION: Final[tuple[Field, ...]] = (
    field("mu_min", None, "", "0.10"),
    field("mu_max", None, "", "0.14"),
)


def _torque_formula(name: str, x: Inputs, mu: float, F: float, T: float) -> Step:
    thread = thread_of(x)
    return Step(
        name,
        r"T = F \cdot \left( \frac{P}{2 \pi} + \mu \cdot \frac{d_2}{2 \cos 30°} + \mu \cdot \frac{D_{Km}}{2} \right)",
        {"F": F, "P": thread.P_mm, r"\mu": mu, "d_2": thread.d2_mm, r"D_{Km}": mean_face_mm(x)},
        1000.0 * T,
        "N.mm",
    )


def torque(x: Inputs) -> Reckoning:
    """Return the torque for a load, or for a book torque, with the lubricant in use."""
    thread, Dkm = thread_of(x), mean_face_mm(x)
    low, high = friction_band(number(x, "mu_min"), number(x, "mu_max"))
    mu = (low + high) / 2.0
    steps: list[Step] = []
    if x["known"] == "book":
        book, mu_book = number(x, "T_book_Nm"), checks.friction("mu_book", number(x, "mu_book"))
        F = preload_from_torque(book, thread, mu_book, mu_book, Dkm)
        lever = torque_lever_mm(thread, mu_book, mu_book, Dkm)
        steps.append(Step("book_load", r"F = \frac{T_{book}}{c}", {r"T_{book}": 1000.0 * book, "c": lever}, F, "N"))
    else:
        F = number(x, "F_N")
    parts = torque_from_preload(F, thread, mu, mu, Dkm)
    band = preload_scatter(parts.T_Nm, thread, low, high, Dkm, 100.0 * number(x, "tool_tol"))
    stress = tightening_stress(band.F_max_N, thread, low, number(x, "Rp02_MPa"))
    return Reckoning(
        told=(
            Told("T_Nm", parts.T_Nm, Quantity.TORQUE, spread=number(x, "tool_tol") * parts.T_Nm),
            Told("F_band_N", F, Quantity.FORCE, low=band.F_min_N, high=band.F_max_N),
            Told("scatter", band.scatter_pct / 100.0, Quantity.RATIO),
            Told("share_head", parts.share_head_pct / 100.0, Quantity.RATIO),
            Told("share_thread", parts.share_thread_pct / 100.0, Quantity.RATIO),
            Told("share_stretch", parts.share_stretch_pct / 100.0, Quantity.RATIO),
            Told("K", nut_factor(thread, mu, mu, Dkm), None),
            Told("util_yield", stress.util_yield, Quantity.RATIO),
        ),
        notes=("over_yield",) if stress.util_yield >= 1.0 else ("friction_decides",),
        why=(*steps, _torque_formula("torque", x, mu, F, parts.T_Nm)),
        picture={
            "stretch": parts.share_stretch_pct,
            "thread": parts.share_thread_pct,
            "head": parts.share_head_pct,
            "low": band.F_min_N / F,
            "high": band.F_max_N / F,
        },
    )


def angle(x: Inputs) -> Reckoning:
    """Return what an angle adds to a snug torque, over the friction range."""
    head = "hex_head" if x["head"] == "hex_head" else "nut"
    joint, Dkm, turned = joint_of(x, head), mean_face_mm(x), number(x, "angle_deg")
    low, high = friction_band(number(x, "mu_min"), number(x, "mu_max"))
    mu, T, P = (low + high) / 2.0, number(x, "T_snug_Nm"), joint.thread.P_mm
    Rp02, shank, delta_S = number(x, "Rp02_MPa"), number(x, "d_shank_mm"), joint.bolt.delta_S
    plateau = preload_at_utilisation(1.0, Rp02, joint.thread, mu, shank)

    def before(friction: float) -> float:
        return preload_from_torque(T, joint.thread, friction, friction, Dkm)

    def after(friction: float) -> float:
        return preload_after_angle_plastic(before(friction), turned, P, delta_S, joint.dP, plateau).F_N

    snug, added = before(mu), [after(friction) - before(friction) for friction in (low, high)]
    stage = preload_after_angle_plastic(snug, turned, P, delta_S, joint.dP, plateau)
    return Reckoning(
        told=(
            Told("dF_N", stage.F_N - snug, Quantity.FORCE, low=min(added), high=max(added)),
            Told("F_final_N", stage.F_N, Quantity.FORCE, low=after(high), high=after(low)),
            Told("F_snug_N", snug, Quantity.FORCE),
            Told("flats", turned / 60.0, None, counted=True),
            Told("elastic_limit_deg", stage.elastic_limit_angle_deg, Quantity.ANGLE),
            Told("permanent_mm", stage.plastic_mm, Quantity.LENGTH),
            Told("F_yield_N", plateau, Quantity.FORCE),
        ),
        notes=("into_yield",) if stage.yielded else ("stays_elastic",),
        why=(
            Step(
                "snug_load",
                r"F_s = \frac{T_s}{c}",
                {"T_s": 1000.0 * T, "c": torque_lever_mm(joint.thread, mu, mu, Dkm)},
                snug,
                "N",
            ),
            Step(
                "elastic_load",
                r"F_e = F_s + \frac{P \cdot \theta}{360 \cdot (\delta_S + \delta_P)}",
                {"F_s": snug, "P": P, r"\theta": turned, r"\delta_S": delta_S, r"\delta_P": joint.dP},
                stage.F_elastic_N,
                "N",
            ),
            Step(
                "knee",
                r"F = \frac{F_e}{\left( 1 + (F_e / F_y)^{20} \right)^{1/20}}",
                {"F_e": stage.F_elastic_N, "F_y": plateau},
                stage.F_N,
                "N",
            ),
            Step(
                "limit_angle",
                r"\theta_{el} = \frac{360 \cdot (F_y - F_s) \cdot (\delta_S + \delta_P)}{P}",
                {"F_y": plateau, "F_s": snug, r"\delta_S": delta_S, r"\delta_P": joint.dP, "P": P},
                stage.elastic_limit_angle_deg,
                "deg",
            ),
        ),
        picture={
            "snug": snug,
            "final": stage.F_N,
            "elastic": stage.F_elastic_N,
            "yield": plateau,
            "angle": turned,
            "limit": stage.elastic_limit_angle_deg,
            "low": after(high),
            "high": after(low),
        },
    )


def extension(x: Inputs) -> Reckoning:
    """Return the setting of a wrench with an extension."""
    T, L, e, theta = (number(x, name) for name in ("T_Nm", "L_mm", "e_mm", "theta_deg"))
    setting = extension_setting(T, L, e, theta)
    off = number(x, "grip_off_mm")
    nearer, farther = (extension_setting(T, checks.positive("L_mm", L + s * off), e, theta) for s in (-1.0, 1.0))
    return Reckoning(
        told=(
            Told("T_set_Nm", setting, Quantity.TORQUE, spread=abs(farther - nearer) / 2.0),
            Told("correction", setting / T - 1.0 if T else 0.0, Quantity.RATIO),
        ),
        notes=("square_pull",),
        why=(
            Step(
                "setting",
                r"T_{set} = T \cdot \frac{L}{L + e \cdot \cos \theta}",
                {"T": T, "L": L, "e": e, r"\theta": theta},
                setting,
                "N.m",
            ),
        ),
        picture={"L": L, "e": e, "theta": theta},
    )


TORQUE = Question(
    "torque",
    (
        choice("known", ("load", "book")),
        field("F_N", Quantity.FORCE, "kN", "64", shown_if=("known", "load")),
        field("T_book_Nm", Quantity.TORQUE, "N.m", "240", shown_if=("known", "book")),
        field("mu_book", None, "", "0.14", shown_if=("known", "book")),
        *_FRICTION,
        *(f.model_copy(update={"default": d}) for f, d in zip((*THREAD, *FACE), ("24", "2", "36", "26"), strict=True)),
        *(f.model_copy(update={"default": "940"}) for f in YIELD),
        field("tool_tol", Quantity.RATIO, "%", "4", Group.DOUBT),
    ),
    torque,
)
_ROD: Final = ("16", "1.5", "0", "13.5", "62", "14", "24", "17", "40", "205", "940")
ANGLE = Question(
    "angle",
    (
        field("T_snug_Nm", Quantity.TORQUE, "N.m", "95"),
        field("angle_deg", Quantity.ANGLE, "deg", "80"),
        *_FRICTION,
        choice("head", ("hex_head", "nut"), Group.STUD),
        *(f.model_copy(update={"default": d}) for f, d in zip(TURNED, _ROD, strict=True)),
    ),
    angle,
)
EXTENSION = Question(
    "extension",
    (
        field("T_Nm", Quantity.TORQUE, "N.m", "240"),
        field("L_mm", Quantity.LENGTH, "mm", "620"),
        field("e_mm", Quantity.LENGTH, "mm", "95"),
        field("theta_deg", Quantity.ANGLE, "deg", "0"),
        field("grip_off_mm", Quantity.LENGTH, "mm", "15", Group.DOUBT),
    ),
    extension,
)
