"""The fasteners of a joint over the years: first lengths and uses."""

from __future__ import annotations

from typing import Final, NamedTuple
from uuid import UUID

from jorvek.core.run.log.state import RunState
from jorvek.core.run.rules.studs import free_lengths, gone_at, uses_in
from jorvek.core.run.views.labels import View
from jorvek.store.run_summaries import RunSummary
from jorvek.work.workshop import Workshop


class StudLengths(View):
    """What a run says of the studs of its joint.

    Attributes:
        lengths: free length in mm at 20 °C, by name.
        uses: how often each was tightened in the run.
        gone: those that went out; what is measured under their name later is another stud.
    """

    lengths: dict[str, float]
    uses: dict[str, int]
    gone: tuple[str, ...]


def stud_lengths(_: UUID, state: RunState) -> StudLengths:
    """Return what a run says of the studs of its joint."""
    return StudLengths(lengths=free_lengths(state), uses=uses_in(state), gone=tuple(gone_at(state)))


_STUDS: Final = RunSummary("studs", StudLengths, stud_lengths)


def newest_of_stud(workshop: Workshop, engine_id: str, joint_key: str, name: str) -> tuple[UUID, str] | None:
    """Return the newest run that measured or tightened a fastener, and its name as it is written there.

    Where none did yet, the newest whose procedure has it; None where none has. ``name`` is folded to one case.
    """
    rows = [row for row in workshop.registers.runs(engine_id) if row.joint_key == joint_key]
    summaries = workshop.summaries.of(_STUDS, rows)
    for row in rows:
        for known in {**summaries[row.id].lengths, **summaries[row.id].uses}:
            if known.casefold() == name:
                return row.id, known
    for row in rows:
        for position in workshop.log.snapshot(row.id).state.definition.procedure.positions():
            if position.name.casefold() == name:
                return row.id, position.name
    return None


class StudHistory(NamedTuple):
    """What runs say of the fasteners that sit in a joint now, by name.

    Attributes:
        first_lengths: first length in mm at 20 °C of each stud that was measured.
        uses: how often each was tightened.
    """

    first_lengths: dict[str, float]
    uses: dict[str, int]


def stud_history(workshop: Workshop, engine_id: str, joint_key: str) -> StudHistory:
    """Return first lengths and uses of the fasteners that sit in a joint, as far as runs speak of them."""
    rows = [row for row in workshop.registers.runs(engine_id) if row.joint_key == joint_key]
    summaries = workshop.summaries.of(_STUDS, rows)
    lengths: dict[str, float] = {}
    uses: dict[str, int] = {}
    for row in sorted(rows, key=lambda row: (row.started_at, str(row.id))):
        said = summaries[row.id]
        for name in said.gone:
            lengths.pop(name, None)
            uses.pop(name, None)
        lengths = {**said.lengths, **lengths}
        uses = {name: uses.get(name, 0) + said.uses.get(name, 0) for name in {**uses, **said.uses}}
    return StudHistory(lengths, uses)
