"""The friction that a run reckons with: the document's, that of the lubricant at hand, or what was measured today."""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass, replace
from typing import Final

from jorvek.core.bolting.torque import friction_from_test, torque_lever_mm
from jorvek.core.procedure.clamp import BoltModel
from jorvek.core.procedure.fasteners import FastenerGroup
from jorvek.core.procedure.options import applies
from jorvek.core.procedure.steps import CheckTripStep, LubricateStep, RoundStep, SettlingPassStep, TorqueStep
from jorvek.core.run.log import events as ev
from jorvek.core.run.log.cells import Cell
from jorvek.core.run.log.state import Attempt, RunState, once
from jorvek.core.run.rules.guard_band_verdict import corrected_of

Range = tuple[float, float, float]

_BOLTS_DIFFER: Final = 0.08
"""Expanded share by which the friction of one bolt differs from the middle of its batch. Model: as in estimates."""


@dataclass(frozen=True)
class FrictionUsed:
    """What a fastener group is turned with.

    Attributes:
        product: the lubricant that is on it; the document's own until somebody has taken another by name.
        friction: least, usual and most; None where nobody knows it.
        tested: it was measured on bolts of the batch: the range is that of their middle, and single bolts differ
            besides; a range out of a table holds both.
        torque_share: torque that gives the load the document means, over the document's own.
    """

    product: str
    friction: Range | None
    torque_share: float
    tested: bool = False


@once
def in_force(state: RunState) -> dict[str, FrictionUsed]:
    """Return for each fastener group, by id, what it is turned with now.

    A lubricant that the document does not reckon with counts once somebody with the authority has taken it by name.
    """
    return {group.id: _of_group(state, group) for group in state.definition.procedure.fasteners}


def _of_group(state: RunState, group: FastenerGroup) -> FrictionUsed:
    model, found = state.definition.models[group.id], group.lubricant.product
    friction, share, measured = model.friction, 1.0, False
    for step in _lubricated(state, group.id):
        said = state.live(f"{step}/product")
        if said is not None and said.settled and isinstance(said.answer, ev.ChoiceAnswer):
            found = said.answer.choice
            friction = stated_for(group, found)
            share = torque_share(model, friction)
        tested = _settled(state, f"{step}/friction")
        if tested is not None and tested.judgement.judged is not None:
            mu, wide = tested.judgement.judged, tested.judgement.uncertainty or 0.0
            friction, measured = (max(0.0, mu - wide), mu, mu + wide), True
    return FrictionUsed(found, friction, share, measured)


def range_tested_against(state: RunState, cell: Cell) -> Range | None:
    """Return what is stated of the friction of the product at hand, which a test of the day is held against."""
    step = state.definition.steps_by_id[cell.step_id]
    assert isinstance(step, LubricateStep)
    group = next(g for g in state.definition.procedure.fasteners if g.id == step.group)
    return stated_for(group, in_force(state)[group.id].product)


def _settled(state: RunState, key: str) -> Attempt | None:
    live = state.live(key)
    return live if live is not None and live.settled else None


def _lubricated(state: RunState, group: str) -> Iterator[str]:
    """Yield the steps in which a group is lubricated, each time round, in working order."""
    for key, cells in state.definition.steps:
        step = state.definition.steps_by_id[cells[0].step_id]
        if isinstance(step, LubricateStep) and step.group == group:
            yield key


def stated_for(group: FastenerGroup, product: str) -> Range | None:
    """Return what a document states of the friction of a product on a group; None where it says nothing."""
    stated = {group.lubricant.product: group.lubricant.friction}
    stated |= {other.product: other.friction for other in group.lubricant.others}
    found = stated.get(product)
    return None if found is None else (found.least.value, found.usual.value, found.most.value)


def product_at_hand(state: RunState, cell: Cell) -> str | None:
    """Return the lubricant that somebody chose in a cell's step, where it is another than the document's."""
    step = state.definition.steps_by_id[cell.step_id]
    if not isinstance(step, LubricateStep):
        return None
    said = state.live(f"{cell.step}/product")
    chosen = said.answer.choice if said is not None and isinstance(said.answer, ev.ChoiceAnswer) else step.product
    group = next((g for g in state.definition.procedure.fasteners if g.id == step.group), None)
    named = group is not None and any(other.product == chosen for other in group.lubricant.others)
    return chosen if named else None


