"""The one way in which the core says no."""

from __future__ import annotations


class Refusal(ValueError):
    """Something asked of the core that it will not do.

    ``code`` names an entry under ``refusal`` in the message catalogue; ``params`` fill that
    entry in. Nothing has been changed when a refusal is raised.
    """

    def __init__(self, code: str, **params: str | int | float | None) -> None:
        self.code = code
        self.params = params
        super().__init__(f"{code} {params}" if params else code)
