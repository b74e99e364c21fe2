"""Every reading of a run judged again by the present core, held against what was judged then."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from math import isclose
from typing import Final

from pydantic import BaseModel

from jorvek.core.refusal import Refusal
from jorvek.core.run.log import events as ev
from jorvek.core.run.log.definition import Definition
from jorvek.core.run.log.fold import advance, begin
from jorvek.core.run.log.state import RunState
from jorvek.core.run.rules.asked_first import ASKED, SLACKENED
from jorvek.core.run.rules.judge import judge

_SAME: Final = 1e-9
"""Relative: the last bit of another machine does not count."""
_UNJUDGED: Final = (ev.LeftOutAnswer, ev.LeftToEngineAnswer)


@dataclass(frozen=True)
class OtherJudgement:
    """A reading that would be judged otherwise now.

    Attributes:
        seq: its event.
        cell: what was read.
        core_version: of the core that judged it then.
        then: the verdict as it stands in the log.
        now: the verdict as it would be; the code of the refusal where it would not be taken at all.
    """

    seq: int
    cell: str
    core_version: str
    then: str
    now: str


def judged_again(definition: Definition, events: Iterable[ev.Event]) -> Iterator[OtherJudgement]:
    """Yield every reading of a run that the present core judges otherwise than it was judged.

    Args:
        definition: what the run works by.
        events: all of them, in their order.

    Raises:
        Refusal: ``log_broken`` when they do not hang together.
    """
    state: RunState | None = None
    for event in events:
        if state is not None:
            yield from _held_against(state, event)
        state = begin(definition, event) if state is None else advance(state, event)


def _held_against(state: RunState, event: ev.Event) -> Iterator[OtherJudgement]:
    said = event.data.led_to if isinstance(event.data, ev.ClaimSettled) else event.data
    if not isinstance(said, ev.Recorded) or isinstance(said.answer, _UNJUDGED):
        return
    # That it was asked about before it was stored is no part of the verdict.
    kept = tuple(reason for reason in said.judgement.reasons if reason.code not in (ASKED, SLACKENED))
    stands = said.judgement.model_copy(update={"reasons": kept})
    try:
        now = judge(state, state.definition.by_key[said.cell], said.answer, event.at)
    except Refusal as refusal:
        yield OtherJudgement(event.seq, said.cell, event.core_version, stands.verdict.value, refusal.code)
        return
    if not _alike(stands, now):
        yield OtherJudgement(event.seq, said.cell, event.core_version, stands.verdict.value, now.verdict.value)


def _alike(one: object, other: object) -> bool:
    if isinstance(one, BaseModel) and isinstance(other, BaseModel):
        return _alike(one.model_dump(mode="json"), other.model_dump(mode="json"))
    if isinstance(one, float | int) and isinstance(other, float | int):
        return isclose(one, other, rel_tol=_SAME, abs_tol=_SAME)
    if isinstance(one, dict) and isinstance(other, dict):
        return one.keys() == other.keys() and all(_alike(one[k], other[k]) for k in one)
    if isinstance(one, list) and isinstance(other, list):
        return len(one) == len(other) and all(map(_alike, one, other))
    return one == other
