"""What stands in the way of work on a joint, by the sheet of its engine: the one place where joints are weighed."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field
from functools import cached_property
from typing import Literal

from jorvek.core.engine.layout import Engine, JointPlace, joints_of
from jorvek.core.procedure.metal_parts import Condition
from jorvek.core.sheet.document import EngineSheet, Needs, Never, Standing, Unless, WorkOn
from jorvek.core.sheet.relations import related


@dataclass(frozen=True)
class Work:
    """Work on one joint.

    Attributes:
        joint: key of the joint.
        begins: condition in which it begins; None where the document does not say.
        leaves: condition in which it leaves the joint; None where the document does not say.
        chosen: how its options are chosen.
    """

    joint: str
    begins: Condition | None
    leaves: Condition | None
    chosen: Mapping[str, str] = field(default_factory=dict)


@dataclass(frozen=True)
class Stand:
    """What is known of a joint.

    Attributes:
        may_be: conditions it may be in: one, or several while somebody works on it; none where nobody knows.
        work: what is being done on it.
        gates_bad: a gate measured on it in this overhaul is not good, or not whole.
    """

    may_be: frozenset[Condition] = frozenset()
    work: Work | None = None
    gates_bad: bool = False


@dataclass(frozen=True)
class InTheWay:
    """One thing that stands in the way.

    Attributes:
        why: its own condition; a rule of the sheet, of a joint that rests or on which work is under way; a gate; a
            joint of which nobody knows; work under way that relies on this joint.
        joint: key of the joint that stands in the way.
        stands: conditions in which that one may be.
        wanted: conditions in which it would be out of the way.
        rule: name of the rule; None for the joint's own condition.
        reason: the rule's reason in words.
        hurts: people are hurt: no departure.
    """

    why: Literal["own_condition", "rule", "under_way", "gate", "unknown", "relied_on"]
    joint: str
    stands: frozenset[Condition]
    wanted: tuple[Condition, ...]
    rule: str | None = None
    reason: str = ""
    hurts: bool = False


_UNKNOWN = Stand()


@dataclass(frozen=True)
class Ground:
    """An engine as far as access is concerned.

    Attributes:
        engine: the engine.
        sheet: its sheet.
        stands: what is known of each joint, by key.
        idle: what makes rules idle now.
    """

    engine: Engine
    sheet: EngineSheet
    stands: Mapping[str, Stand]
    idle: frozenset[Unless] = frozenset()

    @cached_property
    def places(self) -> list[JointPlace]:
        """All joints of the engine."""
        return joints_of(self.engine, self.sheet.joints)

    @cached_property
    def by_key(self) -> dict[str, JointPlace]:
        """All joints by key."""
        return {place.key: place for place in self.places}

    def stand(self, joint: str) -> Stand:
        """Return what is known of a joint."""
        return self.stands.get(joint, _UNKNOWN)

    def path(self, work: Work) -> tuple[Condition, ...]:
        """Return every condition that work takes its joint through; all of them where its document does not say."""
        ladder = self.sheet.ladders.get(self.by_key[work.joint].kind)
        if ladder is None:
            return ()
        if work.begins is None or work.leaves is None:
            return ladder.conditions
        return ladder.path(work.begins, work.leaves)


def in_the_way(ground: Ground, work: Work) -> tuple[InTheWay, ...]:
    """Return everything that stands in the way of beginning work, its own condition first."""
    found = (
        *_own_condition(ground, work),
        *(o for rule in ground.sheet.never if not ground.idle & set(rule.unless) for o in _never(ground, work, rule)),
        *(o for rule in ground.sheet.needs if not ground.idle & set(rule.unless) for o in _needs(ground, work, rule)),
        *_relied_on(ground, work),
    )
    return tuple({(o.joint, o.rule, o.why): o for o in found}.values())


def standing_together(ground: Ground) -> Iterator[tuple[str, str, Never]]:
    """Yield every pair of joints that stand together as they never may, each once, with the rule."""
    for rule in ground.sheet.never:
        if ground.idle & set(rule.unless):
            continue
        for place in ground.places:
            if place.kind is not rule.one.joint or not ground.stand(place.key).may_be & set(rule.one.in_):
                continue
            for other in related(ground.engine, place, rule.other.joint, rule.of, ground.places):
                once = rule.one.joint is not rule.other.joint or place.key < other.key
                if once and ground.stand(other.key).may_be & set(rule.other.in_):
                    yield place.key, other.key, rule


def _own_condition(ground: Ground, work: Work) -> Iterator[InTheWay]:
    stands = ground.stand(work.joint).may_be
    if work.begins is not None and stands != {work.begins}:
        yield InTheWay("own_condition" if stands else "unknown", work.joint, stands, (work.begins,))


def _never(ground: Ground, work: Work, rule: Never) -> Iterator[InTheWay]:
    place = ground.by_key[work.joint]
    path = set(ground.path(work))
    for mine, theirs in ((rule.one, rule.other), (rule.other, rule.one)):
        if place.kind is mine.joint and path & set(mine.in_):
            for other in related(ground.engine, place, theirs.joint, rule.of, ground.places):
                yield from _stands_otherwise(ground, other, _allowed(ground, theirs), rule)


def _allowed(ground: Ground, forbidden: Standing) -> tuple[Condition, ...]:
    ladder = ground.sheet.ladders.get(forbidden.joint)
    return tuple(c for c in (ladder.conditions if ladder else ()) if c not in forbidden.in_)


def _needs(ground: Ground, work: Work, rule: Needs) -> Iterator[InTheWay]:
    place = ground.by_key[work.joint]
    if not _is_about(ground, rule.work, work):
        return
    for other in related(ground.engine, place, rule.other.joint, rule.of, ground.places):
        yield from _stands_otherwise(ground, other, rule.other.in_, rule)
        stand = ground.stand(other.key)
        if rule.gates and stand.gates_bad:
            yield InTheWay("gate", other.key, stand.may_be, (), rule.id, rule.reason, rule.hurts)


def _is_about(ground: Ground, about: WorkOn, work: Work) -> bool:
    """Tell whether a rule is about some work; where the document does not say, it may be."""
    if ground.by_key[work.joint].kind is not about.joint:
        return False
    begins = not about.begins or work.begins is None or work.begins in about.begins
    leaves = not about.leaves or work.leaves is None or work.leaves in about.leaves
    return begins and leaves and all(work.chosen.get(k) in v for k, v in about.chosen.items())


def _stands_otherwise(
    ground: Ground, other: JointPlace, wanted: tuple[Condition, ...], rule: Never | Needs
) -> Iterator[InTheWay]:
    stand = ground.stand(other.key)
    if not stand.may_be:
        yield InTheWay("unknown", other.key, stand.may_be, wanted, rule.id, rule.reason, rule.hurts)
    elif not stand.may_be <= set(wanted):
        why: Literal["rule", "under_way"] = "rule" if stand.work is None else "under_way"
        yield InTheWay(why, other.key, stand.may_be, wanted, rule.id, rule.reason, rule.hurts)


def _relied_on(ground: Ground, work: Work) -> Iterator[InTheWay]:
    """Yield the work under way that needs this joint to stay as it is."""
    place, path = ground.by_key[work.joint], set(ground.path(work))
    for key, stand in ground.stands.items():
        if stand.work is None or key == work.joint or key not in ground.by_key:
            continue
        for rule in ground.sheet.needs:
            if rule.other.joint is not place.kind or not _is_about(ground, rule.work, stand.work):
                continue
            meant = related(ground.engine, ground.by_key[key], place.kind, rule.of, ground.places)
            if place in meant and not path <= set(rule.other.in_):
                yield InTheWay("relied_on", key, stand.may_be, (), rule.id, rule.reason, rule.hurts)
