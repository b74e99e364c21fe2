"""Which joints of an engine a rule means, from the joint it is asked for."""

from __future__ import annotations

from typing import Final

from jorvek.core.engine.layout import Engine, JointKind, JointPlace
from jorvek.core.sheet.document import Relation

_ALONG_THE_CRANK: Final = 1.0
"""Cylinder pitches between a joint and the next of its kind on either side."""
_AT_THE_CYLINDER: Final = 0.5
"""Cylinder pitches between the middle of a cylinder and the mains on either side."""


def related(
    engine: Engine, joint: JointPlace, kind: JointKind, of: Relation, places: list[JointPlace]
) -> list[JointPlace]:
    """Return the joints of a kind that stand in a relation to a joint.

    Args:
        engine: the engine.
        joint: the joint that is asked for.
        kind: kind of the others.
        of: how they are related.
        places: all joints of the engine.
    """
    others = [j for j in places if j.kind is kind and (j.key != joint.key or of == "itself")]
    match of:
        case "itself":
            return [j for j in others if j.key == joint.key]
        case "same_cylinder":
            return [j for j in others if j.cylinders & joint.cylinders]
        case "same_pin":
            pins = _pins(engine, joint)
            return [j for j in others if _pins(engine, j) & pins]
        case "beside":
            near = _ALONG_THE_CRANK if kind is joint.kind else _AT_THE_CYLINDER
            return [j for j in others if abs(j.slot - joint.slot) <= near]
        case "lower":
            return [j for j in others if j.slot < joint.slot]
        case "higher":
            return [j for j in others if j.slot > joint.slot]
        case "same_kind":
            return [j for j in others if j.kind is joint.kind]
        case "all":
            return others


def _pins(engine: Engine, joint: JointPlace) -> set[int]:
    """Return the numbers of the crankpins that the cylinders of a joint work on: A3 and B3 share one."""
    return {engine.cylinder(name).number for name in joint.cylinders}
