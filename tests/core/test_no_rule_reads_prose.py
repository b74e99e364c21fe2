"""Texts are for people: a document whose every text is in another alphabet is judged, ordered and worked the same."""

from __future__ import annotations

import json
from collections.abc import Iterator
from dataclasses import replace
from types import UnionType
from typing import Annotated, Any, Union, get_args, get_origin

import pytest
from pydantic import BaseModel, ValidationError
from pydantic.fields import FieldInfo

from jorvek.core.metal.planned_moves import PlannedMoves
from jorvek.core.metal.proof import stuck
from jorvek.core.procedure.document import Procedure
from jorvek.core.procedure.migration import upgrade
from jorvek.core.procedure.options import selections
from jorvek.core.procedure.parts import Text
from jorvek.core.procedure.steps import ConfirmStep, DisturbStep, MakeSafeStep
from jorvek.core.procedure_check import check
from jorvek.core.run.log.cells import Cell
from jorvek.core.run.log.expansion import expand
from jorvek.core.run.rules.progress import next_call
from jorvek.documents.proposals import proposals
from jorvek.settings import ROOT
from jorvek.work.library.revisions import read_procedure
from tests.core.paper_run import ENGINES, PaperRun, shipped

EVERY = sorted(p.stem for p in (ROOT / "procedures").glob("*.yaml"))
Place = tuple[Any, ...]
KEY = object()
"""Marks a text that stands as a key."""
LENGTH = get_args(Text)[1].metadata
"""What tells a text of the author from names and words of the format: how long it may be."""


def is_text(hint: Any, metadata: list[Any]) -> bool:
    """Whether a hint is that of an author's text."""
    return hint is str and list(metadata) == LENGTH


def bare(hint: Any, metadata: list[Any]) -> tuple[Any, list[Any]]:
    """A hint without what may stand round it: that it may be missing, or notes beside the type."""
    while get_origin(hint) in (Annotated, Union, UnionType):
        inner = [one for one in get_args(hint) if one is not type(None)]
        if get_origin(hint) is Annotated:
            notes = [m for one in inner[1:] for m in (one.metadata if isinstance(one, FieldInfo) else [one])]
            hint, metadata = inner[0], notes
        elif len(inner) == 1:
            hint = inner[0]
        else:
            break
    return hint, metadata


def places(value: Any, hint: Any = None, metadata: list[Any] | None = None, path: Place = ()) -> Iterator[Place]:
    """The place of every text of a document; that of a key ends with a mark."""
    hint, metadata = bare(hint, metadata or [])
    if is_text(hint, metadata) and isinstance(value, str):
        yield path
    elif isinstance(value, BaseModel):
        for name, field in type(value).model_fields.items():
            yield from places(getattr(value, name), field.annotation, field.metadata, (*path, field.alias or name))
    elif isinstance(value, dict):
        of_key, of_value = get_args(hint)
        for key, one in value.items():
            yield from places(one, of_value, None, (*path, key))
            yield from ((*path, KEY, key) for _ in places(key, of_key, None))
    elif isinstance(value, tuple):
        inner = [one for one in get_args(hint) if one is not Ellipsis]
        for k, one in enumerate(value):
            yield from places(one, inner[0] if len(inner) == 1 else None, None, (*path, k))


GREEK = "αβγδεζηθικλμνξοπρστυφχψω"


def word(number: int) -> str:
    """A word of another alphabet that is no part of any other."""
    digits = ""
    for _ in range(4):
        number, rest = divmod(number, len(GREEK))
        digits = GREEK[rest] + digits
    return f"«{digits}»"


class Exchanged:
    """A document with each text replaced by a word that means nothing."""

    def __init__(self, written: Procedure) -> None:
        plain, every = written.plain(), list(places(written))
        # The engine type is a name on the register, by which document and engine belong together.
        every = [place for place in every if place[-1] != "engine_type" and at(plain, place) is not None]
        self.words = {text: word(k) for k, text in enumerate(sorted({str(at(plain, place)) for place in every}))}
        self.back = {new: old for old, new in self.words.items()}
        for place in every:
            self._put(plain, place)
        self.procedure = Procedure.model_validate(plain)

    def _put(self, plain: Any, place: Place) -> None:
        for key in place[:-1]:
            if key is KEY:
                plain[self.words[str(place[-1])]] = plain.pop(place[-1])
                return
            plain = plain[key]
        plain[place[-1]] = self.words[plain[place[-1]]]

    def read(self, said: Any) -> Any:
        """What was said, with the author's texts in place of the words again."""
        text = json.dumps(said, ensure_ascii=False, default=str)
        for new, old in self.back.items():
            text = text.replace(new, json.dumps(old, ensure_ascii=False)[1:-1])
        return json.loads(text)


