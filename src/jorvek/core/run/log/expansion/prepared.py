"""Cells of steps that make safe, fit parts, leave things owed, sign and wait."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any, Final

from jorvek.core.procedure import steps as s
from jorvek.core.procedure.cell_items import AuthorPoint, CellItem
from jorvek.core.procedure.document import Procedure
from jorvek.core.procedure.parts import limits_of
from jorvek.core.procedure.stated import printed
from jorvek.core.run.log.cells import Cell, InputType, Rule
from jorvek.core.run.log.expansion.base import (
    ANY_ANGLE,
    ANY_PRESSURE,
    ANY_TORQUE,
    METAL_C,
    cell,
    people,
    rounds,
    said,
    ticks,
    typed,
)
from jorvek.core.units import Quantity

_PULLED_TO: Final = {Quantity.TORQUE: ANY_TORQUE, Quantity.PRESSURE: ANY_PRESSURE, Quantity.ANGLE: ANY_ANGLE}
"""What a reading of each quantity may be at all, in its glossary unit."""


def confirm(_: Procedure, step: s.ConfirmStep) -> Iterator[Cell]:
    """Each point."""
    yield from ticks(step, step.items)


def points(_: Procedure, step: s.ItemStep | s.RestoreStep) -> Iterator[Cell]:
    """Each of an author's points."""
    yield from ticks(step, step.items, worded=True)


def put_right(_: Procedure, step: s.PutRightStep) -> Iterator[Cell]:
    """Each point, or the pull that puts it right: of a torque and an angle after it, the last one pays the debt."""
    if step.effort is None or step.band is None or step.tool is None:
        yield from points(_, step)
        return
    stated = [m for m in (step.effort.torque, step.effort.pressure, step.effort.angle) if m is not None]
    for point in step.items:
        before: tuple[str, ...] = ()
        for measure in stated:
            low, high = limits_of(measure, step.band)
            what = AuthorPoint(point.id) if measure is stated[-1] else CellItem.PULL.at(point.id)
            pull = cell(
                step,
                what,
                InputType.VALUE,
                rule=Rule.SETTING,
                needs=before,
                target=measure.value,
                lower=low,
                upper=high,
                tool_role=None if measure is step.effort.angle else step.tool,
                text=printed(point),
                worded=True,
                **typed(measure.unit, measure.quantity, _PULLED_TO[measure.quantity]),
            )
            yield pull
            before = (pull.key,)


def fit(_: Procedure, step: s.FitStep) -> Iterator[Cell]:
    """What the parts are, where it is asked for, then each point."""
    if step.identity is not None:
        yield cell(step, CellItem.IDENTITY, InputType.WORDS, text=step.identity)
    yield from points(_, step)


def sense(_: Procedure, step: s.SenseStep) -> Iterator[Cell]:
    """Each point, right or wrong."""
    yield from ticks(step, step.items, InputType.CHOICE, choices=("right", "wrong"), worded=True)


def tool_issue(_: Procedure, step: s.ToolIssueStep) -> Iterator[Cell]:
    """Each tool."""
    for tool in step.tools:
        yield cell(step, AuthorPoint(tool.role), InputType.TOOL, text=tool.title, tool_role=tool.role)


def temperature_gate(_: Procedure, step: s.TemperatureGateStep) -> Iterator[Cell]:
    """One temperature against its limits."""
    limits = {"lower": step.at_least, "upper": step.at_most}
    sides: dict[str, Any] = {name: side.value for name, side in limits.items() if side is not None}
    unit = step.at_most or step.at_least
    yield cell(
        step,
        CellItem.TEMPERATURE,
        InputType.VALUE,
        rule=Rule.GUARDED,
        text=step.at,
        tool_role=step.instrument,
        **sides,
        **typed(unit.unit if unit else "degC", Quantity.TEMPERATURE, METAL_C),
    )


def crank_position(_: Procedure, step: s.CrankPositionStep) -> Iterator[Cell]:
    """What must be off, then the position reached, then its proof."""
    off = [said(step, CellItem.OFF_FIRST.at(k), text, deliberate=True) for k, text in enumerate(step.off_first, 1)]
    off += people(step)
    yield from off
    wide = step.tolerance.value
    reached = cell(
        step,
        CellItem.REACHED,
        InputType.VALUE,
        rule=Rule.SETTING,
        needs=tuple(c.key for c in off),
        target=step.angle.value,
        lower=step.angle.value - wide,
        upper=step.angle.value + wide,
        **typed(step.angle.unit, Quantity.ANGLE, ANY_ANGLE),
    )
    yield reached
    yield said(step, CellItem.PROOF, step.proof, needs=(reached.key,))


def inch(_: Procedure, step: s.InchStep) -> Iterator[Cell]:
    """Everybody out, then moved."""
    out = people(step)
    yield from out
    yield said(step, CellItem.INCHED, step.text, needs=tuple(c.key for c in out))


def attitude(_: Procedure, step: s.AttitudeStep) -> Iterator[Cell]:
    """How the engine lies now."""
    yield said(step, CellItem.ATTITUDE, step.text)


