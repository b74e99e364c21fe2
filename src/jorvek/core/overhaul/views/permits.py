"""Who is inside and who works with flame, by which permits, and how long these hold."""

from __future__ import annotations

from collections.abc import Iterator
from datetime import datetime
from typing import Literal
from uuid import UUID

from jorvek.core.overhaul.log.state import Inside, Overhaul
from jorvek.core.overhaul.rules.entering import is_good
from jorvek.core.run.views.labels import View


class InsideNow(View):
    """Somebody in a confined space.

    Attributes:
        command: id of the command that said so.
        door: by which they went in; None where nobody said.
        until_at: how long the permit holds; None where nobody said.
        run_out: it does not hold any more.
        oxygen_pct: oxygen as it was read there last, in % by volume.
        gas_pct: combustible gas, likewise, in % of the lower explosive limit.
        air_at: when.
        air_good: whether people may be in it.
        against: what would have spoken against it, had it been known at once; None where nothing did.
    """

    entry: int
    command: UUID
    person: str
    person_id: UUID
    space: Literal["crankcase", "scavenge"]
    door: str | None
    permit: str
    until_at: datetime | None
    run_out: bool
    attendant: str
    oxygen_pct: float
    gas_pct: float
    air_at: datetime
    air_good: bool
    against: str | None
    since: datetime


class HotWorkNow(View):
    """Hot work that is under way.

    Attributes:
        run_out: its permit does not hold any more.
        shut: who looked that the crankcase is shut, and how.
    """

    entry: int
    person: str
    work: str
    place: str
    watch: str
    permit: str
    until_at: datetime
    run_out: bool
    gas_pct: float
    shut: str
    since: datetime


def inside_now(overhaul: Overhaul, now: datetime) -> Iterator[InsideNow]:
    """Yield who is inside, with the air as it was read last."""
    for one in overhaul.inside:
        oxygen_pct, gas_pct, air_at = _air(overhaul, one)
        yield InsideNow(
            entry=one.seq,
            command=one.id,
            person=one.person.name,
            person_id=one.person.id,
            space=one.space,
            door=one.door,
            permit=one.permit,
            until_at=one.until_at,
            run_out=one.until_at is not None and one.until_at <= now,
            attendant=one.attendant,
            oxygen_pct=oxygen_pct,
            gas_pct=gas_pct,
            air_at=air_at,
            air_good=is_good(oxygen_pct, gas_pct),
            against=one.against,
            since=one.at,
        )


def _air(overhaul: Overhaul, one: Inside) -> tuple[float, float, datetime]:
    """Return the newest reading of a space: of whoever went in last, or of whoever has read it again since."""
    found = [(i.oxygen_pct, i.gas_pct, i.at) for i in overhaul.inside if i.space == one.space]
    again = overhaul.air.get(one.space)
    if again is not None:
        found.append((again.oxygen_pct, again.gas_pct, again.at))
    return max(found, key=lambda read: read[2])


def hot_work_now(overhaul: Overhaul, now: datetime) -> Iterator[HotWorkNow]:
    """Yield what is welded, cut or ground at the engine."""
    for one in overhaul.hot_work:
        began = one.began
        yield HotWorkNow(
            entry=one.seq,
            person=began.person.name,
            work=began.work,
            place=began.place,
            watch=began.watch,
            permit=began.permit,
            until_at=began.until_at,
            run_out=began.until_at <= now,
            gas_pct=began.gas_pct,
            shut=began.shut,
            since=one.at,
        )
