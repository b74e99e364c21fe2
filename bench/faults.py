"""Every tightening procedure on simulated joints, sound and with each fault: how often what was sown is named.

Run with ``./jorvek bench faults``, or ``./jorvek bench faults JOINTS``. A sound joint that is named is a false alarm.
What no reading of a procedure can show is not named by it, and the table says so.
"""

from __future__ import annotations

import sys
from collections import Counter

from tests.core.test_every_kind_of_run import WAYS
from tests.core.twin_named import named, said_of, said_of_all
from tests.core.twin_run import played

from jorvek.core.twin.seeded import USUAL_POPULATION, Fault
from jorvek.local.twin_hands import ToolFaults

CASES = (
    ("sound", frozenset[Fault](), ToolFaults()),
    *((fault.value.replace("_", " "), frozenset({fault}), ToolFaults()) for fault in Fault),
    ("wrench 12 % low", frozenset[Fault](), ToolFaults(wrench=-0.12)),
    ("gauge 12 % low", frozenset[Fault](), ToolFaults(gauge=-0.12)),
)


def main() -> None:
    """Play each way through a tightening procedure with each fault and print what named it."""
    joints = int(sys.argv[1]) if len(sys.argv) > 1 else 8
    print(USUAL_POPULATION)
    for name, way in WAYS:
        if not name.endswith("tighten"):
            continue
        chosen = " ".join(f"{k}={v}" for k, v in way.items())
        for words, faults, off in CASES:
            by: Counter[str] = Counter()
            found = 0
            for seed in range(joints):
                run, hands = played(name, way, seed, faults, off)
                said = named(run, hands, faults)
                if words == "sound":
                    said = said_of_all(run.state).union(*(said_of(run.state, f) for f in run.state.definition.cells_of))
                found += bool(said)
                by.update(said)
            told = ", ".join(f"{word} {n}" for word, n in by.most_common(3))
            print(f"{name} {chosen}: {words}: named {100 * found / joints:.0f} % ({told})", flush=True)


if __name__ == "__main__":
    main()
