"""The procedure document: read whole, refused with line numbers, never changed by accident."""

from __future__ import annotations

import json
from pathlib import Path

import jsonschema_rs
import pytest
import yaml
from hypothesis import given
from hypothesis import strategies as st

from jorvek.core.procedure.document import Procedure
from jorvek.core.run.log.cells import cells_hash
from jorvek.core.run.log.expansion import expand
from jorvek.documents.yaml_reader import DocumentRefused, read_model, read_yaml
from jorvek.messages import say
from jorvek.settings import ROOT
from jorvek.work.library.checking import checked_lines
from jorvek.work.library.revisions import read_procedure
from tests.core.paper_run import PROCEDURE

TEXT = (ROOT / "procedures" / "tarnholt-7l34-head-tighten.yaml").read_text()


def findings(text: str) -> list[tuple[int, str, str]]:
    with pytest.raises(DocumentRefused) as refused:
        read_model(read_yaml(text.encode()), Procedure)
    return [(f.line, f.where, f.message) for f in refused.value.findings]


def line_of(text: str) -> int:
    return TEXT[: TEXT.index(text)].count("\n") + 1


def test_the_content_address_is_of_the_content_alone() -> None:
    commented = read_model(read_yaml(("# another remark\n" + TEXT).encode()), Procedure)
    assert commented.content_hash() == PROCEDURE.content_hash()
    changed = read_model(read_yaml(TEXT.replace("1000 bar", "1001 bar").encode()), Procedure)
    assert changed.content_hash() != PROCEDURE.content_hash()
    again = Procedure.model_validate_json(PROCEDURE.canonical())
    assert again.content_hash() == PROCEDURE.content_hash()
    assert cells_hash(expand(again)) == cells_hash(expand(PROCEDURE))


def test_the_examples_of_the_guide_pass_the_check() -> None:
    for path in (ROOT / "docs" / "format" / "examples").glob("*.yaml"):
        said, stops = checked_lines(path.read_bytes())
        assert not stops, path.name
        assert all(line.message.startswith(f"{say('check.severity.note')}:") for line in said), path.name


def test_an_older_format_is_read_as_the_same_procedure_and_keeps_its_lines() -> None:
    """The first format had one group and one tensioner; its faults are named at the lines they stand in."""
    old = json.loads((ROOT / "tests/core/logs/procedures/format-1-tarnholt-7l34-head-tighten.json").read_text())
    stored = Procedure.from_body(old["body"])
    assert (stored.content_hash(), stored.canonical()) == (old["hash"], old["body"])
    first = json.loads(old["body"])
    text = json.dumps(first, indent=1)
    assert read_procedure(text.encode()).plain() == stored.plain()
    broken = text.replace('"area": "9290 mm2"', '"area": "9290 mm"').replace('"hole": "54 mm"', '"hole": "54"')
    lines, stops = checked_lines(broken.encode())
    assert stops
    wanted = [n for n, line in enumerate(broken.splitlines(), 1) if '"9290 mm"' in line or '"hole": "54"' in line]
    assert sorted(f.line for f in lines) == wanted
    assert {f.where for f in lines} == {"fasteners.0.clamped.hole", "tensioners.0.area"}


OLDER = sorted((ROOT / "tests/core/logs/procedures").glob("format-[23]-*.json"))


@pytest.mark.parametrize("kept", OLDER, ids=lambda path: path.stem)
def test_a_document_in_an_older_format_keeps_its_address_and_the_cells_that_logs_were_begun_with(kept: Path) -> None:
    old = json.loads(kept.read_text())
    stored = Procedure.from_body(old["body"])
    assert (stored.content_hash(), f"format-{stored.written_in}") == (old["hash"], kept.stem[:8])
    ways = [dict(pair.split("=") for pair in way.split()) for way in old["cells"]]
    assert [cells_hash(expand(stored, way or None)) for way in ways] == list(old["cells"].values())
    assert Procedure.model_validate(stored.plain()).written_in == 4, "what is written anew is in the present format"


