"""Rules for fasteners that never go back: the new ones are asked for before anything is loaded."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Final

from jorvek.core.procedure.kinds import KINDS
from jorvek.core.procedure.steps import NewFastenersStep, RoundStep
from jorvek.core.procedure_check.finding import CheckFinding, error
from jorvek.core.procedure_check.reading import Reading, Rule


def new_ones(r: Reading) -> Iterator[CheckFinding]:
    """A group that is always new has a step that asks for the new ones before its first load."""
    if r.procedure.applies_to.purpose != "tighten":
        return
    for g, group in enumerate(r.procedure.fasteners):
        if group.reuse is None or group.reuse.rule != "always_new":
            continue
        rounds = [(i, step) for i, step in enumerate(r.procedure.steps) if isinstance(step, RoundStep)]
        loads = [i for i, step in rounds if KINDS[step.kind].evidence is not None and group in r.groups(step)]
        asked: set[str] = set()
        for i, step in r.of(NewFastenersStep):
            if not loads or i < loads[0]:
                asked |= set(r.procedure.orders[step.order].names())
        missing = [p.name for p in group.positions if p.name not in asked]
        if loads and missing:
            yield error("new_not_asked", ("fasteners", g, "reuse"), group=group.title, fasteners=", ".join(missing))


RULES: Final[tuple[Rule, ...]] = (new_ones,)
