"""All questions, and how one is answered from what was typed."""

from __future__ import annotations

from typing import Final

from jorvek.core.reckoner.bench_sums import STRIP, UNITS
from jorvek.core.reckoner.loaded import FRICTION, HOLD, WORKING
from jorvek.core.reckoner.parts import Field, Inputs, Question, Reckoning, read, rounded
from jorvek.core.reckoner.tensioned import BACK_OFF, PRESSURE, STRETCH
from jorvek.core.reckoner.turned import ANGLE, EXTENSION, TORQUE
from jorvek.core.refusal import Refusal
from jorvek.core.units import GLOSSARY_UNIT, Quantity, convert, symbol

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
    try:
        return question.answer(values)
    except Refusal as refusal:
        raise _as_typed(question, typed, refusal) from refusal


def _as_typed(question: Question, typed: dict[str, tuple[str, str]], refusal: Refusal) -> Refusal:
    """Return a refusal with its figures in the unit in which the field was filled in."""
    spec = next((f for f in question.fields if f.name == refusal.params.get("name")), None)
    if refusal.code != "E_RANGE" or spec is None or spec.quantity is None:
        return refusal
    unit, base = typed.get(spec.name, ("", ""))[1] or spec.unit, GLOSSARY_UNIT[spec.quantity]
    scale = 100.0 if spec.quantity is Quantity.RATIO else 1.0
    said: dict[str, str | int | float | None] = {}
    for key in ("got", "low", "high"):
        value = refusal.params.get(key)
        if isinstance(value, int | float):
            shown = rounded(convert(scale * value, spec.quantity, base, unit)).replace("-", "−")
            said[key] = f"{shown} {symbol(unit)}"
    return Refusal(refusal.code, **{**refusal.params, **said})
