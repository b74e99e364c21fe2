"""Bolts in one joint that load and relieve each other, yield, embed and seat; the truth behind every reading.

The bolt is integrated over its turning in small steps, with its own friction in thread and under head, its own
stiffness and strength. Nothing of estimate, judge, movement or release analysis is used here: that the core's reading
of a joint comes to what is true here says something.
"""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from typing import Final

import numpy as np
from numpy.typing import NDArray

from jorvek.core.refusal import Refusal

Array = NDArray[np.float64]
STEP_DEG: Final = 0.25
"""How finely a turning is integrated."""
_COS_FLANK: Final = math.cos(math.radians(30.0))
_HARDENING: Final = 0.03
"""Slope of the load beyond yield over the elastic one."""
_FARTHEST_DEG: Final = 720.0


@dataclass(frozen=True)
class Bolt:
    """What is true of one fastener.

    Attributes:
        pitch_mm: advance per turn.
        d2_mm: pitch diameter of the thread.
        face_mm: mean diameter of the bearing face.
        smallest_mm2: smallest loaded section.
        mu_thread: friction in the thread.
        mu_face: friction under nut or head.
        delta_S: resilience as the joint feels it, mm/N.
        delta_own: stretch end to end per load, mm/N.
        yield_MPa: strength at which it begins to stay longer.
        seats_mm: how far faces (and a gasket) give when they are first loaded to ``seats_at_N``.
        seats_at_N: load at which they have given all.
        prevailing_Nm: running torque of a self-locking nut.
        length_mm: free length, as it is today.
    """

    pitch_mm: float
    d2_mm: float
    face_mm: float
    smallest_mm2: float
    mu_thread: float
    mu_face: float
    delta_S: float
    delta_own: float
    yield_MPa: float
    seats_mm: float
    seats_at_N: float
    prevailing_Nm: float
    length_mm: float

    def thread_lever_mm(self) -> float:
        """Return torque in the thread per load, N·mm/N."""
        return self.pitch_mm / (2.0 * math.pi) + self.mu_thread * self.d2_mm / (2.0 * _COS_FLANK)

    def torque_Nm(self, load_N: float) -> float:
        """Return the torque that turns the fastener on at a load in N."""
        lever = self.thread_lever_mm() + self.mu_face * self.face_mm / 2.0
        return self.prevailing_Nm + load_N * lever / 1000.0

    def yields_N(self) -> float:
        """Return the load in N at which it yields while it is turned.

        Source: distortion energy of pull and twist; the twisted section has yielded right through. Derived here.
        """
        d0 = math.sqrt(4.0 * self.smallest_mm2 / math.pi)
        twist = 3.0 * self.thread_lever_mm() / d0
        return self.yield_MPa * self.smallest_mm2 / math.sqrt(1.0 + 3.0 * twist**2)


@dataclass(frozen=True)
class Joint:
    """Fasteners in the parts they clamp.

    Attributes:
        names: on the metal.
        bolts: the truth of each, in the same order.
        compliance: joint deflection at one per load at another, mm/N.
    """

    names: tuple[str, ...]
    bolts: tuple[Bolt, ...]
    compliance: tuple[tuple[float, ...], ...]

    def place(self, name: str) -> int:
        """Return the place of a fastener.

        Raises:
            Refusal: ``no_such_fastener``.
        """
        if name not in self.names:
            raise Refusal("no_such_fastener", fastener=name)
        return self.names.index(name)


@dataclass(frozen=True)
class Stand:
    """A joint as it stands.

    Attributes:
        advance_mm: how far each nut or head has been advanced past contact.
        stayed_mm: lasting growth of each fastener.
        most_N: highest load each has seen.
        loads_N: what each holds.
    """

    advance_mm: tuple[float, ...]
    stayed_mm: tuple[float, ...]
    most_N: tuple[float, ...]
    loads_N: tuple[float, ...]


def slack(joint: Joint) -> Stand:
    """Return the joint with every fastener at contact and without load."""
    none = (0.0,) * len(joint.names)
    return Stand(none, none, none, none)


def _set_mm(bolt: Bolt, most_N: float) -> float:
    return bolt.seats_mm * min(1.0, most_N / bolt.seats_at_N)


def _reach_mm(joint: Joint, stand: Stand, k: int) -> float:
    """Return by how much a fastener and its joint are strained: advance less what stays and what has seated."""
    return stand.advance_mm[k] - stand.stayed_mm[k] - _set_mm(joint.bolts[k], stand.most_N[k])


def _settle(joint: Joint, stand: Stand) -> Stand:
    """Return the stand with loads that fit its advances; what is pressed for the first time seats a little more."""
    for _ in range(3):
        loads = _solve(joint, stand)
        most = tuple(max(m, load) for m, load in zip(stand.most_N, loads, strict=True))
        done = max(abs(a - b) for a, b in zip(most, stand.most_N, strict=True)) < 1.0
        stand = replace(stand, loads_N=loads, most_N=most)
        if done:
            break
    return stand


