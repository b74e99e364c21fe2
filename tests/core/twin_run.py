"""A run worked on the simulated joint, from its first call on."""

from __future__ import annotations

from jorvek.core.procedure.document import Procedure
from jorvek.core.run.log.cells import InputType
from jorvek.core.run.rules.progress import next_call
from jorvek.core.twin.seeded import Fault
from jorvek.local.twin_hands import ToolFaults, TwinHands
from tests.core.paper_run import BRAM, INES, TODAY, TOOLS, PaperRun

SOUND = frozenset[Fault]()
TRUE_TOOLS = ToolFaults()


def played(
    name: str | Procedure,
    way: dict[str, str],
    seed: int,
    faults: frozenset[Fault] = SOUND,
    off: ToolFaults = TRUE_TOOLS,
    until: InputType | None = None,
) -> tuple[PaperRun, TwinHands]:
    """Play a procedure to its end, or up to the first call that asks for ``until``, on a joint of its own."""
    run = PaperRun(name, **way)
    hands = TwinHands(run.state.definition, seed, faults, off)
    while (cell := next_call(run.state)) is not None and cell.ask is not until:
        run.now += run.waiting(cell)
        by = INES if cell.ask is InputType.SIGNATURE else BRAM
        run.record(cell.key, hands.answer(run.state, cell, TOOLS, TODAY), by, pin=by is INES)
    return run, hands
