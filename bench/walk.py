"""The states of all shipped procedures walked through at random, with whatever the Bench offers.

Run with ``./jorvek bench walk``, or ``./jorvek bench walk MINUTES FIRST_SEED``: goes on for so long (60 minutes), and
prints how many states were seen, and each one that has no way on or offers what is refused.
"""

from __future__ import annotations

import sys
import time
from itertools import count

from tests.core.test_every_kind_of_run import WAYS
from tests.core.walk_of_states import DeadEndError, Walker

LONGEST = 800


def main(minutes: float = 60.0, first: int = 0) -> int:
    """Walk until the time is over; return how many dead ends were found."""
    until, moves, runs, dead = time.monotonic() + 60.0 * minutes, 0, 0, 0
    seen: set[tuple[object, ...]] = set()
    for seed in count(first):
        for name, way in WAYS:
            if time.monotonic() > until:
                print(f"{runs} runs, {moves} acts, {len(seen)} different states, {dead} dead ends", flush=True)
                return dead
            walker = Walker(name, way, seed)
            try:
                for _ in range(LONGEST):
                    moves += 1
                    if not walker.step():
                        break
            except DeadEndError as found:
                dead += 1
                print(f"seed {seed} {way}: {found}", flush=True)
            runs += 1
            seen |= {(name, *one) for one in walker.seen}
    return dead


if __name__ == "__main__":
    given = [float(one) for one in sys.argv[1:3]]
    main(given[0] if given else 60.0, int(given[1]) if len(given) > 1 else 0)
