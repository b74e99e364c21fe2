"""Parts of a view that stay as they were: a reading changes one row of some forty, and one head of thirty."""

from __future__ import annotations

from collections.abc import Callable
from typing import Final, TypeVar, cast

from jorvek.core.run.log.state import Attempt, RunState

T = TypeVar("T")
_KEPT: Final = 4
"""Several runs of one procedure go on side by side."""


def drawn_before(
    state: RunState,
    name: str,
    tries: tuple[tuple[Attempt, ...] | None, ...],
    beside: object,
    draw: Callable[[], T],
) -> T:
    """Return a part as it was drawn before, or draw it.

    A state keeps the attempts of all cells that an event did not touch as the same objects, so a part that is made
    of nothing but ``tries`` and ``beside`` is the same as long as those are.

    Args:
        state: the run as it stands.
        name: of the part within its procedure.
        tries: attempts in the cells it shows, None where there is none.
        beside: everything else that it is made of; compared by value.
        draw: makes it.
    """
    known = state.definition.drawn.get(name, ())
    for before, then, part in known:
        if then == beside and all(a is b for a, b in zip(before, tries, strict=True)):
            return cast(T, part)
    made = draw()
    state.definition.drawn[name] = ((tries, beside, made), *known[: _KEPT - 1])
    return made