def inspect(procedure: Procedure, step: s.InspectStep) -> Iterator[Cell]:
    """A decision for each piece."""
    names = procedure.orders[step.order].names() if step.order else (None,)
    for name in names:
        yield cell(step, CellItem.DECISION, InputType.CHOICE, name, choices=step.dispositions, text=step.reject)


_BOTH_MARKS_SINCE = 3
_PRODUCT_NAMED_SINCE = 3
OTHER_PRODUCT = "another"
"""What is at hand is not what the procedure reckons with."""


def matched(procedure: Procedure, step: s.MatchedPartStep) -> Iterator[Cell]:
    """The identity read on both of each pair, and held against one another."""
    if procedure.written_in < _BOTH_MARKS_SINCE:
        yield from ticks(step, step.pairs, InputType.WORDS, worded=True)
        return
    for pair in step.pairs:
        one = cell(step, CellItem.MARK.at(pair.id), InputType.WORDS, text=printed(pair))
        yield one
        yield cell(
            step,
            CellItem.MATE.at(pair.id),
            InputType.WORDS,
            rule=Rule.EQUAL,
            needs=(one.key,),
            uses=(one.key,),
            text=printed(pair),
        )


def new_fasteners(procedure: Procedure, step: s.NewFastenersStep) -> Iterator[Cell]:
    """The batch of each group that asks for it, then each new one: by its mark where it has one."""
    names = procedure.orders[step.order].names()
    groups = dict.fromkeys(procedure.group_of(name).id for name in names)
    kept = {g.id: g.reuse.record_new if g.reuse is not None else () for g in procedure.fasteners}
    titles = {g.id: g.title for g in procedure.fasteners}
    for group in groups:
        if "batch" in kept[group]:
            yield cell(step, CellItem.BATCH.at(group), InputType.WORDS, text=titles[group])
    for name, before in rounds(procedure, step, CellItem.NEW):
        group = procedure.group_of(name).id
        ask = InputType.WORDS if "identity" in kept[group] else InputType.TICK
        batch = (f"{step.id}/batch:{group}",) if "batch" in kept[group] else ()
        yield cell(step, CellItem.NEW, ask, name, needs=(*batch, *before))


def sort_by_length(_: Procedure, step: s.SortByLengthStep) -> Iterator[Cell]:
    """Each length counted."""
    for k, row in enumerate(step.tally, 1):
        yield said(
            step, CellItem.COUNT.at(k), printed(row), InputType.COUNT, rule=Rule.EQUAL, target=float(len(row.positions))
        )


def lubricate(procedure: Procedure, step: s.LubricateStep) -> Iterator[Cell]:
    """What is at hand, its batch, each face, each face that stays dry."""
    if step.group is not None and procedure.written_in >= _PRODUCT_NAMED_SINCE:
        group = next(g for g in procedure.fasteners if g.id == step.group)
        others = tuple(other.product for other in group.lubricant.others)
        yield cell(
            step, CellItem.PRODUCT, InputType.CHOICE, choices=(step.product, *others, OTHER_PRODUCT), text=step.product
        )
    yield cell(step, CellItem.BATCH, InputType.WORDS, text=step.product)
    if step.friction_test is not None and step.group is not None:
        yield from _friction_test(procedure, step, step.friction_test)
    for k, face in enumerate(step.faces, 1):
        yield said(step, CellItem.FACE.at(k), f"{step.product}: {face}")
    for k, face in enumerate(step.dry, 1):
        yield cell(step, CellItem.DRY.at(k), InputType.TICK, text=face)


_ANY_LOAD_N: Final = (0.0, 1e8)


def _friction_test(procedure: Procedure, step: s.LubricateStep, test: s.FrictionTest) -> Iterator[Cell]:
    """The load at each pull of the test bolt, then the friction that follows."""
    group = next(g for g in procedure.fasteners if g.id == step.group)
    loads = [
        cell(
            step,
            CellItem.TESTED_LOAD.at(k),
            InputType.VALUE,
            text=test.torque.shown,
            tool_role=test.load_cell,
            **typed("kN", Quantity.FORCE, _ANY_LOAD_N),
        )
        for k in range(1, max(test.readings, test.bolts) + 1)
    ]
    yield from loads
    keys, stated = tuple(one.key for one in loads), group.lubricant.friction
    yield cell(
        step,
        CellItem.FRICTION,
        InputType.SEEN,
        rule=Rule.FRICTION,
        needs=keys,
        uses=keys,
        quantity=Quantity.FRICTION,
        unit="1",
        lower=None if stated is None else stated.least.value,
        upper=None if stated is None else stated.most.value,
        tool_role=test.load_cell,
    )


def sealant(_: Procedure, step: s.SealantStep) -> Iterator[Cell]:
    """The batch, each bead."""
    yield cell(step, CellItem.BATCH, InputType.WORDS, text=step.product)
    for k, place in enumerate(step.at, 1):
        yield said(step, CellItem.BEAD.at(k), f"{place}, {step.bead.shown}")
    for k, place in enumerate(step.not_at, 1):
        yield cell(step, CellItem.WITHOUT.at(k), InputType.TICK, text=place)


