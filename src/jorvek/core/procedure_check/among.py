"""Rules that need the library: what is carried on is paid back there, and no two documents contradict each other."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from functools import cache
from typing import Final

from jorvek.core.metal.chain import follows, gaps
from jorvek.core.procedure.document import Procedure
from jorvek.core.procedure.fasteners import FastenerGroup
from jorvek.core.procedure.kinds import SETTLED_BY
from jorvek.core.procedure.measure import Measure
from jorvek.core.procedure.parts import Item
from jorvek.core.procedure.references import BEFORE
from jorvek.core.procedure.steps import DisturbStep, MakeSafeStep, PutRightStep, RestoreStep, RoundStep, Step
from jorvek.core.procedure.steps.debts import Owing, Settling
from jorvek.core.procedure_check import check
from jorvek.core.procedure_check.finding import CheckFinding, Path, Severity, error


@dataclass(frozen=True)
class Others:
    """The other procedures of a library.

    Attributes:
        here: drafts and approved ones; something may be carried on to them.
        approved: those that work is done by.
    """

    here: tuple[Procedure, ...]
    approved: tuple[Procedure, ...]


def check_with(procedure: Procedure, others: Others | None) -> list[CheckFinding]:
    """Return what speaks against a procedure by itself, and beside the others where they are known; errors first."""
    found = [*check(procedure), *(() if others is None else beside(procedure, others))]
    return sorted(found, key=lambda f: tuple(Severity).index(f.severity))


def beside(procedure: Procedure, others: Others) -> Iterator[CheckFinding]:
    """Yield what speaks against a procedure beside the others alone."""
    yield from _carried_on(procedure, others.here)
    yield from _undone(procedure, others.here)
    yield from _paid_for_nothing(procedure, others.here)
    yield from _contradictions(procedure, others.approved)
    yield from _chained(procedure, others.here)


def _chained(p: Procedure, here: Sequence[Procedure]) -> Iterator[CheckFinding]:
    """What was left by the procedure before is what this one begins with."""
    before = [other for other in here if follows(other, p)]
    found = [(other, gaps(other, p)) for other in before]
    # One of several that lead here is enough: a revision, or another way of doing it.
    if found and all(gap for _, gap in found):
        other, missed = min(found, key=lambda pair: len(pair[1]))
        for gap in missed:
            shown = {"left": gap.left.replace("_", " "), "expected": gap.expected.replace("_", " ")}
            yield error("chain_gap", ("from",), part=gap.part, document=other.id, **shown)


def _carried_on(p: Procedure, here: Sequence[Procedure]) -> Iterator[CheckFinding]:
    for i, step in enumerate(p.steps):
        if not isinstance(step, Owing | MakeSafeStep) or step.carried_to is None:
            continue
        path: Path = ("steps", i, "carried_to")
        named = [other for other in here if other.id == step.carried_to]
        if not named:
            yield error("procedure_not_here", path, name=step.carried_to, step=step.title)
        elif not any(_unpaid(step, other) == [] for other in named):
            left = min((_unpaid(step, other) for other in named), key=len)
            yield error("debt_not_paid", path, name=step.carried_to, points="; ".join(item.text for item in left))
        elif isinstance(step, DisturbStep) and step.effort is not None:
            by = [s for other in named for s in _pays(step, other) if s.effort != step.effort]
            if by:
                yield error("put_right_without_pull", path, step=by[0].title, disturbed=step.title)


def _pays(step: DisturbStep, other: Procedure) -> list[PutRightStep]:
    """Return what puts a step's points right in a later procedure."""
    points = {item.id for item in step.items}
    return [
        s
        for s in other.steps
        if isinstance(s, PutRightStep) and s.of == BEFORE and points & {item.id for item in s.items}
    ]


def _unpaid(step: Owing | MakeSafeStep, other: Procedure) -> list[Item]:
    """Return the points of a step that a later procedure neither puts right nor carries on."""
    kind = "restore" if isinstance(step, MakeSafeStep) else SETTLED_BY[step.kind]
    paid = {
        item.id
        for s in other.steps
        if isinstance(s, RestoreStep | Settling) and s.kind == kind and s.of == BEFORE
        for item in s.items
    }
    return [item for item in step.items if item.id not in paid]


