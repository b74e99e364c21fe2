"""Which pressures were tried on the ladder, and up to which a nut was tight."""

from __future__ import annotations

from typing import Final

from jorvek.core.run.log.cells import Cell
from jorvek.core.run.log.state import RunState, Tried

_STEADY: Final = 1e-9


def tries(state: RunState, step: str) -> tuple[Tried, ...]:
    """Return the pressures tried in a loosening step since people were last clear of it, oldest first."""
    clear = state.live(f"{step}/clear")
    return () if clear is None else tuple(t for t in state.ladder if t.step == step and t.seq > clear.seq)


def tight_at(state: RunState, cell: Cell, free_bar: float) -> float | None:
    """Return the highest true pressure below a release at which the nut was tried and was tight; None for none."""
    lower = [t.true_bar for t in tries(state, cell.step) if t.true_bar < free_bar - _STEADY]
    return max(lower, default=None)
