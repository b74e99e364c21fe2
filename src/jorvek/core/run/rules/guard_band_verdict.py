"""A figure held against its limits, with its doubt kept as a guard band; and the reasons of a verdict."""

from __future__ import annotations

from typing import Final

from jorvek.core.figures import apart_figure, stated_figure
from jorvek.core.guard_band import Decision, guard_band_decision
from jorvek.core.procedure.cell_items import CellItem
from jorvek.core.run.log import events as ev
from jorvek.core.run.log.cells import Cell
from jorvek.core.run.log.state import RunState
from jorvek.core.run.rules.blocked_reason import blocked_reason
from jorvek.core.units import GLOSSARY_UNIT, Quantity, convert

_VERDICT = {
    Decision.ACCEPT: ev.Verdict.IN_BAND,
    Decision.REJECT: ev.Verdict.OUT_OF_BAND,
    Decision.UNCERTAIN: ev.Verdict.TOO_NEAR,
}


APART: Final = 2.0**0.5
"""By how much more two readings lie apart than one of them is in doubt."""
_ENDS = {True: "end_torque_low", False: "end_torque_high"}


def in_unit(value: float, quantity: Quantity, unit: str) -> float:
    """Return a limit in the unit in which somebody typed, to four digits: a refusal speaks as one was spoken to."""
    return float(f"{convert(value, quantity, GLOSSARY_UNIT[quantity], unit):.4g}")


def reason_of(cell: Cell, code: str, **params: float) -> ev.Reason:
    """Return a reason with its figures in the author's unit of the cell."""
    assert cell.quantity is not None
    assert cell.unit is not None
    drawn = {name: apart_figure if name == "by" else stated_figure for name in params}
    shown = {name: drawn[name](value, cell.quantity, cell.unit) for name, value in params.items()}
    return ev.Reason(code=code, params={name: f"{f.text} {f.unit}" for name, f in shown.items()})


def guarded(
    cell: Cell, base: ev.Judgement, judged: float, lower: float | None, upper: float | None, clamp_kN: float | None
) -> ev.Judgement:
    """Return a judgement of a figure: in band, out of it, or too near a limit to tell, by its own uncertainty."""
    decision = guard_band_decision(judged, lower, upper, base.uncertainty or 0.0)
    reasons: list[ev.Reason] = []
    if decision is not Decision.ACCEPT:
        below = lower is not None and judged - lower < (upper - judged if upper is not None else float("inf"))
        limit = lower if below else upper
        if decision is Decision.UNCERTAIN:
            reasons.append(reason_of(cell, "near_limit", limit=limit or 0.0, uncertainty=base.uncertainty or 0.0))
        else:
            code = _ENDS[below] if cell.what is CellItem.END_TORQUE else "below_band" if below else "above_band"
            reasons.append(reason_of(cell, code, by=abs(judged - (limit or 0.0))))
    return base.model_copy(
        update={
            "verdict": _VERDICT[decision],
            "reasons": tuple(reasons),
            "judged": judged,
            "lower": lower,
            "upper": upper,
            "clamp_kN": clamp_kN,
        }
    )


def corrected_of(state: RunState, key: str) -> float:
    """Return the corrected reading that another judgement rests on.

    Raises:
        Refusal: ``not_yet`` while it is missing.
    """
    attempt = state.live(key)
    if attempt is None or attempt.judgement.corrected is None:
        raise blocked_reason(state, key, key)
    return attempt.judgement.corrected
