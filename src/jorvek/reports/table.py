"""The readings of a record as CSV, and back."""

from __future__ import annotations

import csv
import io

from jorvek.core.figures import Figure
from jorvek.core.run.views.record import RunRecord
from jorvek.core.run.views.rows import Row

COLUMNS = (
    "run_id",
    "engine",
    "joint",
    "procedure",
    "revision",
    "cell",
    "attempt",
    "step",
    "item",
    "fastener",
    "answer",
    "read",
    "read_unit",
    "corrected",
    "judged",
    "target",
    "lower",
    "upper",
    "uncertainty",
    "unit",
    "clamp_kN",
    "verdict",
    "reasons",
    "tool",
    "by",
    "at",
    "source",
    "made_at",
    "written_by",
    "written_at",
    "struck_by",
    "struck_at",
    "struck_reason",
    "accepted_by",
    "accepted_at",
    "accepted_reason",
    "rejected_piece",
    "rejected_by",
    "rejected_at",
    "rejected_reason",
    "set_aside",
)

_FORMULA_STARTS = ("=", "+", "-", "@", "＝", "＋", "－", "＠", "'")
"""A spreadsheet takes the full-width signs for the others."""


def csv_rows(record: RunRecord) -> list[dict[str, str]]:
    """Return the table of readings: one row per answer, struck ones included."""
    return [_row(record, row) for section in record.sections for row in section.rows]


def write_csv(record: RunRecord) -> str:
    """Return the table as CSV text (RFC 4180).

    A cell that a spreadsheet would take for a formula gets a leading apostrophe.
    """
    out = io.StringIO(newline="")
    writer = csv.DictWriter(out, COLUMNS)
    writer.writeheader()
    for row in csv_rows(record):
        writer.writerow({key: disarm(value) for key, value in row.items()})
    return out.getvalue()


def read_csv(text: str) -> list[dict[str, str]]:
    """Return the table that ``write_csv`` wrote.

    Raises:
        ValueError: when the header is not the one written here.
    """
    reader = csv.DictReader(io.StringIO(text, newline=""))
    if tuple(reader.fieldnames or ()) != COLUMNS:
        raise ValueError("the header is not that of a record")
    return [{key: _rearm(value) for key, value in row.items()} for row in reader]


def disarm(value: str) -> str:
    """Keep a spreadsheet from taking words for a formula, whatever blank stands before them."""
    blank = value[:1] in ("\t", "\r", "\n")
    return "'" + value if blank or value.lstrip().startswith(_FORMULA_STARTS) else value


def _rearm(value: str) -> str:
    return value[1:] if value.startswith("'") else value


def _row(record: RunRecord, row: Row) -> dict[str, str]:
    unit = next((f.unit for f in (row.judged, row.target, row.lower, row.upper, row.corrected) if f), "")
    return {
        "run_id": str(record.run_id),
        "engine": record.engine,
        "joint": record.joint,
        "procedure": record.procedure_title,
        "revision": record.revision,
        "cell": row.cell,
        "attempt": str(row.attempt),
        "step": row.title,
        "item": row.text or row.item,
        "fastener": row.fastener or "",
        "answer": row.answer,
        "read": _text(row.read),
        "read_unit": row.read.unit if row.read else "",
        "corrected": _text(row.corrected),
        "judged": _text(row.judged),
        "target": _text(row.target),
        "lower": _text(row.lower),
        "upper": _text(row.upper),
        "uncertainty": _text(row.uncertainty),
        "unit": unit,
        "clamp_kN": _text(row.clamp),
        "verdict": row.verdict.value,
        "reasons": " ".join(reason.code for reason in row.reasons),
        "tool": row.tool or "",
        "by": row.by,
        "at": row.at.isoformat(),
        "source": row.source,
        "made_at": row.made_at.isoformat() if row.made_at else "",
        "written_by": row.written.by if row.written else "",
        "written_at": row.written.at.isoformat() if row.written else "",
        "struck_by": row.struck.by if row.struck else "",
        "struck_at": row.struck.at.isoformat() if row.struck else "",
        "struck_reason": (row.struck.reason or "") if row.struck else "",
        "accepted_by": row.accepted.by if row.accepted else "",
        "accepted_at": row.accepted.at.isoformat() if row.accepted else "",
        "accepted_reason": (row.accepted.reason or "") if row.accepted else "",
        "rejected_piece": row.rejected.piece if row.rejected else "",
        "rejected_by": row.rejected.by if row.rejected else "",
        "rejected_at": row.rejected.at.isoformat() if row.rejected else "",
        "rejected_reason": (row.rejected.reason or "") if row.rejected else "",
        "set_aside": "yes" if row.fallen else "",
    }


def _text(figure: Figure | None) -> str:
    return figure.text if figure else ""
