"""The complete overhaul of three engines planned: ``./jorvek bench plans [SECONDS]``.

Printed of each: pieces of work, the bound and what it rests on, first-come order, the rule, what was found after 3 s
and at the end, the gap to the bound, and the turns of the crank.
"""

from __future__ import annotations

import sys
import time

from tests.core.whole_engine import TYPES, complete

from jorvek.core.plan.bounds import bounds
from jorvek.core.plan.check import broken
from jorvek.core.plan.result import Plan
from jorvek.core.plan.rule import by_tail, first_come
from jorvek.planning.solve import plan

_SOON_S = 3.0


def main(seconds: str = "20") -> None:
    """Plan them all."""
    heads = ("pieces", "bound", "first come", "rule", "3 s", "end", "gap", "turns")
    print(f"{'engine':10}" + "".join(f"{head:>11}" for head in heads) + "  bound by")
    for name in TYPES:
        print(planned(name, float(seconds)), flush=True)


def planned(name: str, seconds: float) -> str:
    """Plan one engine and return its line."""
    problem = complete(name)[3]
    part = bounds(problem, "earliest_finish")[0]
    begun, soon = time.monotonic(), list[int]()

    def tell(better: Plan) -> None:
        if time.monotonic() - begun <= _SOON_S:
            soon.append(better.finish_min)

    best = plan(problem, seconds=seconds, told=tell)
    assert not list(broken(problem, best))
    figures = (
        len(problem.work),
        round(part.value),
        first_come(problem).finish_min,
        by_tail(problem).finish_min,
        min(soon, default=0),
        best.finish_min,
        f"{best.gap:.1%}",
        f"{best.barring_deg / 360:.1f}",
    )
    by = " ".join((part.code, *(part.what if part.code == "set" else ())))
    return f"{name:10}" + "".join(f"{figure:>11}" for figure in figures) + f"  {by}"


if __name__ == "__main__":
    main(*sys.argv[1:])
