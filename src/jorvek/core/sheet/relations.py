"""Which joints of an engine a rule means, from the joint it is asked for."""

from __future__ import annotations

from typing import Final

from jorvek.core.engine.layout import Engine, JointKind, JointPlace
from jorvek.core.sheet.document import Relation

_ALONG_THE_CRANK: Final = 1.0
"""Cylinder pitches between a joint and the next of its kind on either side."""
_AT_THE_CYLINDER: Final = 0.5
"""Cylinder pitches between the middle of a cylinder and the mains on either side."""


def cylinders_of(engine: Engine, joint: JointPlace) -> frozenset[str]:
    """Return the cylinders that a joint belongs to: one, a bank's under a common head, or none."""
    if joint.kind is JointKind.HEAD and engine.heads_per == "bank":
        return frozenset(c for c in engine.cylinders() if not engine.banks or c.startswith(joint.name))
    return frozenset({joint.name}) & frozenset(engine.cylinders()) if joint.kind in _BY_CYLINDER else frozenset()


_BY_CYLINDER: Final = (JointKind.HEAD, JointKind.LINER, JointKind.ROD, JointKind.CROSSHEAD, JointKind.CRANKPIN)


def pin_of(cylinder: str) -> str:
    """Return the number of the crankpin that a cylinder works on: A3 and B3 share one."""
    return cylinder.lstrip("AB")


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
    mine = cylinders_of(engine, joint)
    match of:
        case "itself":
            return [j for j in others if j.key == joint.key]
        case "same_cylinder":
            return [j for j in others if cylinders_of(engine, j) & mine]
        case "same_pin":
            pins = {pin_of(c) for c in mine}
            return [j for j in others if {pin_of(c) for c in cylinders_of(engine, j)} & pins]
        case "beside":
            near = _ALONG_THE_CRANK if kind is joint.kind else _AT_THE_CYLINDER
            return [j for j in others if abs(j.slot - joint.slot) <= near]
        case "same_kind":
            return [j for j in others if j.kind is joint.kind]
        case "all":
            return others
