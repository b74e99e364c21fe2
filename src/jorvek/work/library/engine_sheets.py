"""Engine sheets in, checked, approved and withdrawn."""

from __future__ import annotations

from typing import Any

import yaml
from pydantic import BaseModel

from jorvek.core.engine.layout import Engine
from jorvek.core.refusal import Refusal
from jorvek.core.rights import Act, demand, may
from jorvek.core.run.log.events import Person
from jorvek.core.sheet.check import SheetFinding, check_sheet
from jorvek.core.sheet.default import default_sheet
from jorvek.core.sheet.document import SHEET_FORMAT, EngineSheet
from jorvek.documents.yaml_reader import Document, DocumentRefused, Finding, read_model, read_yaml
from jorvek.messages import say
from jorvek.store.sheets import SheetRow
from jorvek.work.sealing import sealed
from jorvek.work.workshop import Workshop


class SheetListed(BaseModel):
    """A revision of an engine sheet in a list.

    Attributes:
        may_approve: whoever asks could approve it now, if the check lets it.
        may_withdraw: whoever asks could withdraw it now.
    """

    hash: str
    id: str
    title: str
    revision: str
    author: str
    engine_type: str
    status: str
    status_by: str
    may_approve: bool
    may_withdraw: bool


def findings_of(document: Document, sheet: EngineSheet, engine: Engine) -> list[Finding]:
    """Return what the sheet check finds, in words, with lines."""
    return [_in_words(document, finding) for finding in check_sheet(sheet, engine)]


def _in_words(document: Document, found: SheetFinding) -> Finding:
    where = ".".join(str(part) for part in found.path)
    return Finding(document.line_of(found.path), where, say(f"sheet_check.{found.code}", dict(found.params)))


def read_sheet(raw: bytes) -> tuple[Document, EngineSheet]:
    """Read the document of an engine sheet.

    Raises:
        DocumentRefused: with the line of each finding.
    """
    document = read_yaml(raw)
    return document, read_model(document, EngineSheet)


def _engine_for(workshop: Workshop, sheet: EngineSheet) -> Engine:
    found = next((e for e in workshop.registers.engines() if e.type == sheet.engine_type), None)
    if found is None:
        raise Refusal("no_such_engine", engine=sheet.engine_type)
    return found


def import_sheet(workshop: Workshop, actor: Person, raw: bytes) -> str:
    """Take in a sheet revision as a draft; one that contradicts itself is refused with lines.

    Raises:
        DocumentRefused: with line numbers, of what cannot be read and of what the check finds.
        Refusal: ``not_your_right``, ``no_such_engine``, ``sheet_known``, ``revision_taken``.
    """
    demand(actor.role, Act.IMPORT_PROCEDURE)
    document, sheet = read_sheet(raw)
    found = findings_of(document, sheet, _engine_for(workshop, sheet))
    if found:
        raise DocumentRefused(found)
    return workshop.sheets.add(sheet, actor.id, workshop.clock())


def approve_sheet(workshop: Workshop, actor: Person, digest: str) -> None:
    """Approve a draft; overhauls that are opened from then on go by it. Whoever brought it in cannot approve it.

    Raises:
        Refusal: ``not_your_right``, ``no_such_sheet``, ``own_procedure``, ``not_a_draft``, ``sheet_not_clean``.
    """
    demand(actor.role, Act.APPROVE_PROCEDURE)

    def may_be_approved(row: SheetRow) -> None:
        if row.status != "draft":
            raise Refusal("not_a_draft", status=row.status)
        if row.imported_by == actor.id or row.sheet.author == actor.name:
            raise Refusal("own_procedure", name=actor.name)
        found = check_sheet(row.sheet, _engine_for(workshop, row.sheet))
        if found:
            raise Refusal("sheet_not_clean", count=len(found), first=found[0].code)

    workshop.sheets.set_status(digest, "approved", actor.id, workshop.clock(), may_be_approved)
    sealed(workshop)


def withdraw_sheet(workshop: Workshop, actor: Person, digest: str) -> None:
    """Withdraw a revision; open overhauls go on by it.

    Raises:
        Refusal: ``not_your_right``, ``no_such_sheet``, ``withdrawn_already``.
    """
    demand(actor.role, Act.APPROVE_PROCEDURE)

    def may_be_withdrawn(row: SheetRow) -> None:
        if row.status == "withdrawn":
            raise Refusal("withdrawn_already")

    workshop.sheets.set_status(digest, "withdrawn", actor.id, workshop.clock(), may_be_withdrawn)
    sealed(workshop)


def listed_sheets(workshop: Workshop, actor: Person) -> list[SheetListed]:
    """Return all revisions of engine sheets."""
    allowed = may(actor.role, Act.APPROVE_PROCEDURE)
    return [
        SheetListed(
            hash=row.hash,
            id=row.sheet.id,
            title=row.sheet.title,
            revision=row.sheet.revision,
            author=row.sheet.author,
            engine_type=row.sheet.engine_type,
            status=row.status,
            status_by=row.status_by,
            may_approve=allowed and row.status == "draft" and actor.id != row.imported_by,
            may_withdraw=allowed and row.status != "withdrawn",
        )
        for row in workshop.sheets.rows()
    ]


def sheet_read(workshop: Workshop, digest: str) -> EngineSheet:
    """Return one revision.

    Raises:
        Refusal: ``no_such_sheet``.
    """
    return workshop.sheets.body_of(digest)


def default_for(workshop: Workshop, engine_id: str) -> EngineSheet:
    """Return the default by layout of an engine, to begin a sheet from.

    Raises:
        Refusal: ``no_such_engine``.
    """
    engine = next((e for e in workshop.registers.engines() if e.id == engine_id), None)
    if engine is None:
        raise Refusal("no_such_engine", engine=engine_id)
    return default_sheet(engine)


def default_as_yaml(workshop: Workshop, engine_id: str) -> str:
    """Return the default by layout of an engine as a document.

    Raises:
        Refusal: ``no_such_engine``.
    """
    plain = default_for(workshop, engine_id).plain()
    return yaml.safe_dump(plain, sort_keys=False, allow_unicode=True, width=110)


def schema_of_sheets() -> dict[str, Any]:
    """Return the JSON Schema of the engine sheet, as editors use it."""
    schema = EngineSheet.model_json_schema(by_alias=True)
    identity = SHEET_FORMAT.replace("/", ":")
    return {"$schema": "https://json-schema.org/draft/2020-12/schema", "$id": f"urn:{identity}", **schema}
