"""The ladder: one pressure for all tools on the hose, raised step by step until each nut moves, or will not."""

from __future__ import annotations

from typing import Final

from jorvek.core.procedure.cell_items import CellItem
from jorvek.core.procedure.steps import LoosenPressureStep
from jorvek.core.refusal import Refusal
from jorvek.core.rights import Act, demand, may_sign_as
from jorvek.core.run.log import commands as c
from jorvek.core.run.log import events as ev
from jorvek.core.run.log.cells import Cell
from jorvek.core.run.log.state import RunState, Stuck
from jorvek.core.run.rules.blocked_reason import blocked_reason
from jorvek.core.run.rules.dangers import demand_let_down, zero_after
from jorvek.core.run.rules.guard_band_verdict import in_unit
from jorvek.core.run.rules.judge import ceiling_for, read_value
from jorvek.core.run.rules.ladder_history import tries
from jorvek.core.run.rules.on_instrument import true_of
from jorvek.core.run.rules.progress import demand_open, demand_running, open_cells
from jorvek.core.units import Quantity, symbol

START: Final = 0.8
"""Share of the healthy pressure at which the ladder begins: weak studs come free well below it."""
_STEADY: Final = 1e-9


def present(state: RunState) -> tuple[LoosenPressureStep, tuple[Cell, ...]] | None:
    """Return the loosening step at work and its nuts that are not free yet; None when the ladder is not in use."""
    # Authors name their own points, and "free" may be one of them: only the kind of the step tells.
    nuts = tuple(cell for cell in open_cells(state) if cell.kind == "loosen_pressure" and cell.what is CellItem.FREE)
    waiting = nuts or tuple(state.definition.by_key[s.cell] for s in undecided(state))
    if not waiting:
        return None
    step = state.definition.steps_by_id[waiting[0].step_id]
    assert isinstance(step, LoosenPressureStep)
    return step, waiting


def undecided(state: RunState) -> tuple[Stuck, ...]:
    """Return the nuts that would not move and on which nobody has decided."""
    return tuple(s for s in state.stuck if s.words is None and state.live(s.cell) is None)


def try_pressure(state: RunState, command: c.TryPressure, context: c.Context) -> ev.PressureTried:
    """Bring the shared pressure to another figure of the gauge.

    Raises:
        Refusal: ``not_your_right``; ``not_yet`` when no nut waits for it; ``let_down_first``; ``nut_stuck`` while
            nobody has decided on a nut that will not move; ``over_the_ceiling``; those of a typed value.
    """
    demand(context.actor.role, Act.RECORD)
    demand_running(state)
    demand_let_down(state)
    now = present(state)
    if now is None or now[1][0].step != command.step:
        raise blocked_reason(state, command.step, next((cell.key for cell in open_cells(state)), ""))
    if stuck := undecided(state):
        raise Refusal("nut_stuck", fastener=state.definition.by_key[stuck[0].cell].fastener)
    cell = now[1][0]
    value = read_value(state, cell, ev.ValueAnswer(text=command.text, unit=command.unit))
    true, ceiling = true_of(state, cell, value), ceiling_for(state, cell)
    if ceiling is not None and true > ceiling + _STEADY:
        top = in_unit(ceiling, Quantity.PRESSURE, command.unit)
        raise Refusal("over_the_ceiling", got=command.text, ceiling=top, unit=symbol(command.unit))
    return ev.PressureTried(step=command.step, text=command.text, unit=command.unit, value=value, true_bar=true)


def report_stuck(state: RunState, command: c.ReportStuck, context: c.Context) -> ev.NutStuck:
    """Say that a nut will not move, and what the blade under it found. Its call stays open, it is not free.

    Raises:
        Refusal: ``not_your_right``; ``no_such_cell``, ``not_yet``; ``not_a_nut`` where no nut is let free.
    """
    demand(context.actor.role, Act.RECORD)
    cell = demand_open(state, command.cell)
    if not isinstance(state.definition.steps_by_id[cell.step_id], LoosenPressureStep) or cell.what is not CellItem.FREE:
        raise Refusal("not_a_nut", cell=cell.key)
    last = tries(state, cell.step)
    return ev.NutStuck(cell=cell.key, gap=command.gap, true_bar=last[-1].true_bar if last else None)


def decide_stuck(state: RunState, command: c.DecideStuck, context: c.Context) -> ev.StuckDecided:
    """Say how to go on with a nut that will not move; whoever the document names decides.

    Raises:
        Refusal: ``not_your_right``; ``no_such_question``; ``departure_wants`` a higher rank.
    """
    demand(context.actor.role, Act.ACCEPT)
    demand_running(state)
    open_ = next((s for s in undecided(state) if s.seq == command.stuck), None)
    if open_ is None:
        raise Refusal("no_such_question", seq=command.stuck)
    cell = state.definition.by_key[open_.cell]
    step = state.definition.steps_by_id[cell.step_id]
    assert isinstance(step, LoosenPressureStep)
    wanted = step.will_not_move.authority
    if not may_sign_as(context.actor.role, wanted):
        raise Refusal("departure_wants", wanted=wanted.value, rule=step.title)
    zero = zero_after(state, cell.key)
    # Once the pressure was let off, people are asked to stand clear before it rises again.
    again = (f"{cell.step}/clear", zero.key) if zero is not None and state.live(zero.key) is not None else ()
    falls = tuple(key for key in again if state.live(key) is not None)
    return ev.StuckDecided(stuck=open_.seq, words=command.words, falls=falls)
