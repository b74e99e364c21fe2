"""The Reckoner: what can be asked, and answers while somebody types."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Path
from pydantic import BaseModel, Field

from jorvek.api.problems import documented
from jorvek.api.session import Actor, Shop
from jorvek.core.reckoner.parts import Field as Asked
from jorvek.core.reckoner.parts import Shown, show
from jorvek.core.reckoner.questions import QUESTIONS, reckon
from jorvek.core.units import Quantity
from jorvek.reports.formula import mathml
from jorvek.work.studs import Preset, presets

router = APIRouter(prefix="/api/reckoner", tags=["reckoner"])


class QuestionListed(BaseModel):
    """A question and its fields."""

    name: str
    fields: list[Asked]


class Typed(BaseModel):
    """What stands in a field."""

    text: Annotated[str, Field(max_length=60)]
    unit: Annotated[str, Field(max_length=20)] = ""


class Asking(BaseModel):
    """What was filled in, and the units wanted for the answer."""

    typed: Annotated[dict[str, Typed], Field(max_length=60)]
    units: dict[Quantity, Annotated[str, Field(max_length=20)]] = {}


class WhyLine(BaseModel):
    """A formula and the same with its numbers, as MathML."""

    name: str
    formula: str
    numbers: str


class Reckoned(BaseModel):
    """An answer; reckoned, and never a target of a run."""

    told: list[Shown]
    notes: list[str]
    why: list[WhyLine]
    picture: dict[str, float]


@router.get("", responses=documented(401, 503))
def list_questions(actor: Actor) -> list[QuestionListed]:
    """Return what can be asked."""
    return [QuestionListed(name=q.name, fields=list(q.fields)) for q in QUESTIONS.values()]


@router.get("/studs", responses=documented(401, 503))
def list_studs(shop: Shop, actor: Actor) -> list[Preset]:
    """Return the studs of approved procedures, to fill the fields from."""
    return presets(shop)


@router.post("/{question}", responses=documented(400, 401, 422, 503))
def ask(question: Annotated[str, Path(max_length=40)], asking: Asking, actor: Actor) -> Reckoned:
    """Answer a question. Nothing is stored."""
    answer = reckon(question, {name: (t.text, t.unit) for name, t in asking.typed.items()})
    return Reckoned(
        told=[show(told, asking.units) for told in answer.told],
        notes=list(answer.notes),
        why=[
            WhyLine(name=s.name, formula=mathml(s.formula, block=True), numbers=mathml(s.with_numbers(), block=True))
            for s in answer.why
        ],
        picture=answer.picture,
    )