def _solve(joint: Joint, stand: Stand) -> tuple[float, ...]:
    """Return loads in N: D F + C F = advance - growth - set, none below zero."""
    bolts = joint.bolts
    reach = np.array([_reach_mm(joint, stand, k) for k in range(len(bolts))])
    matrix = np.array(joint.compliance) + np.diag([b.delta_S for b in bolts])
    tight = [k for k in range(len(bolts)) if reach[k] > 0.0]
    loads = np.zeros(len(bolts))
    while tight:
        found = np.linalg.solve(matrix[np.ix_(tight, tight)], reach[tight])
        if float(found.min()) >= 0.0:
            loads[tight] = found
            break
        tight = [k for k, load in zip(tight, found, strict=True) if load > 0.0]
    return tuple(float(load) for load in loads)


def _turn_on(joint: Joint, stand: Stand, k: int, deg: float) -> Stand:
    """Return the stand after one small turn; beyond yield the fastener grows instead of holding more."""
    bolt = joint.bolts[k]
    advance = list(stand.advance_mm)
    advance[k] += bolt.pitch_mm * deg / 360.0
    after = _settle(joint, replace(stand, advance_mm=tuple(advance)))
    limit, before = bolt.yields_N(), stand.loads_N[k]
    over = after.loads_N[k] - max(limit, before)
    if over <= 0.0:
        return after
    stayed = list(after.stayed_mm)
    stayed[k] += (1.0 - _HARDENING) * over * (bolt.delta_S + joint.compliance[k][k])
    return _settle(joint, replace(after, stayed_mm=tuple(stayed)))


def turn(joint: Joint, stand: Stand, name: str, deg: float) -> Stand:
    """Return the stand after a fastener was turned on through an angle in degrees; back for a negative one."""
    k = joint.place(name)
    whole, rest = divmod(abs(deg), STEP_DEG)
    sign = 1.0 if deg >= 0.0 else -1.0
    for step in [STEP_DEG] * int(whole) + ([rest] if rest > 1e-12 else []):
        stand = _turn_on(joint, stand, k, sign * step)
    return stand


def pull(joint: Joint, stand: Stand, name: str, torque_Nm: float) -> tuple[Stand, float]:
    """Return the stand after a pull to a torque, and how far the fastener moved in degrees.

    Raises:
        Refusal: ``E_RANGE`` when it never comes to that torque: its thread pulls, or it only grows.
    """
    k, moved = joint.place(name), 0.0
    while joint.bolts[k].torque_Nm(stand.loads_N[k]) < torque_Nm:
        if moved >= _FARTHEST_DEG:
            raise Refusal("E_RANGE", name="torque_Nm", got=torque_Nm, low=0.0, high=None)
        stand = _turn_on(joint, stand, k, STEP_DEG)
        moved += STEP_DEG
    return stand, moved


def leave(joint: Joint, stand: Stand, wanted_N: dict[str, float]) -> Stand:
    """Return the stand after some nuts were run down so that their studs hold given loads once released together.

    The others keep their advance and change their load with the joint under them.
    """
    places = [joint.place(name) for name in wanted_N]
    others = [k for k in range(len(joint.names)) if k not in places]
    C = np.array(joint.compliance)
    most = tuple(max(m, wanted_N.get(n, 0.0)) for n, m in zip(joint.names, stand.most_N, strict=True))
    stand = replace(stand, most_N=most)
    loads = np.array(stand.loads_N)
    for k, load in zip(places, wanted_N.values(), strict=True):
        loads[k] = load
    for _ in range(3):
        tight = [k for k in others if stand.advance_mm[k] > 0.0]
        if tight:
            reach = np.array([_reach_mm(joint, stand, k) for k in tight])
            pressed = C[np.ix_(tight, places)] @ loads[places]
            matrix = C[np.ix_(tight, tight)] + np.diag([joint.bolts[k].delta_S for k in tight])
            loads[tight] = np.maximum(0.0, np.linalg.solve(matrix, reach - pressed))
    advance = list(stand.advance_mm)
    for k in places:
        bolt = joint.bolts[k]
        advance[k] = float(bolt.delta_S * loads[k] + C[k] @ loads) + stand.stayed_mm[k] + _set_mm(bolt, stand.most_N[k])
    held = tuple(float(load) for load in loads)
    return replace(stand, advance_mm=tuple(advance), loads_N=held)


def free(joint: Joint, stand: Stand, name: str) -> Stand:
    """Return the stand after a fastener was let go: it holds nothing, its neighbours a little more."""
    k = joint.place(name)
    advance = list(stand.advance_mm)
    advance[k] = 0.0
    return _settle(joint, replace(stand, advance_mm=tuple(advance)))


def length_mm(joint: Joint, stand: Stand, name: str) -> float:
    """Return the length end to end at the temperature of the free one."""
    k = joint.place(name)
    bolt = joint.bolts[k]
    return bolt.length_mm + stand.stayed_mm[k] + bolt.delta_own * stand.loads_N[k]
