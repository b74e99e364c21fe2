"""The ladder as the Bench shows it: the shared pressure, how it may move, and nuts that will not."""

from __future__ import annotations

from datetime import datetime

from jorvek.core.figures import Figure
from jorvek.core.procedure.steps import LoosenPressureStep
from jorvek.core.run.log.cells import Cell
from jorvek.core.run.log.state import RunState, Stuck
from jorvek.core.run.rules.judge import ceiling_for
from jorvek.core.run.rules.ladder import START, present, undecided
from jorvek.core.run.rules.ladder_history import tries
from jorvek.core.run.rules.on_instrument import oil_per_shown, shown_of, true_of
from jorvek.core.run.views.labels import Label, View, naming
from jorvek.core.run.views.rows import in_cell_unit, limit_of


class PressureLadder(View):
    """One pressure for all tools on the hose, in the figures of the gauge in hand.

    Attributes:
        now: where it stands; every tablet sees the same.
        number: the same as it is typed, in ``unit``.
        up: the next pressure, None at the ceiling; ``up_number`` as it is typed.
        down_number: one step lower, as it is typed; None where the ladder has not risen yet.
        by: how far one step goes, in whole marks of the gauge.
        healthy: where healthy nuts come free, None where the document states nothing.
        ceiling: never passed.
        share: of the drawn column, which ends a little above the ceiling (the healthy pressure where none is set).
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
        stood: the true pressure at which it was tight, None when none was tried.
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


def ladder_of(state: RunState) -> PressureLadder | None:
    """Return the ladder of the loosening step at work; None when no nut waits for it."""
    found = present(state)
    if found is None:
        return None
    step, nuts = found
    cell, made = nuts[0], tries(state, nuts[0].step)
    grain, top = _grain(state, cell, step), ceiling_for(state, cell)
    shown = made[-1].value if made else _first(state, cell, step, grain)
    up = shown + grain
    at_top = top is not None and true_of(state, cell, up) > top + 1e-9
    down = shown - grain if shown - grain > 0.0 and made else None
    expected = None if step.expected is None else step.expected.value
    whole = 1.15 * (top or expected or true_of(state, cell, shown) or 1.0)
    return PressureLadder(
        step=cell.step,
        unit="bar",
        now=_told(cell, shown),
        number=f"{shown:g}",
        up=None if at_top else _told(cell, up),
        up_number=None if at_top else f"{up:g}",
        down_number=None if down is None else f"{down:g}",
        by=_told(cell, grain),
        healthy=None if expected is None else in_cell_unit(cell, shown_of(state, cell, expected)),
        ceiling=None if top is None else in_cell_unit(cell, shown_of(state, cell, top)),
        share=min(1.0, true_of(state, cell, shown) / whole),
        healthy_share=None if expected is None else expected / whole,
    )


def _grain(state: RunState, cell: Cell, step: LoosenPressureStep) -> float:
    """Return one step of the ladder as the gauge in hand shows it, in whole marks that it has."""
    by = step.step.value / oil_per_shown(state, cell)
    tool = state.tool(cell.tool_role)
    if tool is None or tool.resolution is None or tool.quantity is not cell.quantity:
        return by
    return tool.resolution * max(1, round(by / tool.resolution))


def _first(state: RunState, cell: Cell, step: LoosenPressureStep, grain: float) -> float:
    """Return where the ladder begins on the gauge: below the healthy pressure, at nothing where none is stated."""
    if step.expected is None:
        return 0.0
    return grain * round(START * step.expected.value / oil_per_shown(state, cell) / grain)


def _told(cell: Cell, bar: float) -> Figure:
    shown = limit_of(cell, bar)
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
