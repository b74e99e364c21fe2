"""Movement held against what resilience and friction let expect, not only against the neighbours."""

from __future__ import annotations

import math
from dataclasses import dataclass
from statistics import NormalDist, median
from typing import Final, Literal

from jorvek.core.measuring.uncertainty import USUAL
from jorvek.core.procedure.clamp import BoltModel
from jorvek.core.procedure.fasteners import FastenerGroup
from jorvek.core.procedure.steps import TorqueStep
from jorvek.core.run.log.cells import Cell, InputType
from jorvek.core.run.log.state import RunState, once
from jorvek.core.run.rules.friction import in_force, model_in
from jorvek.core.run.rules.torque_angle_verdict import before, expected_movement_deg
from jorvek.core.run.views.drawn import drawn_before
from jorvek.core.run.views.labels import View
from jorvek.core.run.views.movement import moved_deg

_ENOUGH: Final = 2
"""Of fewer fasteners than this none can be told from its like."""
_MANY: Final = 5
"""From so many on, what they really scatter is heard beside what such bolts usually do."""
_MAD_TO_SIGMA: Final = 1.4826
_OF_A_MEDIAN: Final = 1.2533
"""Standard deviation of a median over that of a mean. Source: square root of pi/2, for normal scatter."""
_READ_DEG: Final = 1.2
"""Standard uncertainty of one movement read from marks."""
_CONTACT_DEG: Final = 1.0
"""And of where contact was, in a stage that begins slack. Model: hand-run nuts on clean faces."""
_BEDS: Final = 0.5
"""Share of the embedding that faces give in the stages by torque. Model: the other half comes with the angle."""
_SEATS_ALIKE: Final = 0.25
"""Relative standard uncertainty of how far a gasket seats under one bolt, against under another. Model."""
_LEAST_DEG: Final = 5.0
"""Less expected movement than this tells nothing."""
_JOINTS_NAMED_FALSELY: Final = 0.015
"""Share of healthy joints in which a bolt may stand out by chance, and in which the whole may lie outside."""
_EITHER_FALSELY: Final = 0.10
"""Share of healthy joints of which wrench or friction may be said to be off; a fifth of it for a tested friction."""
_NOT_THE_OTHER: Final = 3.0
"""Of two bolts, by how much the log-likelihood must favour one of them before it is the one. Model: odds of twenty."""
BOLT_FRICTION_DOUBT: Final = 0.04
"""Relative standard uncertainty of a load from a bolt's own friction; the rest of the range is the oil's, for all."""
_NORMAL: Final = NormalDist()

Verdict = Literal["as_expected", "either", "too_little", "too_much"]


class MovedAsExpected(View):
    """All rising stages of one group of like fasteners together.

    Attributes:
        group: heading of the group.
        share_pct: middle of what was turned, of what was expected.
        least_pct: and ``most_pct``: what the friction in force lets expect, the document's or that tested that day.
        verdict: ``as_expected``; ``either`` when it lies off inside that range, where wrench and friction cannot be
            told apart; ``too_little`` or ``too_much`` outside it.
        little: fasteners that turned far less than their like.
        much: those that turned far more.
        one_of: two that differ so far that one of them is wrong, where nothing tells which.
        judged: how many fasteners were measured.
    """

    group: str
    share_pct: float
    least_pct: float
    most_pct: float
    verdict: Verdict
    little: tuple[str, ...]
    much: tuple[str, ...]
    one_of: tuple[str, ...] = ()
    judged: int


def moved_as_expected(state: RunState) -> tuple[MovedAsExpected, ...]:
    """Return the judgement of each group of which rising stages were measured.

    Whether the joint as a whole moves as it should is asked of its rising stages: run-down and contact are in the
    first one from slack. Which fastener is unlike its neighbours is asked of all stages, for contact is alike to all.
    Only the first cycle counts, a settled joint moves less.

    Source: derived here. Movement between two torques is proportional to the load between them, and that to one over
    the friction, so a joint that moves by the share s of what usual friction lets expect has about 1/s of it.
    """
    return tuple(judged for _, judged in _by_group(state))


