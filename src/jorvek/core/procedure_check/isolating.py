"""What makes an engine safe, whole; and given back in the order in which nobody is hurt."""

from __future__ import annotations

from collections.abc import Iterator
from itertools import pairwise
from typing import Final, get_args

from jorvek.core.procedure.parts import Isolation
from jorvek.core.procedure.steps import MakeSafeStep, RestoreStep
from jorvek.core.procedure_check.finding import CheckFinding, error
from jorvek.core.procedure_check.reading import Reading, Rule

_ALWAYS: Final[tuple[Isolation, ...]] = ("starting_air", "remote_start", "turning_gear", "cocks", "fuel", "signs")
"""What no engine is opened without."""
_RANK: Final[dict[str, int]] = {name: k for k, name in enumerate(get_args(Isolation))}
_PROVES: Final[tuple[Isolation, ...]] = ("people", "doors", "barred", "blown_through")
"""What restoring has beside what making safe had."""


def whole(r: Reading) -> Iterator[CheckFinding]:
    """Everything that could start, turn or feed the engine is shut off."""
    for i, step in r.of(MakeSafeStep):
        shut = {item.isolates for item in step.items}
        # A document that does not say what its points shut off is read by people alone.
        missing = [name for name in _ALWAYS if name not in shut]
        if shut != {None} and missing:
            yield error("isolation_missing", ("steps", i), missing=", ".join(n.replace("_", " ") for n in missing))


def given_back(r: Reading) -> Iterator[CheckFinding]:
    """People and tools first, signs last; and what proves it on the way."""
    given: set[Isolation] = set()
    for i, step in r.of(RestoreStep):
        stated = [(k, item.isolates) for k, item in enumerate(step.items) if item.isolates is not None]
        given |= {name for _, name in stated}
        for (_, before), (k, name) in pairwise(stated):
            if _RANK[name] < _RANK[before]:
                words = {"first": name.replace("_", " "), "then": before.replace("_", " ")}
                yield error("given_back_out_of_order", ("steps", i, "items", k), **words)
        missing = [name for name in _PROVES if name not in given]
        if {"starting_air", "signs"} & given and missing:
            yield error("given_back_unproved", ("steps", i), missing=", ".join(n.replace("_", " ") for n in missing))


RULES: Final[tuple[Rule, ...]] = (whole, given_back)
