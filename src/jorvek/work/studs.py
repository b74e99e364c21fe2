"""The studs of a joint over the years: what each measured when it was first taken."""

from __future__ import annotations

from typing import Final
from uuid import UUID

from jorvek.core.run.log.state import RunState
from jorvek.core.run.rules.studs import free_lengths, gone_at
from jorvek.core.run.views.labels import View
from jorvek.store.digests import Digest
from jorvek.work.workshop import Workshop


class StudLengths(View):
    """What a run says of the studs of its joint.

    Attributes:
        lengths: free length in mm at 20 °C, by name.
        gone: those that went out; what is measured under their name later is another stud.
    """

    lengths: dict[str, float]
    gone: tuple[str, ...]


def stud_lengths(_: UUID, state: RunState) -> StudLengths:
    """Return what a run says of the studs of its joint."""
    return StudLengths(lengths=free_lengths(state), gone=tuple(gone_at(state)))


_STUDS: Final = Digest("studs", StudLengths, stud_lengths)


def first_lengths(workshop: Workshop, engine_id: str, joint_key: str) -> dict[str, float]:
    """Return the first length in mm at 20 °C of each stud that sits in a joint, as far as runs have measured it."""
    rows = [row for row in workshop.registers.runs(engine_id) if row.joint_key == joint_key]
    digests, found = workshop.digests.of(_STUDS, rows), dict[str, float]()
    for row in sorted(rows, key=lambda row: (row.started_at, str(row.id))):
        said = digests[row.id]
        for name in said.gone:
            found.pop(name, None)
        found = {**said.lengths, **found}
    return found
