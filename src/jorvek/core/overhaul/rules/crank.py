"""Angles of the crank: from a cylinder's dead centre to the engine's own angle, and back."""

from __future__ import annotations

from typing import Final, Literal

from jorvek.core.engine.crank import crank_angle, firing_angles, piston_position
from jorvek.core.engine.layout import Engine
from jorvek.core.procedure.steps import CrankPositionStep
from jorvek.core.refusal import Refusal
from jorvek.core.sheet.document import CrankSheet
from jorvek.core.sheet.vee import vee_angles

_REFERENCE_DEG: Final = {"tdc_firing": 0.0, "tdc": 0.0, "tdc_exchange": 360.0, "bdc": 180.0}


def cycle_of(crank: CrankSheet) -> float:
    """Return the crank degrees of one working cycle."""
    return crank.cycle.value


def dead_centres(engine: Engine, crank: CrankSheet) -> dict[str, float]:
    """Return each cylinder's firing dead centre in degrees after that of the first of the firing order.

    Of a vee whose bank angle nobody has stated, or whose firing order its pins do not allow, only those of the bank
    that fires first are known; the others are left out.
    """
    if engine.tdc_deg:
        first = engine.tdc_deg[engine.firing_order[0]]
        return {name: (angle - first) % cycle_of(crank) for name, angle in engine.tdc_deg.items()}
    order, strokes = list(engine.firing_order), 2 if cycle_of(crank) == 360.0 else 4
    if engine.layout != "vee":
        return firing_angles(order, strokes).angle_deg
    try:
        return vee_angles(engine, crank)
    except Refusal:
        return firing_angles(
            [name for name in order if engine.cylinder(name).bank == engine.cylinder(order[0]).bank], strokes
        ).angle_deg


def engine_angle(engine: Engine, crank: CrankSheet, cylinder: str, step: CrankPositionStep, read_deg: float) -> float:
    """Return the engine's angle in degrees for a position that a procedure names at one of its cylinders.

    Args:
        engine: the engine.
        crank: how its crank turns.
        cylinder: cylinder whose pin counts.
        step: names the reference and the side.
        read_deg: angle read from the reference.

    Raises:
        Refusal: ``no_such_joint`` for a cylinder that the engine has not; ``dead_centre_unknown``.
    """
    centres = _placed(engine, crank, cylinder)
    side = -1.0 if step.side == "before" else 1.0
    return (centres[cylinder] + _REFERENCE_DEG[step.reference] + side * read_deg) % cycle_of(crank)


def _placed(engine: Engine, crank: CrankSheet, cylinder: str) -> dict[str, float]:
    """Return the dead centres, that of one cylinder among them."""
    if cylinder not in engine.cylinders():
        raise Refusal("no_such_joint", joint=cylinder, engine=engine.name)
    centres = dead_centres(engine, crank)
    if cylinder not in centres:
        raise Refusal("dead_centre_unknown", cylinder=cylinder, engine=engine.name)
    return centres


def below_top_mm(engine: Engine, crank: CrankSheet, cylinder: str, angle_deg: float) -> float | None:
    """Return how far a piston stands below its top in mm; None where the sheet states no geometry."""
    if crank.crank_radius is None or crank.rod_length is None:
        return None
    turned = angle_deg - dead_centres(engine, crank)[cylinder]
    return piston_position(turned, crank.crank_radius.value, crank.rod_length.value)


def angle_at_height(
    engine: Engine, crank: CrankSheet, cylinder: str, below_mm: float, side: Literal["before", "after"]
) -> float:
    """Return the engine's angle in degrees at which a piston stands so far below its firing dead centre.

    Args:
        engine: the engine.
        crank: how its crank turns, with half its stroke and the length of its rods.
        cylinder: whose piston.
        below_mm: how far below its top.
        side: on the way up to the top, or down from it.

    Raises:
        Refusal: ``no_such_joint`` for a cylinder that the engine has not, ``dead_centre_unknown``, ``no_geometry``
            where the sheet states none, ``beyond_the_stroke``.
    """
    centres = _placed(engine, crank, cylinder)
    if crank.crank_radius is None or crank.rod_length is None:
        raise Refusal("no_geometry")
    stroke_mm = 2 * crank.crank_radius.value
    if not 0 <= below_mm <= stroke_mm:
        raise Refusal("beyond_the_stroke", got=below_mm, high=stroke_mm)
    turned = crank_angle(below_mm, crank.crank_radius.value, crank.rod_length.value)
    return (centres[cylinder] + (turned if side == "after" else -turned)) % cycle_of(crank)