def lift(_: Procedure, step: s.LiftStep) -> Iterator[Cell]:
    """Clear, then lifted."""
    clear = said(step, CellItem.CLEARANCE, step.clearance, deliberate=True)
    yield clear
    yield cell(step, CellItem.LIFTED, InputType.TICK, text=f"{step.load.shown}, {step.points}", needs=(clear.key,))


def land(_: Procedure, step: s.LandStep) -> Iterator[Cell]:
    """Landed."""
    yield said(step, CellItem.GUIDED, step.guide)
    yield said(step, CellItem.LANDED, step.last, needs=(f"{step.id}/guided",))


def draw_home(_: Procedure, step: s.DrawHomeStep) -> Iterator[Cell]:
    """Home."""
    yield said(step, CellItem.HOME, f"{step.text}, {step.last.shown}")


def trial_fit(_: Procedure, step: s.TrialFitStep) -> Iterator[Cell]:
    """Proved or not."""
    yield cell(step, CellItem.PROVES, InputType.CHOICE, choices=("right", "wrong"), text=step.proves)


def stagger(_: Procedure, step: s.StaggerStep) -> Iterator[Cell]:
    """Where each gap stands."""
    made = [
        cell(
            step,
            CellItem.GAP.at(k),
            InputType.VALUE,
            target=angle.value,
            **typed(angle.unit, Quantity.ANGLE, (-360.0, 720.0)),
        )
        for k, angle in enumerate(step.angles, 1)
    ]
    yield from made
    keys = tuple(c.key for c in made)
    yield cell(
        step,
        CellItem.APART,
        InputType.SEEN,
        rule=Rule.FORM,
        needs=keys,
        uses=keys,
        lower=step.apart_at_least.value,
        quantity=Quantity.ANGLE,
        unit=step.apart_at_least.unit,
    )


def two_person(_: Procedure, step: s.TwoPersonStep) -> Iterator[Cell]:
    """The second person's name, then the act."""
    second = cell(step, CellItem.SECOND, InputType.WORDS, text=step.second)
    yield second
    yield said(
        step, CellItem.TOGETHER, f"{step.first} — {step.call} / {step.answer}", needs=(second.key,), deliberate=True
    )


def support(_: Procedure, step: s.SupportStep) -> Iterator[Cell]:
    """Each port, then each stage in which the load goes over."""
    for port in step.ports:
        yield cell(
            step,
            (CellItem.PORT_OPEN if port.valve == "open" else CellItem.PORT_SHUT).at(port.id),
            InputType.TICK,
            text=printed(port),
        )
    yield from ticks(step, step.stages, worded=True)


def park(_: Procedure, step: s.ParkStep) -> Iterator[Cell]:
    """Parked and tagged."""
    yield said(step, CellItem.PARKED, f"{step.parts} — {step.place}, {step.tag}")


def no_return(_: Procedure, step: s.NoReturnStep) -> Iterator[Cell]:
    """The last look before it cannot be undone."""
    yield said(step, CellItem.GO_ON, step.act, deliberate=True)


_WITNESS: Final = {"class": CellItem.WITNESS_CLASS, "owner": CellItem.WITNESS_OWNER}


def hold_point(_: Procedure, step: s.HoldPointStep) -> Iterator[Cell]:
    """Who else has seen it, by name; then a signature. What it covers is filled in when all cells are there."""
    seen = [cell(step, _WITNESS[who], InputType.WORDS) for who in step.witnesses]
    yield from seen
    yield cell(step, CellItem.SIGN, InputType.SIGNATURE, deliberate=True, needs=tuple(c.key for c in seen))


def wait(_: Procedure, step: s.WaitStep) -> Iterator[Cell]:
    """From when it counts, then that it is over."""
    began = said(step, CellItem.BEGAN, step.since)
    yield began
    if step.cooled_to is not None:
        yield cell(
            step,
            CellItem.TEMPERATURE,
            InputType.VALUE,
            rule=Rule.GUARDED,
            upper=step.cooled_to.value,
            **typed(step.cooled_to.unit, Quantity.TEMPERATURE, METAL_C),
        )
    span = step.time or step.running_hours
    clock = step.time.value if step.time is not None else 0.0
    yield cell(
        step,
        CellItem.OVER,
        InputType.TICK,
        needs=(began.key,),
        wait_s=clock,
        deliberate=True,
        text=span.shown if span else None,
    )


def follow_up(_: Procedure, step: s.FollowUpStep) -> Iterator[Cell]:
    """Noted, with when it is due."""
    spans = (one.shown for one in (step.after or step.after_running, step.latest or step.latest_running) if one)
    due = " … ".join(spans)
    yield said(step, CellItem.DUE, f"{due} — {step.method}; {step.state}".removeprefix(" — "))
