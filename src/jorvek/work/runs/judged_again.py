"""Every reading of every run judged again by the present core."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from uuid import UUID

from jorvek.core import CORE_VERSION
from jorvek.core.refusal import Refusal
from jorvek.core.run.rules.judged_again import OtherJudgement, judged_again
from jorvek.work.workshop import Workshop


@dataclass(frozen=True)
class Judged:
    """A reading that the present core judges otherwise.

    Attributes:
        alarm: the same version of the core has judged it then: somebody else wrote that verdict.
    """

    run_id: UUID
    joint: str
    reading: OtherJudgement
    alarm: bool


def judged_otherwise(workshop: Workshop) -> Iterator[Judged]:
    """Yield every reading that would be judged otherwise now; runs that cannot be read are told elsewhere."""
    for row in workshop.registers.runs():
        try:
            state = workshop.log.snapshot(row.id).state
            events = [stored.event for stored in workshop.log.stored(row.id)]
            found = list(judged_again(state.definition, events))
        except (Refusal, ValueError, KeyError, TypeError):
            continue
        for one in found:
            yield Judged(row.id, state.started.joint_label, one, one.core_version == CORE_VERSION)
