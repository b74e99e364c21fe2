"""Fasteners over the years: what a stud measured when it was first taken, how often one was used, which went out."""

from __future__ import annotations

from dataclasses import dataclass

from jorvek.core.bolting.stretch import STEEL_EXPANSION_PER_K
from jorvek.core.procedure.cell_items import CellItem
from jorvek.core.procedure.steps import StudLengthStep
from jorvek.core.run.log import events as ev
from jorvek.core.run.log.state import RunState, once

AT_C = 20.0
"""Temperature to which lengths are brought so that they can be compared over the years."""


@once
def gone_at(state: RunState) -> dict[str, int]:
    """Return for each fastener that went out for good in this run, by name, the event that says so, the newest."""
    found: dict[str, int] = {}
    for key, tries in state.attempts.items():
        name = state.definition.by_key[key].fastener
        if name is None:
            continue
        for attempt in tries:
            chosen = attempt.answer.choice if isinstance(attempt.answer, ev.ChoiceAnswer) else None
            renewed = attempt.live and (chosen == "replace" or state.definition.renews(state.definition.by_key[key]))
            if attempt.rejected is not None or renewed:
                found[name] = max(found.get(name, 0), attempt.seq)
    return found


def free_lengths(state: RunState) -> dict[str, float]:
    """Return the free length in mm at 20 °C of each stud that was measured and is still there, by name."""
    found: dict[str, float] = {}
    for name in state.definition.cells_of:
        measured = _measured(state, name)
        if measured is not None and measured[0] > gone_at(state).get(name, 0):
            found[name] = measured[1]
    return found


def _measured(state: RunState, name: str) -> tuple[int, float] | None:
    """Return event and length at 20 °C of the first free length that counts."""
    for cell in state.definition.cells_of[name]:
        if cell.what is not CellItem.LENGTH or not isinstance(
            state.definition.steps_by_id[cell.step_id], StudLengthStep
        ):
            continue
        length, temperature = state.live(cell.key), state.live(cell.uses[0])
        if length is None or temperature is None or length.judgement.corrected is None:
            continue
        warm = (temperature.judgement.corrected or AT_C) - AT_C
        return length.seq, length.judgement.corrected / (1.0 + STEEL_EXPANSION_PER_K * warm)
    return None


@once
def uses_in(state: RunState) -> dict[str, int]:
    """Return how often each fastener was tightened from slack in this run, by name; a trial assembly is a use."""
    return {name: count for name in state.definition.cells_of if (count := _loads(state, name)[0])}


def is_slack(state: RunState, name: str) -> bool:
    """Tell whether a fastener holds nothing now: not tightened yet in this run, or let go again since."""
    return not _loads(state, name)[1]


def _loads(state: RunState, name: str) -> tuple[int, bool]:
    """Return how often what sits in a place was tightened since it was put in, and whether it is loaded now."""
    # A follow-up finds every fastener as it was left: tight.
    count, loaded, since = 0, state.started.again is not None, gone_at(state).get(name, 0)
    for cell in state.definition.cells_of[name]:
        live = state.live(cell.key)
        if live is None or live.left_out or live.seq < since:
            continue
        if cell.traits.load == "takes":
            loaded = False
        elif cell.traits.load == "adds" and cell.traits.evidence is not None and not loaded:
            count, loaded = count + 1, True
    return count + _put_together_again(state, name, since), loaded


def _put_together_again(state: RunState, name: str, since: int) -> int:
    """Return how often a fastener was tightened in this run for a joint that was then taken apart once more."""
    loads = {
        c.key for c in state.definition.cells_of[name] if c.traits.load == "adds" and c.traits.evidence is not None
    }
    return sum(
        any(state.definition.steps_by_id[state.definition.by_key[key].step_id].touches for key in redo.cells)
        for redo in state.redos
        if redo.seq > since and loads & set(redo.cells)
    )


@dataclass(frozen=True)
class Used:
    """How often a fastener was tightened before, and how often its document allows in all."""

    times: int
    allowed: int

    @property
    def up(self) -> bool:
        """Whether another tightening would be one too many."""
        return self.times >= self.allowed


USED_UP = "used_up"


def used_up_reason(found: Used) -> ev.Reason:
    """Return the reason by which a fastener that was used up stands out."""
    return ev.Reason(code=USED_UP, params={"times": found.times, "allowed": found.allowed})


def used(state: RunState, name: str) -> Used | None:
    """Return how often the fastener that sits in a place was tightened; None where its document does not count."""
    reuse = state.definition.groups[name].reuse
    before = 0 if name in gone_at(state) else state.started.uses.get(name, 0)
    if reuse is not None and reuse.rule == "always_new":
        # Cycles of one tightening, and what is done again in it, are one use of a new fastener.
        return Used(before, 1)
    if reuse is None or reuse.uses is None:
        return None
    return Used(before + uses_in(state).get(name, 0), reuse.uses)


def first_length(state: RunState, name: str) -> float | None:
    """Return the first length in mm at 20 °C of the stud that sits in a place; None for one never measured before."""
    return None if name in gone_at(state) else state.started.first_lengths.get(name)