def at(plain: Any, place: Place) -> Any:
    """What stands at a place; None for what was left to its default."""
    for key in place:
        if key is KEY:
            return place[-1]
        plain = plain.get(key) if isinstance(plain, dict) else plain[key]
        if plain is None:
            return None
    return plain


def exchanged(name: str) -> tuple[Procedure, Exchanged]:
    written = shipped(name)
    return written, Exchanged(written)


def said(procedure: Procedure) -> list[Any]:
    return [[f.code, f.severity, f.path, f.params] for f in check(procedure)]


def plain(cell: Cell) -> dict[str, Any]:
    """A cell without the author's words."""
    return {**vars(replace(cell, text=None, cautions=(), choices=())), "choices": len(cell.choices)}


@pytest.mark.parametrize("name", EVERY)
def test_the_same_is_found_when_every_text_is_a_word_of_another_alphabet(name: str) -> None:
    written, other = exchanged(name)
    assert len(other.words) > 20, "a document without texts would show nothing"
    assert other.read(said(other.procedure)) == json.loads(json.dumps(said(written), default=str))


@pytest.mark.parametrize("name", EVERY)
def test_the_same_stands_in_the_way_and_the_same_is_called(name: str) -> None:
    written, other = exchanged(name)
    for way in selections(written):
        before = [(s.index, s.obstacle.code, s.obstacle.part) for s in stuck(PlannedMoves(written, way))]
        after = [(s.index, s.obstacle.code, s.obstacle.part) for s in stuck(PlannedMoves(other.procedure, way))]
        assert other.read(after) == json.loads(json.dumps(before))
        assert list(map(plain, expand(written, way))) == list(map(plain, expand(other.procedure, way)))


@pytest.mark.parametrize("name", ["corvane-v10-main-loosen", "tarnholt-7l34-head-close"])
def test_a_job_is_worked_to_its_end_by_the_same_calls(name: str) -> None:
    def calls(procedure: Procedure) -> list[str]:
        run, keys = PaperRun(procedure), list[str]()
        while (cell := next_call(run.state)) is not None:
            keys.append(cell.key)
            run.play_one()
        return keys

    written, other = exchanged(name)
    assert written.applies_to.engine_type in ENGINES
    assert calls(other.procedure) == calls(written)


def old(name: str) -> Procedure:
    """A shipped document as it would be in the third format, where sentences alone said these things."""
    data = shipped(name).plain()
    data["format"] = "jorvek-procedure/3"
    for part in data.get("parts", []):
        if "lies_on" in part:
            part["on"] = part.pop("lies_on")
        if part.get("starts") == "aside":
            part["starts"] = "off"
    for step in data["steps"]:
        if step["kind"] == "disturb":
            step.pop("disturbs", None), step.pop("effort", None), step.pop("slackens", None)
        if "does" in step:
            step["does"] = {"put_in": "in", "take_off": "off"}.get(step["does"], step["does"])
        for item in step.get("items", []):
            item.pop("establishes", None)
    return Procedure.model_validate(upgrade(data))


def test_what_a_sentence_seems_to_say_is_proposed_and_never_taken_for_said() -> None:
    before = old("tarnholt-7l34-main-loosen")
    found = {f.code for f in check(before)}
    assert "neighbours_not_asked" in found
    seem = [(p.seems, before.steps[p.step].id) for p in proposals(before)]
    assert seem.count(("neighbours_shut", "neighbours")) == 2
    assert ("fastener", "next-caps") in seem
    assert ("effort", "next-caps") in seem
    assert proposals(shipped("tarnholt-7l34-main-loosen")) == ()


@pytest.mark.parametrize("name", EVERY)
def test_a_document_of_the_third_format_is_the_same_work_on_the_same_parts(name: str) -> None:
    before, now = old(name), shipped(name)
    assert before.parts == now.parts
    for way in selections(now):
        assert expand(before, way) == expand(now, way)


