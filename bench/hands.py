"""How many touches, and how many keys, a head of four studs takes from make safe to the signature.

Run with ``./jorvek bench hands``. The same run is worked twice on the real screen, once by touch and once by the
keyboard alone, ways from button to button counted; printed are both, and what each sort of call took.
"""

from __future__ import annotations

from collections import Counter

from bench.replay import house, open_tablet, started
from playwright.sync_api import sync_playwright
from tests.browser.conftest import FLAGS

DOCUMENT = "tarnholt-7l34-head-tighten"


def main() -> None:
    """Work the head in both ways and print the counts."""
    with house() as (workshop, _, address), sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=FLAGS)
        for way, keys_only, joint in (("touches", False, "head-4"), ("keys", True, "head-3")):
            tablet = open_tablet(browser, address, "Bram Okafor")
            hands = tablet.sit_down(started(workshop, "Bram Okafor", ("unit-2", joint, DOCUMENT, {}), 1))
            hands.keys_only = keys_only
            state = hands.work()
            asks = {cell.key: cell.ask for cell in state.definition.cells}
            calls = Counter(asks[key] for key in state.attempts)
            told = ", ".join(f"{ask} {hands.touches_on[ask]} for {number}" for ask, number in calls.items())
            print(f"{hands.touches} {way} for {len(state.attempts)} calls: {told}", flush=True)
        browser.close()


if __name__ == "__main__":
    main()
