"""The one way in which the core says no."""

from __future__ import annotations

from typing import Final

KINDS: Final = frozenset(
    {
        "E_TYPE",
        "E_FINITE",
        "E_RANGE",
        "E_GEOM",
        "E_TABLE",
        "E_SCOPE",
        "E_UNIT",
        "E_DIM",
        "E_LEN",
        "E_MONO",
        "E_DUP",
        "E_DATA",
    }
)
"""Kinds of unusable input to a calculation."""


class Refusal(ValueError):
    """Something asked of the core that it will not do.

    ``code`` names an entry under ``refusal`` in the message catalogue; ``params`` fill that
    entry in. Nothing has been changed when a refusal is raised.
    """

    def __init__(self, code: str, **params: str | int | float | None) -> None:
        self.code = code
        self.params = params
        super().__init__(f"{code} {params}" if params else code)
