"""Many procedure documents in one zip, in and out."""

from __future__ import annotations

import io
import zipfile
from pathlib import PurePosixPath

from pydantic import BaseModel

from jorvek.core.procedure.document import Procedure
from jorvek.core.refusal import Refusal
from jorvek.core.rights import Act, demand
from jorvek.core.run.log.events import Person
from jorvek.documents.yaml_reader import MAX_BYTES, DocumentRefused, Finding
from jorvek.documents.zipped import Most, NotAZipError, TooMuchError, members
from jorvek.work.budget import DOCUMENTS
from jorvek.work.library.checking import as_yaml
from jorvek.work.library.revisions import read_procedure
from jorvek.work.workshop import Workshop

MAX_DOCUMENTS = 300
MAX_UNPACKED = 30_000_000
_BAD_DOCUMENTS_TOLD = 10
_MADE = (2026, 1, 1, 0, 0, 0)


class Brought(BaseModel):
    """What was taken in out of an archive, and what was here already, by title and revision."""

    taken: list[str]
    known: list[str]


def _is_document(name: str) -> bool:
    return PurePosixPath(name).suffix in (".yaml", ".yml")


def _documents(raw: bytes) -> list[tuple[str, bytes]]:
    """Return the documents of a zip by name, never more than is announced and allowed.

    Raises:
        Refusal: ``E_DATA`` when it is no zip; ``archive_too_large``; ``archive_empty``.
    """
    try:
        found = members(raw, _is_document, Most(MAX_DOCUMENTS, MAX_BYTES, MAX_UNPACKED))
    except TooMuchError as error:
        raise Refusal("archive_too_large", documents=MAX_DOCUMENTS, megabytes=MAX_UNPACKED // 1_000_000) from error
    except NotAZipError as error:
        raise Refusal("E_DATA", name="archive") from error
    if not found:
        raise Refusal("archive_empty")
    return found


@DOCUMENTS
def import_archive(workshop: Workshop, actor: Person, raw: bytes) -> Brought:
    """Take in every document of a zip as a draft, all or none; what is here already is passed over.

    Raises:
        DocumentRefused: findings of all documents, each with its file and line.
        Refusal: ``not_your_right``, ``E_DATA``, ``archive_too_large``, ``archive_empty``, ``revision_taken``, ``busy``.
    """
    demand(actor.role, Act.IMPORT_PROCEDURE)
    procedures: list[Procedure] = []
    findings: list[Finding] = []
    bad = 0
    for name, text in _documents(raw):
        try:
            procedures.append(read_procedure(text))
        except DocumentRefused as refused:
            findings += [Finding(f.line, f"{name}: {f.where}", f.message) for f in refused.findings]
            bad += 1
        if bad == _BAD_DOCUMENTS_TOLD:
            # Whoever sent these has enough to put right; the others are not looked at.
            break
    if findings:
        raise DocumentRefused(findings)
    unlike = list({p.content_hash(): p for p in procedures}.values())
    fresh = workshop.registers.add_revisions(unlike, actor.id, workshop.clock())
    known = [p for p in unlike if p not in fresh]
    return Brought(taken=[_label(p) for p in fresh], known=[_label(p) for p in known])


def _label(procedure: Procedure) -> str:
    return f"{procedure.title} {procedure.revision}"


def export_archive(workshop: Workshop) -> bytes:
    """Return every revision of the library as one zip; the same library gives the same bytes."""
    packed = io.BytesIO()
    with zipfile.ZipFile(packed, "w", zipfile.ZIP_DEFLATED) as archive:
        for head in workshop.registers.revisions():
            row = workshop.registers.revision(head.hash)
            if row is not None:
                info = zipfile.ZipInfo(f"{head.id}-{head.revision}.yaml", _MADE)
                info.compress_type = zipfile.ZIP_DEFLATED
                archive.writestr(info, as_yaml(row.procedure))
    return packed.getvalue()
