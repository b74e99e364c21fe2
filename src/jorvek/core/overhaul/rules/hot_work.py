"""Hot work at an engine: by a permit of its own with its hours, and never beside an open crankcase."""

from __future__ import annotations

from collections.abc import Iterator
from datetime import datetime, timedelta
from typing import Final

from jorvek.core.engine.layout import JointKind, joints_of
from jorvek.core.overhaul.log import commands as oc
from jorvek.core.overhaul.log import events as ov
from jorvek.core.overhaul.log.state import Overhaul
from jorvek.core.overhaul.rules.joint_conditions import counts, declared_now, newest_on
from jorvek.core.overhaul.rules.sweep import unanswered
from jorvek.core.procedure.metal_parts import Condition
from jorvek.core.refusal import Refusal
from jorvek.core.rights import Act, demand
from jorvek.core.run.views.on_engine import RunOnEngine

_MOST_GAS_PCT: Final = 1.0
"""Of the lower explosive limit; from there on nobody strikes a spark. Source: common practice for hot work; the local
rule decides where it is stricter."""
_LONGEST: Final = timedelta(hours=24)
"""A permit holds for a shift, never over days: the air and the work around it change."""

_WHOLE: Final[tuple[Condition, ...]] = ("closed_up", "landed")
"""Conditions in which nothing of a joint leaves the crankcase open: closed up, and of a liner that it is home."""


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
        Refusal: ``person_inside``, ``tablet_silent``, ``crankcase_open``, ``test_under_way``, ``gas_there``,
            ``permit_hours``.
    """
    if state.inside:
        raise Refusal("person_inside", name=", ".join(i.person.name for i in state.inside))
    for tablet in unanswered(state, context.silent):
        raise Refusal("tablet_silent", name=tablet.person)
    for joint, what in open_parts(state, context.runs):
        raise Refusal("crankcase_open", joint=joint, what=what)
    if state.tests:
        raise Refusal("test_under_way", test=state.tests[0].test)
    if command.gas_pct >= _MOST_GAS_PCT:
        raise Refusal("gas_there", got=command.gas_pct, high=_MOST_GAS_PCT)
    demand_hours(command.until_at, context.now)


def open_parts(state: Overhaul, runs: tuple[RunOnEngine, ...]) -> Iterator[tuple[str, str]]:
    """Yield joint and part for whatever is not in its place, so that the crankcase is open there.

    The newest work on each joint speaks, until a person says that the joint is whole, or that every door was seen shut.
    A liner of which somebody has said that it is out leaves the crankcase open, too.
    """
    mine = [run for run in runs if counts(state, run)]
    for run in mine:
        if newest_on(run.joint, mine) == run.run_id and not (_seen_shut(state, run) or _said_whole(state, run, mine)):
            yield from ((run.label, part.called) for part in run.opens)
    for place in joints_of(state.opened.engine):
        said = declared_now(state, place.key, mine)
        if place.kind is JointKind.LINER and said is not None and said.condition == "open":
            yield place.label, said.words


def _seen_shut(state: Overhaul, run: RunOnEngine) -> bool:
    # Doors that were seen shut while the work went on may have been opened by it afterwards.
    doors = state.seen.get("doors")
    return not run.open and doors is not None and datetime.fromisoformat(run.changed) < doors.at


def _said_whole(state: Overhaul, run: RunOnEngine, mine: list[RunOnEngine]) -> bool:
    said = declared_now(state, run.joint, mine)
    return not run.open and said is not None and said.condition in _WHOLE


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