def _paid_for_nothing(p: Procedure, here: Sequence[Procedure]) -> Iterator[CheckFinding]:
    """What is put back here was taken off by a procedure that says so."""
    owed = {
        (SETTLED_BY[s.kind], item.id)
        for other in here
        for s in other.steps
        if isinstance(s, Owing) and s.carried_to == p.id
        for item in s.items
    }
    for i, step in enumerate(p.steps):
        if isinstance(step, Settling) and step.of == BEFORE and p.parts:
            missed = [item.text for item in step.items if (step.kind, item.id) not in owed]
            if missed:
                yield error("paid_for_nothing", ("steps", i), step=step.title, points="; ".join(missed))


def _undone(p: Procedure, here: Sequence[Procedure]) -> Iterator[CheckFinding]:
    name = p.applies_to.undone_by
    if name is None:
        return
    path: Path = ("applies_to", "undone_by")
    named = [other.applies_to for other in here if other.id == name]
    if not named:
        yield error("procedure_not_here", path, name=name, step=p.title)
    elif not any(
        a.purpose == "loosen" and a.joint is p.applies_to.joint and a.engine_type == p.applies_to.engine_type
        for a in named
    ):
        yield error("undoes_another", path, name=name)


_STATED: Final = (
    "angle",
    "back_off",
    "blade",
    "ceiling",
    "check_at",
    "expected",
    "growth_limit",
    "hold",
    "pressure",
    "target",
    "torque",
    "turn_back",
    "turns",
    "at_least",
)
"""Fields of steps on which two documents for one joint must agree."""
_GEOMETRY: Final = ("yield_strength", "modulus", "nut_height", "free_above_nut", "free_length")

Fact = tuple[str, ...]


def _contradictions(p: Procedure, approved: Sequence[Procedure]) -> Iterator[CheckFinding]:
    mine, told = _context(p), set[tuple[Path, str, str]]()
    for other in approved:
        if other.id == p.id or not _for_one_joint(p, other):
            continue
        theirs = _context(other)
        for fact, (path, values) in mine.items():
            beside = theirs[fact][1] if fact in theirs else values
            # Two approved revisions of one document say the same of it once.
            if not values.keys() & beside.keys() and (path, fact[1], other.id) not in told:
                told.add((path, fact[1], other.id))
                said = {"mine": ", ".join(values.values()), "theirs": ", ".join(beside.values())}
                yield error("contradicts", path, field=fact[0], group=fact[1], name=other.id, **said)


def _for_one_joint(one: Procedure, other: Procedure) -> bool:
    """Tell whether some engine could have both documents: no variant key keeps them apart."""
    a, b = one.applies_to, other.applies_to
    keys = {v.id: set(v.values) for v in other.variants if v.values}
    apart = any(v.values and v.id in keys and not keys[v.id] & set(v.values) for v in one.variants)
    return a.engine_type == b.engine_type and a.joint is b.joint and not apart


def _context(p: Procedure) -> dict[Fact, tuple[Path, dict[float, str]]]:
    """Return what a document states of each fastener group, by value, with the place where it first says so."""
    found: dict[Fact, tuple[Path, dict[float, str]]] = {}

    def note(fact: Fact, path: Path, value: object) -> None:
        if isinstance(value, Measure):
            found.setdefault(fact, (path, {}))[1].setdefault(round(value.value, 9), value.shown)

    for k, group in enumerate(p.fasteners):
        for field in _GEOMETRY:
            note((field, group.title), ("fasteners", k, field), getattr(group, field))
    for i, step in enumerate(p.steps):
        stated = _stated_in(type(step))
        what = (step.kind, p.applies_to.purpose, str(getattr(step, "direction", "")))
        for title in _titles(p, step) if stated else ():
            for field in stated:
                note((field, title, *what), ("steps", i, field), getattr(step, field))
    return found


@cache
def _stated_in(kind: type[Step]) -> tuple[str, ...]:
    """Return which of the fields steps of a kind have; asking each step for each takes most of a check's time."""
    return tuple(field for field in _STATED if field in kind.model_fields or hasattr(kind, field))


def _titles(p: Procedure, step: Step) -> list[str]:
    """Return the fastener groups that a step is about: those it goes round, or those its tools pull."""
    groups: list[FastenerGroup] = list(p.fasteners)
    tools = getattr(step, "tools", None)
    if isinstance(step, RoundStep):
        names = set(p.orders[step.order].names())
        groups = [g for g in groups if any(spot.name in names for spot in g.positions)]
    elif isinstance(tools, str):
        pulled = {t.group for t in p.tensioners if t.role == tools}
        groups = [g for g in groups if g.id in pulled]
    return [g.title for g in groups]
