"""The procedure check: a document read against physics and good practice before anybody touches the engine."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Final

from jorvek.core.procedure.document import Procedure
from jorvek.core.procedure.options import selections
from jorvek.core.procedure_check import (
    hanging,
    instruments,
    interacting,
    isolating,
    metal,
    renewal,
    sequence,
    strip,
    tensioned,
    turned,
    whole,
)
from jorvek.core.procedure_check.finding import CheckFinding, Severity, error
from jorvek.core.procedure_check.reading import Reading, Rule
from jorvek.core.refusal import Refusal

RULES: Final = (
    *sequence.RULES,
    *hanging.RULES,
    *strip.RULES,
    *interacting.RULES,
    *tensioned.RULES,
    *turned.RULES,
    *renewal.RULES,
    *metal.RULES,
    *instruments.RULES,
    *isolating.RULES,
    *whole.RULES,
)


def check(procedure: Procedure) -> tuple[CheckFinding, ...]:
    """Return everything that speaks against a procedure, errors first, in the order of the document.

    Every way of choosing the options is looked at; what is found in several is said once.

    Args:
        procedure: a document that can be read and reckoned with.
    """
    found: dict[tuple[str, tuple[str | int, ...]], CheckFinding] = {}
    readings = [Reading(procedure, selection) for selection in selections(procedure)]
    if not readings:
        found[("options_impossible", ("options",))] = error("options_impossible", ("options",), title=procedure.title)
    for reading in readings:
        for rule in RULES:
            for finding in _run(rule, reading):
                found.setdefault((finding.code, finding.path), finding)
    for finding in _unreachable(procedure, readings):
        found[(finding.code, finding.path)] = finding
    return tuple(
        sorted(found.values(), key=lambda f: (tuple(Severity).index(f.severity), [str(p).zfill(4) for p in f.path]))
    )


def _unreachable(procedure: Procedure, readings: list[Reading]) -> Iterator[CheckFinding]:
    reached = {i for reading in readings for i, _ in reading.steps}
    for i, step in enumerate(procedure.steps):
        if i not in reached and readings:
            yield error("step_unreachable", ("steps", i, "only"), step=step.title)


def _run(rule: Rule, reading: Reading) -> Iterator[CheckFinding]:
    """Run a rule; a number that cannot be reckoned with is a finding, not an end."""
    try:
        yield from rule(reading)
    except Refusal as refusal:
        yield error("cannot_reckon", (), name=str(refusal.params.get("name")), got=str(refusal.params.get("got")))


__all__ = ["RULES", "CheckFinding", "Severity", "check"]
