"""Starting the work that a closed run asked for later."""

from __future__ import annotations

from uuid import UUID

from jorvek.core.procedure.follow import KEEPS_STANDING, SafePoint, Safety
from jorvek.core.refusal import Refusal
from jorvek.core.rights import Act, demand
from jorvek.core.run.log.events import Again, Person
from jorvek.core.sheet.document import EngineSheet
from jorvek.messages import say
from jorvek.store.runlog import Snapshot
from jorvek.work.engine.overhauls import engine_of, sheet_in_force
from jorvek.work.library.revisions import revision_of
from jorvek.work.runs.acts import Beginning, BeginsRun, begin, joint_of
from jorvek.work.upkeep.hours_and_due import due_work
from jorvek.work.workshop import Workshop


class StartFollowUp(BeginsRun):
    """Begin the work that a closed run asked for later."""


def start_follow_up(workshop: Workshop, actor: Person, of_run: UUID, step: str, command: StartFollowUp) -> Snapshot:
    """Start a run that does a follow-up: the steps it names, by the revision that asked, the engine kept standing.

    Args:
        workshop: the workshop.
        actor: who, from the session.
        of_run: the closed run that asked for it.
        step: its follow-up.
        command: the new run.

    Raises:
        Refusal: ``not_your_right``, ``no_such_run``; ``nothing_to_follow`` where that run did not ask for work again,
            or it was done already; those of ``begin``.
    """
    demand(actor.role, Act.START_RUN)
    started = workshop.log.snapshot(of_run).state.started

    def demand_due() -> None:
        due = next((d for d in due_work(workshop) if (d.run_id, d.step) == (of_run, step)), None)
        if due is None or not due.again:
            raise Refusal("nothing_to_follow", step=step)

    demand_due()
    engine = engine_of(workshop, started.engine.id)
    sheet = sheet_in_force(workshop, engine)
    beginning = Beginning(
        engine=engine,
        joint=joint_of(engine, started.joint_key, sheet.joints),
        revision=revision_of(workshop, started.procedure_hash),
        selection=dict(started.selection),
        observed=started.observed,
        again=Again(run=of_run, step=step, safety=_safety(sheet)),
        demand=demand_due,
    )
    return begin(workshop, actor, command, beginning)


def _safety(sheet: EngineSheet) -> Safety:
    points = tuple(SafePoint(point=p.point, text=p.text) for p in sheet.isolations if p.point in KEEPS_STANDING)
    return Safety(before=say("follow.before"), after=say("follow.after"), points=points)
