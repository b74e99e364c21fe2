"""Where an engine stands open: doors, pistons and liners that are out of their place, and bores without a head."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from datetime import datetime
from typing import Final, Literal, TypeAlias

from jorvek.core.engine.layout import JointKind, joints_of
from jorvek.core.overhaul.log.state import Overhaul
from jorvek.core.overhaul.rules.joint_conditions import counts, declared_now, newest_on, shown_condition
from jorvek.core.procedure.metal_parts import Condition
from jorvek.core.run.views.on_engine import RunOnEngine
from jorvek.core.sheet.document import Door, EngineSheet

_WHOLE: Final[tuple[Condition, ...]] = ("closed_up", "landed")
"""Conditions in which nothing of a joint leaves the crankcase open: closed up, and of a liner that it is home."""


PlaceSort: TypeAlias = Literal["part", "bore", "door"]


@dataclass(frozen=True)
class OpenPlace:
    """One place where an engine stands open.

    Attributes:
        id: names it in a command: the key of its joint, and the part of the document that took it off.
        joint: label of the joint, or the name of the door.
        what: the part that is not in its place; empty for a bore and a door.
        sort: a part that is out of its place, a bore without a head, or a door that somebody opened.
    """

    id: str
    joint: str
    what: str
    sort: PlaceSort = "part"


def open_crankcase(state: Overhaul, runs: tuple[RunOnEngine, ...]) -> Iterator[OpenPlace]:
    """Yield whatever is not in its place, so that the crankcase is open there.

    The newest work on each joint speaks, until a person says that the joint is whole, or that every door was seen shut.
    A liner of which somebody has said that it is out leaves the crankcase open, too.
    """
    yield from (OpenPlace(f"door:{door}", door, "", "door") for door in state.doors if _said_open(state, door))
    mine = [run for run in runs if counts(state, run)]
    for run in mine:
        if _leaves_open(state, run, mine):
            yield from (OpenPlace(f"{run.joint}/{part.id}", run.label, part.called) for part in run.opens)
    for place in joints_of(state.opened.engine):
        said = declared_now(state, place.key, mine)
        if place.kind is JointKind.LINER and said is not None and said.condition == "open":
            yield OpenPlace(place.key, place.label, "liner")


def open_doors(state: Overhaul, sheet: EngineSheet, runs: tuple[RunOnEngine, ...]) -> frozenset[str]:
    """Return the doors that are open by the log: said to be, or taken off by the work on one of their cylinders."""
    mine = [run for run in runs if counts(state, run)]
    return frozenset(d.id for d in sheet.doors if _said_open(state, d.id) or _off_by_work(state, d, mine))


def _said_open(state: Overhaul, door: str) -> bool:
    said = state.doors.get(door)
    return said is not None and said.open


def _off_by_work(state: Overhaul, door: Door, mine: list[RunOnEngine]) -> bool:
    """Tell whether work has a door off, and nobody has said since that it was shut."""
    cylinders = {p.key: p.cylinders for p in joints_of(state.opened.engine)}
    said = state.doors.get(door.id)
    for run in mine:
        off = any(part.kind == "crankcase_door" for part in run.opens)
        if not off or not cylinders.get(run.joint, frozenset()) & set(door.cylinders):
            continue
        shut_since = said is not None and datetime.fromisoformat(run.changed) < said.at
        if _leaves_open(state, run, mine) and not shut_since:
            return True
    return False


def to_clear(state: Overhaul, sheet: EngineSheet, runs: tuple[RunOnEngine, ...]) -> tuple[OpenPlace, ...]:
    """Return the places through which an arm or a leg reaches the crank's way: each answers "clear" before a move."""
    mine = [run for run in runs if counts(state, run)]
    heads = (p for p in joints_of(state.opened.engine, sheet.joints) if p.kind is JointKind.HEAD)
    bores = (OpenPlace(p.key, p.label, "", "bore") for p in heads if shown_condition(state, p.key, mine) == "open")
    return (*open_crankcase(state, runs), *bores)


def _leaves_open(state: Overhaul, run: RunOnEngine, mine: list[RunOnEngine]) -> bool:
    newest = newest_on(run.joint, mine) == run.run_id
    return newest and not (_seen_shut(state, run) or _said_whole(state, run, mine))


def _seen_shut(state: Overhaul, run: RunOnEngine) -> bool:
    # Doors that were seen shut while the work went on may have been opened by it afterwards.
    doors = state.seen.get("doors")
    return not run.open and doors is not None and datetime.fromisoformat(run.changed) < doors.at


def _said_whole(state: Overhaul, run: RunOnEngine, mine: list[RunOnEngine]) -> bool:
    said = declared_now(state, run.joint, mine)
    return not run.open and said is not None and said.condition in _WHOLE
