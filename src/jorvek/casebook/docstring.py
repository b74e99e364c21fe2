"""The parts of a core function's docstring, which tests hold to be true and the theory is made of."""

from __future__ import annotations

import inspect
import re
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any, Final

STANDINGS: Final = ("mechanics", "standard", "quoted", "model")
"""How sure a formula is: derived; from a standard; quoted without the print at hand; a choice."""


@dataclass(frozen=True)
class Explained:
    """What a docstring says, part by part.

    Attributes:
        summary: first sentence.
        notes: what follows it.
        arguments: meaning of each argument, in order.
        returns: what comes back.
        codes: codes of the refusals promised.
        refusals: their text.
        formulas: formulas in LaTeX.
        standing: how sure the formula is, in words.
        source: where it comes from and how it was checked.
    """

    summary: str
    notes: str
    arguments: dict[str, str]
    returns: str
    codes: frozenset[str]
    refusals: str
    formulas: tuple[str, ...]
    standing: str
    source: str


def _flow(text: str) -> str:
    return " ".join(text.split())


def explain(function: Callable[..., Any]) -> Explained:
    """Return the parts of a function's docstring.

    Raises:
        ValueError: when it has none.
    """
    text = inspect.getdoc(function)
    if not text:
        raise ValueError(f"{function.__name__} has no docstring")
    pieces = re.split(r"^(Args|Returns|Raises|Formula|Standing|Source):", text, flags=re.M)
    parts = dict(zip(pieces[1::2], pieces[2::2], strict=True))
    summary, _, notes = pieces[0].partition("\n\n")
    arguments = re.findall(r"^    (\w+): (.*?)(?=^    \w+: |\Z)", parts.get("Args", ""), re.S | re.M)
    return Explained(
        summary=_flow(summary),
        notes=_flow(notes),
        arguments={name: _flow(meaning) for name, meaning in arguments},
        returns=_flow(parts.get("Returns", "")),
        codes=frozenset(re.findall(r"``(E_\w+)``", parts.get("Raises", ""))),
        refusals=_flow(parts.get("Raises", "")).removeprefix("Refusal: "),
        formulas=tuple(line.strip() for line in parts.get("Formula", "").splitlines() if line.strip()),
        standing=_flow(parts.get("Standing", "")),
        source=_flow(parts.get("Source", "")),
    )
