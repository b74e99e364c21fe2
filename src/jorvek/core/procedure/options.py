"""Which steps a procedure has under each way of choosing its options."""

from __future__ import annotations

from itertools import islice, product
from typing import Final

from jorvek.core.procedure.document import Procedure

Selection = dict[str, str]
"""One choice for each option."""

_MOST: Final = 256


def applies(only: dict[str, tuple[str, ...]], selection: Selection) -> bool:
    """Tell whether something stated for some choices only is there under a selection."""
    return all(selection.get(option) in choices for option, choices in only.items())


def selections(procedure: Procedure) -> list[Selection]:
    """Return the ways in which the options can be chosen together; one empty way without options.

    At most 256 ways are looked at; more options than that is a document nobody can follow.
    """
    ways = product(*([(o.id, c) for c in o.choices] for o in procedure.options))
    found: list[Selection] = []
    for way in islice(ways, _MOST):
        selection = {option: choice.id for option, choice in way}
        if all(applies(choice.needs, selection) for _, choice in way):
            found.append(selection)
    return found
