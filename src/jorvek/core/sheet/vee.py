"""Where the cylinders of a vee fire: by its pins, the angle between its banks, and its firing order."""

from __future__ import annotations

from jorvek.core.engine.crank import vee_firing_angles
from jorvek.core.engine.layout import Engine
from jorvek.core.refusal import Refusal
from jorvek.core.sheet.document import CrankSheet


def vee_angles(engine: Engine, crank: CrankSheet) -> dict[str, float]:
    """Return the firing dead centres of a vee by its pins, its bank angle and its firing order.

    Raises:
        Refusal: ``no_geometry`` without a bank angle; ``pins_at_odds`` naming two cylinders of one pin that the order
            does not allow.

    Source: the second bank meets a pin one bank angle after the first where the pin turns from A towards B, else
    before it; derived in ``vee_firing_angles``.
    """
    if crank.bank_angle is None:
        raise Refusal("no_geometry")
    offset = 0.0 if crank.pin_offset is None else crank.pin_offset.value
    # Clockwise with bank A on the left, a pin goes over the top from A to B.
    towards_b = (engine.rotation == "clockwise") == (engine.bank_a_lies == "left")
    fires = [engine.cylinder(name) for name in engine.firing_order]
    begins = fires[0].bank
    names = {one.name: f"{'A' if one.bank == begins else 'B'}{one.number}" for one in fires}
    forward = towards_b == (begins == engine.banks[0])
    found = vee_firing_angles(
        [names[name] for name in engine.firing_order],
        2 if crank.cycle.value == 360.0 else 4,
        crank.bank_angle.value - offset,
        "clockwise" if forward else "counterclockwise",
    ).angle_deg
    return {name: found[other] for name, other in names.items()}
