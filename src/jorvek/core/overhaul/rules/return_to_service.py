"""The way back to a running engine: in the sheet's order, each thing before the next."""

from __future__ import annotations

from collections.abc import Iterator
from datetime import datetime
from typing import Final, get_args

from jorvek.core.overhaul.log import commands as oc
from jorvek.core.overhaul.log import events as ov
from jorvek.core.overhaul.log.state import Overhaul
from jorvek.core.overhaul.rules.joint_conditions import counts, ground_of
from jorvek.core.overhaul.rules.sweep import demand_clear, demand_gear_free, demand_no_doubt
from jorvek.core.refusal import Refusal
from jorvek.core.rights import Act, demand
from jorvek.core.run.views.on_engine import RunOnEngine
from jorvek.core.sheet.document import EngineSheet

CHECKS: Final = frozenset({"people", "doors", "barred", "blown_through"})
"""Points of the order of giving back that nobody shuts: they are seen to on the way."""
_FEEDS_OIL: Final = "prelube"


def order_back(sheet: EngineSheet) -> tuple[str, ...]:
    """Return isolations and checks in the order in which an engine is given back; oil is seen once it is fed again."""
    found: list[str] = []
    for point in sheet.restore:
        found.append(point)
        if point == _FEEDS_OIL:
            found.append("oil_seen")
    return tuple(found)


def relying(
    state: Overhaul, sheet: EngineSheet, runs: tuple[RunOnEngine, ...], but: str | None = None
) -> Iterator[str]:
    """Yield what relies on the isolations: joints worked on or not closed, people inside, personal locks, hot work.

    Args:
        state: the overhaul.
        sheet: the engine's sheet.
        runs: the runs on the engine.
        but: label of the joint whose own run asks.
    """
    ground = ground_of(state, sheet, runs)
    worked_on = {run.label for run in runs if counts(state, run) and run.open}
    yield from sorted(worked_on - {but})
    for place in ground.places:
        ladder = sheet.ladders.get(place.kind)
        stand = ground.stand(place.key)
        home = ladder is None or stand.may_be == {ladder.undone[0]}
        if not home and place.label not in worked_on and place.label != but:
            yield place.label
    yield from (i.person.name for i in state.inside)
    yield from (f"{k.by.name} ({k.lock})" for k in state.locks)
    yield from (f"{one.began.person.name} ({one.began.permit})" for one in state.hot_work)


def seen(state: Overhaul, runs: tuple[RunOnEngine, ...], check: str) -> bool:
    """Tell whether a check was made, and nobody has begun work since."""
    made = state.seen.get(check)
    return made is not None and not worked_since(state, runs, made.at)


def worked_since(state: Overhaul, runs: tuple[RunOnEngine, ...], at: datetime) -> bool:
    """Tell whether work was begun at a moment or after it; a run that gives the engine back began before."""
    return any(counts(state, run) and datetime.fromisoformat(run.started) >= at for run in runs)


_EVERY_CHECK: Final[tuple[str, ...]] = get_args(ov.Check)


def checks_asked(state: Overhaul, sheet: EngineSheet) -> tuple[str, ...]:
    """Return the checks that closing an overhaul waits for; a single job's own calls are enough for a small one."""
    return () if state.opened.small else tuple(point for point in order_back(sheet) if point in _EVERY_CHECK)


def demand_in_turn(state: Overhaul, sheet: EngineSheet, runs: tuple[RunOnEngine, ...], point: str) -> None:
    """Refuse a point of the way back before those that come before it.

    Raises:
        Refusal: ``in_doubt``, ``isolation_relied_on``, ``restored_before_its_turn``.
    """
    demand_no_doubt(state)
    others = list(relying(state, sheet, runs))
    if others:
        more = f" + {len(others) - 4}" if len(others) > 4 else ""
        raise Refusal("isolation_relied_on", by=", ".join(others[:4]) + more)
    order, asked = order_back(sheet), checks_asked(state, sheet)
    before = order[: order.index(point)] if point in order else ()
    for one in before:
        if one in state.isolations or (one in asked and not seen(state, runs, one)):
            raise Refusal("restored_before_its_turn", point=point, first=one)


def see_to(state: Overhaul, command: oc.SeeTo, context: oc.EngineContext) -> ov.SeenTo:
    """Make a check in its turn.

    Raises:
        Refusal: ``not_your_right``; those of ``demand_in_turn``; ``sweep_blocked`` and ``current_asked`` for
            barring through.
    """
    demand(context.actor.role, Act.LEAD_OVERHAUL)
    demand_in_turn(state, context.sheet, context.runs, command.check)
    if command.check == "barred":
        demand_gear_free(state)
        demand_clear(state, context.sheet, context.runs, context.silent)
        if command.current_A is None:
            raise Refusal("current_asked")
    elif command.current_A is not None:
        raise Refusal("E_DATA", name="current_A")
    return ov.SeenTo(check=command.check, words=command.words, current_A=command.current_A)