@dataclass(frozen=True)
class _Share:
    """How much of what was expected a fastener moved.

    Attributes:
        share: moved over expected.
        read: standard uncertainty of that by reading and contact.
    """

    share: float
    read: float


@dataclass(frozen=True)
class _Like:
    """What good fasteners of a group differ by, as relative standard deviations of their movement.

    Attributes:
        bolt: their own friction and stiffness, from one to the other.
        oil: the friction that is common to all of the joint.
        wrench: how far a good wrench may be off, alike for all.
        seats: movement that a gasket adds, over what is expected without it; 0 where none seats.
        tested: the friction was tested that day.
    """

    bolt: float
    oil: float
    wrench: float
    seats: float
    tested: bool

    def of_one(self, share: _Share, *, many: bool) -> float:
        """Return what one fastener may differ by from the middle of all, with how it was read.

        Whether a gasket really seats, and how evenly, is seen from the scatter where there are many.
        """
        return math.hypot(self.bolt, share.read, 0.0 if many else _SEATS_ALIKE * self.seats)


@once
def _by_group(state: RunState) -> tuple[tuple[FastenerGroup, MovedAsExpected], ...]:
    """Return each group of which rising stages were measured, with its judgement.

    It is worked out again only when something that it rests on has changed: a pull, its wrench, or the friction.
    """
    rests_on = tuple(state.attempts.get(cell.key) for cell in state.definition.cells if _rests_on(cell))
    return drawn_before(state, "moved as expected", rests_on, (), lambda: _work_out(state))


def _rests_on(cell: Cell) -> bool:
    return cell.ask in (InputType.PULL, InputType.TOOL) or cell.kind == "lubricate"


def _work_out(state: RunState) -> tuple[tuple[FastenerGroup, MovedAsExpected], ...]:
    found: list[tuple[FastenerGroup, MovedAsExpected]] = []
    for group in state.definition.procedure.fasteners:
        names = [p.name for p in group.positions]
        model = model_in(state, names[0])
        rising, all_ = (_shares(state, names, from_slack=slack) for slack in (False, True))
        if rising and model.friction is not None:
            found.append((group, _judged(group.title, model, rising, all_, _like(state, group, model))))
    return tuple(found)


def _like(state: RunState, group: FastenerGroup, model: BoltModel) -> _Like:
    """Return what good fasteners of a group differ by.

    Source: derived here. Movement is dF (delta_S + delta_P): friction enters by its share in the lever of the torque,
    the fastener's stiffness by its share in the resilience; a friction range out of a
    table covers 95 % of oils and bolts together, one that was tested that of the middle of the bolts.
    """
    assert model.friction is not None
    least, usual, most = (model.torque_load_N(100.0, mu) for mu in model.friction)
    mu = model.friction[1]
    by_friction = abs(model.torque_load_N(100.0, 1.01 * mu) / usual - 1.0) / 0.01
    own = by_friction * BOLT_FRICTION_DOUBT
    whole = (least - most) / usual / 4.0
    names = [p.name for p in group.positions]
    pulls = [cell for name in names for cell, _ in _pulls(state, name, from_slack=True)]
    bound = max((tool.accuracy_pct or 0.0 for c in pulls if (tool := state.tool(c.tool_role)) is not None), default=0.0)
    tested = in_force(state)[group.id].tested
    return _Like(
        bolt=math.hypot(own, USUAL.stiffness * model.delta_S / (model.delta_S + model.dP)),
        oil=whole if tested else math.sqrt(max(0.0, whole**2 - own**2)),
        wrench=bound / 100.0 / 3.0**0.5,
        seats=_gasket_share(state, group, names),
        tested=tested,
    )


@dataclass(frozen=True)
class Told:
    """What movement tells of the load of a fastener, where it contradicts the friction that its torque rests on.

    Attributes:
        share: load by torque over what usual friction gives.
        doubt: relative standard uncertainty of that.
        softer: by how much it may be softer than its like instead, as a factor; 1 where it cannot.
    """

    share: float
    doubt: float
    softer: float = 1.0


