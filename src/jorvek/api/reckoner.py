"""The Reckoner: what can be asked, and answers while somebody types."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Path
from pydantic import BaseModel, Field

from jorvek.api.problems import documented
from jorvek.api.session import Actor, Shop
from jorvek.core.reckoner.parts import Field as Asked
from jorvek.core.reckoner.questions import QUESTIONS
from jorvek.core.units import Quantity
from jorvek.work.library.reckoner import Preset, Reckoned, answer, presets

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


@router.get("", responses=documented(401, 503))
def list_questions(actor: Actor) -> list[QuestionListed]:
    """Return what can be asked."""
    return [QuestionListed(name=q.name, fields=list(q.fields)) for q in QUESTIONS.values()]


@router.get("/studs", responses=documented(401, 503))
def list_studs(shop: Shop, actor: Actor) -> list[Preset]:
    """Return the studs of approved procedures, to fill the fields from."""
    return presets(shop)


@router.post("/{question}", responses=documented(400, 401, 403, 422, 503))
def ask(question: Annotated[str, Path(max_length=40)], asking: Asking, actor: Actor) -> Reckoned:
    """Answer a question. Nothing is stored."""
    return answer(question, {name: (t.text, t.unit) for name, t in asking.typed.items()}, dict(asking.units))
