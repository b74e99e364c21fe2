"""Cells of steps that turn fasteners."""

from __future__ import annotations

from collections.abc import Iterator

from jorvek.core.procedure import steps as s
from jorvek.core.procedure.cell_items import CellItem
from jorvek.core.procedure.document import Procedure
from jorvek.core.procedure.parts import limits_of
from jorvek.core.run.log.cells import Cell, InputType, Rule
from jorvek.core.run.log.expansion.base import ANY_ANGLE, ANY_TORQUE, cell, each, said, typed
from jorvek.core.units import Quantity


def run_down(procedure: Procedure, step: s.RunDownStep) -> Iterator[Cell]:
    """The means once, then each fastener to the sign."""
    means = cell(step, CellItem.MEANS, InputType.CHOICE, choices=step.means, text=step.ends)
    yield means
    yield from each(procedure, step, CellItem.CONTACT, needs=(means.key,), text=step.ends)


def torque(procedure: Procedure, step: s.TorqueStep) -> Iterator[Cell]:
    """The setting of the wrench, then one pull a fastener."""
    low, high = limits_of(step.torque, step.band)
    setting = cell(
        step,
        CellItem.SETTING,
        InputType.VALUE,
        rule=Rule.SETTING,
        target=step.torque.value,
        lower=low,
        upper=high,
        tool_role=step.wrench,
        **typed(step.torque.unit, Quantity.TORQUE, ANY_TORQUE),
    )
    yield setting
    yield from each(
        procedure,
        step,
        CellItem.PULL,
        InputType.PULL,
        rule=Rule.MOVED if step.must_move else Rule.NONE,
        needs=(setting.key,),
        text=step.torque.shown,
        tool_role=step.wrench,
        quantity=Quantity.ANGLE,
        unit="deg",
        plausible=(0.0, 1080.0),
    )


def settling_pass(procedure: Procedure, step: s.SettlingPassStep) -> Iterator[Cell]:
    """One pull a fastener: it is expected to move, and may stand still; how far, where it was measured."""
    yield from each(
        procedure,
        step,
        CellItem.PULL,
        InputType.PULL,
        text=step.torque.shown,
        tool_role=step.wrench,
        **typed("deg", Quantity.ANGLE, (0.0, 1080.0)),
    )


def check_trip(procedure: Procedure, step: s.CheckTripStep) -> Iterator[Cell]:
    """One pull a fastener; how far it moved is held against a limit."""
    yield from each(
        procedure,
        step,
        CellItem.PULL,
        InputType.PULL,
        rule=Rule.STAYED,
        text=step.torque.shown,
        tool_role=step.wrench,
        upper=step.moves_at_most.value,
        **typed(step.moves_at_most.unit, Quantity.ANGLE, (0.0, 1080.0)),
    )


def angle(procedure: Procedure, step: s.AngleStep) -> Iterator[Cell]:
    """Marks made, then each fastener turned, in bites that add up."""
    low, high = limits_of(step.angle, step.band)
    marks = said(step, CellItem.MARKS, step.mark)
    yield marks
    turns = each(
        procedure,
        step,
        CellItem.TURN,
        InputType.TURN,
        rule=Rule.ANGLE,
        needs=(marks.key,),
        target=step.angle.value,
        lower=low,
        upper=high,
        tool_role=step.tool,
        **typed(step.angle.unit, Quantity.ANGLE, ANY_ANGLE),
    )
    for turn in turns:
        yield turn
        if step.end_torque is not None:
            yield _end_torque(step, step.end_torque, turn)


def _end_torque(step: s.AngleStep, end: s.EndTorque, turn: Cell) -> Cell:
    """The torque at the end of one angle, before the tool leaves the fastener."""
    return cell(
        step,
        CellItem.END_TORQUE,
        InputType.VALUE,
        turn.fastener,
        rule=Rule.GUARDED,
        needs=(turn.key,),
        uses=(turn.key,),
        lower=end.at_least.value,
        upper=None if end.at_most is None else end.at_most.value,
        tool_role=end.wrench,
        **typed(end.at_least.unit, Quantity.TORQUE, ANY_TORQUE),
    )


def full_release(procedure: Procedure, step: s.FullReleaseStep) -> Iterator[Cell]:
    """Each fastener free, then the marks wiped."""
    yield from each(procedure, step, CellItem.FREED, text=step.sign)
    for k, mark in enumerate(step.wipe, 1):
        yield said(step, CellItem.WIPED.at(k), mark)


def loosen_angle(procedure: Procedure, step: s.LoosenAngleStep) -> Iterator[Cell]:
    """Each fastener by a small angle, round after round."""
    before: tuple[str, ...] = ()
    for turn in range(1, step.rounds + 1):
        made = list(each(procedure, step, CellItem.SLACK.at(turn), text=step.angle.shown, needs=before))
        yield from made
        before = tuple(c.key for c in made)


def back_off(procedure: Procedure, step: s.BackOffStep) -> Iterator[Cell]:
    """Each fastener turned back."""
    yield from each(procedure, step, CellItem.BACK_OFF, text=step.turns.shown)


def nuts_off(procedure: Procedure, step: s.NutsOffStep) -> Iterator[Cell]:
    """Each nut or bolt out and parked."""
    yield from each(procedure, step, CellItem.OUT, text=step.park)


def lock(procedure: Procedure, step: s.LockStep) -> Iterator[Cell]:
    """Each lock fitted."""
    yield from each(procedure, step, CellItem.LOCKED, text=step.device)
