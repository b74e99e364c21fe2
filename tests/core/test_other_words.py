"""A document in two languages: its author's words, and below them those of whoever reads the other one."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

import pytest
from pydantic import ValidationError

from jorvek.core.procedure.document import Procedure
from jorvek.core.run.views.bench import bench_view
from jorvek.core.run.views.calls import Call
from jorvek.messages import speaking
from jorvek.reports.work_sheet import run_sheet_html
from tests.core.paper_run import PaperRun, shipped

HEAD = "tarnholt-7l34-head-tighten"


def in_spanish(**texts: str) -> Procedure:
    plain: dict[str, Any] = shipped(HEAD).plain()
    return Procedure.model_validate(plain | {"other_words": {"es": texts}})


def first_call(run: PaperRun, language: str) -> Call:
    return bench_view(run.events[0].run_id, run.state, replace(run.looking(), language=language)).calls[0]


def test_the_words_are_shown_to_whoever_reads_that_language_and_to_nobody_else() -> None:
    step = shipped(HEAD).steps[0]
    run = PaperRun(in_spanish(**{step.title: "Antes de las herramientas"}))
    assert first_call(run, "es").also == {step.title: "Antes de las herramientas"}
    assert first_call(run, "es").title == step.title, "the author's own words stay where they are"
    for other in ("en", "de", ""):
        assert first_call(run, other).also == {}


def test_only_the_words_of_the_call_come_with_it() -> None:
    first, last = shipped(HEAD).steps[0], shipped(HEAD).steps[-1]
    run = PaperRun(in_spanish(**{first.title: "Antes de las herramientas", last.title: "El jefe lo ve"}))
    assert set(first_call(run, "es").also) == {first.title}


def test_cautions_are_said_twice() -> None:
    caution = next(c for step in shipped(HEAD).steps for c in step.cautions)
    run = PaperRun(in_spanish(**{caution: "Nadie en la línea de la presión"}))
    step = next(step for step in shipped(HEAD).steps if caution in step.cautions)
    run.play(run.state.definition.by_step[step.id][0].key)
    assert first_call(run, "es").also[caution] == "Nadie en la línea de la presión"


def test_words_for_a_text_that_is_not_there_are_refused_at_their_place() -> None:
    with pytest.raises(ValidationError) as refused:
        in_spanish(**{"Before the toolz": "Antes de las herramientas"})
    assert "Before the toolz" in str(refused.value)
    assert "no text of this document" in str(refused.value)


def test_a_document_without_them_keeps_its_address_and_one_with_them_has_another() -> None:
    plain = shipped(HEAD)
    assert "other_words" not in plain.canonical()
    assert in_spanish(**{plain.steps[0].title: "Antes"}).content_hash() != plain.content_hash()


def test_the_work_sheet_says_both() -> None:
    step = shipped(HEAD).steps[0]
    run = PaperRun(in_spanish(**{step.title: "Antes de las herramientas"}))
    token = speaking.set("es")
    try:
        assert f"{step.title} / Antes de las herramientas" in run_sheet_html(run.state, run.events[0].run_id, "")
    finally:
        speaking.reset(token)
    assert "Antes de las herramientas" not in run_sheet_html(run.state, run.events[0].run_id, "")
