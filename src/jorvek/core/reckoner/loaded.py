"""Questions about a joint at work: warm and firing, its seat, its tapped hole; and the oil one has."""

from __future__ import annotations

from jorvek.core.bolting.joint import load_factor, thermal_preload_change
from jorvek.core.bolting.strength import internal_thread_hold, seat_pressure
from jorvek.core.bolting.torque import friction_from_test, nut_factor, torque_from_preload
from jorvek.core.reckoner.parts import Group, Inputs, Question, Reckoning, Step, Told, field
from jorvek.core.reckoner.stud import (
    CLAMPED,
    FACE,
    SECTIONS,
    THREAD,
    faces_of,
    joint_of,
    mean_face_mm,
    number,
    thread_of,
)
from jorvek.core.units import Quantity

_FORCE, _LENGTH = Quantity.FORCE, Quantity.LENGTH
_WARM = Quantity.TEMPERATURE_DIFFERENCE
_MICRO = 1e-6
_WARMTH = (
    r"\Delta F = "
    r"\frac{l \cdot (\alpha_P \cdot \Delta T_P - \alpha_S \cdot \Delta T_S)}{\delta_S + \delta_P}"
)


def working(x: Inputs) -> Reckoning:
    """Return what a stud holds when engine and stud are warm and the cylinder fires."""
    joint, F, firing = joint_of(x), number(x, "F_N"), number(x, "F_A_N")
    grip = number(x, "thread_low_mm") + number(x, "shank_length_mm") + number(x, "thread_high_mm")
    delta_S = joint.bolt.delta_S
    alphas = number(x, "alpha_S"), number(x, "alpha_P")
    warm = thermal_preload_change(
        delta_S,
        joint.dP,
        grip,
        alphas[0] * _MICRO,
        number(x, "dT_S_K"),
        alphas[1] * _MICRO,
        number(x, "dT_P_K"),
    )
    loaded = load_factor(delta_S, joint.dP, number(x, "n_intro"), max(0.0, F + warm), firing)
    face, hole = faces_of(x)
    seat = seat_pressure(loaded.F_S_N, face, hole, number(x, "p_seat_MPa"))
    notes = ["parts_separate"] if loaded.gaps else ["stays_pressed"]
    if seat.share > 1.0:
        notes.append("seat_gives_way")
    return Reckoning(
        told=(
            Told("F_KR_N", loaded.F_KR_N, _FORCE),
            Told("dF_warm_N", warm, _FORCE),
            Told("F_warm_N", F + warm, _FORCE),
            Told("F_S_N", loaded.F_S_N, _FORCE),
            Told("phi", loaded.Phi, Quantity.RATIO),
            Told("F_separates_N", (F + warm) / (1.0 - loaded.Phi), _FORCE),
            Told("p_MPa", seat.p_MPa, Quantity.STRESS),
            Told("seat_share", seat.share, Quantity.RATIO),
        ),
        notes=tuple(notes),
        why=(
            Step(
                "warm_change",
                _WARMTH,
                {
                    "l": grip,
                    r"\alpha_P": alphas[1] * _MICRO,
                    r"\Delta T_P": number(x, "dT_P_K"),
                    r"\alpha_S": alphas[0] * _MICRO,
                    r"\Delta T_S": number(x, "dT_S_K"),
                    r"\delta_S": delta_S,
                    r"\delta_P": joint.dP,
                },
                warm,
                "N",
            ),
            Step(
                "clamp_left",
                r"F_K = F + \Delta F - (1 - \Phi) \cdot F_A",
                {"F": F, r"\Delta F": warm, r"\Phi": loaded.Phi, "F_A": firing},
                loaded.F_KR_N,
                "N",
            ),
            Step(
                "seat",
                r"p = \frac{4 \cdot F_S}{\pi \cdot (D^2 - d_h^2)}",
                {"F_S": loaded.F_S_N, "D": face, "d_h": hole},
                seat.p_MPa,
                "MPa",
            ),
        ),
        picture={
            "cold": F,
            "warm": F + warm,
            "left": loaded.F_KR_N,
            "stud": loaded.F_S_N,
            "separates": (F + warm) / (1.0 - loaded.Phi),
            "firing": firing,
        },
    )


_IN_THE_HOLE = r"A = \pi \cdot d \cdot \frac{m}{P} \cdot \left( \frac{P}{2} + (d - d_2) \cdot \tan 30° \right)"
_ON_THE_BOLT = r"A = \pi \cdot d_1 \cdot \frac{m}{P} \cdot \left( \frac{P}{2} + (d_2 - d_1) \cdot \tan 30° \right)"


