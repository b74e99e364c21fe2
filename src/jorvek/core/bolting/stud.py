"""Elasticity of stepped studs, as tensioner work needs it."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Final

from jorvek.core import checks
from jorvek.core.bolting.thread import Thread, circle_area
from jorvek.core.refusal import Refusal

E_STEEL_MPA: Final = 205_000.0
"""Default modulus of bolts and studs (steel at room temperature)."""


@dataclass(frozen=True)
class Section:
    """One length of a stepped stud.

    Attributes:
        L_mm: length.
        d_mm: shank diameter; None for free loaded thread, which stretches by its root area.
    """

    L_mm: float
    d_mm: float | None = None


@dataclass(frozen=True)
class StudElasticity:
    """Resiliences in mm/N that a tensioner job needs.

    Attributes:
        dS0: from the bottom anchorage up to the nut bearing plane.
        dNut: what becomes loaded only when the nut carries.
        dGN: the part of ``dNut`` that is stretch of the stud itself.
        dU: from the nut bearing plane up to and into the puller.
        delta_own: stretch of the stud end to end, for measured elongation.
    """

    dS0: float
    dNut: float
    dGN: float
    dU: float
    delta_own: float


def section_area(section: Section, thread: Thread) -> float:
    """Return the area in mm² that governs the stretch of a section.

    Raises:
        Refusal: ``E_TYPE``, ``E_FINITE``, ``E_RANGE`` for a diameter that is not above zero.
    """
    if section.d_mm is None:
        return thread.Ad3_mm2
    return circle_area(checks.positive("d_mm", section.d_mm))


def _bottom_end(thread: Thread, end: str, E: float, E_tapped: float) -> float:
    if end == "none":
        return 0.0
    if end != "tapped":
        raise Refusal("E_TABLE", name="bottom_end", got=end)
    return 0.5 * thread.d_mm / (E * thread.Ad3_mm2) + 0.33 * thread.d_mm / (E_tapped * thread.AN_mm2)


def stud_split(
    thread: Thread,
    sections_below: list[Section],
    bottom_end: str,
    nut_height_mm: float,
    free_above_mm: float,
    E_MPa: float = E_STEEL_MPA,
    E_nut_MPa: float | None = None,
    E_tapped_MPa: float | None = None,
) -> StudElasticity:
    """Split the elasticity of a tensioned stud into the parts that load at different times.

    Args:
        thread: the thread at both ends.
        sections_below: lengths between the anchorage and the nut bearing plane.
        bottom_end: ``tapped`` (screwed into the lowest part) or ``none``.
        nut_height_mm: height of the nut, zero or above.
        free_above_mm: free thread between nut and puller, zero or above.
        E_MPa: modulus of the stud.
        E_nut_MPa: modulus of the nut; that of the stud when None.
        E_tapped_MPa: modulus of the tapped part; that of the stud when None.

    Returns:
        The resiliences in mm/N.

    Raises:
        Refusal: ``E_TYPE``, ``E_FINITE``, ``E_RANGE``; ``E_LEN`` without sections;
            ``E_TABLE`` for an unknown bottom end.

    Source: model built from the end terms of VDI 2230 Part 1 (0.5 d engaged thread on the
    root area, 0.4 d nut and 0.33 d tapped-hole displacement on the nominal area).
    """
    if not sections_below:
        raise Refusal("E_LEN", name="sections_below")
    E = checks.positive("E_MPa", E_MPa)
    E_nut = E if E_nut_MPa is None else checks.positive("E_nut_MPa", E_nut_MPa)
    E_tapped = E if E_tapped_MPa is None else checks.positive("E_tapped_MPa", E_tapped_MPa)
    nut, above = (
        checks.not_negative("nut_height_mm", nut_height_mm),
        checks.not_negative("free_above_mm", free_above_mm),
    )
    below = sum(checks.positive("L_mm", s.L_mm) / (E * section_area(s, thread)) for s in sections_below)
    engaged = 0.5 * thread.d_mm / (E * thread.Ad3_mm2)
    own_ends = engaged * (2.0 if bottom_end == "tapped" else 1.0)
    return StudElasticity(
        dS0=below + _bottom_end(thread, bottom_end, E, E_tapped),
        dNut=engaged + 0.4 * thread.d_mm / (E_nut * thread.AN_mm2),
        dGN=engaged,
        dU=(nut + above) / (E * thread.Ad3_mm2) + engaged + 0.4 * thread.d_mm / (E * thread.AN_mm2),
        delta_own=below + own_ends,
    )
