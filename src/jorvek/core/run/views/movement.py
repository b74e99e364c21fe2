"""How far fasteners moved, trip by trip: who stands out, and what the second time says."""

from __future__ import annotations

from collections.abc import Mapping
from statistics import median
from typing import Final, Literal

from jorvek.core.procedure.cell_items import CellItem
from jorvek.core.procedure.steps import CheckTripStep, SettlingPassStep, TorqueStep
from jorvek.core.run.log.cells import Cell
from jorvek.core.run.log.events import PullAnswer, PullOutcome
from jorvek.core.run.log.state import RunState
from jorvek.core.run.rules.torque_angle_verdict import expected_movement_deg
from jorvek.core.run.views.labels import View, step_title

_ENOUGH: Final = 4
"""Fewer like fasteners than this say nothing about one of them."""
_FAR: Final = 3.5
"""Robust standard deviations from the middle beyond which one stands out. Model: usual for modified z-scores."""
_MAD_TO_SIGMA: Final = 1.4826
_CAN_BE_TOLD_DEG: Final = 5.0

Finding = Literal["far_from_like", "more_than_before", "stayed"]


class MovedFastener(View):
    """One fastener in one trip; movement in degrees.

    Attributes:
        moved_deg: how far it turned; 0 when it stayed, None when nobody measured.
        before_deg: in the same stage of the cycle before.
        expected_deg: about how far it should turn by resilience and usual friction.
    """

    name: str
    moved_deg: float | None
    before_deg: float | None
    expected_deg: float | None
    findings: tuple[Finding, ...]


class MovementSheet(View):
    """One trip round like fasteners.

    Attributes:
        middle_deg: middle of what was measured.
        moved: how many moved, of those that were pulled.
        pulled: how many were pulled.
        drop_pct: of the middle, how much less it turned than in the cycle before.
    """

    step: str
    title: str
    group: str
    check: bool
    middle_deg: float
    moved: int
    pulled: int
    drop_pct: float | None
    fasteners: tuple[MovedFastener, ...]


def movement_of(state: RunState) -> tuple[MovementSheet, ...]:
    """Return the movement of every torque stage and check trip in which one was measured or stayed."""
    found: list[MovementSheet] = []
    for key, cells in state.definition.steps:
        step = state.definition.steps_by_id[cells[0].step_id]
        if isinstance(step, TorqueStep | CheckTripStep | SettlingPassStep):
            for group in state.definition.procedure.fasteners:
                names = {p.name for p in group.positions}
                mine = [c for c in cells if c.what is CellItem.PULL and c.fastener in names]
                sheet = _sheet(state, key, group.title, mine, check=isinstance(step, CheckTripStep | SettlingPassStep))
                found += [sheet] if sheet is not None else []
    return tuple(found)


def moved_deg(state: RunState, cell: Cell) -> float | None:
    """Return how far a fastener moved in a pull; None when that was not measured, or nothing was done."""
    live = state.live(cell.key)
    if live is None or not isinstance(live.answer, PullAnswer):
        return None
    return 0.0 if live.answer.outcome is PullOutcome.STILL else live.judgement.corrected


def outliers(moved: Mapping[str, float]) -> frozenset[str]:
    """Return the fasteners that lie far from the middle of their like.

    Args:
        moved: movement in degrees by fastener, of one length and kind.

    Source: modified z-score on the median absolute deviation; a spread below what paint marks can
        tell never makes one stand out.
    """
    if len(moved) < _ENOUGH:
        return frozenset()
    middle = median(moved.values())
    spread = _MAD_TO_SIGMA * median(abs(v - middle) for v in moved.values())
    far = max(_CAN_BE_TOLD_DEG, _FAR * spread)
    return frozenset(name for name, value in moved.items() if abs(value - middle) > far)


def _earlier(state: RunState, cell: Cell) -> Cell | None:
    """Return the same pull in the cycle before."""
    if cell.cycle == 1:
        return None
    mark = cell.step_id if cell.cycle == 2 else f"{cell.step_id}#{cell.cycle - 1}"
    return state.definition.by_key.get(f"{mark}{cell.key[len(cell.step) :]}")


def _sheet(state: RunState, key: str, group: str, cells: list[Cell], *, check: bool) -> MovementSheet | None:
    pulled = [c for c in cells if state.live(c.key) is not None]
    now = {c.fastener or "": m for c in pulled for m in (moved_deg(state, c),) if m is not None}
    if not now:
        return None
    befores = {c.fastener or "": _moved_before(state, c) for c in pulled}
    far = outliers(now)
    rows = tuple(_row(state, c, now, befores, far, check=check) for c in pulled)
    both = [name for name in now if befores[name] is not None]
    drop = None
    if both and (first := median(befores[n] or 0.0 for n in both)) > 0.0:
        drop = 100.0 * (1.0 - median(now[n] for n in both) / first)
    stayed = sum(m == 0.0 for m in now.values())
    return MovementSheet(
        step=key,
        title=step_title(state, key),
        group=group,
        check=check,
        middle_deg=median(now.values()),
        moved=len(pulled) - stayed,
        pulled=len(pulled),
        drop_pct=drop,
        fasteners=rows,
    )


def _moved_before(state: RunState, cell: Cell) -> float | None:
    earlier = _earlier(state, cell)
    return None if earlier is None else moved_deg(state, earlier)


def _row(
    state: RunState,
    cell: Cell,
    now: Mapping[str, float],
    befores: Mapping[str, float | None],
    far: frozenset[str],
    *,
    check: bool,
) -> MovedFastener:
    name = cell.fastener or ""
    moved, earlier = now.get(name), befores[name]
    findings: list[Finding] = ["far_from_like"] if name in far else []
    if moved == 0.0 and not check:
        findings.append("stayed")
    if moved is not None and earlier is not None and moved > earlier + _CAN_BE_TOLD_DEG:
        findings.append("more_than_before")
    wanted = None if check else expected_movement_deg(state, cell)
    return MovedFastener(name=name, moved_deg=moved, before_deg=earlier, expected_deg=wanted, findings=tuple(findings))
