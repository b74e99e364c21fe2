"""The procedure check in words, with lines; and a procedure as a person wants to read it."""

from __future__ import annotations

import re
from contextlib import suppress

import yaml
from pydantic import BaseModel

from jorvek.core.procedure.document import Procedure
from jorvek.core.procedure.measure import Measure, PureNumber
from jorvek.core.procedure.options import Selection, applies, selections
from jorvek.core.procedure.parts import Limits
from jorvek.core.procedure.staircase import Staircase, staircases
from jorvek.core.procedure.stated import HEADINGS, printed
from jorvek.core.procedure.steps import InspectStep, Item, RoundStep, Step, WantedTool
from jorvek.core.procedure_check import CheckFinding, Severity, check
from jorvek.core.procedure_check.among import Others, check_with
from jorvek.documents.proposals import Proposal, Seems, proposals
from jorvek.documents.yaml_reader import DocumentRefused, Finding, read_yaml
from jorvek.messages import part_words, say
from jorvek.work.library.revisions import present_format, procedure_of, read_procedure


class FoundFinding(BaseModel):
    """A finding of the check, said in words.

    Attributes:
        code: its name in the catalogue.
        severity: error, warning or note.
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
    """One thing that a step states: the field's name and what stands there; no text for a plain yes.

    Attributes:
        codes: words of the format, which the catalogue knows by the reader's language.
    """

    name: str
    text: str
    codes: list[str] = []


class StepRead(BaseModel):
    """A step as it is read: heading, what it states, points one by one, cautions.

    Attributes:
        names: fasteners in the order of the step.
        only: option choices under which it is there.
    """

    id: str
    kind: str
    title: str
    why: str | None
    facts: list[Fact]
    points: list[str]
    cautions: list[str]
    order: str | None
    names: list[str]
    only: dict[str, list[str]]


class Way(BaseModel):
    """One way of choosing the options: its steps, and what its stages build up."""

    selection: dict[str, str]
    steps: list[str]
    staircases: list[Staircase]


class ProposalRead(BaseModel):
    """A sentence that seems to say what a typed field would say: for its author to confirm, no finding.

    Attributes:
        seems: its name in the catalogue.
        step: id of the step it stands in.
        text: the sentence.
    """

    seems: Seems
    step: str
    text: str


class ProcedureSheet(BaseModel):
    """A procedure for reading: its steps, what its stages build up, what speaks against it, what its sentences say."""

    steps: list[StepRead]
    ways: list[Way]
    findings: list[FoundFinding]
    proposals: list[ProposalRead]


def _step_of(procedure: Procedure, finding: CheckFinding) -> str | None:
    head = finding.path[:2]
    return procedure.steps[int(head[1])].id if head[:1] == ("steps",) and len(head) > 1 else None


def findings(procedure: Procedure, others: Others | None = None) -> list[FoundFinding]:
    """Return what the check finds in a procedure, also beside the others of its library."""
    return [
        FoundFinding(
            code=f.code,
            severity=f.severity,
            step=_step_of(procedure, f),
            element=_place(f.path),
            params=f.params,
        )
        for f in check_with(procedure, others)
    ]


def _entry(entry: object) -> str:
    """Return one entry of a list as a line; only what a tool must be able to do needs words of the catalogue."""
    match entry:
        case Item() if entry.why:
            return f"{printed(entry)} — {entry.why}"
        case WantedTool():
            return _tool_words(entry)
        case _:
            return printed(entry)


def _tool_words(tool: WantedTool) -> str:
    """Return a wanted tool as a line: pieces, name, and what it must be able to do."""
    said = {"reach": tool.range_at_least, "full": tool.range_at_most, "grain": tool.resolution_at_most}
    wants = [say(f"procedure.tool.{key}", {"m": m.shown}) for key, m in said.items() if m is not None]
    if tool.accuracy is not None:
        wants.append(f"± {tool.accuracy.shown}")
    if tool.adapter is not None:
        a = tool.adapter
        wants.append(f"{say('procedure.tool.adapter')} {a.wrench_length.shown}, {a.offset.shown}, {a.angle.shown}")
    count = f"{tool.count} × " if tool.count > 1 else ""
    return f"{count}{tool.title}{' — ' if wants else ''}{', '.join(wants)}"


_CODED = frozenset(
    {
        "afterwards",
        "attitude",
        "authority",
        "band_of",
        "by",
        "counts_from",
        "datum",
        "direction",
        "dispositions",
        "disturbs",
        "if_failed",
        "means",
        "measure",
        "reference",
        "side",
        "signed_by",
        "statistic",
    }
)
"""Fields that hold words of the format, not of the author."""
_PLAIN = (str, int, Measure, PureNumber)


def _facts(name: str, value: object) -> tuple[list[Fact], list[str]]:
    """Return what a field of a step states: as facts beside one another, or line by line."""
    if name in _CODED and value is not None:
        codes = value if isinstance(value, tuple) else (value,)
        return [Fact(name=name, text="", codes=[str(code) for code in codes])], []
    match value:
        case None | () | False:
            return [], []
        case True:
            return [Fact(name=name, text="")], []
        case Measure() | PureNumber() | str() | int():
            return [Fact(name=name, text=_entry(value))], []
        case dict():
            return [], [f"{name}: {_entry(entry)}" for name, entry in value.items()]
        case Limits():
            return [Fact(name=key, text=m.shown) for key, m in value if m is not None], []
        case tuple():
            short = all(isinstance(v, _PLAIN) and len(_entry(v)) < 22 for v in value)
            return ([Fact(name=name, text=", ".join(map(_entry, value)))], []) if short else ([], [*map(_entry, value)])
        case BaseModel():
            return _flat(value)
        case _:
            return [Fact(name=name, text=_entry(value))], []


def _flat(part: BaseModel) -> tuple[list[Fact], list[str]]:
    facts: list[Fact] = []
    points: list[str] = []
    for key, inner in part:
        more, lines = _facts(key, inner)
        facts += more
        points += lines
    return facts, points


_PARTS = frozenset({"touches", "allows", "proof_on"})
"""Fields that name parts of the document."""


def _called(procedure: Procedure, names: object) -> object:
    """Return the parts that a field names as people call them."""
    words = {part.id: part_words(part.called) for part in procedure.parts}
    return tuple(words[name] for name in names) if isinstance(names, tuple) else words.get(str(names))


def _read(procedure: Procedure, step: Step) -> StepRead:
    facts: list[Fact] = []
    points: list[str] = []
    for name, value in step:
        if name not in HEADINGS:
            more, lines = _facts(name, _called(procedure, value) if name in _PARTS else value)
            facts += more
            points += lines
    order = step.order if isinstance(step, RoundStep | InspectStep) else None
    return StepRead(
        id=step.id,
        kind=step.kind,
        title=step.title,
        why=step.why,
        facts=facts,
        points=points,
        cautions=list(step.cautions),
        order=order,
        names=list(procedure.orders[order].names()) if order else [],
        only={option: list(choices) for option, choices in step.only.items()},
    )


def _way(procedure: Procedure, selection: Selection) -> Way:
    return Way(
        selection=selection,
        steps=[step.id for step in procedure.steps if applies(step.only, selection)],
        staircases=list(staircases(procedure, selection)),
    )


def sheet(procedure: Procedure, others: Others | None = None) -> ProcedureSheet:
    """Return a procedure for reading, checked beside the others of its library.

    Raises:
        Refusal: when its geometry is impossible, which import refuses already.
    """
    return ProcedureSheet(
        steps=[_read(procedure, step) for step in procedure.steps],
        ways=[_way(procedure, selection) for selection in selections(procedure)],
        findings=findings(procedure, others),
        proposals=[
            ProposalRead(seems=one.seems, step=procedure.steps[one.step].id, text=one.text)
            for one in proposals(procedure)
        ],
    )


def in_words(finding: CheckFinding) -> str:
    """Return what a finding is, with its numbers, and what cures it."""
    return " ".join(say(f"check.{finding.code}.{part}", dict(finding.params)) for part in ("what", "cure"))


def readable(documents: list[bytes]) -> Others | None:
    """Return documents that are checked together as each other's library; None for a single one.

    One that cannot be read is left out, and one with faults of its own is no yardstick: their findings say so.
    """
    read: list[Procedure] = []
    for raw in documents:
        with suppress(DocumentRefused):
            read.append(read_procedure(raw))
    sound = tuple(p for p in read if all(f.severity is not Severity.ERROR for f in check(p)))
    return Others(tuple(read), sound) if len(documents) > 1 else None


def checked_lines(raw: bytes, others: Others | None = None) -> tuple[list[Finding], bool]:
    """Check a document as text.

    Returns:
        Findings with lines, those of reading or those of the check, and whether any is an error.
    """
    try:
        document = present_format(read_yaml(raw))
        procedure = procedure_of(document)
    except DocumentRefused as refused:
        return refused.findings, True
    found = check_with(procedure, others)
    lines = [
        Finding(
            document.line_of(f.path),
            _place(f.path),
            f"{say(f'check.severity.{f.severity.value}')}: {in_words(f)}",
        )
        for f in found
    ]
    seem = [Finding(document.line_of(one.path), _place(one.path), _seems(one)) for one in proposals(procedure)]
    return [*lines, *seem], any(f.severity is Severity.ERROR for f in found)


def _place(path: tuple[str | int, ...]) -> str:
    return ".".join(str(part) for part in path)


def _seems(one: Proposal) -> str:
    return say(f"proposal.{one.seems}", {"text": one.text})


def as_yaml(procedure: Procedure) -> bytes:
    """Return a procedure as a document that reads back to the same content."""
    return yaml.dump(
        procedure.plain(), Dumper=yaml.CSafeDumper, sort_keys=False, allow_unicode=True, width=120, encoding="utf-8"
    )


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
    old, new = (_leaves(p.plain(), "") for p in (before, after))
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