def torque_share(model: BoltModel, friction: Range | None) -> float:
    """Return the torque that gives the same load at another friction, over that at the document's.

    Source: derived here, the ratio of the levers of ``torque_from_preload`` at the usual frictions; running torque of
    a nut comes on top and is not part of it.
    """
    if friction is None or model.friction is None:
        return 1.0
    levers = [torque_lever_mm(model.thread, mu, mu, model.face_mm) for mu in (friction[1], model.friction[1])]
    return levers[0] / levers[1]


def model_in(state: RunState, fastener: str) -> BoltModel:
    """Return the model of a fastener's group with the friction that is in force."""
    group = state.definition.groups[fastener]
    model, now = state.definition.models[group.id], in_force(state)[group.id]
    return model if model.friction == now.friction else replace(model, friction=now.friction)


def tested(state: RunState, fastener: str) -> bool:
    """Tell whether the friction that a fastener is turned with was measured that day."""
    return in_force(state)[state.definition.groups[fastener].id].tested


def share_of_step(state: RunState, cell: Cell) -> float:
    """Return what the torques of a cell's step are multiplied by; 1 where nothing says otherwise.

    A step that goes round groups with different shares has no one torque; the check bars such a document.
    """
    return _shares(state).get(cell.step_id, 1.0)


@once
def _shares(state: RunState) -> dict[str, float]:
    """Return the share of each step that goes round."""
    definition, now = state.definition, in_force(state)
    rounds = {key: step for key, step in definition.steps_by_id.items() if isinstance(step, RoundStep)}
    found = {}
    for key, step in rounds.items():
        names = definition.procedure.orders[step.order].names()
        shares = {now[definition.groups[name].id].torque_share for name in names}
        found[key] = shares.pop() if len(shares) == 1 else 1.0
    return found


def torque_Nm(state: RunState, cell: Cell, stated_Nm: float) -> float:
    """Return the torque that is pulled in a cell's step, in N·m, for one that the document states.

    Other settings, such as pressures, have no share in it and stay as they are.
    """
    step = state.definition.steps_by_id[cell.step_id]
    share = share_of_step(state, cell) if isinstance(step, TorqueStep | SettlingPassStep | CheckTripStep) else 1.0
    if share == 1.0:
        return stated_Nm
    first = next(iter(state.definition.went_round[cell.step]), None)
    running = 0.0 if first is None else state.definition.model_of(first).prevailing_Nm
    return running + share * (stated_Nm - running)


def other_torques(state: RunState, cell: Cell, product: str) -> list[tuple[TorqueStep, float]] | None:
    """Return the stages of a group with the torque in N·m that another lubricant wants; None where none is stated."""
    step = state.definition.steps_by_id[cell.step_id]
    assert isinstance(step, LubricateStep)
    group = next(g for g in state.definition.procedure.fasteners if g.id == step.group)
    friction, model = stated_for(group, product), state.definition.models[group.id]
    if friction is None:
        return None
    share, names = torque_share(model, friction), {spot.name for spot in group.positions}
    orders = state.definition.procedure.orders
    chosen = state.started.selection
    stages = [s for s in state.definition.procedure.steps if isinstance(s, TorqueStep) and applies(s.only, chosen)]
    # A trial and the joint that stays have the same torques: each is told once.
    mine = {s.torque.text: s for s in reversed(stages) if names & set(orders[s.order].names())}
    return [(s, model.prevailing_Nm + share * (s.torque.value - model.prevailing_Nm)) for s in reversed(mine.values())]


def tested_friction(state: RunState, cell: Cell) -> tuple[float, float]:
    """Return the friction measured today, thread and face alike, and its expanded uncertainty.

    Source: ISO 16047 by ``friction_from_test``, the mean of the readings; derived here for the doubt: the larger
    of what so few bolts say of their like and twice what their readings scatter.

    Raises:
        Refusal: ``not_yet`` while a reading is missing; those of the test.
    """
    step = state.definition.steps_by_id[cell.step_id]
    assert isinstance(step, LubricateStep)
    assert step.friction_test is not None
    assert step.group is not None
    model = state.definition.models[step.group]
    torque = step.friction_test.torque.value - model.prevailing_Nm
    loads = [corrected_of(state, key) for key in cell.uses]
    found = [friction_from_test(torque, load, model.thread, model.face_mm).mu_tot for load in loads]
    mean = math.fsum(found) / len(found)
    scatter = math.sqrt(math.fsum((mu - mean) ** 2 for mu in found) / max(1, len(found) - 1))
    like = _BOLTS_DIFFER / math.sqrt(step.friction_test.bolts)
    return mean, max(like * mean, 2.0 * scatter / math.sqrt(len(found)))