def hold(x: Inputs) -> Reckoning:
    """Return what a tapped hole holds before its thread shears."""
    thread, wanted, m = thread_of(x), number(x, "F_N"), number(x, "engaged_mm")
    strengths = {"hole": number(x, "tau_MPa"), "bolt": number(x, "tau_bolt_MPa")}
    found = internal_thread_hold(thread, m, number(x, "run_out_mm"), strengths["hole"], strengths["bolt"], wanted)
    tau, hole = strengths[found.gives], found.gives == "hole"
    share = wanted / found.F_N
    return Reckoning(
        told=(
            Told("F_hold_N", found.F_N, _FORCE),
            Told("hold_share", share, Quantity.RATIO),
            Told("needed_mm", found.needed_mm, _LENGTH),
            Told("turns", found.full_mm / thread.P_mm, None, counted=True),
            Told("strength_ratio", found.ratio, None),
        ),
        notes=(
            "hole_shears" if share >= 1.0 else "hole_close" if share > _CLOSE else "hole_holds",
            "hole_gives" if hole else "bolt_gives",
        ),
        why=(
            Step(
                "shear_area",
                _IN_THE_HOLE if hole else _ON_THE_BOLT,
                {"d": thread.d_mm, "m": found.full_mm, "P": thread.P_mm, "d_2": thread.d2_mm, "d_1": thread.d1_mm},
                found.area_mm2,
                "mm2",
            ),
            Step(
                "hold_load",
                r"F = C \cdot \tau \cdot A",
                {"C": found.F_N / (tau * found.area_mm2), r"\tau": tau, "A": found.area_mm2},
                found.F_N,
                "N",
            ),
        ),
        picture={"share": share, "engaged": m, "needed": found.needed_mm, "d": thread.d_mm},
    )


_CLOSE = 0.7
"""Share of the holding load above which turns that are worn or cut short no longer leave enough."""


def friction(x: Inputs) -> Reckoning:
    """Return the friction of the oil one has, from a torque and the load it made on a test bolt."""
    thread, face = thread_of(x), mean_face_mm(x)
    T, F, wanted = number(x, "T_test_Nm"), number(x, "F_test_N"), number(x, "F_N")
    mu = friction_from_test(T, F, thread, face).mu_tot
    doubt = number(x, "test_doubt")
    low, high = (friction_from_test(T, F * (1.0 + way * doubt), thread, face).mu_tot for way in (1.0, -1.0))
    now = torque_from_preload(wanted, thread, mu, mu, face).T_Nm
    ends = [torque_from_preload(wanted, thread, m, m, face).T_Nm for m in (low, high)]
    return Reckoning(
        told=(
            Told("mu", mu, Quantity.FRICTION, spread=(high - low) / 2.0),
            Told("K", nut_factor(thread, mu, mu, face), None),
            Told("T_now_Nm", now, Quantity.TORQUE, spread=(max(ends) - min(ends)) / 2.0),
        ),
        notes=("one_bolt_speaks",),
        why=(
            Step(
                "friction_test",
                r"\mu = \frac{T/F - P/(2 \pi)}{d_2/(2 \cos 30°) + D/2}",
                {"T": 1000.0 * T, "F": F, "P": thread.P_mm, "d_2": thread.d2_mm, "D": face},
                mu,
                "",
            ),
        ),
        picture={"mu": mu, "low": low, "high": high},
    )


_HEAD = ("52", "3", "20", "47", "380", "30", "78", "54", "125", "170")
WORKING = Question(
    "working",
    (
        field("F_N", _FORCE, "kN", "860"),
        field("F_A_N", _FORCE, "kN", "480"),
        field("n_intro", None, "", "0.5"),
        field("dT_S_K", _WARM, "K_diff", "60"),
        field("dT_P_K", _WARM, "K_diff", "75"),
        field("alpha_S", None, "", "11.5"),
        field("alpha_P", None, "", "10.5"),
        field("p_seat_MPa", Quantity.STRESS, "MPa", "600"),
        *(
            f.model_copy(update={"default": d})
            for f, d in zip((*THREAD, *SECTIONS, *FACE, *CLAMPED), _HEAD, strict=True)
        ),
    ),
    working,
)
HOLD = Question(
    "hold",
    (
        field("F_N", _FORCE, "kN", "860"),
        field("engaged_mm", _LENGTH, "mm", "62"),
        field("run_out_mm", _LENGTH, "mm", "6"),
        field("tau_MPa", Quantity.STRESS, "MPa", "220"),
        field("tau_bolt_MPa", Quantity.STRESS, "MPa", "600"),
        *THREAD,
    ),
    hold,
)
FRICTION = Question(
    "friction",
    (
        field("T_test_Nm", Quantity.TORQUE, "N.m", "240"),
        field("F_test_N", _FORCE, "kN", "66"),
        field("F_N", _FORCE, "kN", "64"),
        *(f.model_copy(update={"default": d}) for f, d in zip((*THREAD, *FACE), ("24", "2", "36", "26"), strict=True)),
        field("test_doubt", Quantity.RATIO, "%", "3", Group.DOUBT),
    ),
    friction,
)
