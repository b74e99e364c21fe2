"""What one run says to the others: causes carried to joints of the same kind, fasteners refused everywhere."""

from __future__ import annotations

from typing import Final
from uuid import UUID, uuid5

from jorvek.core.engine.layout import joints_of
from jorvek.core.run.log.commands import AskSister, NameCause
from jorvek.core.run.log.state import RunState
from jorvek.core.run.rules import same_kind_joints
from jorvek.core.run.rules.rejected import rejected_in
from jorvek.core.run.views.labels import View
from jorvek.store.eventlog import Stamp
from jorvek.store.run_summaries import RunSummary
from jorvek.store.runindex import RunRow
from jorvek.work.workshop import Workshop


class RejectedPieces(View):
    """The marks of the fasteners that stand rejected in a run, each with where that was."""

    marks: dict[str, str]


REJECTED: Final = RunSummary("rejected", RejectedPieces, lambda _, state: RejectedPieces(marks=rejected_in(state)))


def rejected_pieces(workshop: Workshop) -> dict[str, str]:
    """Return the marks of all fasteners that stand rejected anywhere, and where each was."""
    found: dict[str, str] = {}
    for digest in workshop.summaries.of(REJECTED, workshop.registers.runs()).values():
        found |= digest.marks
    return found


def ask_same_kind_joints(workshop: Workshop, run_id: UUID, state: RunState, command: NameCause, stamp: Stamp) -> None:
    """Open the check of a cell again on every joint of the same kind that has made it, closed or not.

    Belongs in one transaction with the cause itself, under the engine's lock: a check that is made meanwhile
    waits, and is either asked about or made by somebody who could know.

    Args:
        workshop: the workshop.
        run_id: the run in which the cause was found.
        state: it, with the cause.
        command: what was said; each question has an id made from its own, so that it is asked once.
        stamp: who, and when.
    """
    cell = state.definition.by_key[command.cell]
    for row in _sister_runs(workshop, run_id):
        if not same_kind_joints.concerns(workshop.log.snapshot(row.id).state, cell.key, cell.kind):
            continue
        question = AskSister(
            id=uuid5(command.id, str(row.id)),
            tablet_at=command.tablet_at,
            origin=run_id,
            joint=state.started.joint_label,
            cell=cell.key,
            cause=command.cause,
        )
        # The default binds the question of this round.
        workshop.log.append(row.id, question, stamp, lambda other, q=question: same_kind_joints.ask(other, q))  # type: ignore[misc]  # bound now


def _sister_runs(workshop: Workshop, run_id: UUID) -> list[RunRow]:
    """Return the newest run of every procedure on the other joints of the same kind of the engine."""
    rows = workshop.registers.runs()
    mine = next(row for row in rows if row.id == run_id)
    engine = next(e for e in workshop.registers.engines() if e.id == mine.engine_id)
    kinds = {joint.key: joint.kind for joint in joints_of(engine)}
    newest: dict[tuple[str, str], RunRow] = {}
    for row in rows:
        same = row.engine_id == mine.engine_id and kinds.get(row.joint_key) is kinds.get(mine.joint_key)
        if same and row.joint_key != mine.joint_key:
            newest.setdefault((row.joint_key, row.procedure_hash), row)
    return list(newest.values())
