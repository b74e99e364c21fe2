"""A short afternoon on which everything breaks once, by really breaking it; longer ones run in ``bench/``."""

from __future__ import annotations

import random
import subprocess
import sys
from pathlib import Path

from playwright.sync_api import Playwright

from jorvek.settings import ROOT
from tests.browser.afternoon import House, house


def two_processes_are_one(whole: House) -> None:
    """What is written through one process shows on the tablet of the other without being asked for."""
    pages = [tablet.page for tablet in whole.tablets]
    for tablet in whole.tablets:
        tablet.page.goto(f"{tablet.link.address}/bench/{whole.players[1].run_id}")
        tablet.page.locator("main.bench").wait_for()
    for writer, reader in (pages, reversed(pages)):
        seq = int(reader.locator("main").get_attribute("data-seq") or 0)
        writer.keyboard.press("n")
        writer.get_by_label("Note on this run").fill("Hose looked at")
        writer.get_by_role("button", name="Confirm").click()
        reader.wait_for_function("(seq) => Number(document.querySelector('main').dataset.seq) > seq", arg=seq)


def test_nothing_pressed_on_a_bad_afternoon_is_lost_or_doubled(playwright_here: Playwright, tmp_path: Path) -> None:
    chance = random.Random(20261126)
    with house(playwright_here, tmp_path) as all_of_it:
        names = list(all_of_it.faults())
        chance.shuffle(names)
        for name in names:
            all_of_it.go_wrong(name, chance)
        found = all_of_it.reckon()
        assert (found.lost, found.forgotten, found.doubled, found.home) == ([], [], [], True)
        assert all_of_it.tally.most_waiting > 0

        # The whole log stands, and the runs go on.
        verified = subprocess.run(
            [sys.executable, "-m", "jorvek.cli", "verify"],
            env=all_of_it.processes[0].environment,
            cwd=ROOT,
            capture_output=True,
            text=True,
            check=False,
        )
        assert verified.returncode == 0, verified.stdout
        two_processes_are_one(all_of_it)
        before = sum(player.state().seq for player in all_of_it.players)
        all_of_it.work(6, chance)
        assert sum(player.state().seq for player in all_of_it.players) > before
