"""The hand-over card: what is certain, what the paint means, what is owed, what comes next, who did what."""

from __future__ import annotations

from datetime import datetime, timedelta

from jorvek.core.procedure.cell_items import CellItem
from jorvek.core.procedure.steps import AngleStep
from jorvek.core.run.log.state import RunState
from jorvek.core.run.rules.ageing import ages_of
from jorvek.core.run.rules.progress import open_cells
from jorvek.core.run.views.annotations import Owed, owed_views
from jorvek.core.run.views.labels import Label, View, label_of, step_title
from jorvek.core.run.views.on_engine import carried_over
from jorvek.core.run.views.rows import Row, row_of


class Paint(View):
    """One paint mark on the metal.

    Attributes:
        title: the pass that it stands for.
        mark: how it is made, in the author's words.
        on: fasteners that carry it.
        missing: fasteners that should carry it before the pass is whole.
        wipe: it belongs to a cycle that has been released and comes off before the next.
    """

    title: str
    mark: str | None
    on: tuple[str, ...]
    missing: tuple[str, ...]
    wipe: bool


class Share(View):
    """What one person did."""

    by: str
    readings: int
    first_at: datetime
    last_at: datetime
    steps: tuple[str, ...]


class Ageing(View):
    """Something that will be asked about again, and when."""

    title: str
    good_until: datetime
    over: bool


class HandOver(View):
    """Everything that whoever goes on must know.

    Attributes:
        engine: on which engine, as people call it.
        joint: on which joint.
        watch: who had it last.
        last: the last certain reading on a fastener; the last of all where there is none.
        next: the next call, None when there is none.
        carried: what it leaves for other procedures to put right.
    """

    engine: str
    joint: str
    procedure_title: str
    revision: str
    watch: str
    last: Row | None
    next: Label | None
    owed: tuple[Owed, ...]
    carried: tuple[str, ...]
    paints: tuple[Paint, ...]
    ageing: tuple[Ageing, ...]
    shares: tuple[Share, ...]


def hand_over(state: RunState, now: datetime) -> HandOver:
    """Return the hand-over card of a run.

    Args:
        state: the run as it stands.
        now: server time, for what grows old.
    """
    certain = [a for a in state.counting.values() if a.settled and not a.left_out]
    by_key = state.definition.by_key
    on_metal = [a for a in certain if by_key[a.cell].fastener is not None]
    last = max(on_metal or certain, key=lambda a: a.seq, default=None)
    return HandOver(
        engine=state.started.engine.name,
        joint=state.started.joint_label,
        procedure_title=state.definition.procedure.title,
        revision=state.definition.procedure.revision,
        watch=state.watches[-1].by.name,
        owed=owed_views(state),
        carried=tuple(one.text for one in carried_over(state)),
        last=row_of(state, last) if last else None,
        next=_next(state),
        paints=_paints(state),
        ageing=_ageing(state, now),
        shares=_shares(state),
    )


def _next(state: RunState) -> Label | None:
    # A run that was left still has a next call; whoever takes over meets it.
    cells = open_cells(state.running())
    if not cells:
        return None
    return label_of(state, cells[0].key)


def _paints(state: RunState) -> tuple[Paint, ...]:
    steps, found = state.definition.steps, list[Paint]()
    for k, (key, cells) in enumerate(steps):
        mine = [c for c in cells if c.what is not None and c.what is c.traits.paint and c.fastener]
        on = tuple(c.fastener or "" for c in mine if state.worked(c.key))
        if not on:
            continue
        released = [c for _, later in steps[k + 1 :] for c in later if c.traits.wipes_paint]
        freed = any(state.worked(c.key) for c in released if c.what is CellItem.FREED and c.fastener in on)
        wiped = [c for c in released if c.what is CellItem.WIPED]
        if freed and wiped and all(state.worked(c.key) for c in wiped):
            continue
        step = state.definition.steps_by_id[mine[0].step_id]
        mark = step.mark_in(mine[0].cycle) if isinstance(step, AngleStep) else None
        missing = tuple(c.fastener or "" for c in mine if not state.worked(c.key))
        found.append(Paint(title=step_title(state, key), mark=mark, on=on, missing=missing, wipe=freed))
    return tuple(found)


def _ageing(state: RunState, now: datetime) -> tuple[Ageing, ...]:
    found = []
    for what, since in ages_of(state):
        until = since + timedelta(seconds=what.limit_s)
        found.append(Ageing(title=step_title(state, what.step), good_until=until, over=until < now))
    return tuple(found)


def _shares(state: RunState) -> tuple[Share, ...]:
    """Return what each person did, in the order in which they began."""
    tries = sorted((a for attempts in state.attempts.values() for a in attempts), key=lambda a: a.seq)
    by_key, found = state.definition.by_key, list[Share]()
    for name in dict.fromkeys(a.done_by.name for a in tries):
        mine = [a for a in tries if a.done_by.name == name]
        titles = dict.fromkeys(step_title(state, by_key[a.cell].step) for a in mine)
        found.append(
            Share(by=name, readings=len(mine), first_at=mine[0].done_at, last_at=mine[-1].done_at, steps=tuple(titles))
        )
    return tuple(found)
