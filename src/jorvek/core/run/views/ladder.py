"""The ladder as the Bench shows it: the shared pressure, how it may move, and nuts that will not."""

from __future__ import annotations

from datetime import datetime

from jorvek.core.figures import Figure
from jorvek.core.procedure.steps import LoosenPressureStep
from jorvek.core.run.log.state import RunState, Stuck
from jorvek.core.run.rules.judge import ceiling_for
from jorvek.core.run.rules.ladder import START, present, undecided
from jorvek.core.run.rules.on_instrument import shown_of, true_of
from jorvek.core.run.rules.tried import tries
from jorvek.core.run.views.labels import Label, View, naming
from jorvek.core.run.views.rows import in_cell_unit


class Ladder(View):
    """One pressure for all tools on the hose, in the figures of the gauge in hand.

    Attributes:
        now: where it stands; every tablet sees the same.
        number: the same as it is typed, in ``unit``.
        up: the next pressure, None at the ceiling; ``up_number`` as it is typed.
        down: one step lower, None at the bottom.
        by: how far one step goes.
        healthy: where healthy nuts come free, None where the document states nothing.
        ceiling: never passed.
        share: of the ceiling, or of the healthy pressure where none is set; for the drawn column.
        healthy_share: where the healthy pressure stands on the same column.
    """

    step: str
    unit: str
    now: Figure
    number: str
    up: Figure | None
    up_number: str | None
    down_number: str | None
    by: Figure
    healthy: Figure | None
    ceiling: Figure | None
    share: float
    healthy_share: float | None


class StuckView(Label):
    """A nut that would not move.

    Attributes:
        gap: whether the blade found a gap under it.
        at: the pressure it stood, None when none was tried.
        author: what the document says of that finding.
        blade: the blade that was tried.
        authority: lowest rank that decides on going on.
        decided: how it went on; None while nobody has decided.
        freed: whether it came free after all.
    """

    seq: int
    gap: bool
    stood: Figure | None
    author: str
    blade: str
    authority: str
    by: str
    at: datetime
    decided: str | None
    decided_by: str | None
    freed: bool


def ladder_of(state: RunState) -> Ladder | None:
    """Return the ladder of the loosening step at work; None when no nut waits for it."""
    found = present(state)
    if found is None:
        return None
    step, nuts = found
    cell, made = nuts[0], tries(state, nuts[0].step)
    grain, top = step.step.value, ceiling_for(state, cell)
    shown = made[-1].value if made else _first(state, step)
    up = shown + grain
    at_top = top is not None and true_of(state, cell, up) > top + 1e-9
    down = shown - grain if shown - grain > 0.0 and made else None
    expected = None if step.expected is None else step.expected.value
    whole = 1.15 * (top or expected or shown or 1.0)
    return Ladder(
        step=cell.step,
        unit="bar",
        now=_told(state, shown),
        number=f"{shown:g}",
        up=None if at_top else _told(state, up),
        up_number=None if at_top else f"{up:g}",
        down_number=None if down is None else f"{down:g}",
        by=_told(state, grain),
        healthy=None if expected is None else _told(state, shown_of(state, cell, expected)),
        ceiling=None if top is None else _told(state, shown_of(state, cell, top)),
        share=min(1.0, shown / whole),
        healthy_share=None if expected is None else expected / whole,
    )


def _first(state: RunState, step: LoosenPressureStep) -> float:
    """Return where the ladder begins: below the healthy pressure, or at one step where none is stated."""
    if step.expected is None:
        return 0.0
    return step.step.value * round(START * step.expected.value / step.step.value)


def _told(state: RunState, bar: float) -> Figure:
    found = present(state)
    assert found is not None
    shown = in_cell_unit(found[1][0], bar)
    assert shown is not None
    return shown


def stuck_views(state: RunState) -> tuple[StuckView, ...]:
    """Return every nut that would not move in a run, oldest first."""
    return tuple(_stuck(state, one) for one in state.stuck)


def open_stuck(state: RunState) -> tuple[StuckView, ...]:
    """Return those on which somebody has still to decide."""
    return tuple(_stuck(state, one) for one in undecided(state))


def _stuck(state: RunState, one: Stuck) -> StuckView:
    cell = state.definition.by_key[one.cell]
    step = state.definition.steps_by_id[cell.step_id]
    assert isinstance(step, LoosenPressureStep)
    said = step.will_not_move
    return StuckView(
        **naming(state, cell),
        seq=one.seq,
        gap=one.gap,
        stood=in_cell_unit(cell, one.true_bar),
        author=said.gap if one.gap else said.no_gap,
        blade=said.blade.shown,
        authority=said.authority.value,
        by=one.by.name,
        at=one.at,
        decided=one.words,
        decided_by=one.decided_by.name if one.decided_by else None,
        freed=state.worked(one.cell),
    )
