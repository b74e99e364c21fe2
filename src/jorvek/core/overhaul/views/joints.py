"""How every joint of an engine stands, what can be done with it in working order, and what is next."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from dataclasses import dataclass, replace
from datetime import datetime
from typing import Literal, TypeAlias
from uuid import UUID

from jorvek.core.engine.layout import JointKind, JointPlace
from jorvek.core.overhaul.log.state import Overhaul
from jorvek.core.overhaul.rules.joint_conditions import declared_now, ground_of, owed, shown_condition
from jorvek.core.overhaul.rules.starting import may_be_departed
from jorvek.core.procedure.metal_parts import Condition
from jorvek.core.run.views.labels import View
from jorvek.core.run.views.on_engine import Carried, RunOnEngine
from jorvek.core.sheet.access import Ground, InTheWay, Stand, Work, in_the_way
from jorvek.core.sheet.document import EngineSheet

When: TypeAlias = Literal["now", "later", "done"]


@dataclass(frozen=True)
class Known:
    """An approved procedure as a list knows it.

    Attributes:
        hash: content address of the revision.
        id: name of the procedure.
    """

    hash: str
    id: str
    title: str
    revision: str
    joint: JointKind
    purpose: str
    begins: Condition | None
    leaves: Condition | None


class Barrier(View):
    """Something that stands in the way of work.

    Attributes:
        why: as in ``InTheWay``.
        joint: key of the joint that stands in the way.
        label: what that joint is called.
        stands: conditions in which it may be.
        wanted: conditions in which it would be out of the way.
        rule: name of the rule.
        reason: why.
        departable: a lead hand may let it be, by name.
    """

    why: Literal["own_condition", "rule", "under_way", "gate", "unknown", "relied_on"]
    joint: str
    label: str
    stands: tuple[Condition, ...]
    wanted: tuple[Condition, ...]
    rule: str | None
    reason: str
    departable: bool


class Offer(View):
    """A procedure for a joint, in working order.

    Attributes:
        when: it begins where the joint stands now; later; or it was done in this overhaul.
        barriers: what stands in its way; empty where it may be started.
        pays: what it puts right of what earlier work has left.
    """

    hash: str
    id: str
    title: str
    revision: str
    purpose: str
    begins: Condition | None
    leaves: Condition | None
    when: When
    barriers: tuple[Barrier, ...]
    pays: tuple[str, ...]


class JointNow(View):
    """A joint as it stands.

    Attributes:
        slot: place along the section, in cylinder pitches.
        condition: what it is like; None where nobody knows.
        ladder: conditions that it can be in, from closed up on.
        home: its condition is the closed one.
        told_by: whoever said so, for a condition that was declared.
        told_at: when.
        in_scope: it is worked on in this overhaul.
        run_id: the newest run on it in this overhaul.
        under_way: that run is open.
        by: who works on it.
        going: which way the work under way takes it.
        done: it was worked on and is closed again.
        offers: what can be done with it, in working order.
    """

    key: str
    kind: JointKind
    label: str
    name: str
    slot: float
    condition: Condition | None
    ladder: tuple[Condition, ...]
    home: bool
    told_by: str | None
    told_at: datetime | None
    in_scope: bool
    run_id: UUID | None
    under_way: bool
    by: str | None
    going: Literal["undone", "put_back"] | None
    done: bool
    offers: tuple[Offer, ...]


def joints_now(
    overhaul: Overhaul, sheet: EngineSheet, runs: tuple[RunOnEngine, ...], known: Iterable[Known]
) -> tuple[JointNow, ...]:
    """Return every joint of an engine as it stands, with what can be done with it in working order."""
    ground, listed = ground_of(overhaul, sheet, runs), list(known)
    debts = list(owed(overhaul, runs))
    return tuple(
        _joint(overhaul, ground, place, runs, listed, [d for r, d in debts if r.joint == place.key])
        for place in ground.places
    )


def _joint(
    overhaul: Overhaul,
    ground: Ground,
    place: JointPlace,
    runs: tuple[RunOnEngine, ...],
    known: list[Known],
    debts: list[Carried],
) -> JointNow:
    mine = [run for run in runs if run.joint == place.key]
    ladder = ground.sheet.ladders.get(place.kind)
    condition = shown_condition(overhaul, place.key, mine)
    said = declared_now(overhaul, place.key, mine)
    newest = mine[0] if mine else None
    home = ladder is not None and condition == ladder.undone[0]
    under_way = newest is not None and newest.open
    return JointNow(
        key=place.key,
        kind=place.kind,
        label=place.label,
        name=place.name,
        slot=place.slot,
        condition=condition,
        ladder=ladder.conditions if ladder else (),
        home=home,
        told_by=said.by.name if said and not under_way else None,
        told_at=said.at if said and not under_way else None,
        in_scope=place.key in overhaul.scope,
        run_id=newest.run_id if newest else None,
        under_way=under_way,
        by=newest.by if newest and under_way else None,
        going=("undone" if newest.purpose == "loosen" else "put_back") if newest and under_way else None,
        done=home and not under_way and was_apart(overhaul, place.key, condition, mine),
        offers=tuple(_offers(ground, place, condition, mine, known, debts)),
    )


def was_apart(overhaul: Overhaul, joint: str, home: Condition | None, mine: list[RunOnEngine]) -> bool:
    """Tell whether a joint was apart in this overhaul, by its runs or by somebody's word."""
    by_word = any(said.condition != home for said in overhaul.declared.get(joint, ()))
    return by_word or (bool(mine) and mine[0].purpose == "tighten")


