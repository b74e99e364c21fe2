"""When the engine stopped, and how long it has to stand before anybody opens it."""

from __future__ import annotations

from datetime import datetime, timedelta
from typing import Final

from jorvek.core.overhaul.log import commands as oc
from jorvek.core.overhaul.log import events as ov
from jorvek.core.overhaul.log.state import Overhaul
from jorvek.core.refusal import Refusal
from jorvek.core.rights import Act, demand
from jorvek.core.run.log.commands import Stood
from jorvek.core.sheet.document import EngineSheet

_AHEAD: Final = timedelta(minutes=1)
"""Clocks differ by so much."""
_LONG_AGO: Final = timedelta(days=400)
"""A stop before that is no stop that anything waits for; a year in it is likely wrong."""
_ALARMS: Final = frozenset({"mist_alarm", "hot_bearing", "seizure", "unknown"})
"""After these, what is hot inside may set fire to the mist: the engine stands for the longer time."""


def note_stop(state: Overhaul, command: oc.NoteStop, context: oc.EngineContext) -> ov.EngineStopped:
    """Note a stop of the engine; whoever knows of one may say so.

    Raises:
        Refusal: ``not_your_right``; ``stop_when`` for a moment that is still to come, or more than a year ago.
    """
    demand(context.actor.role, Act.RECORD)
    earliest, latest = context.now - _LONG_AGO, context.now + _AHEAD
    if not earliest <= command.stopped_at <= latest:
        raise Refusal("stop_when", earliest=earliest.isoformat(), latest=context.now.isoformat())
    return ov.EngineStopped(stopped_at=command.stopped_at, cause=command.cause, words=command.words)


def stood(state: Overhaul, sheet: EngineSheet) -> Stood | None:
    """Return since when the engine stands, and for how long it has to; None while nobody has said when it stopped."""
    if state.stop is None:
        return None
    usual = 0.0 if sheet.after_shutdown is None else sheet.after_shutdown.value
    longer = usual if sheet.after_alarm is None else max(usual, sheet.after_alarm.value)
    return Stood(state.stop.at, longer if state.stop.cause in _ALARMS else usual)


def demand_stood(state: Overhaul, sheet: EngineSheet, now: datetime) -> None:
    """Refuse what has to wait until the engine has stood.

    Raises:
        Refusal: ``not_stood`` with the minutes that are left.
    """
    since = stood(state, sheet)
    if since is None:
        return
    left_s = since.least_s - (now - since.at).total_seconds()
    if left_s > 0.0:
        raise Refusal("not_stood", at=since.at.isoformat(), minutes=int(left_s // 60.0) + 1)
