"""The one gate at the end: what keeps an overhaul from being closed."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Literal

from jorvek.core.overhaul.log import commands as oc
from jorvek.core.overhaul.log.state import Overhaul
from jorvek.core.overhaul.rules.joint_conditions import counts, ground_of, owed
from jorvek.core.overhaul.rules.open_places import open_doors
from jorvek.core.overhaul.rules.return_to_service import checks_asked, seen
from jorvek.core.overhaul.rules.shaft import deflections_wait, pins
from jorvek.core.refusal import Refusal
from jorvek.core.rights import Act

HoldUp = Literal[
    "joint_open",
    "joint_not_closed",
    "debt",
    "isolation",
    "lock",
    "inside",
    "door",
    "hot_work",
    "gear",
    "test",
    "gate",
    "check",
    "deflections",
    "witness",
]


@dataclass(frozen=True)
class HeldUp:
    """One thing that keeps the overhaul open."""

    why: HoldUp
    what: str


def held_up(state: Overhaul, context: oc.EngineContext) -> Iterator[HeldUp]:
    """Yield everything that keeps an overhaul from being closed."""
    ground = ground_of(state, context.sheet, context.runs)
    for run in context.runs:
        if counts(state, run) and run.open:
            yield HeldUp("joint_open", run.label)
    for place in ground.places:
        ladder, stand = context.sheet.ladders.get(place.kind), ground.stand(place.key)
        if ladder is not None and stand.work is None and stand.may_be != {ladder.undone[0]}:
            yield HeldUp("joint_not_closed", place.label)
        if stand.gates_bad:
            yield HeldUp("gate", place.label)
    yield from (HeldUp("debt", f"{run.label}: {debt.text}") for run, debt in owed(state, context.runs))
    yield from (HeldUp("isolation", point) for point in state.isolations)
    yield from (HeldUp("lock", f"{k.by.name}: {k.lock}") for k in state.locks)
    yield from (HeldUp("inside", i.person.name) for i in state.inside)
    yield from (HeldUp("door", door) for door in sorted(open_doors(state, context.sheet, context.runs)))
    yield from (HeldUp("hot_work", f"{one.began.place}, {one.began.permit}") for one in state.hot_work)
    yield from (HeldUp("gear", t.guards) if t.moves_crank else HeldUp("test", t.test) for t in state.tests)
    yield from (HeldUp("check", c) for c in checks_asked(state, context.sheet) if not seen(state, context.runs, c))
    if deflections_wait(state, context.sheet, context.runs):
        yield HeldUp("deflections", ", ".join(pins(state.opened.engine)))
    yield from (HeldUp("witness", who) for who in _not_there(state, context))


def _not_there(state: Overhaul, context: oc.EngineContext) -> Iterator[str]:
    there = {one.attends for one in state.witnesses}
    yield from (who for who in context.sheet.witnesses if who not in there and not state.opened.small)


def closes(*, small: bool) -> Act:
    """Return the right by which an overhaul is closed.

    A single job is closed by its lead hand; an engine that people were all over, by the chief's signature.
    """
    return Act.LEAD_OVERHAUL if small else Act.CLOSE_OVERHAUL


def demand_closable(state: Overhaul, context: oc.EngineContext) -> None:
    """Refuse to close an overhaul before everything is back.

    Raises:
        Refusal: ``overhaul_not_done`` naming the first thing and how many there are.
    """
    found = list(held_up(state, context))
    if found:
        raise Refusal("overhaul_not_done", why=found[0].why, first=found[0].what, more=len(found) - 1)
