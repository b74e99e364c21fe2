"""Formulas as MathML, for screens and for the theory."""

from __future__ import annotations

import re
from functools import lru_cache

from latex2mathml.converter import convert

_WORD_SUBSCRIPT = re.compile(r"_\{([A-Za-z][A-Za-z0-9]*[A-Za-z0-9,. ]*)\}")


@lru_cache(maxsize=1024)
def mathml(latex: str, block: bool = False) -> str:
    """Return a formula as MathML.

    Args:
        latex: the formula; subscripts of several letters are set as one word.
        block: on a line of its own.
    """
    upright = _WORD_SUBSCRIPT.sub(r"_{\\text{\1}}", latex)
    result: str = convert(upright, display="block" if block else "inline")
    return result
