"""What leaves a run on paper or as a table."""

from __future__ import annotations

from uuid import UUID

from jorvek.core.run.views.hand_over import hand_over
from jorvek.core.run.views.record import record_of
from jorvek.reports.hand_over_card import hand_over_pdf
from jorvek.reports.record_sheet import record_pdf
from jorvek.reports.table import write_csv
from jorvek.reports.work_sheet import run_sheet_pdf
from jorvek.work.budget import PAPER
from jorvek.work.runs.reading import brought_in
from jorvek.work.sealing import site_seal
from jorvek.work.workshop import Workshop


@PAPER
def work_sheet(workshop: Workshop, run_id: UUID) -> bytes:
    """Return the work sheet of exactly this run as PDF, to be filled in by pencil.

    Raises:
        Refusal: ``no_such_run``.
    """
    return run_sheet_pdf(workshop.log.snapshot(run_id).state, run_id, workshop.base_url)


@PAPER
def hand_over_card(workshop: Workshop, run_id: UUID) -> bytes:
    """Return the hand-over card as PDF, on one sheet.

    Raises:
        Refusal: ``no_such_run``.
    """
    now = workshop.clock()
    card = hand_over(workshop.log.snapshot(run_id).state, now)
    return hand_over_pdf(card, run_id, workshop.base_url, workshop.site_zone, now)


@PAPER
def record_sheet(workshop: Workshop, run_id: UUID) -> bytes:
    """Return the record as PDF, with its photographs.

    Raises:
        Refusal: ``no_such_run``, ``photo_altered``.
    """
    snapshot = workshop.log.snapshot(run_id)
    record = record_of(run_id, snapshot.state, snapshot.head_hash, brought_in(workshop, run_id))
    photos = {one.photo: workshop.photos.read(one.photo) for one in record.photos}
    return record_pdf(record, workshop.base_url, workshop.site_zone, photos, site_seal(workshop))


def record_table(workshop: Workshop, run_id: UUID) -> str:
    """Return the table of readings as CSV.

    Raises:
        Refusal: ``no_such_run``.
    """
    snapshot = workshop.log.snapshot(run_id)
    return write_csv(record_of(run_id, snapshot.state, snapshot.head_hash))