@once
def told_by_movement(state: RunState) -> dict[str, Told]:
    """Return the load of fasteners whose movement contradicts the friction that their torque rests on.

    Source: derived here. Movement between two torques is proportional to the load between them and knows neither
    wrench nor friction, only stiffness: where it lies outside what wrench and friction allow, it is the better witness.
    A fastener that turned far more than its like is better oiled, or soft: its load is only known to lie between.

    Returns:
        What is told, by fastener; nothing of those whose movement agrees.
    """
    found: dict[str, Told] = {}
    for group, one in _by_group(state):
        names = [p.name for p in group.positions]
        rising, all_ = (_shares(state, names, from_slack=slack) for slack in (False, True))
        middle = one.share_pct / 100.0
        read = _OF_A_MEDIAN * median(share.read for share in rising.values()) / len(rising) ** 0.5
        # A gasket that seats turns bolts further without loading them.
        seats = group.clamped.seats is not None and middle > 1.0
        # Of bolts that did not move at all, movement tells no load.
        if one.verdict != "as_expected" and not seats and middle > 0.0:
            moved = Told(middle, math.hypot(read / middle, USUAL.stiffness))
            like = _like(state, group, model_in(state, names[0]))
            found |= dict.fromkeys(names, moved if one.verdict != "either" else _between(moved, like))
        for name in (*one.little, *one.one_of):
            if (share := all_[name]).share > 0.0:
                found[name] = Told(share.share, math.hypot(share.read / share.share, USUAL.stiffness))
        for name in one.much:
            share = all_[name]
            found[name] = Told(share.share, math.hypot(share.read / share.share, USUAL.stiffness), share.share / middle)
    return found


def _between(moved: Told, like: _Like) -> Told:
    """Return what torque and movement tell together where they lie apart, and neither is known to be wrong.

    Source: derived here, the mean weighted by one over the variances; half their distance is doubt besides.
    """
    by_torque = math.hypot(like.oil, like.wrench)
    weight = by_torque**2 / (by_torque**2 + moved.doubt**2)
    share = 1.0 + weight * (moved.share - 1.0)
    return Told(
        share, math.hypot(by_torque * moved.doubt / math.hypot(by_torque, moved.doubt), (moved.share - 1.0) / 2.0)
    )


def _pulls(state: RunState, name: str, *, from_slack: bool) -> list[tuple[Cell, float]]:
    """Return the pulls of a fastener with what each should have moved; those from slack only where asked for."""
    found: list[tuple[Cell, float]] = []
    for cell in state.definition.cells_of.get(name, ()):
        step = state.definition.steps_by_id[cell.step_id]
        if cell.ask is not InputType.PULL or cell.cycle > 1 or not isinstance(step, TorqueStep):
            continue
        held, wanted = before(state, cell).load_N, expected_movement_deg(state, cell)
        if (held or from_slack) and wanted is not None:
            found.append((cell, wanted))
    return found


def _shares(state: RunState, names: list[str], *, from_slack: bool) -> dict[str, _Share]:
    """Return by fastener how much of what was expected it moved; only where it was measured."""
    found = {name: _share(state, _pulls(state, name, from_slack=from_slack), from_slack=from_slack) for name in names}
    return {name: share for name, share in found.items() if share is not None}


def _share(state: RunState, pulls: list[tuple[Cell, float]], *, from_slack: bool) -> _Share | None:
    moved = [(m, wanted) for cell, wanted in pulls for m in (moved_deg(state, cell),) if m is not None]
    whole = sum(wanted for _, wanted in moved)
    if whole < _LEAST_DEG:
        return None
    doubt = math.hypot(_READ_DEG * len(moved) ** 0.5, _CONTACT_DEG if from_slack else 0.0)
    return _Share(sum(m for m, _ in moved) / whole, doubt / whole)


