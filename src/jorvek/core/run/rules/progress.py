"""Where a run stands: what may be done now, what blocks, what is owed."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from enum import StrEnum

from jorvek.core.procedure.cell_items import CellItem
from jorvek.core.procedure.steps import InspectStep
from jorvek.core.procedure.steps.debts import OwingStep
from jorvek.core.refusal import Refusal
from jorvek.core.run.log.cells import Cell, Rule, seats_tool
from jorvek.core.run.log.events import Verdict
from jorvek.core.run.log.state import Attempt, ClaimOf, RunState, once, once_a_step
from jorvek.core.run.rules.blocked_reason import blocked_reason
from jorvek.core.run.rules.dangers import asked_again, let_down, raised_anew, zero_after


class DebtKind(StrEnum):
    """Things that must be put right before a run closes."""

    UNRESOLVED = "unresolved"
    REASON = "reason"
    TOOL_ON = "tool_on"
    OWED_PART = "owed_part"
    TROUBLE = "trouble"
    SISTER = "sister"
    PHOTO = "photo"
    CLAIM = "claim"
    STUCK = "stuck"


@dataclass(frozen=True)
class Debt:
    """One thing owed: what, and where it arose."""

    kind: DebtKind
    cell: str
    attempt: int
    fastener: str | None
    verdict: Verdict | None = None


@once
def debts(state: RunState) -> tuple[Debt, ...]:
    """Return everything owed, in working order."""
    owed = [debt for step, _ in state.definition.steps for debt in _own_debts(state, step)]
    owed += [debt for cell in state.definition.leaving for debt in _left_behind(state, cell)]
    owed.sort(key=lambda debt: state.definition.place_of(debt.cell))
    for trouble in state.troubles:
        if trouble.how is None:
            cell = state.definition.by_key[trouble.cell]
            owed.append(Debt(DebtKind.TROUBLE, cell.key, trouble.seq, cell.fastener))
    for one in state.stuck:
        if one.words is None and state.live(one.cell) is None:
            owed.append(Debt(DebtKind.STUCK, one.cell, one.seq, state.definition.by_key[one.cell].fastener))
    owed += (Debt(DebtKind.SISTER, c.cell, c.seq, None) for c in state.sister_checks if c.found_too is None)
    owed += (Debt(DebtKind.CLAIM, _claimed_cell(state, c), c.seq, None) for c in state.claims if c.taken is None)
    return (*owed, *_photos_owed(state))


def _claimed_cell(state: RunState, claim: ClaimOf) -> str:
    """A remark may be about no cell at all; it is owed where the work begins."""
    return claim.said.work.cell or state.definition.cells[0].key


def _photos_owed(state: RunState) -> list[Debt]:
    """A look that wants a photograph owes one as soon as its decision stands."""
    taken = {state.definition.by_key[photo.cell].step for photo in state.photos}
    owed: list[Debt] = []
    for step, cells in state.definition.steps:
        look = state.definition.steps_by_id[cells[0].step_id]
        wanted = isinstance(look, InspectStep) and look.photograph
        first = next((c for c in cells if state.worked(c.key)), None)
        if wanted and first is not None and step not in taken:
            owed.append(Debt(DebtKind.PHOTO, first.key, 0, None))
    return owed


@once_a_step
def _own_debts(state: RunState, step: str) -> tuple[Debt, ...]:
    """Return the open questions of a step, and the strikes in it whose reason is owed."""
    owed: list[Debt] = []
    for cell in state.definition.by_step[step]:
        for attempt in state.tries(cell.key):
            if attempt.struck is not None and attempt.struck.reason is None:
                owed.append(Debt(DebtKind.REASON, cell.key, attempt.number, cell.fastener))
        live = state.live(cell.key)
        if live is not None and not live.settled:
            owed.append(Debt(DebtKind.UNRESOLVED, cell.key, live.number, cell.fastener, live.judgement.verdict))
    return tuple(owed)


def _left_behind(state: RunState, cell: Cell) -> Iterator[Debt]:
    """Yield a tool that still sits on its stud, and a part that was not put right here and is not carried elsewhere."""
    live = state.live(cell.key)
    # A part whose fitting was left out need not be taken off.
    if live is None or live.left_out:
        return
    ended = state.definition.ended_by[cell.key]
    ends = bool(ended) and all(state.live(key) is not None for key in ended)
    if seats_tool(cell) and not ends:
        yield Debt(DebtKind.TOOL_ON, cell.key, live.number, cell.fastener)
    step = state.definition.steps_by_id[cell.step_id]
    carried = isinstance(step, OwingStep) and step.carried_to is not None
    if cell.traits.settled_by is not None and not carried and not ends:
        yield Debt(DebtKind.OWED_PART, cell.key, live.number, None)


def step_settled(state: RunState, cells: tuple[Cell, ...]) -> bool:
    """Tell whether a step has no hole, no open question and no strike without a reason."""
    return _settled(state, cells[0].step)


@once_a_step
def _settled(state: RunState, step: str) -> bool:
    counting, owed = state.counting, state.unreasoned
    cells = state.definition.by_step[step]
    return all(c.key in counting and counting[c.key].settled and c.key not in owed for c in cells)


def _filled(state: RunState, key: str) -> bool:
    return state.live(key) is not None


@once
def open_cells(state: RunState) -> tuple[Cell, ...]:
    """Return the cells that may be filled now; the first one is the next call.

    A step opens when every step before it is settled. Reopened cells of an earlier step
    therefore come before anything later. After a pressure passed its limit nothing opens but
    the call that proves zero; a pull whose oil was let off before it was finished begins again.
    """
    if state.status != "open":
        return ()
    only = let_down(state)
    if only is not None:
        return only
    for _, cells in state.definition.steps:
        if not step_settled(state, cells):
            anew = raised_anew(state, cells)
            if anew is not None:
                return (anew,)
            ready = tuple(c for c in cells if _to_be_filled(state, c) and _needs_met(state, c))
            if not ready:
                return _zero_while_held_up(state, cells)
            return _without_stuck(state, ready[:1] if cells[0].traits.in_order else ready)
    return ()


def _zero_while_held_up(state: RunState, cells: tuple[Cell, ...]) -> tuple[Cell, ...]:
    """While a question holds a pull up, its pressure may be let off: nobody waits for an answer beside live oil."""
    raised = next((c for c in cells if c.what is CellItem.RAISE and state.live(c.key) is not None), None)
    zero = zero_after(state, raised.key) if raised is not None else None
    return (zero,) if zero is not None and state.live(zero.key) is None else ()


def _without_stuck(state: RunState, cells: tuple[Cell, ...]) -> tuple[Cell, ...]:
    """A nut that will not move waits for a decision; meanwhile the pressure may be let off at any time.

    Once it is off, no other nut can come free by it: nothing opens before the decision brings it up again.
    """
    stuck = {one.cell for one in state.stuck if one.words is None}
    left = tuple(cell for cell in cells if cell.key not in stuck)
    if len(left) == len(cells):
        return cells
    zero = zero_after(state, cells[0].key)
    if zero is None:
        return left
    return (*left, zero) if state.live(zero.key) is None else ()


def _to_be_filled(state: RunState, cell: Cell) -> bool:
    return not _filled(state, cell.key) or asked_again(state, cell)


def _needs_met(state: RunState, cell: Cell) -> bool:
    by_key, early = state.definition.by_key, cell.key in state.out_of_turn
    # What a reading is held against stands before it is read.
    if any(state.live(key) is None for key in cell.uses):
        return False
    # Out of turn sets aside only the order of the fasteners, never the setting before them.
    return all(_stands(state, by_key[key]) or (early and by_key[key].item == cell.item) for key in cell.needs)


def _stands(state: RunState, needed: Cell) -> bool:
    """A setting must be right before anything is done with it; everything else only has to be there."""
    live = state.live(needed.key)
    return live is not None and (live.settled or needed.rule is not Rule.SETTING)


def waiting_their_turn(state: RunState) -> tuple[Cell, ...]:
    """Return the cells of the present step that nothing but the order of the fasteners keeps shut."""
    now = open_cells(state)
    if not now:
        return ()
    step = next(cells for key, cells in state.definition.steps if key == now[0].step)
    return tuple(c for c in step if c not in now and not _filled(state, c.key) and _only_turn_missing(state, c))


def _only_turn_missing(state: RunState, cell: Cell) -> bool:
    unmet = [state.definition.by_key[key] for key in cell.needs if not _filled(state, key)]
    return cell.fastener is not None and all(other.item == cell.item for other in unmet)


def next_call(state: RunState) -> Cell | None:
    """Return the one next call, or None when there is none."""
    cells = open_cells(state)
    return cells[0] if cells else None


def complete(state: RunState) -> bool:
    """Tell whether nothing is left to record and nothing is owed."""
    return all(step_settled(state, cells) for _, cells in state.definition.steps) and not debts(state)


def demand_open(state: RunState, key: str) -> Cell:
    """Return the cell if it may be filled now.

    Raises:
        Refusal: ``no_such_cell``; ``run_closed``; ``run_paused``; ``not_yet`` naming the call
            that comes first.
    """
    cell = state.definition.by_key.get(key)
    if cell is None:
        raise Refusal("no_such_cell", cell=key)
    demand_running(state)
    if cell not in open_cells(state):
        first = next_call(state)
        blocking = first.key if first else next((d.cell for d in debts(state)), "")
        raise blocked_reason(state, key, blocking)
    return cell


def demand_running(state: RunState) -> None:
    """Refuse work on a run that is paused or closed.

    Raises:
        Refusal: ``run_closed`` or ``run_paused``.
    """
    if state.status == "closed":
        raise Refusal("run_closed")
    if state.status == "paused":
        raise Refusal("run_paused")


def last_reading(state: RunState) -> Attempt | None:
    """Return the newest attempt that still counts."""
    live = [tries[-1] for tries in state.attempts.values() if tries and tries[-1].live]
    return max(live, key=lambda a: a.seq, default=None)
