"""Whether what was sown in a simulated joint is named by what the program says of the run."""

from __future__ import annotations

from jorvek.core.measuring.evidence import Agreement
from jorvek.core.run.log import events as ev
from jorvek.core.run.log.state import RunState
from jorvek.core.run.views.estimate import estimate
from jorvek.core.run.views.moved_as_expected import moved_as_expected
from jorvek.core.twin.seeded import Fault
from jorvek.local.twin_hands import TwinHands
from tests.core.paper_run import PaperRun

OF_ONE = frozenset({Fault.ONE_DRY, Fault.SOFT_BOLT, Fault.DIRT})
"""Faults that are in one fastener; the others are in all of the joint."""
_BAD = (ev.Verdict.OUT_OF_BAND,)
_AGREE = (Agreement.SINGLE, Agreement.AGREE)


def said_of(state: RunState, fastener: str) -> set[str]:
    """Return by what a fastener stands out: its movement, a reading of its own, or its evidence."""
    found: set[str] = set()
    for group in moved_as_expected(state):
        found |= {word for word, names in (("moved", group.little + group.much),) if fastener in names}
    for cell in state.definition.cells_of[fastener]:
        live = state.live(cell.key)
        if live is not None and live.judgement.verdict in _BAD:
            found.add(cell.item_word)
    held = estimate(state, fastener)
    if held is not None and held.agreement not in _AGREE:
        found.add("evidence")
    return found


def said_of_all(state: RunState) -> set[str]:
    """Return what is said of the joint as a whole: how it moved, or that more than half of it stands out alike."""
    verdicts = {group.verdict for group in moved_as_expected(state)}
    found = {f"moved {v}" for v in verdicts if v in ("too_little", "too_much", "either")}
    names = list(state.definition.cells_of)
    by_word: dict[str, int] = {}
    for name in names:
        for word in said_of(state, name):
            by_word[word] = by_word.get(word, 0) + 1
    return found | {word for word, n in by_word.items() if 2 * n > len(names)}


def named(run: PaperRun, hands: TwinHands, faults: frozenset[Fault]) -> set[str]:
    """Return by what the program names what was sown: in the odd ones of each group, or in the whole joint."""
    if faults & OF_ONE:
        return set().union(*(said_of(run.state, odd) for odd in hands.odd.values()))
    return said_of_all(run.state)
