"""What nobody may accept, and what is let down before anything else is done."""

from __future__ import annotations

from typing import Final

from jorvek.core.procedure.cell_items import CellItem
from jorvek.core.refusal import Refusal
from jorvek.core.run.log import events as ev
from jorvek.core.run.log.cells import Cell, Rule
from jorvek.core.run.log.state import Attempt, RunState, once
from jorvek.core.run.rules.studs import USED_UP

PASSED: Final = frozenset({"above_ceiling", "above_peak"})
"""Reasons by which a pressure has passed a limit that is never passed."""
_YIELDED: Final = "turned_on"


def never_accepted(state: RunState, attempt: Attempt) -> bool:
    """Tell whether a reading has no acceptance by name, whoever asks.

    A pressure past its ceiling, a blade under a nut at pressure, a zero that is none, a bolt that turned on: no
    sentence makes the metal sound. It is let down and done again, or the fastener comes out.
    """
    codes = {reason.code for reason in attempt.judgement.reasons}
    cell = state.definition.by_key[attempt.cell]
    return bool(codes & PASSED) or _YIELDED in codes or cell.what in cell.traits.never_accepted


def demand_acceptable(state: RunState, attempt: Attempt) -> None:
    """Refuse an acceptance that nobody can give.

    Raises:
        Refusal: ``never_accepted``.
    """
    if never_accepted(state, attempt):
        raise Refusal("never_accepted", cell=attempt.cell)


@once
def passed_limit(state: RunState) -> Attempt | None:
    """Return the first standing pressure that passed a limit which is never passed, None when there is none."""
    for cell in state.definition.cells:
        if cell.traits.pressure != "raises":
            continue
        live = state.live(cell.key)
        if live is not None and not live.settled and any(r.code in PASSED for r in live.judgement.reasons):
            return live
    return None


@once
def let_down(state: RunState) -> tuple[Cell, ...] | None:
    """Return the only calls after a pressure passed its limit: zero, until it is proved; then none but doing it again.

    None while nothing has passed its limit.
    """
    passed = passed_limit(state)
    if passed is None:
        return None
    zero = zero_after(state, passed.cell)
    if zero is None:
        return ()
    proved = state.live(zero.key)
    return () if proved is not None and proved.settled and proved.seq > passed.seq else (zero,)


def demand_let_down(state: RunState) -> None:
    """Refuse to do work again while the oil is still past its limit.

    Raises:
        Refusal: ``let_down_first`` naming the call that proves zero.
    """
    only = let_down(state)
    if only:
        raise Refusal("let_down_first", first=only[0].key)


def zero_after(state: RunState, key: str) -> Cell | None:
    """Return the call that proves zero after the pull that a cell belongs to; None where the document has none."""
    later = state.definition.cells[state.definition.place_of(key) :]
    return next((c for c in later if c.traits.pressure == "relieves" and c.what is CellItem.ZERO), None)


def raised_anew(state: RunState, cells: tuple[Cell, ...]) -> Cell | None:
    """Return the call by which a pull begins again whose oil was let off before it was finished; None for any other.

    Args:
        state: the run as it stands.
        cells: those of one step.
    """
    clear = next((c for c in cells if c.what is CellItem.CLEAR and c.traits.pressure == "raises"), None)
    zero = zero_after(state, cells[0].key) if clear is not None else None
    if clear is None or zero is None:
        return None
    began, proved, live = state.live(clear.key), state.live(zero.key), [state.live(c.key) for c in cells]
    if began is None or proved is None or proved.seq < began.seq or None not in live:
        return None
    # What is asked about comes first, and a nut that would not move waits for its decision.
    asked = any(a is not None and not a.settled for a in live)
    waits = any(s.words is None and state.live(s.cell) is None for s in state.stuck)
    return None if asked or waits else clear


def falls_when_raised(state: RunState, cell: Cell) -> tuple[str, ...]:
    """Return what does not count any more once oil is brought up by a call.

    A zero that was proved before it is proved anew afterwards. Where a pull begins again, all of it is done anew; nuts
    that came free stay free.
    """
    if cell.traits.pressure != "raises":
        return ()
    step, zero = state.definition.by_step[cell.step], zero_after(state, cell.key)
    again = (
        [c for c in step if cell.traits.load != "takes" or c.what is not CellItem.FREE]
        if raised_anew(state, step)
        else []
    )
    keys = (c.key for c in (*again, *((zero,) if zero is not None else ())))
    return tuple(key for key in keys if state.live(key) is not None)


def asked_again(state: RunState, cell: Cell) -> bool:
    """Tell whether a filled call is simply read again: a setting is set anew, a pressure pumped on, oil let off."""
    live = state.live(cell.key)
    if (
        live is not None
        and cell.what is CellItem.CLEAR
        and raised_anew(state, state.definition.by_step[cell.step]) == cell
    ):
        return True
    if live is None or live.settled:
        return False
    if cell.what in cell.traits.read_again:
        return True
    return cell.what in cell.traits.pumped_on and {r.code for r in live.judgement.reasons} == {"below_band"}


def may_be_rejected(state: RunState, attempt: Attempt) -> bool:
    """Tell whether the fastener of a reading may come out: it yielded, was freed past the ceiling, or has grown."""
    cell = state.definition.by_key[attempt.cell]
    if cell.fastener is None or attempt.settled or not attempt.live:
        return False
    codes = {reason.code for reason in attempt.judgement.reasons}
    has_grown = cell.rule is Rule.GROWTH and attempt.judgement.verdict is not ev.Verdict.IN_BAND
    return has_grown or bool(codes & {_YIELDED, USED_UP}) or (cell.traits.load == "takes" and bool(codes & PASSED))


def stays_free(state: RunState, attempt: Attempt) -> bool:
    """Tell whether a reading is of a nut that was freed past its ceiling: it is never done again, it is free."""
    return state.definition.by_key[attempt.cell].traits.load == "takes" and may_be_rejected(state, attempt)


def falls_with(state: RunState, attempt: Attempt, redone: tuple[str, ...]) -> tuple[str, ...]:
    """Return the cells that open again when the fastener of a reading is rejected.

    One that was being tightened makes room for another, which begins at its first pull; one that is put in anew is
    measured anew. One that was let free stays free: what it came free at stands, and the others are gone on with
    from people clear and zero; one that is found too long where the joint is undone leaves its place empty.

    Args:
        state: the run as it stands.
        attempt: the reading.
        redone: what would be done again with it.
    """
    cell = state.definition.by_key[attempt.cell]
    if cell.rule is Rule.GROWTH:
        undone = state.definition.procedure.applies_to.purpose == "loosen"
        mine = (c for c in state.definition.by_step[cell.step] if c.fastener == cell.fastener)
        return () if undone else tuple(c.key for c in mine if state.live(c.key) is not None)
    if cell.traits.load != "takes":
        return redone
    zero = zero_after(state, cell.key)
    again = {f"{cell.step}/clear", *((zero.key,) if zero is not None else ())}
    return tuple(c.key for c in state.definition.cells if c.key in again and state.live(c.key) is not None)


def standing_pulls(state: RunState, setting: Cell) -> tuple[str, ...]:
    """Return the pulls that were made with a setting of the wrench: they go where it goes."""
    set_at = state.live(setting.key)
    if set_at is None or setting.what not in setting.traits.read_again:
        return ()
    made = ((c.key, state.live(c.key)) for c in state.definition.by_step[setting.step] if setting.key in c.needs)
    return tuple(key for key, pull in made if pull is not None and pull.seq > set_at.seq)
