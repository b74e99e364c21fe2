"""Rules for what would fall, and for joints held from two directions."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Final

from jorvek.core.engine.layout import JointKind
from jorvek.core.procedure.fasteners import FastenerGroup, Hanging
from jorvek.core.procedure.kinds import KINDS
from jorvek.core.procedure.options import applies
from jorvek.core.procedure.parts import Establishes
from jorvek.core.procedure.steps import (
    AttitudeStep,
    ConfirmStep,
    MakeSafeStep,
    NutsOffStep,
    RoundStep,
    SupportStep,
    TemporaryOffStep,
    TemporaryOnStep,
)
from jorvek.core.procedure_check.finding import CheckFinding, error, warning
from jorvek.core.procedure_check.reading import Reading, Rule

_BIG_ENDS: Final = (JointKind.ROD, JointKind.CRANKPIN)
_LETS_GO: Final = ("loosen_angle", "loosen_pressure", "full_release")


def carriers(r: Reading, i: int, part: str, alone: bool) -> int:
    """Return how many carriers hold a part when a step begins.

    Args:
        r: one way through the procedure.
        i: place of the step.
        part: what hangs.
        alone: it is the only part that hangs there, so that a carrier which names none carries it.
    """
    count = 0
    for k, step in r.steps:
        if k >= i:
            break
        # A support that only looks at what was fitted before is no second carrier.
        if isinstance(step, SupportStep) and step.does != "look" and _same(step.carries, part):
            count += step.carriers
        if isinstance(step, TemporaryOnStep) and step.carries_part and _carries(step, part, alone):
            count += len(step.items)
        if isinstance(step, TemporaryOffStep):
            count -= _let_go(r, step, part, alone)
    return count


def _let_go(r: Reading, off: TemporaryOffStep, part: str, alone: bool) -> int:
    on = next((s for _, s in r.of(TemporaryOnStep) if s.id == off.of), None)
    gone = on is not None and on.carries_part and _carries(on, part, alone)
    return len(off.items) if gone else 0


def _carries(step: TemporaryOnStep, part: str, alone: bool) -> bool:
    return alone if step.carries is None else _same(step.carries, part)


def _same(one: str, other: str) -> bool:
    return one.casefold() == other.casefold()


def support(r: Reading) -> Iterator[CheckFinding]:
    """Before the last nut every part that would fall has all its carriers."""
    for i, off in r.of(NutsOffStep):
        # On its back the engine carries its own caps.
        lies = [s.attitude for k, s in r.of(AttitudeStep) if k < i]
        if lies[-1:] == ["inverted"]:
            continue
        for group in r.groups(off):
            hanging = _hanging(r, group)
            yield from _carried(r, i, hanging)
            if r.procedure.applies_to.joint in _BIG_ENDS and len(hanging) == 1:
                yield warning("other_half_unstated", ("steps", i), part=hanging[0].part)


def _hanging(r: Reading, group: FastenerGroup) -> tuple[Hanging, ...]:
    """Return every part that would fall when the last fastener of a group is out."""
    stated = tuple(one for one in group.hangs if applies(one.only, r.selection))
    short = group.holds is not None and not any(_same(one.part, group.holds) for one in stated)
    return (*((Hanging(part=group.holds),) if short and group.holds else ()), *stated)


def _carried(r: Reading, i: int, hanging: tuple[Hanging, ...]) -> Iterator[CheckFinding]:
    for one in hanging:
        if one.rests is not None:
            continue
        have = carriers(r, i, one.part, alone=len(hanging) == 1)
        if have == 0:
            yield error("last_nut_before_support", ("steps", i), part=one.part)
        elif have < one.carriers:
            yield error("too_few_carriers", ("steps", i), part=one.part, have=have, want=one.carriers)


def let_go_first(r: Reading) -> Iterator[CheckFinding]:
    """A loaded fastener is let go before it is taken out."""
    if not r.loosens:
        return
    free: set[str] = set()
    for i, step in r.steps:
        if step.kind in _LETS_GO and isinstance(step, RoundStep):
            free |= set(r.names(step))
        if isinstance(step, NutsOffStep):
            held = [name for name in r.names(step) if name not in free]
            if held:
                yield error("off_before_let_go", ("steps", i), names=", ".join(held))


def two_directions(r: Reading) -> Iterator[CheckFinding]:
    """Side bolts are let go first; they are seated before the cap is pulled and tightened after it."""
    side = [g for g in r.procedure.fasteners if g.acts == "sideways"]
    cap = [g for g in r.procedure.fasteners if g.acts != "sideways"]
    if r.procedure.applies_to.joint is JointKind.MAIN and len(r.procedure.fasteners) > 1 and not side:
        yield warning("side_unstated", ("fasteners",), groups=", ".join(g.title for g in cap))
    if side and cap:
        yield from (_let_go_order if r.loosens else _tightened_order)(r, side, cap)


def _at(r: Reading, groups: list[FastenerGroup], kinds: tuple[str, ...]) -> list[tuple[int, RoundStep]]:
    wanted = {g.id for g in groups}
    rounds = [(i, s) for i, s in r.kinds(*kinds) if isinstance(s, RoundStep)]
    return [(i, s) for i, s in rounds if wanted & {g.id for g in r.groups(s)}]


def _let_go_order(r: Reading, side: list[FastenerGroup], cap: list[FastenerGroup]) -> Iterator[CheckFinding]:
    first = min((i for i, _ in _at(r, cap, _LETS_GO)), default=None)
    if first is None:
        return
    for group in side:
        before = {name for i, s in _at(r, [group], _LETS_GO) if i < first for name in r.names(s)}
        if {spot.name for spot in group.positions} - before:
            yield error("cap_let_go_before_side", ("steps", first), side=group.title, cap=cap[0].title)


_LOADS: Final = ("torque", "angle", "tension")


def _tightened_order(r: Reading, side: list[FastenerGroup], cap: list[FastenerGroup]) -> Iterator[CheckFinding]:
    # A trial assembly that is released again is not the joint that stays.
    released = max((i for i, _ in _at(r, cap, ("full_release", "nuts_off"))), default=-1)
    pulled = [i for i, _ in _at(r, cap, _LOADS) if i > released]
    if not pulled:
        return
    for group in side:
        loads = [i for i, _ in _at(r, [group], _LOADS) if i > released]
        if loads and min(loads) > pulled[0]:
            yield warning("side_not_seated", ("steps", pulled[0]), side=group.title, cap=cap[0].title)
        early = _before(r, group, loads, pulled[-1])
        if early is not None:
            yield error("side_tight_before_cap", ("steps", early), side=group.title, cap=cap[0].title)


def _before(r: Reading, group: FastenerGroup, loads: list[int], last: int) -> int | None:
    """Return the last load of a side bolt that comes before the cap's last; None when each has one after it."""
    for spot in group.positions:
        mine = [i for i in loads if spot.name in r.names(r.procedure.steps[i])]  # type: ignore[arg-type]  # rounds
        if mine and max(mine) < last:
            return max(mine)
    return None


def neighbours(r: Reading) -> Iterator[CheckFinding]:
    """Before a main bearing is opened somebody looks that the ones beside it are shut."""
    if r.procedure.applies_to.joint is not JointKind.MAIN or not r.loosens:
        return
    first = next((i for i, s in r.steps if KINDS[s.kind].load == "takes"), None)
    if first is None:
        return
    before = [s for i, s in r.steps if i < first and isinstance(s, ConfirmStep | MakeSafeStep)]
    if not any(item.establishes is Establishes.NEIGHBOURS_SHUT for step in before for item in step.items):
        yield error("neighbours_not_asked", ("steps", first), step=r.procedure.steps[first].title)


RULES: Final[tuple[Rule, ...]] = (support, let_go_first, two_directions, neighbours)
