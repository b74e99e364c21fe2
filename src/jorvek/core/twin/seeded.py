"""Joints drawn by chance from what is usual, with faults sown in them: the same seed gives the same joint."""

from __future__ import annotations

import random
from dataclasses import dataclass
from enum import StrEnum
from typing import Final

from jorvek.core.bolting.interaction import compliance_geom
from jorvek.core.procedure.clamp import BoltModel
from jorvek.core.procedure.fasteners import FastenerGroup
from jorvek.core.twin.metal import Bolt, Joint

_FRICTION: Final = 0.12
"""Friction where a document states none: it is not turned to a torque then."""


class Fault(StrEnum):
    """What may be wrong with metal or with the hands that prepared it."""

    ALL_DRY = "all_dry"
    ONE_DRY = "one_dry"
    SOFT_BOLT = "soft_bolt"
    DIRT = "dirt"
    GASKET = "gasket"


@dataclass(frozen=True)
class Population:
    """How joints of a kind differ, and how fasteners within one do; shares are relative standard deviations.

    Attributes:
        friction_of_joints: one oil, one batch of bolts: common to a joint.
        friction_within: between the fasteners of one joint.
        stiffness: of fastener and parts.
        tool: of what a hydraulic tool really pulls.
        transfer: of what a nut really keeps, beside what stiffness says.
        strength: least and most of the yield strength over what its class promises.
        seating: of how far faces give.
        dry: friction without oil over that with it.
        soft: strength of a soft bolt over what is promised.
        dirt_mm: under a washer, pressed out by the load.
        gasket_mm: how far a gasket seats under full load.
    """

    friction_of_joints: float = 0.07
    friction_within: float = 0.04
    stiffness: float = 0.03
    tool: float = 0.01
    transfer: float = 0.02
    strength: tuple[float, float] = (1.0, 1.12)
    seating: float = 0.3
    dry: float = 1.6
    soft: float = 0.7
    dirt_mm: float = 0.05
    gasket_mm: float = 0.04


USUAL_POPULATION: Final = Population()


def seeded(
    group: FastenerGroup,
    model: BoltModel,
    seed: int,
    faults: frozenset[Fault] = frozenset(),
    population: Population = USUAL_POPULATION,
) -> tuple[Joint, str]:
    """Return a joint of a group, and the fastener in which the fault of one is sown.

    Args:
        group: what the document says of the fasteners.
        model: the same as figures to reckon with.
        seed: of the draw.
        faults: what is wrong.
        population: how such joints differ.
    """
    chance = random.Random(seed)  # noqa: S311 — joints are drawn, nothing is kept secret
    names = tuple(p.name for p in group.positions)
    odd = chance.choice(names)
    common = chance.lognormvariate(0.0, population.friction_of_joints)
    if Fault.ALL_DRY in faults:
        common *= population.dry
    bolts = tuple(_bolt(group, model, chance, common, population, faults, odd=name == odd) for name in names)
    reach = group.clamped.reach
    give = model.dP * chance.gauss(1.0, population.stiffness)
    xy = [(p.x.value, p.y.value) for p in group.positions]
    if reach is not None and len(names) > 1:
        C = compliance_geom(xy, give, reach.value)
    else:
        C = [[give if i == j else 0.0 for j in range(len(names))] for i in range(len(names))]
    return Joint(names, bolts, tuple(tuple(row) for row in C)), odd


def _bolt(
    group: FastenerGroup,
    model: BoltModel,
    chance: random.Random,
    common: float,
    population: Population,
    faults: frozenset[Fault],
    *,
    odd: bool,
) -> Bolt:
    usual = model.friction[1] if model.friction is not None else _FRICTION
    own = chance.lognormvariate(0.0, population.friction_within)
    if odd and Fault.ONE_DRY in faults:
        own *= population.dry
    stiff = chance.gauss(1.0, population.stiffness)
    strength = chance.uniform(*population.strength)
    if odd and Fault.SOFT_BOLT in faults:
        strength *= population.soft
    seats = group.clamped.embedding.value * max(0.2, chance.gauss(1.0, population.seating))
    seats += population.dirt_mm if odd and Fault.DIRT in faults else 0.0
    seats += population.gasket_mm if Fault.GASKET in faults else 0.0
    return Bolt(
        pitch_mm=model.thread.P_mm,
        d2_mm=model.thread.d2_mm,
        face_mm=model.face_mm,
        smallest_mm2=model.smallest_mm2,
        mu_thread=usual * common * own,
        mu_face=usual * common * own * chance.lognormvariate(0.0, population.friction_within / 2.0),
        delta_S=model.delta_S * stiff,
        delta_own=model.delta_own * stiff,
        yield_MPa=model.yield_MPa * strength,
        seats_mm=seats,
        seats_at_N=0.5 * model.smallest_mm2 * model.yield_MPa,
        prevailing_Nm=model.prevailing_Nm,
        length_mm=group.free_length.value + abs(chance.gauss(0.0, 0.02)),
    )
