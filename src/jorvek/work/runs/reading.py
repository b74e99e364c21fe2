"""Reading a run: the Bench for whoever looks, work without a link, the record, paper, the scope of a redo."""

from __future__ import annotations

from dataclasses import replace
from datetime import datetime
from uuid import UUID

import structlog

from jorvek.core.refusal import Refusal
from jorvek.core.run.log.commands import (
    Command,
    RecordReading,
    StrikeReading,
)
from jorvek.core.run.rules.authorization import barred
from jorvek.core.run.rules.dangers import stays_free
from jorvek.core.run.rules.judge import waits_for_engine
from jorvek.core.run.rules.progress import next_call, open_cells
from jorvek.core.run.rules.redo import redo_scope
from jorvek.core.run.views.bench import BenchView, bench_view
from jorvek.core.run.views.hand_over import HandOver, hand_over
from jorvek.core.run.views.labels import View
from jorvek.core.run.views.looking import Looking
from jorvek.core.run.views.offline_tasks import Ahead, offline_tasks
from jorvek.core.run.views.plain import plain_bench
from jorvek.core.run.views.record import BroughtIn, RunRecord, record_of
from jorvek.core.run.views.work_sheet import PaperLine, paper_lines
from jorvek.messages import speaking
from jorvek.store.people import PersonRow
from jorvek.store.runlog import Snapshot
from jorvek.work.engine.overhauls import stood_now
from jorvek.work.runs.changes import Change, Written, written
from jorvek.work.workshop import Workshop

_log = structlog.get_logger()


class BenchAnswer(View):
    """The Bench of a run, whole or as what has changed, and the server's time when it was made.

    Attributes:
        version: of the view.
        view: the whole view; None where ``changes`` lead to it.
        base: the version that ``changes`` build on; None with a whole view.
        changes: what has changed since then; None with a whole view.
        ahead: what may be done without a link; None when the command only filled or struck a
            call of the same stage, which the tablet knows already.
    """

    now: datetime
    version: str
    view: BenchView | None
    base: str | None
    changes: tuple[Change, ...] | None
    ahead: Ahead | None


def bench(
    workshop: Workshop,
    member: PersonRow,
    run_id: UUID,
    snapshot: Snapshot | None = None,
    after: Command | None = None,
    knows: str | None = None,
) -> str:
    """Return the Bench of a run for whoever looks, as the JSON text of a ``BenchAnswer``: a view is written out once.

    Args:
        workshop: the workshop.
        member: who looks.
        run_id: the run.
        snapshot: the run as an act has just left it; as it stands when None.
        after: the command that led there.
        knows: version of the view that the tablet shows.

    Raises:
        Refusal: ``no_such_run``.
    """
    found = snapshot if snapshot is not None else workshop.log.snapshot(run_id)
    offline = ahead(workshop, member, found, after)
    shown = written(view(workshop, member, run_id, found))
    changed = _changed(workshop, run_id, knows, shown)
    answer = BenchAnswer(
        now=workshop.clock(),
        version=workshop.sent_views.keep(shown),
        view=None,
        base=knows if changed is not None else None,
        changes=changed,
        ahead=offline,
    ).model_dump_json()
    # Nothing that stands before it can hold this text: a moment and a version.
    return answer if changed is not None else answer.replace('"view":null', f'"view":{shown.text}', 1)


def _changed(workshop: Workshop, run_id: UUID, knows: str | None, shown: Written) -> tuple[Change, ...] | None:
    """Return what has changed since a version of the view; None where the whole view is sent.

    The act is stored by now: a comparison that fails is logged as a fault, and the view goes out whole.
    """
    try:
        return workshop.sent_views.since(knows, shown)
    except Exception:
        _log.exception("views_not_compared", run_id=str(run_id))
        return None


def _looking(workshop: Workshop, member: PersonRow) -> Looking:
    return Looking(member.id, member.role, workshop.clock(), member.units, speaking.get())


