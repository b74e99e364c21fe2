"""Hot work at an engine: by a permit of its own with its hours, and never beside an open crankcase."""

from __future__ import annotations

from datetime import datetime, timedelta
from typing import Final

from jorvek.core.overhaul.log import commands as oc
from jorvek.core.overhaul.log import events as ov
from jorvek.core.overhaul.log.state import Overhaul
from jorvek.core.overhaul.rules.open_places import open_crankcase
from jorvek.core.overhaul.rules.sweep import demand_no_test, demand_nobody_inside, unanswered
from jorvek.core.refusal import Refusal
from jorvek.core.rights import Act, demand

_MOST_GAS_PCT: Final = 1.0
"""Of the lower explosive limit; from there on nobody strikes a spark. Source: common practice for hot work; the local
rule decides where it is stricter."""
_LONGEST: Final = timedelta(hours=24)
"""A permit holds for a shift, never over days: the air and the work around it change."""


def hot_work(state: Overhaul, command: oc.BeginHotWork | oc.EndHotWork, context: oc.EngineContext) -> ov.OverhaulData:
    """Begin or end hot work.

    Raises:
        Refusal: ``not_your_right``, ``no_such_person``, ``no_such_entry``; those of ``_demand_may_begin``.
    """
    demand(context.actor.role, Act.START_RUN)
    if isinstance(command, oc.EndHotWork):
        if not any(one.seq == command.began for one in state.hot_work):
            raise Refusal("no_such_entry", entry=command.began)
        return ov.HotWorkEnded(began=command.began, words=command.words)
    person = context.people.get(command.person)
    if person is None:
        raise Refusal("no_such_person")
    _demand_may_begin(state, command, context)
    said = command.model_dump(include={"work", "place", "watch", "permit", "until_at", "gas_pct", "shut"})
    return ov.HotWorkBegan(person=person, **said)


def _demand_may_begin(state: Overhaul, command: oc.BeginHotWork, context: oc.EngineContext) -> None:
    """Refuse hot work while the crankcase is open, or may be: the word that it is shut comes on top of this.

    Raises:
        Refusal: ``person_inside``, ``tablet_silent``, ``crankcase_open``, ``door_open``, ``test_under_way``,
            ``gas_there``, ``permit_hours``.
    """
    demand_nobody_inside(state)
    for tablet in unanswered(state, context.silent):
        raise Refusal("tablet_silent", name=tablet.person)
    for place in open_crankcase(state, context.runs):
        if place.sort == "door":
            raise Refusal("door_open", door=place.joint)
        raise Refusal("crankcase_open", joint=place.joint, what=place.what)
    demand_no_test(state)
    if command.gas_pct >= _MOST_GAS_PCT:
        raise Refusal("gas_there", got=command.gas_pct, high=_MOST_GAS_PCT)
    demand_hours(command.until_at, context.now)


def demand_hours(until_at: datetime, now: datetime) -> None:
    """Refuse a permit that has run out, or holds for days.

    Raises:
        Refusal: ``permit_hours``.
    """
    if not now < until_at <= now + _LONGEST:
        raise Refusal("permit_hours", earliest=now.isoformat(), latest=(now + _LONGEST).isoformat())


def demand_no_hot_work(state: Overhaul) -> None:
    """Refuse what hot work stands beside.

    Raises:
        Refusal: ``hot_work_there``.
    """
    for one in state.hot_work:
        raise Refusal("hot_work_there", name=one.began.person.name, place=one.began.place, permit=one.began.permit)
