"""How often movement finds what is wrong, over simulated joints, with the populations they are drawn from.

Run with ``./jorvek bench movement``, or ``./jorvek bench movement JOINTS``.
"""

from __future__ import annotations

import sys
from collections import Counter

from tests.core.twin_run import played

from jorvek.core.run.log.cells import Ask
from jorvek.core.run.views.moved_as_expected import moved_as_expected
from jorvek.core.twin.seeded import USUAL_POPULATION, Fault
from jorvek.local.twin_hands import ToolFaults

WAYS = (("corvane-v10-head-tighten", {"tool": "bar"}), ("corvane-v10-main-tighten", {"clearance": "free"}))
CASES = (
    ("sound", frozenset[Fault](), ToolFaults()),
    ("sound, gasket", frozenset({Fault.GASKET}), ToolFaults()),
    ("one dry", frozenset({Fault.ONE_DRY}), ToolFaults()),
    ("one dry, gasket", frozenset({Fault.ONE_DRY, Fault.GASKET}), ToolFaults()),
    ("all dry", frozenset({Fault.ALL_DRY}), ToolFaults()),
    ("wrench 12 % low", frozenset[Fault](), ToolFaults(wrench=-0.12)),
    ("wrench 12 % high", frozenset[Fault](), ToolFaults(wrench=0.12)),
)


def main() -> None:
    """Play the pulls of each case and print its rates."""
    joints = int(sys.argv[1]) if len(sys.argv) > 1 else 30
    print(USUAL_POPULATION)
    for name, way in WAYS:
        for words, faults, off in CASES:
            said: Counter[str] = Counter()
            found = alarms = 0
            for seed in range(joints):
                run, hands = played(name, way, seed, faults, off, until=Ask.TURN)
                judged = moved_as_expected(run.state)[0]
                odd = hands.odd[run.state.definition.procedure.fasteners[0].id]
                said[judged.verdict] += 1
                found += odd in judged.little
                named = set(judged.little + judged.much) - ({odd} if Fault.ONE_DRY in faults else set())
                alarms += bool(named)
            rates = ", ".join(f"{word} {100 * n / joints:.0f} %" for word, n in said.most_common())
            print(
                f"{name}: {words}: {rates}; the odd one named {100 * found / joints:.0f} %, "
                f"joints with a false name {100 * alarms / joints:.1f} %",
                flush=True,
            )


if __name__ == "__main__":
    main()
