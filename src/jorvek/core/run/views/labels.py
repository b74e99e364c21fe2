"""What a cell is called: the one label under which it appears on every screen, sheet and list."""

from __future__ import annotations

from typing import Any, Literal

from pydantic import BaseModel, ConfigDict

from jorvek.core.procedure.steps import LubricateStep, StepKind
from jorvek.core.run.log.cells import Cell
from jorvek.core.run.log.state import RunState
from jorvek.core.run.rules.friction import product_at_hand


class View(BaseModel):
    """Base of everything shown: frozen."""

    model_config = ConfigDict(frozen=True)


class Label(View):
    """A cell's name.

    Attributes:
        cell: its key.
        step: the step, with its cycle.
        title: the author's heading of the step.
        kind: kind of the step.
        item: what within the step, a word of the catalogue with its number.
        fastener: position name; None when it concerns all.
        text: the author's words.
        worded: whether those words say what is asked, and not the catalogue.
        noun: what its fastener is.
    """

    cell: str
    step: str
    title: str
    kind: StepKind
    item: str
    fastener: str | None
    text: str | None
    worded: bool
    noun: Literal["stud", "bolt"]


def step_title(state: RunState, step_id: str) -> str:
    """Return the author's heading of a step, with its number from the second time round."""
    return state.definition.title(step_id)


def label_of(state: RunState, key: str) -> Label:
    """Return the label of a cell."""
    return Label(**naming(state, state.definition.by_key[key]))


def words_of(state: RunState, cell: Cell) -> str | None:
    """Return the author's words of a cell; of a lubricant, with the one that is at hand."""
    step = state.definition.steps_by_id[cell.step_id]
    if cell.text is None or not isinstance(step, LubricateStep):
        return cell.text
    return cell.text.replace(step.product, product_at_hand(state, cell) or step.product, 1)


def naming(state: RunState, cell: Cell) -> dict[str, Any]:
    """Return the fields of a cell's label, for views that are labels and more."""
    return {
        "cell": cell.key,
        "step": cell.step,
        "title": step_title(state, cell.step),
        "kind": cell.kind,
        "item": cell.item,
        "fastener": cell.fastener,
        "text": words_of(state, cell),
        "worded": cell.in_author_words,
        "noun": state.definition.noun_of(cell.fastener),
    }