@pytest.mark.parametrize("path", sorted((ROOT / "procedures").glob("*.yaml")), ids=lambda path: path.stem)
def test_a_document_written_back_by_a_library_of_yaml_1_1_is_the_same_document(path: Path) -> None:
    """Such libraries read ``on``, ``off``, ``yes`` and ``no`` as true and false."""
    ours = read_procedure(path.read_bytes())
    again = yaml.safe_dump(yaml.safe_load(path.read_bytes()), allow_unicode=True)
    assert read_procedure(again.encode()).content_hash() == ours.content_hash()


def test_a_revision_cannot_be_changed_in_memory() -> None:
    with pytest.raises(ValueError, match="frozen"):
        PROCEDURE.revision = "D"  # type: ignore[misc]  # forbidden on purpose


def test_the_published_schema_accepts_the_shipped_document_and_no_number_without_unit() -> None:
    schema = json.loads((ROOT / "docs" / "format" / "procedure.schema.json").read_text())
    published = jsonschema_rs.validator_for(schema)
    for folder in ("procedures", "docs/format/examples"):
        for path in sorted((ROOT / folder).glob("*.yaml")):
            published.validate(read_yaml(path.read_bytes()).data)
    document = PROCEDURE.plain()
    document["fasteners"][0]["clamped"]["hole"] = 54
    with pytest.raises(jsonschema_rs.ValidationError):
        published.validate(document)


@pytest.mark.parametrize(
    ("old", "new", "at", "says"),
    [
        ("pressure: 600 bar", "pressure: 600", "pressure: 600 bar", "no pressure with a unit"),
        ("pressure: 600 bar", "pressure: 600 mm", "pressure: 600 bar", "allowed units"),
        ("hold: 20 s", "hold: 20 s\n    flow: 3 bar", "hold: 20 s", "Extra inputs"),
        ("before: length-before", "before: length-bevore", "before: length-before", "not defined before it"),
        ('sequence: ["1", "2", "3", "4"]', 'sequence: ["1", "2", "3", "3"]', "  round:", "more than once"),
        ('sequence: ["1", "2", "3", "4"]', 'sequence: ["1", "2", "3"]', "  round:", "exactly once"),
        ("order: round", "order: around", "order: round", "order 'around'"),
        ("revision: E", "revision: E\nrevision: F", "revision: E", "appears twice"),
        ("  - id: vent", "  - id: seat", "  - id: vent", "more than once"),
        ("kind: vent", "kind: bent", "  - id: vent", "does not match any of the expected tags"),
    ],
)
def test_what_is_wrong_is_named_with_its_line(old: str, new: str, at: str, says: str) -> None:
    assert old in TEXT
    found = findings(TEXT.replace(old, new, 1))
    assert any(says in message for _, _, message in found), found
    assert any(abs(line - line_of(at)) <= 2 for line, _, _ in found), (found, line_of(at))


@pytest.mark.parametrize(
    ("raw", "says"),
    [
        (b"a: &x 1\nb: *x\n", "aliases"),
        (b"[" * 60 + b"]" * 60, "deeper"),
        (b"a: " + b"x" * 1_000_001, "bytes"),
        (b"\xff\xfe", "UTF-8"),
        (b"", "empty"),
        (b"a: [1, 2", "not YAML"),
        (TEXT.encode()[: TEXT.index("    positions:")], "required"),
    ],
)
def test_bad_files_are_refused_while_reading(raw: bytes, says: str) -> None:
    with pytest.raises(DocumentRefused) as refused:
        read_model(read_yaml(raw), Procedure)
    assert any(says in f.message for f in refused.value.findings)


@given(st.binary(max_size=300) | st.text(max_size=300).map(str.encode))
def test_no_bytes_end_in_anything_but_findings(raw: bytes) -> None:
    with pytest.raises(DocumentRefused):
        read_model(read_yaml(raw), Procedure)


@given(st.integers(0, len(TEXT) - 1), st.integers(1, 40), st.sampled_from(["", "\t", "- ", ": ", "0", "é", "*a", "}"]))
def test_a_damaged_document_is_read_or_refused_but_never_breaks(at: int, length: int, instead: str) -> None:
    try:
        read_model(read_yaml((TEXT[:at] + instead + TEXT[at + length :]).encode()), Procedure)
    except DocumentRefused as refused:
        assert refused.findings
        assert all(1 <= f.line <= TEXT.count("\n") + 2 for f in refused.findings)