def _offers(
    ground: Ground,
    place: JointPlace,
    condition: Condition | None,
    mine: list[RunOnEngine],
    known: list[Known],
    debts: list[Carried],
) -> Iterator[Offer]:
    done = {run.procedure for run in mine if not run.open}
    for one in _in_order(condition, [k for k in known if k.joint is place.kind]):
        when: When = "now" if one.begins == condition else "done" if one.id in done else "later"
        work = Work(place.key, one.begins, one.leaves)
        barriers = in_the_way(ground, work) if when == "now" else ()
        yield Offer(
            hash=one.hash,
            id=one.id,
            title=one.title,
            revision=one.revision,
            purpose=one.purpose,
            begins=one.begins,
            leaves=one.leaves,
            when=when,
            barriers=tuple(_barrier(ground, b) for b in barriers),
            pays=tuple(d.text for d in debts if d.to == one.id),
        )


def _in_order(condition: Condition | None, known: list[Known]) -> list[Known]:
    """Return procedures as they follow on each other from a condition; those that do not follow on come last."""
    found: list[Known] = []
    reached = [condition]
    for at in reached:
        for one in known:
            if one.begins == at and one not in found:
                found.append(one)
                if one.leaves is not None and one.leaves not in reached:
                    reached.append(one.leaves)
    return found + [one for one in known if one not in found]


def _barrier(ground: Ground, one: InTheWay) -> Barrier:
    return Barrier(
        why=one.why,
        joint=one.joint,
        label=ground.by_key[one.joint].label,
        stands=tuple(sorted(one.stands)),
        wanted=one.wanted,
        rule=one.rule,
        reason=one.reason,
        departable=may_be_departed(one),
    )


def next_up(ground: Ground, joints: Iterable[JointNow]) -> list[JointNow]:
    """Return the joints whose work is next: what is apart and can go on first, then what waits to be opened.

    A joint is not put back over another of the scope that would be barred by it and is still to be done.
    """
    every = list(joints)
    apart = {cylinder for j in every if not j.home for cylinder in ground.by_key[j.key].cylinders}
    listed = [j for j in every if not j.under_way and not j.done and (j.in_scope or not j.home) and _ready(j)]
    ready = [j for j in listed if not any(_would_bar(ground, j, other) for other in listed if other.in_scope)]

    def waits(joint: JointNow) -> bool:
        return joint.home and not ground.by_key[joint.key].cylinders & apart

    return sorted(ready, key=lambda j: (waits(j), not j.in_scope))


def _ready(joint: JointNow) -> Offer | None:
    return next((offer for offer in joint.offers if offer.when == "now" and not offer.barriers), None)


def _would_bar(ground: Ground, joint: JointNow, other: JointNow) -> bool:
    mine, theirs = _ready(joint), _ready(other)
    if joint.key == other.key or mine is None or theirs is None or mine.leaves is None:
        return False
    after = replace(ground, stands={**ground.stands, joint.key: Stand(frozenset({mine.leaves}))})
    work = Work(other.key, theirs.begins, theirs.leaves)
    return mine.purpose == "tighten" and any(o.joint == joint.key for o in in_the_way(after, work))
