"""The procedure check in words, with lines; and a procedure as a person wants to read it."""

from __future__ import annotations

import re
from io import StringIO

from pydantic import BaseModel
from ruamel.yaml import YAML

from jorvek.core.procedure.check import CheckFinding, Severity, check
from jorvek.core.procedure.document import Procedure
from jorvek.core.procedure.measure import Measure
from jorvek.core.procedure.staircase import Staircase, staircase
from jorvek.core.procedure.steps import Item, Step, WantedTool
from jorvek.documents.yaml_reader import Document, DocumentRefused, Finding, read_yaml
from jorvek.messages import say
from jorvek.work.library import procedure_of

_HEADINGS = ("id", "kind", "title", "cautions", "source")


class FoundFinding(BaseModel):
    """A finding of the check, said in words.

    Attributes:
        code: its name in the catalogue.
        severity: error or warning.
        step: id of the step it stands at, None for the rest of the document.
        element: path of the element.
        params: the numbers that show it.
    """

    code: str
    severity: Severity
    step: str | None
    element: str
    params: dict[str, str | float]


class Fact(BaseModel):
    """One thing that a step states: the field's name and what stands there."""

    name: str
    text: str


class StepRead(BaseModel):
    """A step as it is read: heading, what it states, points one by one, cautions."""

    id: str
    kind: str
    title: str
    facts: list[Fact]
    points: list[str]
    cautions: list[str]


class ProcedureSheet(BaseModel):
    """A procedure for reading: its steps, what its stages build up, and what speaks against it."""

    steps: list[StepRead]
    staircase: Staircase
    findings: list[FoundFinding]


def _step_of(procedure: Procedure, finding: CheckFinding) -> str | None:
    head = finding.path[:2]
    return procedure.steps[int(head[1])].id if head[:1] == ("steps",) and len(head) > 1 else None


def findings(procedure: Procedure) -> list[FoundFinding]:
    """Return what the check finds in a procedure."""
    return [
        FoundFinding(
            code=f.code,
            severity=f.severity,
            step=_step_of(procedure, f),
            element=".".join(str(part) for part in f.path),
            params=f.params,
        )
        for f in check(procedure)
    ]


def _points(value: object) -> list[str]:
    """Return a list of a step line by line."""
    if not isinstance(value, tuple):
        return []
    lines = []
    for entry in value:
        if isinstance(entry, Item):
            lines.append(entry.text)
        elif isinstance(entry, WantedTool):
            wants = [m.text for m in (entry.range_at_least, entry.resolution_at_most) if m is not None]
            count = f"{entry.count} × " if entry.count > 1 else ""
            lines.append(f"{count}{entry.title}{' — ' if wants else ''}{', '.join(wants)}")
        else:
            lines.append(str(entry))
    return lines


def _fact(name: str, value: object) -> Fact | None:
    if isinstance(value, Measure):
        return Fact(name=name, text=value.text)
    if isinstance(value, BaseModel):
        parts = [v.text if isinstance(v, Measure) else str(v) for _, v in value]
        return Fact(name=name, text=", ".join(parts))
    if isinstance(value, bool) or value is None or isinstance(value, tuple):
        return None
    return Fact(name=name, text=str(value))


def _read(step: Step) -> StepRead:
    stated = [(name, value) for name, value in step if name not in _HEADINGS]
    facts = [_fact(name, value) for name, value in stated]
    return StepRead(
        id=step.id,
        kind=step.kind,
        title=step.title,
        facts=[fact for fact in facts if fact is not None],
        points=[line for name, value in stated if name != "covers" for line in _points(value)],
        cautions=list(step.cautions),
    )


def sheet(procedure: Procedure) -> ProcedureSheet:
    """Return a procedure for reading.

    Raises:
        Refusal: when its geometry is impossible, which import refuses already.
    """
    return ProcedureSheet(
        steps=[_read(step) for step in procedure.steps],
        staircase=staircase(procedure),
        findings=findings(procedure),
    )


def in_words(finding: CheckFinding) -> str:
    """Return what a finding is, with its numbers, and what cures it."""
    return f"{say(f'check.{finding.code}.what', dict(finding.params))} {say(f'check.{finding.code}.cure')}"


def checked_lines(raw: bytes) -> tuple[list[Finding], bool]:
    """Check a document as text.

    Returns:
        Findings with lines, those of reading or those of the check, and whether any is an error.
    """
    try:
        document: Document = read_yaml(raw)
        procedure = procedure_of(document)
    except DocumentRefused as refused:
        return refused.findings, True
    found = check(procedure)
    lines = [
        Finding(
            document.line_of(f.path),
            ".".join(str(part) for part in f.path),
            f"{say(f'check.severity.{f.severity.value}')}: {in_words(f)}",
        )
        for f in found
    ]
    return lines, any(f.severity is Severity.ERROR for f in found)


def as_yaml(procedure: Procedure) -> bytes:
    """Return a procedure as a document that reads back to the same content."""
    writer = YAML()
    writer.default_flow_style = False
    writer.width = 120
    text = StringIO()
    writer.dump(procedure.model_dump(mode="json", exclude_none=True), text)
    return text.getvalue().encode("utf-8")


class Difference(BaseModel):
    """One place where two revisions differ.

    Attributes:
        where: place in the document, steps by their id.
        before: what stood there, None where nothing did.
        after: what stands there now, None where nothing does.
        number: a number with its unit changed.
    """

    where: str
    before: str | None
    after: str | None
    number: bool


def _leaves(value: object, place: str) -> dict[str, str]:
    """Return every text and number of a document by its place; named entries by their name."""
    if isinstance(value, dict):
        pairs = [(str(key), item) for key, item in value.items()]
    elif isinstance(value, list):
        pairs = [(_name_of(item, k), item) for k, item in enumerate(value)]
    else:
        return {} if value is None else {place: str(value)}
    found: dict[str, str] = {}
    for key, item in pairs:
        found |= _leaves(item, f"{place}.{key}" if place else key)
    return found


def _name_of(item: object, index: int) -> str:
    if isinstance(item, dict):
        for key in ("id", "role", "name"):
            if key in item:
                return str(item[key])
    return str(index + 1)


_NUMBER = re.compile(r"[+-]?\d+(\.\d+)? \S+")


def differences(before: Procedure, after: Procedure) -> list[Difference]:
    """Return where two revisions differ, changed numbers first, then in the order of the document."""
    old, new = (_leaves(p.model_dump(mode="json"), "") for p in (before, after))
    places = [*new, *(place for place in old if place not in new)]
    changed = [
        Difference(
            where=place,
            before=old.get(place),
            after=new.get(place),
            number=any(_NUMBER.fullmatch(text) is not None for text in (old.get(place), new.get(place)) if text),
        )
        for place in places
        if old.get(place) != new.get(place)
    ]
    return sorted(changed, key=lambda d: not d.number)
