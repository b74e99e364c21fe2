"""Movement held against what resilience and friction let expect, not only against the neighbours."""

from __future__ import annotations

import math
from statistics import median
from typing import Final, Literal

from jorvek.core.measuring.uncertainty import USUAL
from jorvek.core.procedure.clamp import BoltModel
from jorvek.core.procedure.fasteners import FastenerGroup
from jorvek.core.procedure.steps import TorqueStep
from jorvek.core.run.log.cells import Cell, InputType
from jorvek.core.run.log.state import RunState, once
from jorvek.core.run.rules.friction import model_in
from jorvek.core.run.rules.torque_angle_verdict import before, expected_movement_deg
from jorvek.core.run.views.labels import View
from jorvek.core.run.views.movement import moved_deg

_ENOUGH: Final = 3
"""Fewer fasteners than this say nothing about one of them."""
_FAR: Final = 3.0
"""Robust standard deviations beyond which one fastener stands out. Model: set on simulated joints, see the bench."""
_MAD_TO_SIGMA: Final = 1.4826
_LEAST_SHARE: Final = 0.27
"""Relative distance from its like below which no fastener stands out: good bolts and paint marks scatter so far.

Model: where simulated joints of the usual population give 2 % false names; see the bench.
"""
_READ_DEG: Final = 1.2
"""Standard uncertainty of one movement read from marks."""
_LEAST_DEG: Final = 5.0
"""Less expected movement than this tells nothing."""
_TOLD_APART: Final = 0.06
"""Relative distance from the usual below which nothing is said."""

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
        judged: how many fasteners were measured.
    """

    group: str
    share_pct: float
    least_pct: float
    most_pct: float
    verdict: Verdict
    little: tuple[str, ...]
    much: tuple[str, ...]
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


@once
def _by_group(state: RunState) -> tuple[tuple[FastenerGroup, MovedAsExpected], ...]:
    """Return each group of which rising stages were measured, with its judgement."""
    found: list[tuple[FastenerGroup, MovedAsExpected]] = []
    for group in state.definition.procedure.fasteners:
        names = [p.name for p in group.positions]
        model = model_in(state, names[0])
        rising, all_ = (_shares(state, names, from_slack=slack) for slack in (False, True))
        if rising and model.friction is not None:
            found.append((group, _judged(group.title, model, rising, all_, _gasket_share(state, group, names))))
    return tuple(found)


@once
def told_by_movement(state: RunState) -> dict[str, tuple[float, float]]:
    """Return the load of fasteners whose movement contradicts the friction that their torque rests on.

    Source: derived here. Movement between two torques is proportional to the load between them and knows neither
    wrench nor friction, only stiffness: where it lies outside what wrench and friction allow, it is the better witness.

    Returns:
        By fastener: load over what usual friction gives, and the relative standard uncertainty of that.
    """
    found: dict[str, tuple[float, float]] = {}
    for group, one in _by_group(state):
        names = [p.name for p in group.positions]
        rising, all_ = (_shares(state, names, from_slack=slack) for slack in (False, True))
        middle = one.share_pct / 100.0
        read = median(doubt for _, doubt in rising.values()) / len(rising) ** 0.5
        # A gasket that seats turns bolts further without loading them.
        seats = group.clamped.seats is not None and middle > 1.0
        # Of bolts that did not move at all, movement tells no load.
        if one.verdict != "as_expected" and not seats and middle > 0.0:
            found |= dict.fromkeys(names, (middle, math.hypot(read / middle, USUAL.stiffness)))
        for name in (*one.little, *one.much):
            share, doubt = all_[name]
            if share > 0.0:
                found[name] = (share, math.hypot(doubt / share, USUAL.stiffness))
    return found


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


def _shares(state: RunState, names: list[str], *, from_slack: bool) -> dict[str, tuple[float, float]]:
    """Return by fastener how much of what was expected it moved, and the doubt of that; only where it was measured."""
    found = {name: _share(state, _pulls(state, name, from_slack=from_slack)) for name in names}
    return {name: share for name, share in found.items() if share is not None}


def _share(state: RunState, pulls: list[tuple[Cell, float]]) -> tuple[float, float] | None:
    moved = [(m, wanted) for cell, wanted in pulls for m in (moved_deg(state, cell),) if m is not None]
    whole = sum(wanted for _, wanted in moved)
    if whole < _LEAST_DEG:
        return None
    return sum(m for m, _ in moved) / whole, _READ_DEG * len(moved) ** 0.5 / whole


def _gasket_share(state: RunState, group: FastenerGroup, names: list[str]) -> float:
    """Return by what share of the expected movement a gasket that seats may add to it."""
    if group.clamped.seats is None:
        return 0.0
    wanted = [sum(w for _, w in _pulls(state, name, from_slack=False)) for name in names]
    whole = median(wanted) if wanted else 0.0
    return 360.0 * group.clamped.seats.value / group.thread.pitch.value / whole if whole > 0.0 else 0.0


def _judged(
    title: str,
    model: BoltModel,
    rising: dict[str, tuple[float, float]],
    all_: dict[str, tuple[float, float]],
    gasket: float,
) -> MovedAsExpected:
    assert model.friction is not None
    least, usual, most = (model.torque_load_N(100.0, mu) for mu in model.friction)
    low, high = most / usual, least / usual + gasket
    middle = median(share for share, _ in rising.values())
    doubt = 2.0 * median(doubt for _, doubt in rising.values()) / len(rising) ** 0.5
    little, much = _unlike(all_)
    return MovedAsExpected(
        group=title,
        share_pct=100.0 * middle,
        least_pct=100.0 * low,
        most_pct=100.0 * high,
        verdict=_verdict(middle, low, high, doubt),
        little=little,
        much=much,
        judged=len(rising),
    )


def _unlike(shares: dict[str, tuple[float, float]]) -> tuple[tuple[str, ...], tuple[str, ...]]:
    """Return the fasteners that turned far less and far more than the middle of their like."""
    values = {name: share for name, (share, _) in shares.items()}
    if len(values) < _ENOUGH:
        return (), ()
    middle = median(values.values())
    spread = _MAD_TO_SIGMA * median(abs(v - middle) for v in values.values())
    read = median(doubt for _, doubt in shares.values())
    far = max(_LEAST_SHARE * middle, _FAR * max(read, spread))
    less = tuple(n for n, v in values.items() if v < middle - far)
    return less, tuple(n for n, v in values.items() if v > middle + far)


def _verdict(middle: float, low: float, high: float, doubt: float) -> Verdict:
    if middle < low - doubt:
        return "too_little"
    if middle > high + doubt:
        return "too_much"
    return "either" if abs(middle - 1.0) > _TOLD_APART + doubt else "as_expected"
