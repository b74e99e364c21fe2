"""A filled work sheet keyed in: readings a minute at an unhurried typist's pace, and what the machine takes of it.

Run with ``./jorvek bench keyed``. Keys are real key events, one every 200 ms; ten readings a minute is slow.
"""

from __future__ import annotations

import statistics
import time
from datetime import UTC, datetime, timedelta

from bench.replay import house, open_tablet
from playwright.sync_api import sync_playwright
from tests.browser.conftest import FLAGS
from tests.core.test_from_paper import pencil

from jorvek.core.run.log.cells import Cell
from jorvek.core.run.log.state import RunState
from jorvek.core.run.rules.paper_entry import NOT_FROM_PAPER
from jorvek.core.run.rules.progress import next_call
from jorvek.local.demo import actor
from jorvek.local.player import Player, SetClock, usual_answer

A_KEY_EVERY_MS = 200
SHEETS: tuple[tuple[str, str, str, dict[str, str], str], ...] = (
    ("unit-2", "head-4", "tarnholt-7l34-head-tighten", {}, "length-before/temperature/1"),
    ("unit-5", "head-a", "corvane-v10-head-tighten", {"tool": "bar"}, "snug/pull/9"),
)


def main() -> None:
    """Key in what can be keyed in of two sheets and print how fast it went."""
    with house() as (workshop, _, address), sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=FLAGS)
        page = open_tablet(browser, address, "Bram Okafor").page
        for engine, joint, name, way, begin in SHEETS:
            earlier = SetClock(datetime.now(UTC) - timedelta(hours=3))
            player = Player(workshop, earlier, actor(workshop, "Bram Okafor"), 3)
            player.start(engine, joint, next(r.hash for r in workshop.registers.revisions() if r.id == name), way)
            player.play(lambda cell, begin=begin: cell.key == begin)  # type: ignore[misc]  # bound now
            page.goto(f"{address}/sheet/{player.run_id}")
            page.get_by_label("Written by").select_option(label="Lio Sandvik")
            page.locator("input.entry").wait_for()
            taken_ms: list[float] = []
            begun = time.monotonic()
            while (cell := _to_be_keyed(player.state())) is not None:
                tools, today = workshop.registers.tools(), workshop.today()
                text = pencil(usual_answer(player.state(), cell, player.chance, tools, today))
                done = len(player.state().counting)
                page.keyboard.type(text, delay=A_KEY_EVERY_MS)
                entered = time.perf_counter()
                page.keyboard.press("Enter")
                page.wait_for_function(
                    "(n) => document.querySelector('main').innerText.includes(`${n} of `)", arg=done + 1
                )
                taken_ms.append((time.perf_counter() - entered) * 1000)
            minutes = (time.monotonic() - begun) / 60
            p95 = statistics.quantiles(taken_ms, n=20)[18]
            print(
                f"{name}: {len(taken_ms)} readings, {len(taken_ms) / minutes:.0f} a minute; "
                f"Enter to next line p50 {statistics.median(taken_ms):.0f} ms, p95 {p95:.0f} ms",
                flush=True,
            )
        browser.close()


def _to_be_keyed(state: RunState) -> Cell | None:
    """Return the next line; None where a tool, a signature or a wait ends what can be keyed in one go."""
    cell = next_call(state)
    return None if cell is None or cell.ask in NOT_FROM_PAPER or cell.wait_s > 0 else cell


if __name__ == "__main__":
    main()