def who_may_answer(workshop: Workshop, run_id: UUID, cell: str) -> list[PersonRow]:
    """Return the people who may answer a call; shown to somebody who may not.

    Raises:
        Refusal: ``no_such_run``, ``no_such_cell``.
    """
    state = workshop.log.snapshot(run_id).state
    asked = state.definition.by_key.get(cell)
    if asked is None:
        raise Refusal("no_such_cell", cell=cell)
    return [p for p in workshop.registers.people() if barred(state, asked, p.id, p.role) is None]


def view(workshop: Workshop, member: PersonRow, run_id: UUID, snapshot: Snapshot) -> BenchView:
    """Return the Bench of a run for the one who looks.

    What is stored is stored: a Bench that cannot be worked out is a fault of the program, logged as one, and
    never an answer that the act was refused.
    """
    looking = _looking(workshop, member)
    try:
        if any(waits_for_engine(snapshot.state, cell) for cell in open_cells(snapshot.state)):
            looking = replace(looking, stood=stood_now(workshop, snapshot.state.started.engine.id))
        return bench_view(run_id, snapshot.state, looking)
    except Exception as error:
        _log.exception("bench_not_shown", run_id=str(run_id), seq=snapshot.state.seq)
        return plain_bench(run_id, snapshot.state, looking, type(error).__name__)


def ahead(workshop: Workshop, member: PersonRow, snapshot: Snapshot, after: Command | None = None) -> Ahead | None:
    """Return what a person may do on a run without a link.

    Args:
        workshop: the workshop.
        member: who asks.
        snapshot: the run as it stands.
        after: the command that led here; None is returned when it filled or struck a cell of the present
            stage, because the tablet knows that stage already.
    """
    if isinstance(after, RecordReading | StrikeReading) and (now := next_call(snapshot.state)) is not None:
        touched = snapshot.state.definition.by_key.get(after.cell)
        if touched is not None and touched.step == now.step:
            return None
    try:
        return offline_tasks(snapshot.state, _looking(workshop, member))
    except Exception:
        _log.exception("offline_tasks_not_made", seq=snapshot.state.seq)
        return Ahead(seq=snapshot.state.seq, step=None, calls=())


def record(workshop: Workshop, run_id: UUID) -> RunRecord:
    """Return the record of a run.

    Raises:
        Refusal: ``no_such_run``.
    """
    snapshot = workshop.log.snapshot(run_id)
    return record_of(run_id, snapshot.state, snapshot.head_hash, brought_in(workshop, run_id))


def brought_in(workshop: Workshop, run_id: UUID) -> BroughtIn | None:
    """Return that a run comes from another installation; None for a run of this site."""
    found = workshop.registers.brought_in(run_id)
    return None if found is None else BroughtIn(by=found[0], at=found[1])


class WorkSheet(View):
    """The lines of a run's work sheet, and the server's time."""

    now: datetime
    seq: int
    engine: str
    joint: str
    lines: tuple[PaperLine, ...]


def work_sheet(workshop: Workshop, run_id: UUID) -> WorkSheet:
    """Return the lines of a run's work sheet, to be keyed in.

    Raises:
        Refusal: ``no_such_run``.
    """
    state = workshop.log.snapshot(run_id).state
    return WorkSheet(
        now=workshop.clock(),
        seq=state.seq,
        engine=state.started.engine.name,
        joint=state.started.joint_label,
        lines=paper_lines(state),
    )


def hand_over_card(workshop: Workshop, run_id: UUID) -> HandOver:
    """Return the hand-over card of a run.

    Raises:
        Refusal: ``no_such_run``.
    """
    return hand_over(workshop.log.snapshot(run_id).state, workshop.clock())


def scope_of_redo(workshop: Workshop, run_id: UUID, cell: str) -> tuple[str, ...]:
    """Return what would open again, to be shown before it is confirmed.

    Raises:
        Refusal: ``no_such_run``, those of ``redo_scope``; ``nothing_to_redo`` of a nut that is free for good.
    """
    state = workshop.log.snapshot(run_id).state
    live = state.live(cell)
    if live is not None and stays_free(state, live):
        raise Refusal("nothing_to_redo", cell=cell)
    return redo_scope(state, cell)
