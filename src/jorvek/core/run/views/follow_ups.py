"""What a closed run asks for later: looked at again tomorrow, turned again after so many running hours."""

from __future__ import annotations

from datetime import datetime, timedelta
from uuid import UUID

from jorvek.core.procedure.measure import Measure
from jorvek.core.procedure.steps import FollowUpStep
from jorvek.core.run.log.state import RunState
from jorvek.core.run.views.labels import View

_S_PER_H = 3600.0


class FollowUp(View):
    """Work of a later day.

    Attributes:
        due_at: by the clock; None where running hours decide.
        due_h: after so many running hours since then; None where the clock decides.
        latest_at: end of its window by the clock; None where it has none.
        latest_h: the same in running hours.
        state: what the engine must be like for it.
        method: how it is done.
        again: steps of the procedure that are done again; none for a look.
    """

    step: str
    title: str
    due_at: datetime | None
    due_h: float | None
    state: str
    method: str
    again: tuple[str, ...]
    latest_at: datetime | None = None
    latest_h: float | None = None


class FollowUps(View):
    """All that a run asks for later, and when it was closed.

    Attributes:
        of_run: the run whose follow-up it carries out itself; None for a whole procedure.
        of_step: that follow-up.
        by: who works on it.
    """

    run_id: UUID
    of_run: UUID | None
    of_step: str | None
    by: str
    engine_id: str
    engine: str
    joint: str
    closed_at: datetime | None
    asked: tuple[FollowUp, ...]


def follow_ups(run_id: UUID, state: RunState) -> FollowUps:
    """Return what a run asks for later; an open one asks for nothing yet."""
    closed = state.closed_at
    steps = [s for s in state.definition.procedure.steps if isinstance(s, FollowUpStep)] if closed is not None else []
    asked = (s for s in steps if any(c.step_id == s.id and state.worked(c.key) for c in state.definition.cells))
    return FollowUps(
        run_id=run_id,
        of_run=state.started.again.run if state.started.again else None,
        of_step=state.started.again.step if state.started.again else None,
        by=state.watches[-1].by.name,
        engine_id=state.started.engine.id,
        engine=state.started.engine.name,
        joint=state.started.joint_label,
        closed_at=closed,
        asked=tuple(_one(step, closed) for step in asked if closed is not None),
    )


def _one(step: FollowUpStep, closed: datetime) -> FollowUp:
    return FollowUp(
        step=step.id,
        title=step.title,
        due_at=_at(closed, step.after),
        due_h=_hours(step.after_running),
        latest_at=_at(closed, step.latest),
        latest_h=_hours(step.latest_running),
        state=step.state,
        method=step.method,
        again=step.repeats,
    )


def _at(closed: datetime, after: Measure | None) -> datetime | None:
    return None if after is None else closed + timedelta(seconds=after.value)


def _hours(running: Measure | None) -> float | None:
    return None if running is None else running.value / _S_PER_H
