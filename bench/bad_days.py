"""Rounds of an afternoon on which everything breaks: kills, readings, lost, doubled.

Run with ``./jorvek bench bad_days``, or ``./jorvek bench bad_days ROUNDS FAULTS SEED [kills]``; with that word
nothing happens but kills of servers, the database and browsers. Each round has a house of its own: a database,
two application processes on it, two tablets, three runs.
"""

from __future__ import annotations

import random
import sys
import tempfile
from pathlib import Path

from playwright.sync_api import sync_playwright
from tests.browser.afternoon import house


def main() -> None:
    """Run the rounds and print one line for each."""
    words = sys.argv[1:]
    only_kills = "kills" in words
    given = [int(word) for word in words if word != "kills"]
    rounds, faults, seed = (*given, *(3, 10, 1)[len(given) :])
    lost = doubled = kills = 0
    with sync_playwright() as playwright:
        for number in range(rounds):
            chance = random.Random(seed + number)
            with tempfile.TemporaryDirectory() as place, house(playwright, Path(place)) as whole:
                names = [name for name in whole.faults() if name.endswith("killed") or not only_kills]
                for _ in range(faults):
                    whole.go_wrong(chance.choice(names), chance)
                found = whole.reckon()
            lost += len(found.lost) + len(found.forgotten)
            doubled += len(found.doubled)
            kills += sum(times for name, times in whole.tally.faults.items() if name.endswith("killed"))
            said = ", ".join(f"{name} {times}" for name, times in sorted(whole.tally.faults.items()))
            print(f"round {number + 1}: {said}")
            print(
                f"  pressed {found.pressed}, most waiting at once {whole.tally.most_waiting}, claims {found.claims}, "
                f"refused {len(whole.tally.refused)}, lost {len(found.lost)}, "
                f"acknowledged and gone {len(found.forgotten)}, doubled {len(found.doubled)}, "
                f"everything sent in the end: {'yes' if found.home else 'NO'}; "
                f"answers {dict(sorted(whole.tally.statuses.items()))}",
                flush=True,
            )
    print(f"{rounds} rounds, {kills} kills: lost {lost}, doubled {doubled}")
    sys.exit(1 if lost or doubled else 0)


if __name__ == "__main__":
    main()
