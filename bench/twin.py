"""How often the truth lies within what the core states, over hundreds of simulated joints.

Run with ``./jorvek bench twin``, or ``./jorvek bench twin JOINTS``: prints for each tightening procedure how many
fasteners agree, how far the estimate lies from the truth, and in how many the truth lies within ± of it.
"""

from __future__ import annotations

import sys
from collections import Counter

from tests.core.test_every_kind_of_run import WAYS
from tests.core.twin_run import played

from jorvek.core.run.views.estimate import estimate


def main() -> None:
    """Play and print one line for each way through a tightening procedure."""
    joints = int(sys.argv[1]) if len(sys.argv) > 1 else 40
    for name, way in WAYS:
        if not name.endswith("tighten"):
            continue
        agreed: Counter[str] = Counter()
        inside, off = 0, list[float]()
        for seed in range(joints):
            run, hands = played(name, way, seed)
            for fastener in run.state.definition.groups:
                held = estimate(run.state, fastener)
                if held is None:
                    continue
                agreed[held.agreement.value] += 1
                if held.F_N is None or held.u_N is None:
                    continue
                true = hands.holds_N(run.state.definition, fastener)
                off.append(held.F_N / true - 1.0)
                inside += abs(held.F_N - true) <= 2.0 * held.u_N
        mean = 100.0 * sum(off) / len(off)
        spread = 100.0 * (sum((x - mean / 100.0) ** 2 for x in off) / len(off)) ** 0.5
        chosen = " ".join(f"{k}={v}" for k, v in way.items())
        print(
            f"{name} {chosen}: {len(off)} fasteners, within ± {100.0 * inside / len(off):.1f} %, "
            f"estimate less truth {mean:+.1f} % (s {spread:.1f} %), {dict(agreed)}",
            flush=True,
        )


if __name__ == "__main__":
    main()
