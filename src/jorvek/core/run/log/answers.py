"""An answer as it was given, before anybody has judged it: its figure, or the catalogue's code for it."""

from __future__ import annotations

from jorvek.core.figures import Figure
from jorvek.core.run.log import events as ev
from jorvek.core.units import symbol


def answer_code(answer: ev.Answer) -> str:
    """Return the word of the catalogue for an answer, or the author's own word."""
    match answer:
        case ev.FeelerAnswer():
            return "feeler_enters" if answer.enters else "feeler_stays_out"
        case ev.PullAnswer():
            return f"pull_{answer.outcome.value}"
        case ev.TurnAnswer(to_mark=True):
            return "turn_to_mark"
        case ev.ChoiceAnswer():
            return answer.choice
        case _:
            return answer.type


def as_read(answer: ev.Answer) -> Figure | None:
    """Return what was read, with its unit; None for a tick."""
    match answer:
        case ev.ValueAnswer():
            return Figure(text=answer.text, unit=symbol(answer.unit))
        case ev.ToolAnswer():
            return Figure(text=answer.tool_id, unit="")
        case ev.WordsAnswer():
            return Figure(text=answer.text, unit="")
        case ev.CountAnswer():
            return Figure(text=str(answer.count), unit="")
        case ev.PullAnswer():
            return None if answer.moved is None else Figure(text=answer.moved, unit=symbol(answer.unit))
        case ev.TurnAnswer(to_mark=False):
            return Figure(text=" + ".join(answer.bites), unit=symbol(answer.unit))
        case _:
            return None


def told(answer: ev.Answer) -> str:
    """Return what an answer says, for a message: its figure, else its code, which the catalogue has words for."""
    read = as_read(answer)
    return answer_code(answer) if read is None else f"{read.text} {read.unit}".strip()