def _gasket_share(state: RunState, group: FastenerGroup, names: list[str]) -> float:
    """Return by what share of the expected movement a gasket that seats may add to it."""
    if group.clamped.seats is None:
        return 0.0
    wanted = [sum(w for _, w in _pulls(state, name, from_slack=False)) for name in names]
    whole = median(wanted) if wanted else 0.0
    return 360.0 * group.clamped.seats.value / group.thread.pitch.value / whole if whole > 0.0 else 0.0


def _judged(
    title: str, model: BoltModel, rising: dict[str, _Share], all_: dict[str, _Share], like: _Like
) -> MovedAsExpected:
    assert model.friction is not None
    least, usual, most = (model.torque_load_N(100.0, mu) for mu in model.friction)
    low, high = most / usual, least / usual + like.seats
    little, much, one_of = _unlike(all_, like)
    # What is said of all rests on those that are not named by themselves.
    named = {*little, *much}
    sound = {name: share for name, share in rising.items() if name not in named}
    sound = sound or {name: share for name, share in all_.items() if name not in named} or rising
    middle = median(share.share for share in sound.values())
    return MovedAsExpected(
        group=title,
        share_pct=100.0 * middle,
        least_pct=100.0 * low,
        most_pct=100.0 * high,
        verdict=_verdict(middle, low, high, sound, like),
        little=little,
        much=much,
        one_of=one_of,
        judged=len(rising),
    )


def _unlike(shares: dict[str, _Share], like: _Like) -> tuple[tuple[str, ...], tuple[str, ...], tuple[str, ...]]:
    """Return the fasteners that turned far less than the others of their like, far more, and two of which one did.

    Source: derived here. Each is held against the middle of the others on a scale of ratios, at the distance that one
    of so many good fasteners reaches in one healthy joint of a hundred.
    """
    if len(shares) < _ENOUGH:
        return (), (), ()
    apart = {name: math.log(max(share.share, 0.01)) for name, share in shares.items()}
    far = _NORMAL.inv_cdf(1.0 - _JOINTS_NAMED_FALSELY / (2.0 * len(apart)))
    less, more, either = list[str](), list[str](), list[str]()
    for name, own in apart.items():
        others = [value for other, value in apart.items() if other != name]
        middle = median(others)
        spread = _MAD_TO_SIGMA * median(abs(value - middle) for value in others)
        alike = like.of_one(shares[name], many=len(apart) >= _MANY)
        alike = max(alike, spread if len(apart) >= _MANY else 0.0)
        if abs(own - middle) <= far * alike * math.hypot(1.0, _OF_A_MEDIAN / len(others) ** 0.5):
            continue
        if len(others) == 1 and abs(own**2 - middle**2) / (2.0 * (like.oil**2 + alike**2)) < _NOT_THE_OTHER:
            either.append(name)
            continue
        if len(others) == 1 and abs(own) < abs(middle):
            continue
        (less if own < middle else more).append(name)
    return tuple(less), tuple(more), tuple(either)


def _verdict(middle: float, low: float, high: float, rising: dict[str, _Share], like: _Like) -> Verdict:
    """Return what is said of all fasteners together: their range holds wrench and stiffness, too.

    Source: derived here. Outside the range of friction by what one healthy joint in a hundred reaches, all are wrong;
    inside it wrench and friction cannot be told apart, and that is said where one in ten would not come.
    """
    n = len(rising)
    read = median(share.read for share in rising.values())
    own = _OF_A_MEDIAN * like.of_one(_Share(middle, read), many=n >= _MANY) / n**0.5
    beyond = _NORMAL.inv_cdf(1.0 - _JOINTS_NAMED_FALSELY / 2.0) * math.hypot(own, like.wrench, USUAL.stiffness)
    if middle < low - beyond:
        return "too_little"
    if middle > high + beyond:
        return "too_much"
    falsely = _EITHER_FALSELY / 5.0 if like.tested else _EITHER_FALSELY
    usual = _NORMAL.inv_cdf(1.0 - falsely / 2.0) * math.hypot(own, like.oil)
    return "either" if abs(math.log(max(middle, 0.01))) > usual else "as_expected"
