"""What stands before a call that may not be answered yet."""

from __future__ import annotations

from jorvek.core.refusal import Refusal
from jorvek.core.run.log.state import RunState


def blocked_reason(state: RunState, key: str, first: str) -> Refusal:
    """Return the refusal of a call, or of a step, that says what comes first in its author's words.

    Args:
        state: the run as it stands.
        key: what was asked for.
        first: the call that comes before it; empty where nothing is open.
    """
    cell = state.definition.by_key.get(first)
    words = (
        [state.definition.title(cell.step), cell.fastener or ""] if cell is not None else [state.started.joint_label]
    )
    return Refusal("not_yet", cell=key, first=first, what=" ".join(words).strip())
