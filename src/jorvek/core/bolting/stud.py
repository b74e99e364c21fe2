"""Elasticity of stepped bolts and studs."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Final

from jorvek.core import checks
from jorvek.core.bolting.thread import Thread, circle_area
from jorvek.core.refusal import Refusal

E_STEEL_MPA: Final = 205_000.0
"""Default modulus of bolts and studs (steel at room temperature)."""

ENDS: Final = ("hex_head", "socket_head", "nut", "tapped", "none")
"""What a bolt can have at an end: a head, a nut, a tapped hole, or nothing that yields."""


@dataclass(frozen=True)
class Section:
    """One length of a stepped stud.

    Attributes:
        L_mm: length.
        d_mm: shank diameter; None for free loaded thread, which stretches by its root area.
        bore_mm: diameter of a hole along the axis.
        A_mm2: area given in place of a diameter.
    """

    L_mm: float
    d_mm: float | None = None
    bore_mm: float = 0.0
    A_mm2: float | None = None


@dataclass(frozen=True)
class BoltElasticity:
    """Resilience of a bolt, by what measures it.

    Attributes:
        delta_S: as a turning nut or the joint feels it, all terms, mm/N.
        delta_own: stretch of the bolt end to end, for measured elongation, mm/N.
        delta_sections: part of each section, mm/N.
        delta_ends: part of each end, mm/N.
        k_S_N_per_mm: stiffness, 1/delta_S.
    """

    delta_S: float
    delta_own: float
    delta_sections: tuple[float, ...]
    delta_ends: tuple[float, ...]
    k_S_N_per_mm: float


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


@dataclass(frozen=True)
class _Moduli:
    bolt: float
    nut: float
    tapped: float


def _moduli(E_MPa: float, E_nut_MPa: float | None, E_tapped_MPa: float | None) -> _Moduli:
    bolt = checks.positive("E_MPa", E_MPa)
    nut = bolt if E_nut_MPa is None else checks.positive("E_nut_MPa", E_nut_MPa)
    tapped = bolt if E_tapped_MPa is None else checks.positive("E_tapped_MPa", E_tapped_MPa)
    return _Moduli(bolt, nut, tapped)


_SAME_AREA: Final = 0.01
"""An area printed to a few digits still is that of its diameter."""


def section_area(section: Section, thread: Thread) -> float:
    """Return the area in mm² that governs the stretch of a section.

    Raises:
        Refusal: ``E_TYPE``, ``E_FINITE``, ``E_RANGE`` for a size that is not above zero;
            ``E_GEOM`` for a bore as wide as the section, and for an area that is not that of the diameter.
    """
    if section.A_mm2 is not None and section.d_mm is None:
        return checks.positive("A_mm2", section.A_mm2)
    outer = thread.d3_mm if section.d_mm is None else checks.positive("d_mm", section.d_mm)
    bore = checks.not_negative("bore_mm", section.bore_mm)
    if bore >= outer:
        raise checks.contradiction("bore_mm", bore, "d_mm", outer)
    area = circle_area(outer) - circle_area(bore)
    if section.A_mm2 is not None and abs(checks.positive("A_mm2", section.A_mm2) - area) > _SAME_AREA * area:
        raise checks.contradiction("A_mm2", section.A_mm2, "d_mm", outer)
    return area


def _section_resiliences(sections: list[Section], thread: Thread, E: float) -> tuple[float, ...]:
    if not sections:
        raise Refusal("E_LEN", name="sections", got=0)
    lengths = [checks.not_negative("L_mm", section.L_mm) for section in sections]
    if sum(lengths) <= 0.0:
        raise Refusal("E_GEOM", name="L_mm", got=0.0, against="sections", other=len(sections))
    return tuple(L / (E * section_area(s, thread)) for L, s in zip(lengths, sections, strict=True))


def _end_terms(thread: Thread, end: str, moduli: _Moduli) -> tuple[float, float]:
    """Return (stretch of the engaged thread, displacement of head, nut or hole) in mm/N."""
    engaged = 0.5 * thread.d_mm / (moduli.bolt * thread.Ad3_mm2)
    if end == "nut":
        return engaged, 0.4 * thread.d_mm / (moduli.nut * thread.AN_mm2)
    if end == "tapped":
        return engaged, 0.33 * thread.d_mm / (moduli.tapped * thread.AN_mm2)
    head = {"hex_head": 0.5, "socket_head": 0.4, "none": 0.0}[end]
    return 0.0, head * thread.d_mm / (moduli.bolt * thread.AN_mm2)


def bolt_resilience(
    thread: Thread,
    sections: list[Section],
    ends: tuple[str, str],
    E_MPa: float = E_STEEL_MPA,
    E_nut_MPa: float | None = None,
    E_tapped_MPa: float | None = None,
) -> BoltElasticity:
    r"""Return the elastic resilience of a stepped bolt or stud.

    A turning nut feels all of it; a rod or an ultrasonic probe on the end faces feels only the
    stretch of the bolt itself. The two are not interchangeable.

    Args:
        thread: the thread at both ends.
        sections: lengths between the ends, free loaded thread included.
        ends: the two ends: ``hex_head``, ``socket_head``, ``nut``, ``tapped`` or ``none``.
        E_MPa: modulus of the bolt in MPa.
        E_nut_MPa: modulus of the nut in MPa; that of the bolt when None.
        E_tapped_MPa: modulus of the tapped part in MPa; that of the bolt when None.

    Returns:
        Resiliences in mm/N.

    Raises:
        Refusal: ``E_TYPE``, ``E_FINITE``, ``E_RANGE``; ``E_LEN`` without sections or without
            two ends; ``E_TABLE`` for an unknown end; ``E_GEOM`` when all sections have no
            length, or a bore is as wide as its section.

    Formula:
        \delta_S = \sum_i \frac{L_i}{E A_i} + \delta_{end,1} + \delta_{end,2}
        \delta_{nut} = \frac{0.5\, d}{E A_{d3}} + \frac{0.4\, d}{E_n A_N}
        \delta_{tapped} = \frac{0.5\, d}{E A_{d3}} + \frac{0.33\, d}{E_t A_N}
        \delta_{head} = \frac{0.5\, d}{E A_N}
        \delta_{own} = \sum_i \frac{L_i}{E A_i} + \sum_{thread\ ends} \frac{0.5\, d}{E A_{d3}}

    Standing: standard; what counts as the bolt's own stretch is a model.

    Source: VDI 2230 Part 1. Checked: one section cut in two is the same bolt.
    """
    moduli = _moduli(E_MPa, E_nut_MPa, E_tapped_MPa)
    if not isinstance(ends, list | tuple):
        raise Refusal("E_TYPE", name="ends", got=str(ends))
    if len(ends) != 2:
        raise Refusal("E_LEN", name="ends", got=len(ends))
    parts = _section_resiliences(sections, thread, moduli.bolt)
    terms = [_end_terms(thread, checks.choice("ends", end, ENDS), moduli) for end in ends]
    own = sum(parts) + sum(engaged for engaged, _ in terms)
    total = sum(parts) + sum(engaged + moved for engaged, moved in terms)
    return BoltElasticity(total, own, parts, tuple(engaged + moved for engaged, moved in terms), 1.0 / total)


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
    r"""Split the elasticity of a tensioned stud into the parts that load at different times.

    Args:
        thread: the thread at both ends.
        sections_below: lengths between the anchorage and the nut bearing plane.
        bottom_end: ``tapped``, ``nut``, ``hex_head``, ``socket_head`` or ``none``.
        nut_height_mm: height of the nut in mm, above zero.
        free_above_mm: free thread between nut and puller in mm, zero or above.
        E_MPa: modulus of the stud in MPa.
        E_nut_MPa: modulus of the nut in MPa; that of the stud when None.
        E_tapped_MPa: modulus of the tapped part in MPa; that of the stud when None.

    Returns:
        The resiliences in mm/N.

    Raises:
        Refusal: ``E_TYPE``, ``E_FINITE``, ``E_RANGE``; ``E_LEN`` without sections;
            ``E_TABLE`` for an unknown bottom end; ``E_GEOM`` when all sections have no length,
            or a bore is as wide as its section.

    Formula:
        \delta_{S0} = \sum_i \frac{L_i}{E A_i} + \delta_{bottom}
        \delta_{Nut} = \frac{0.5\, d}{E A_{d3}} + \frac{0.4\, d}{E_n A_N}
        \delta_{GN} = \frac{0.5\, d}{E A_{d3}}
        \delta_U = \frac{h_{nut} + l_{free}}{E A_{d3}} + \frac{0.5\, d}{E A_{d3}} + \frac{0.4\, d}{E A_N}

    Standing: model.

    Source: built from the end terms of VDI 2230 Part 1 (0.5 d engaged thread on the root area,
    0.4 d nut and 0.33 d tapped-hole displacement on the nominal area).
    """
    moduli = _moduli(E_MPa, E_nut_MPa, E_tapped_MPa)
    nut_height = checks.positive("nut_height_mm", nut_height_mm)
    above = checks.not_negative("free_above_mm", free_above_mm)
    below = sum(_section_resiliences(sections_below, thread, moduli.bolt))
    bottom, bottom_moved = _end_terms(thread, checks.choice("bottom_end", bottom_end, ENDS), moduli)
    engaged, nut_moved = _end_terms(thread, "nut", moduli)
    puller = 0.4 * thread.d_mm / (moduli.bolt * thread.AN_mm2)
    return StudElasticity(
        dS0=below + bottom + bottom_moved,
        dNut=engaged + nut_moved,
        dGN=engaged,
        dU=(nut_height + above) / (moduli.bolt * thread.Ad3_mm2) + engaged + puller,
        delta_own=below + bottom + engaged,
    )
