"""A short afternoon on which everything breaks once, by really breaking it; longer ones run in ``bench/``."""

from __future__ import annotations

import random
import subprocess
import sys
from pathlib import Path

from playwright.sync_api import Playwright

from jorvek.settings import ROOT
from tests.browser.afternoon import house


def test_nothing_pressed_on_a_bad_afternoon_is_lost_or_doubled(playwright_here: Playwright, tmp_path: Path) -> None:
    chance = random.Random(20261126)
    with house(playwright_here, tmp_path) as all_of_it:
        names = list(all_of_it.faults())
        chance.shuffle(names)
        for name in names:
            all_of_it.go_wrong(name, chance)
        found = all_of_it.reckon()
        print(all_of_it.tally.faults, all_of_it.tally.most_waiting, found)
        assert (found.lost, found.forgotten, found.doubled, found.home) == ([], [], [], True)
        assert all_of_it.tally.most_waiting > 1

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
        before = sum(player.state().seq for player in all_of_it.players)
        all_of_it.work(6, chance)
        assert sum(player.state().seq for player in all_of_it.players) > before
