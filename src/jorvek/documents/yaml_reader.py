"""YAML in, plain data and a line for every element out; findings instead of stack traces."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import TypeVar

import yaml
from pydantic import BaseModel, ValidationError
from pydantic_core import ErrorDetails
from yaml.events import AliasEvent, MappingEndEvent, MappingStartEvent, SequenceEndEvent, SequenceStartEvent
from yaml.nodes import MappingNode, Node, ScalarNode, SequenceNode

from jorvek.core.canonical import Json

MAX_BYTES = 1_000_000
MAX_DEPTH = 40
MAX_ELEMENTS = 20_000
"""Ten times what the largest shipped document has."""

Path = tuple[str | int, ...]
ModelT = TypeVar("ModelT", bound=BaseModel)


@dataclass(frozen=True)
class Finding:
    """One thing wrong with a document: where, and what.

    Attributes:
        line: line number from 1.
        where: path of the element, for example ``steps.7.pressure``.
        message: what is wrong and what is allowed.
    """

    line: int
    where: str
    message: str


class DocumentRefused(ValueError):
    """A document that was not taken; nothing of it was kept."""

    def __init__(self, findings: list[Finding]) -> None:
        self.findings = findings
        super().__init__("; ".join(f"line {f.line}: {f.message}" for f in findings[:3]))


@dataclass
class Document:
    """Plain data with the line of each element."""

    data: Json
    last_line: int = 1
    lines: dict[Path, int] = field(default_factory=dict)

    def line_of(self, path: Path) -> int:
        """Return the line of the element or of the nearest one around it."""
        while path and path not in self.lines:
            path = path[:-1]
        return self.lines.get(path, 1)


def read_yaml(raw: bytes) -> Document:
    """Read one YAML document.

    Args:
        raw: UTF-8 bytes, at most 1 MB and 20,000 elements, nested at most 40 deep, without aliases.

    Returns:
        The document as plain data.

    Raises:
        DocumentRefused: with the line of each finding.
    """
    if len(raw) > MAX_BYTES:
        raise _refused(1, f"the document has {len(raw)} bytes; at most {MAX_BYTES} are read")
    try:
        text = raw.decode("utf-8")
    except UnicodeDecodeError as error:
        line = raw[: error.start].count(b"\n") + 1
        raise _refused(line, "this is not UTF-8 text") from error
    last_line = text.count("\n") + 1
    try:
        _scan(text)
        node = yaml.compose(text, yaml.CSafeLoader)
    except DocumentRefused:
        raise
    except yaml.MarkedYAMLError as error:
        line = error.problem_mark.line + 1 if error.problem_mark else 1
        # A key that is missing at the end of the document has no line; the last line is named instead.
        raise _refused(min(line, last_line), f"this is not YAML: {error.problem or error.context}") from error
    except (yaml.YAMLError, RecursionError, ValueError) as error:
        raise _refused(1, "this is not YAML that can be read") from error
    document = Document(None, last_line)
    document.data = _plain(node, (), document)
    return document


def read_model(document: Document, model: type[ModelT]) -> ModelT:
    """Turn a document into a model.

    Raises:
        DocumentRefused: one finding per thing wrong, each with its line.
    """
    try:
        return model.model_validate(document.data)
    except ValidationError as error:
        findings = [_finding(document, (*e["loc"], *_own_place(e)), str(e["msg"])) for e in error.errors()]
        raise DocumentRefused(sorted(findings, key=lambda f: f.line)) from error


def _own_place(error: ErrorDetails) -> Path:
    """Return the place that a check of a whole document names, below the part it was run on."""
    place = error.get("ctx", {}).get("path", ())
    return place if isinstance(place, tuple) else ()


def _finding(document: Document, path: Path, message: str) -> Finding:
    # Pydantic puts the tag of a tagged union into the path; the document has no such level.
    real: list[str | int] = []
    for part in path:
        if not real or (*real, part) in document.lines or isinstance(part, int):
            real.append(part)
    shown = tuple(real) if tuple(real) in document.lines else path
    return Finding(document.line_of(tuple(real)), ".".join(str(p) for p in shown), message)


def _refused(line: int, message: str) -> DocumentRefused:
    return DocumentRefused([Finding(line, "", message)])


def _scan(text: str) -> None:
    """Refuse aliases and depth on the event stream, before anything is built."""
    depth = 0
    for count, event in enumerate(yaml.parse(text, yaml.CSafeLoader)):
        line = event.start_mark.line + 1 if event.start_mark else 1
        if count > MAX_ELEMENTS:
            raise _refused(line, f"the document goes on after {MAX_ELEMENTS} elements; no more are read")
        if isinstance(event, AliasEvent) or getattr(event, "anchor", None):
            raise _refused(line, "anchors and aliases are not allowed; write the value out")
        if isinstance(event, MappingStartEvent | SequenceStartEvent):
            depth += 1
        elif isinstance(event, MappingEndEvent | SequenceEndEvent):
            depth -= 1
        if depth > MAX_DEPTH:
            raise _refused(line, f"nested deeper than {MAX_DEPTH}")


def _plain(node: Node | None, path: Path, document: Document) -> Json:
    if node is None:
        raise _refused(1, "the document is empty")
    document.lines[path] = min(node.start_mark.line + 1, document.last_line)
    if isinstance(node, SequenceNode):
        return [_plain(child, (*path, i), document) for i, child in enumerate(node.value)]
    if isinstance(node, MappingNode):
        return _mapping(node, path, document)
    assert isinstance(node, ScalarNode)
    return _scalar(node)


def _mapping(node: MappingNode, path: Path, document: Document) -> dict[str, Json]:
    result: dict[str, Json] = {}
    for key_node, value_node in node.value:
        line = key_node.start_mark.line + 1
        if not isinstance(key_node, ScalarNode):
            raise _refused(line, "a key must be a plain word")
        key = str(key_node.value)
        if key in result:
            raise _refused(line, f"'{key}' appears twice here")
        result[key] = _plain(value_node, (*path, key), document)
    return result


_WORDS: dict[str, Json] = {"true": True, "false": False, "null": None, "~": None, "": None}


def _scalar(node: ScalarNode) -> Json:
    """Return text, except for whole numbers and the three plain words.

    Decimal numbers stay text on purpose: every measured number carries its unit.
    """
    text = str(node.value)
    if node.style:
        return text
    if text in _WORDS:
        return _WORDS[text]
    digits = text[1:] if text[:1] in "+-" else text
    if digits.isascii() and digits.isdigit() and len(digits) <= 15 and (digits == "0" or digits[0] != "0"):
        return int(text)
    return text