@pytest.mark.parametrize(
    ("text", "seems"),
    [
        ("Assemble in reverse", "reverse"),
        ("Nobody over the tools", "people_clear"),
        ("Zero on the gauge seen", "zero_seen"),
        ("Niemand über den Werkzeugen", None),
    ],
)
def test_a_sentence_alone_is_no_finding_and_a_question_to_its_author(text: str, seems: str | None) -> None:
    document = with_step(NEIGHBOURS, "neighbours", items=[{"id": "beside", "text": text}])
    assert {p.seems for p in proposals(document)} == ({seems} if seems else set())
    codes = {f.code for f in check(document)} - {"neighbours_not_asked"}
    assert codes == {f.code for f in check(with_step(NEIGHBOURS, "neighbours", items=[{"id": "b", "text": "x"}]))} - {
        "neighbours_not_asked"
    }


def with_step(name: str, step: str, **change: Any) -> Procedure:
    data = shipped(name).plain()
    for one in data["steps"]:
        if one["id"] == step:
            one.update(change)
    return Procedure.model_validate(data)


NEIGHBOURS = "corvane-v10-main-loosen"


def test_neighbours_are_asked_for_by_what_a_point_establishes_whatever_its_words() -> None:
    point = {"id": "beside", "text": "Nachbarlager zu und fest", "establishes": "neighbours_shut"}
    silent = {"id": "beside", "text": "Neighbouring bearing closed and tight"}
    assert "neighbours_not_asked" not in {f.code for f in check(with_step(NEIGHBOURS, "neighbours", items=[point]))}
    assert "neighbours_not_asked" in {f.code for f in check(with_step(NEIGHBOURS, "neighbours", items=[silent]))}


@pytest.mark.parametrize("establishes", ["people_clear", "zero_seen"])
def test_what_bodies_are_staked_on_is_never_confirmed_by_pedal(establishes: str) -> None:
    point = {"id": "beside", "text": "Alle weg", "establishes": establishes}
    document = with_step(NEIGHBOURS, "neighbours", items=[point])
    (cell,) = [c for c in expand(document) if c.key == "neighbours/beside"]
    assert cell.deliberate
    assert any(isinstance(s, ConfirmStep | MakeSafeStep) for s in document.steps)


@pytest.mark.parametrize(
    ("change", "found"),
    [
        ({"carried_to": None, "disturbs": None}, "disturbed_unstated"),
        ({"carried_to": None, "disturbs": "fastener"}, "put_right_without_effort"),
        ({"carried_to": None, "disturbs": "other"}, None),
        ({"carried_to": None, "disturbs": "fastener", "effort": {"torque": "60 N.m"}}, None),
        ({"disturbs": None}, None),
    ],
)
def test_a_disturbed_fastener_is_put_right_to_an_effort(change: dict[str, Any], found: str | None) -> None:
    wanted = {"disturbed_unstated", "put_right_without_effort"}
    document = with_step(NEIGHBOURS, "next", **change)
    assert isinstance(next(s for s in document.steps if s.id == "next"), DisturbStep)
    assert {f.code for f in check(document)} & wanted == ({found} if found else set())


@pytest.mark.parametrize(
    ("step", "change", "kind"),
    [
        ("next", {"disturbs": "fastener", "effort": {}}, "effort_empty"),
        ("next", {"disturbs": "other", "effort": {"torque": "60 N.m"}}, "effort_of_what"),
        ("slack", {"unbroken_until": "sides"}, "procedure_unknown"),
        ("slack", {"unbroken_until": "slack"}, "procedure_unknown"),
        ("slack", {"open_time": {"at_most": "15 min", "until": "cold", "afterwards": "made_new"}}, "procedure_unknown"),
    ],
)
def test_what_is_typed_wrongly_is_refused(step: str, change: dict[str, Any], kind: str) -> None:
    with pytest.raises(ValidationError) as refused:
        with_step(NEIGHBOURS, step, **change)
    assert kind in {one["type"] for one in refused.value.errors()}


def test_an_open_time_ends_with_a_later_step() -> None:
    times = {"at_most": "15 min", "until": "out", "afterwards": "looked_at"}
    step = next(
        s for s in with_step(NEIGHBOURS, "slack", open_time=times, unbroken_until="out").steps if s.id == "slack"
    )
    assert step.open_time is not None
    assert step.open_time.at_most.value == 15 * 60
    assert step.unbroken_until == "out"


def test_every_shipped_document_is_in_the_present_format() -> None:
    for name in EVERY:
        assert read_procedure((ROOT / "procedures" / f"{name}.yaml").read_bytes()).written_in == 4
