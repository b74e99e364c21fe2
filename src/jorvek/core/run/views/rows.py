"""One row per answer, for the last reading on the Bench, the record and the exports."""

from __future__ import annotations

from datetime import datetime

from jorvek.core.figures import Figure, figure, stated_figure
from jorvek.core.run.log import events as ev
from jorvek.core.run.log.answers import answer_code, as_read
from jorvek.core.run.log.cells import Cell
from jorvek.core.run.log.state import Attempt, RunState
from jorvek.core.run.rules.friction import torque_Nm
from jorvek.core.run.views.labels import Label, View, naming
from jorvek.core.units import Quantity


class Mark(View):
    """Who did something to a reading, when, and why."""

    by: str
    at: datetime
    reason: str | None


class OutMark(Mark):
    """The same of a fastener that came out for good, with the mark on it."""

    piece: str


class Row(Label):
    """One answer as it is shown and exported.

    Attributes:
        note: what was said with the answer: why, where, which piece.
        read: as read and typed, with its unit; None for a tick.
        corrected: after the instrument's calibration, where that changes it.
        judged: stretch, growth or spread that was held against the limits.
        target: aim.
        lower: lower limit held against.
        upper: upper limit held against.
        made_at: when it was made, for what waited on a tablet without a link.
        written: who wrote it on the sheet and when, for what comes from paper; ``by`` keyed it in.
        uncertainty: expanded uncertainty (k = 2) of what was judged.
        fallen: set aside by a redo, or by a strike of a reading it rested on.
    """

    attempt: int
    answer: str
    note: str | None
    read: Figure | None
    corrected: Figure | None
    judged: Figure | None
    target: Figure | None
    lower: Figure | None
    upper: Figure | None
    uncertainty: Figure | None
    clamp: Figure | None
    verdict: ev.Verdict
    reasons: tuple[ev.Reason, ...]
    tool: str | None
    by: str
    at: datetime
    source: str
    made_at: datetime | None
    written: Mark | None
    struck: Mark | None
    accepted: Mark | None
    rejected: OutMark | None
    fallen: bool


def row_of(state: RunState, attempt: Attempt) -> Row:
    """Return the row of an attempt."""
    cell = state.definition.by_key[attempt.cell]
    j = attempt.judgement
    corrected = j.corrected if j.correction is not None and abs(j.correction) > 1e-12 else None
    return Row(
        **naming(state, cell),
        attempt=attempt.number,
        answer=answer_code(attempt.answer),
        note=note_of(attempt.answer),
        read=as_read(attempt.answer),
        corrected=in_cell_unit(cell, corrected),
        judged=in_cell_unit(cell, j.judged),
        target=limit_of(cell, None if cell.target is None else torque_Nm(state, cell, cell.target)),
        lower=limit_of(cell, j.lower),
        upper=limit_of(cell, j.upper),
        uncertainty=in_cell_unit(cell, j.uncertainty or None),
        clamp=None if j.clamp_kN is None else figure(j.clamp_kN * 1000, Quantity.FORCE, "kN"),
        verdict=j.verdict,
        reasons=j.reasons,
        tool=attempt.tool.id if attempt.tool else None,
        by=attempt.by.name,
        at=attempt.at,
        source=attempt.source,
        made_at=attempt.done_at if attempt.kept_s is not None else None,
        written=Mark(by=attempt.paper.by.name, at=attempt.paper.at, reason=None) if attempt.paper else None,
        struck=Mark(by=attempt.struck.by.name, at=attempt.struck.at, reason=attempt.struck.reason)
        if attempt.struck
        else None,
        accepted=Mark(by=attempt.accepted.by.name, at=attempt.accepted.at, reason=attempt.accepted.reason)
        if attempt.accepted
        else None,
        rejected=_rejected(attempt),
        fallen=attempt.fallen_by is not None,
    )


def _rejected(attempt: Attempt) -> OutMark | None:
    out = attempt.rejected
    return None if out is None else OutMark(by=out.by.name, at=out.at, reason=out.reason, piece=out.piece)


def rows(state: RunState) -> tuple[Row, ...]:
    """Return every answer ever given in the run, in working order, oldest try first."""
    return tuple(row_of(state, attempt) for cell in state.definition.cells for attempt in state.tries(cell.key))


def in_cell_unit(cell: Cell, value: float | None) -> Figure | None:
    """Return a value as a figure in the author's unit of a cell."""
    if value is None or cell.quantity is None or cell.unit is None:
        return None
    return figure(value, cell.quantity, cell.unit)


def limit_of(cell: Cell, value: float | None) -> Figure | None:
    """Return a target or limit of a cell in the author's unit, with the decimals it was given."""
    if value is None or cell.quantity is None or cell.unit is None:
        return None
    return stated_figure(value, cell.quantity, cell.unit)


def note_of(answer: ev.Answer) -> str | None:
    """Return what was said with an answer."""
    match answer:
        case ev.ChoiceAnswer():
            return ", ".join(part for part in (answer.note, answer.piece) if part) or None
        case ev.ToolAnswer():
            return answer.override_reason
        case ev.LeftOutAnswer():
            return answer.reason
        case _:
            return None
