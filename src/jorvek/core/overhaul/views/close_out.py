"""The end of an overhaul as one looks at it: what is seen to, how the shaft lies, who attended."""

from __future__ import annotations

from datetime import datetime
from typing import Literal

from jorvek.core.measuring.deflection import READ_AT
from jorvek.core.overhaul.log.state import Deflections, Overhaul
from jorvek.core.overhaul.rules.return_to_service import checks_asked, order_back, relying, seen
from jorvek.core.overhaul.rules.shaft import Throw, deflections_wait, pins, throws_of
from jorvek.core.run.views.labels import View
from jorvek.core.run.views.on_engine import RunOnEngine
from jorvek.core.sheet.document import EngineSheet


class BackStep(View):
    """One thing on the way back to a running engine, in its order.

    Attributes:
        point: what it is.
        check: it is seen to, not given back.
        done: it is behind.
        next: it is the first that is not, and nothing else stands before it.
        by: who saw to it.
        words: what was said of it.
        text: the author's words; None where the sheet has none.
    """

    point: str
    check: bool
    done: bool
    next: bool
    by: str | None
    at: datetime | None
    words: str | None
    current_A: float | None
    text: str | None


class ThrowRead(View):
    """One throw of the shaft as read.

    Attributes:
        readings_mm: in the order of ``READ_AT``.
        outside: limits that it passes.
    """

    pin: str
    readings_mm: tuple[float, ...]
    vertical_mm: float
    horizontal_mm: float
    closes_mm: float
    outside: tuple[str, ...]


class DeflectionSheet(View):
    """The web deflections of the whole shaft, before or after."""

    when: Literal["before", "after"]
    by: str
    at: datetime
    engine_degC: float
    draught: str | None
    accepted: str | None
    throws: tuple[ThrowRead, ...]


class WitnessNow(View):
    """Who has to attend, and who did; ``name`` is None while nobody has."""

    attends: str
    name: str | None
    words: str | None


class CloseOut(View):
    """The end of an overhaul.

    Attributes:
        relied_on: what still relies on the isolations: until it is none, nothing is given back.
        steps: the way back in its order.
        pins: crankpins along the shaft.
        read_at: where the pin stands at each reading of a throw.
        vertical_mm: limit of the deflection; None where the sheet states none.
        horizontal_mm: the same from side to side.
        shaft_waits: the shaft was worked on and has to be read before the overhaul is closed.
        chief: closing it asks for the chief's signature.
    """

    relied_on: tuple[str, ...]
    steps: tuple[BackStep, ...]
    pins: tuple[str, ...]
    read_at: tuple[str, ...]
    vertical_mm: float | None
    horizontal_mm: float | None
    shaft_waits: bool
    deflections: tuple[DeflectionSheet, ...]
    witnesses: tuple[WitnessNow, ...]
    chief: bool


def close_out(overhaul: Overhaul, sheet: EngineSheet, runs: tuple[RunOnEngine, ...]) -> CloseOut:
    """Return the end of an overhaul as it stands."""
    limits = sheet.deflection
    relied_on = tuple(relying(overhaul, sheet, runs))
    return CloseOut(
        relied_on=relied_on,
        steps=_steps(overhaul, sheet, runs, free=not relied_on),
        pins=pins(overhaul.opened.engine),
        read_at=READ_AT,
        vertical_mm=limits.vertical.value if limits else None,
        horizontal_mm=limits.horizontal.value if limits else None,
        shaft_waits=deflections_wait(overhaul, sheet, runs),
        deflections=deflection_sheets(overhaul, sheet),
        witnesses=witnesses(overhaul, sheet),
        chief=not overhaul.opened.small,
    )


def _steps(
    overhaul: Overhaul, sheet: EngineSheet, runs: tuple[RunOnEngine, ...], *, free: bool
) -> tuple[BackStep, ...]:
    checks, found, waits = checks_asked(overhaul, sheet), list[BackStep](), free
    for point in order_back(sheet):
        check = point in checks
        if not check and point not in overhaul.isolations:
            continue
        done = check and seen(overhaul, runs, point)
        made = overhaul.seen.get(point) if done else None
        stated = sheet.point(point)
        found.append(
            BackStep(
                point=point,
                check=check,
                done=done,
                next=waits and not done,
                by=made.by.name if made else None,
                at=made.at if made else None,
                words=getattr(made.data, "words", None) if made else None,
                current_A=getattr(made.data, "current_A", None) if made else None,
                text=stated.text if stated else None,
            )
        )
        waits = waits and done
    return tuple(found)


def deflection_sheets(overhaul: Overhaul, sheet: EngineSheet) -> tuple[DeflectionSheet, ...]:
    """Return the web deflections before and after, as far as they were read."""
    orders: tuple[Literal["before", "after"], ...] = ("before", "after")
    return tuple(_sheet(overhaul.deflections[w], sheet) for w in orders if w in overhaul.deflections)


def _sheet(one: Deflections, sheet: EngineSheet) -> DeflectionSheet:
    read = one.read
    return DeflectionSheet(
        when=read.when,
        by=one.by.name,
        at=one.at,
        engine_degC=read.engine_degC,
        draught=read.draught,
        accepted=read.accepted,
        throws=tuple(_throw(throw) for throw in throws_of(read, sheet)),
    )


def _throw(throw: Throw) -> ThrowRead:
    return ThrowRead(
        pin=throw.pin,
        readings_mm=throw.readings_mm,
        vertical_mm=round(throw.tells.vertical_mm, 6),
        horizontal_mm=round(throw.tells.horizontal_mm, 6),
        closes_mm=round(throw.tells.closes_mm, 6),
        outside=throw.outside,
    )


def witnesses(overhaul: Overhaul, sheet: EngineSheet) -> tuple[WitnessNow, ...]:
    """Return who attended, and who has to and has not."""
    there = tuple(WitnessNow(attends=w.attends, name=w.name, words=w.words) for w in overhaul.witnesses)
    came = {w.attends for w in there}
    asked = () if overhaul.opened.small else sheet.witnesses
    return (*there, *(WitnessNow(attends=who, name=None, words=None) for who in asked if who not in came))
