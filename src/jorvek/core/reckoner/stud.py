"""The stud that several questions are about: its fields, and its elasticity."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Final

from jorvek.core import checks
from jorvek.core.bolting.joint import Layer, joint_resilience
from jorvek.core.bolting.stud import BoltElasticity, Section, StudElasticity, bolt_resilience, stud_split
from jorvek.core.bolting.thread import Thread, circle_area, iso_thread
from jorvek.core.reckoner.parts import Field, Group, Inputs, field
from jorvek.core.refusal import Refusal
from jorvek.core.units import Quantity

_L, _E = Quantity.LENGTH, Quantity.STRESS

THREAD: Final = (
    field("d_mm", _L, "mm", "52", Group.STUD),
    field("P_mm", _L, "mm", "3", Group.STUD),
)
FACE: Final = (
    field("face_mm", _L, "mm", "78", Group.STUD),
    field("hole_mm", _L, "mm", "54", Group.STUD),
)
SECTIONS: Final = (
    field("thread_low_mm", _L, "mm", "20", Group.STUD),
    field("d_shank_mm", _L, "mm", "47", Group.STUD),
    field("shank_length_mm", _L, "mm", "380", Group.STUD),
    field("thread_high_mm", _L, "mm", "30", Group.STUD),
)
CLAMPED: Final = (
    field("outer_mm", _L, "mm", "125", Group.STUD),
    field("E_clamped_MPa", _E, "GPa", "170", Group.STUD),
)
NUT: Final = (
    field("nut_height_mm", _L, "mm", "42", Group.STUD),
    field("free_above_mm", _L, "mm", "12", Group.STUD),
)
YIELD: Final = (field("Rp02_MPa", _E, "MPa", "800", Group.STUD),)
TENSIONED: Final[tuple[Field, ...]] = (*THREAD, *SECTIONS, *NUT, *FACE, *CLAMPED, *YIELD)
TURNED: Final[tuple[Field, ...]] = (*THREAD, *SECTIONS, *FACE, *CLAMPED, *YIELD)


def number(x: Inputs, name: str) -> float:
    """Return a field's number.

    Raises:
        Refusal: ``E_DATA`` when it is not there or is a word.
    """
    value = x.get(name)
    if isinstance(value, str) or value is None:
        raise Refusal("E_DATA", name=name)
    return value


@dataclass(frozen=True)
class Joint:
    """A stud with what it clamps.

    Attributes:
        thread: its thread.
        stud: its elasticity under a tensioner; None where no nut was asked for.
        bolt: its elasticity under a turning nut, tapped at the lower end.
        dP: resilience of the clamped parts in mm/N.
        smallest_mm2: smallest loaded section.
    """

    thread: Thread
    stud: StudElasticity | None
    bolt: BoltElasticity
    dP: float
    smallest_mm2: float


def thread_of(x: Inputs) -> Thread:
    """Return the thread.

    Raises:
        Refusal: as ``iso_thread``.
    """
    return iso_thread(number(x, "d_mm"), number(x, "P_mm"))


def faces_of(x: Inputs) -> tuple[float, float]:
    """Return face and hole in mm, under the names of their fields when they contradict each other.

    Raises:
        Refusal: ``E_GEOM`` when the hole is not smaller than the face.
    """
    face, hole = number(x, "face_mm"), number(x, "hole_mm")
    if hole >= face:
        raise checks.contradiction("hole_mm", hole, "face_mm", face)
    return face, hole


def mean_face_mm(x: Inputs) -> float:
    """Return the mean diameter in mm of the face under the nut.

    Raises:
        Refusal: as ``faces_of``.
    """
    return sum(faces_of(x)) / 2.0


def joint_of(x: Inputs, head: str = "nut") -> Joint:
    """Return stud and clamped parts; the stud is tapped into the clamped material.

    Args:
        x: values of the fields ``TENSIONED`` or ``TURNED``.
        head: upper end, ``nut`` or ``hex_head``.

    Raises:
        Refusal: as the functions of the core that build it.
    """
    thread, E = thread_of(x), number(x, "E_clamped_MPa")
    low, L, high = (number(x, name) for name in ("thread_low_mm", "shank_length_mm", "thread_high_mm"))
    d = number(x, "d_shank_mm")
    sections = [Section(low), Section(L, d), Section(high)]
    (face, hole), outer = faces_of(x), number(x, "outer_mm")
    if outer <= hole:
        raise checks.contradiction("outer_mm", outer, "hole_mm", hole)
    bolt = bolt_resilience(thread, sections, ("tapped", head), E_tapped_MPa=E)
    split = None
    if "nut_height_mm" in x:
        nut, above = number(x, "nut_height_mm"), number(x, "free_above_mm")
        split = stud_split(thread, sections, "tapped", nut, above, E_tapped_MPa=E)
    dP = joint_resilience([Layer(low + L + high, E)], face, hole, outer, "tapped").delta_P
    return Joint(thread, split, bolt, dP, min(thread.As_mm2, circle_area(d)))
