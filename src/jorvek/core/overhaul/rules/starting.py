"""Whether work may be begun on a joint as the engine stands, and what the engine's isolations answer of it."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from jorvek.core.overhaul.log.state import Overhaul
from jorvek.core.overhaul.rules.joint_conditions import ground_of
from jorvek.core.procedure.steps import MakeSafeStep
from jorvek.core.refusal import Refusal
from jorvek.core.rights import Act, demand
from jorvek.core.run.log.definition import Definition
from jorvek.core.run.log.events import IsolationInForce, Person, RuleDeparted
from jorvek.core.run.views.on_engine import RunOnEngine
from jorvek.core.sheet.access import Ground, InTheWay, Work, in_the_way
from jorvek.core.sheet.document import EngineSheet


@dataclass(frozen=True)
class AskedWork:
    """Work that somebody wants to begin: the joint's label, and the work."""

    label: str
    work: Work


def demand_access(
    overhaul: Overhaul,
    sheet: EngineSheet,
    runs: tuple[RunOnEngine, ...],
    asked: AskedWork,
    departures: tuple[RuleDeparted, ...],
    actor: Person,
) -> None:
    """Refuse work while anything stands in its way, but for what is departed from by name.

    A departure never passes a rule that is marked as hurting people, nor the joint's own condition.

    Raises:
        Refusal: ``access_own``, ``access_rule``, ``access_under_way``, ``access_gate``, ``access_unknown``,
            ``access_relied_on``; ``not_your_right`` for a departure.
    """
    if departures:
        demand(actor.role, Act.ACCEPT)
    ground = ground_of(overhaul, sheet, runs)
    for one in in_the_way(ground, asked.work):
        if not _departed(one, departures):
            raise refusal_of(ground, asked.label, one)


def may_be_departed(one: InTheWay) -> bool:
    """Tell whether a lead hand may let something stand in the way, by name."""
    return one.rule is not None and not one.hurts


def _departed(one: InTheWay, departures: tuple[RuleDeparted, ...]) -> bool:
    return may_be_departed(one) and any((d.rule, d.joint) == (one.rule, one.joint) for d in departures)


def refusal_of(ground: Ground, label: str, one: InTheWay) -> Refusal:
    """Return the refusal that one thing in the way leads to."""
    said = {
        "joint": label,
        "other": ground.by_key[one.joint].label,
        "stands": ", ".join(sorted(one.stands)),
        "wanted": ", ".join(one.wanted),
        "reason": one.reason,
    }
    match one.why:
        case "own_condition":
            return Refusal("access_own", **said)
        case "rule":
            return Refusal("access_rule", **said)
        case "under_way":
            return Refusal("access_under_way", **said)
        case "gate":
            return Refusal("access_gate", **said)
        case "unknown":
            return Refusal("access_unknown", **said)
        case "relied_on":
            return Refusal("access_relied_on", **said)


def in_force_for(overhaul: Overhaul, definition: Definition) -> tuple[IsolationInForce, ...]:
    """Return what the engine's isolations answer of a procedure's making safe."""
    return tuple(_in_force(overhaul, definition))


def _in_force(overhaul: Overhaul, definition: Definition) -> Iterator[IsolationInForce]:
    for cell in definition.cells:
        step = definition.steps_by_id[cell.step_id]
        if not isinstance(step, MakeSafeStep):
            continue
        point = next((item.isolates for item in step.items if item.id == cell.item), None)
        now = overhaul.in_force(point) if point is not None else None
        if now is not None:
            yield IsolationInForce(cell=cell.key, isolation=now.seq, by=now.by, at=now.at)
