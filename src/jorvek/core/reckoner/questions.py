"""All questions, and how one is answered from what was typed."""

from __future__ import annotations

from typing import Final

from jorvek.core.reckoner.bench_sums import STRIP, UNITS
from jorvek.core.reckoner.loaded import FRICTION, HOLD, WORKING
from jorvek.core.reckoner.parts import Field, Inputs, Question, Reckoning, read
from jorvek.core.reckoner.tensioned import BACK_OFF, PRESSURE, STRETCH
from jorvek.core.reckoner.turned import ANGLE, EXTENSION, TORQUE
from jorvek.core.refusal import Refusal

QUESTIONS: Final[dict[str, Question]] = {
    q.name: q for q in (PRESSURE, TORQUE, ANGLE, EXTENSION, STRETCH, BACK_OFF, UNITS, STRIP, FRICTION, WORKING, HOLD)
}
"""The questions in the order they are offered."""


def counts(spec: Field, typed: dict[str, tuple[str, str]]) -> bool:
    """Tell whether a field matters with the choices made."""
    return spec.shown_if is None or typed.get(spec.shown_if.field, ("", ""))[0] == spec.shown_if.choice


def reckon(name: str, typed: dict[str, tuple[str, str]]) -> Reckoning:
    """Answer a question from what was typed.

    Args:
        name: the question.
        typed: text and unit of each field.

    Returns:
        The answer.

    Raises:
        Refusal: ``E_TABLE`` for an unknown question, ``E_DATA`` for a field left empty, ``E_TYPE``
            for one that is no number, and whatever the core refuses.
    """
    if name not in QUESTIONS:
        raise Refusal("E_TABLE", name="question", got=name[:40], allowed=", ".join(QUESTIONS))
    question = QUESTIONS[name]
    values: Inputs = {}
    for spec in question.fields:
        if not counts(spec, typed):
            continue
        text, unit = typed.get(spec.name, ("", ""))
        if not text.strip():
            raise Refusal("E_DATA", name=spec.name)
        values[spec.name] = read(spec, text, unit or spec.unit)
    return question.answer(values)
