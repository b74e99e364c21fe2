"""Procedures in, approved and withdrawn; engines and tools onto the register."""

from __future__ import annotations

from collections.abc import Iterable

from jorvek.core.engine.layout import Engine
from jorvek.core.procedure.clamp import ClampModel, bolt_model, models
from jorvek.core.procedure.document import Procedure
from jorvek.core.procedure.migration import upgrade, upgraded_places
from jorvek.core.procedure.options import Selection, selections
from jorvek.core.procedure.steps import TensionStep
from jorvek.core.procedure_check import Severity
from jorvek.core.procedure_check.among import Others, check_with
from jorvek.core.refusal import Refusal
from jorvek.core.rights import Act, demand
from jorvek.core.run.log.events import Person
from jorvek.core.tools import Tool
from jorvek.documents.yaml_reader import Document, DocumentRefused, Finding, read_model, read_yaml
from jorvek.messages import say
from jorvek.store.registers import RevisionHead, RevisionRow
from jorvek.work.sealing import sealed
from jorvek.work.workshop import Workshop

__all__ = [
    "DocumentRefused",
    "add_engine",
    "add_tool",
    "approve",
    "import_procedure",
    "others_of",
    "present_format",
    "procedure_of",
    "read_procedure",
    "revision_of",
    "selection_of",
    "withdraw",
]


def read_procedure(raw: bytes) -> Procedure:
    """Read a procedure document and make sure that it can be reckoned with.

    Raises:
        DocumentRefused: with the line of each finding.
    """
    return procedure_of(read_yaml(raw))


def procedure_of(document: Document) -> Procedure:
    """Turn a document into a procedure that can be reckoned with.

    Raises:
        DocumentRefused: with the line of each finding.
    """
    present = present_format(document)
    procedure = read_model(present, Procedure)
    path: tuple[str | int, ...] = ("fasteners",)
    try:
        for index, group in enumerate(procedure.fasteners):
            path = ("fasteners", index)
            bolt_model(group)
        by_group, tools = models(procedure), {tool.role: tool for tool in procedure.tensioners}
        for index, step in enumerate(procedure.steps):
            if isinstance(step, TensionStep):
                path, model = ("steps", index, "pressure"), by_group[tools[step.tools].group]
                assert isinstance(model, ClampModel)
                model.residual_N(step.pressure.value)
    except Refusal as refusal:
        reason = say(f"refusal.{refusal.code}", refusal.params)
        where = ".".join(str(part) for part in path)
        message = f"it cannot be reckoned with: {reason}"
        raise DocumentRefused([Finding(present.line_of(path), where, message)]) from refusal
    return procedure


def present_format(document: Document) -> Document:
    """Return a document of an older format in the present one, each part with the line it came from."""
    return Document(upgrade(document.data), document.last_line, upgraded_places(document.data, document.lines))


def import_procedure(workshop: Workshop, actor: Person, raw: bytes) -> str:
    """Take in a procedure revision as a draft; return its content address.

    Raises:
        DocumentRefused: with line numbers.
        Refusal: ``not_your_right``, ``revision_known``, ``revision_taken``.
    """
    demand(actor.role, Act.IMPORT_PROCEDURE)
    return workshop.registers.add_revision(read_procedure(raw), actor.id, workshop.clock())


def approve(workshop: Workshop, actor: Person, digest: str) -> None:
    """Approve a draft. Whoever brought it in cannot approve it.

    Raises:
        Refusal: ``not_your_right``, ``no_such_procedure``, ``own_procedure``, ``not_a_draft``,
            ``check_not_clean`` while the check finds an error.
    """
    demand(actor.role, Act.APPROVE_PROCEDURE)

    def may_be_approved(revision: RevisionRow) -> None:
        if revision.status != "draft":
            raise Refusal("not_a_draft", status=revision.status)
        if revision.imported_by == actor.id or revision.procedure.author == actor.name:
            raise Refusal("own_procedure", name=actor.name)
        found = check_with(revision.procedure, others_of(workshop, revision.procedure))
        stops = sum(f.severity is Severity.ERROR for f in found)
        if stops:
            raise Refusal("check_not_clean", errors=stops)

    workshop.registers.set_status(digest, "approved", actor.id, workshop.clock(), may_be_approved)
    sealed(workshop)


def withdraw(workshop: Workshop, actor: Person, digest: str) -> None:
    """Withdraw a revision; no new run can start on it, open runs go on.

    Raises:
        Refusal: ``not_your_right``, ``no_such_procedure``, ``withdrawn_already``.
    """
    demand(actor.role, Act.APPROVE_PROCEDURE)

    def may_be_withdrawn(revision: RevisionRow) -> None:
        if revision.status == "withdrawn":
            raise Refusal("withdrawn_already")

    workshop.registers.set_status(digest, "withdrawn", actor.id, workshop.clock(), may_be_withdrawn)
    sealed(workshop)


def others_of(workshop: Workshop, procedure: Procedure) -> Others:
    """Return the other procedures for one engine type, without those withdrawn."""
    rows = [
        workshop.registers.revision(head.hash)
        for head in workshop.registers.revisions()
        if head.engine_type == procedure.applies_to.engine_type
        and head.id != procedure.id
        and head.status != "withdrawn"
    ]
    found = [(row.status, row.procedure) for row in rows if row is not None]
    return Others(tuple(p for _, p in found), tuple(p for status, p in found if status == "approved"))


def revision_of(workshop: Workshop, digest: str) -> RevisionRow:
    """Return one revision by its content address.

    Raises:
        Refusal: ``no_such_procedure``.
    """
    found = workshop.registers.revision(digest)
    if found is None:
        raise Refusal("no_such_procedure", hash=digest[:12])
    return found


def selection_of(procedure: Procedure, chosen: Selection) -> Selection:
    """Return a possible way of choosing the options that agrees with what was chosen.

    Raises:
        Refusal: ``options_at_odds`` when none does.
    """
    for way in selections(procedure):
        if all(way.get(option) == choice for option, choice in chosen.items()):
            return way
    raise Refusal("options_at_odds", title=procedure.title)


def add_engine(workshop: Workshop, actor: Person, raw: bytes) -> Engine:
    """Put an engine on the register from its document.

    Raises:
        DocumentRefused: with line numbers.
        Refusal: ``not_your_right``, ``engine_known``.
    """
    demand(actor.role, Act.KEEP_REGISTER)
    engine = read_model(read_yaml(raw), Engine)
    workshop.registers.add_engine(engine, workshop.clock())
    return engine


def add_tool(workshop: Workshop, actor: Person, raw: bytes) -> Tool:
    """Put a tool on the register from its document.

    Raises:
        DocumentRefused: with line numbers.
        Refusal: ``not_your_right``, ``tool_known``.
    """
    demand(actor.role, Act.KEEP_REGISTER)
    tool = read_model(read_yaml(raw), Tool)
    workshop.registers.add_tool(tool)
    return tool


def on_offer(heads: Iterable[RevisionHead], engine_type: str) -> list[RevisionHead]:
    """Return of each procedure for engines of a type the newest revision that is approved: work begins by no other.

    Args:
        heads: of all revisions, those of one procedure in the order in which they were brought in.
        engine_type: type of the engine.
    """
    approved = (head for head in heads if head.status == "approved" and head.engine_type == engine_type)
    return list({head.id: head for head in approved}.values())
