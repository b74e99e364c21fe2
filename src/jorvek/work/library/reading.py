"""The library of procedures as people see it: a list, and one revision to be read, checked and printed."""

from __future__ import annotations

from typing import Any

from pydantic import BaseModel

from jorvek.core.engine.layout import JointKind
from jorvek.core.procedure.document import Procedure
from jorvek.core.procedure.options import Selection
from jorvek.core.rights import Act, may
from jorvek.core.run.log.events import Person
from jorvek.reports.work_sheet import worksheet_pdf
from jorvek.store.registers import RevisionHead
from jorvek.work.budget import PAPER
from jorvek.work.library.checking import ProcedureSheet, sheet
from jorvek.work.library.revisions import others_of, revision_of, selection_of
from jorvek.work.workshop import Workshop


class ProcedureListed(BaseModel):
    """A procedure revision in the library."""

    hash: str
    id: str
    title: str
    revision: str
    status: str
    status_by: str | None
    author: str
    engine_type: str
    joint: JointKind
    purpose: str


class ProcedureRead(BaseModel):
    """A procedure revision with its contents, read and checked.

    Attributes:
        may_approve: whoever asks could approve it now, if the check lets it.
        may_withdraw: whoever asks could withdraw it now.
    """

    listed: ProcedureListed
    document: Procedure
    sheet: ProcedureSheet
    may_approve: bool
    may_withdraw: bool


def _listed(head: RevisionHead) -> ProcedureListed:
    return ProcedureListed(
        hash=head.hash,
        id=head.id,
        title=head.title,
        revision=head.revision,
        status=head.status,
        status_by=head.status_by,
        author=head.author,
        engine_type=head.engine_type,
        joint=head.joint,
        purpose=head.purpose,
    )


def listed(workshop: Workshop) -> list[ProcedureListed]:
    """Return the library."""
    return [_listed(head) for head in workshop.registers.revisions()]


def read(workshop: Workshop, actor: Person, digest: str) -> ProcedureRead:
    """Return one revision by its content address, read and checked.

    Raises:
        Refusal: ``no_such_procedure``.
    """
    row = revision_of(workshop, digest)
    allowed = may(actor.role, Act.APPROVE_PROCEDURE)
    foreign = row.imported_by != actor.id and row.procedure.author != actor.name
    return ProcedureRead(
        listed=_listed(row.head()),
        document=row.procedure,
        sheet=sheet(row.procedure, others_of(workshop, row.procedure)),
        may_approve=allowed and foreign and row.status == "draft",
        may_withdraw=allowed and row.status != "withdrawn",
    )


@PAPER
def work_sheet(workshop: Workshop, digest: str, chosen: Selection) -> tuple[str, bytes]:
    """Return name and contents of a revision's work sheet, to be filled in by pencil.

    Raises:
        Refusal: ``no_such_procedure``, ``options_at_odds``.
    """
    row = revision_of(workshop, digest)
    selection = selection_of(row.procedure, chosen)
    name = f"{row.procedure.id}-{row.procedure.revision}.pdf"
    return name, worksheet_pdf(row.procedure, row.status, workshop.base_url, selection)


def schema_of_procedures() -> dict[str, Any]:
    """Return the JSON Schema of the procedure document, as editors use it."""
    schema = Procedure.model_json_schema()
    return {"$schema": "https://json-schema.org/draft/2020-12/schema", "$id": "urn:jorvek:procedure:1", **schema}
