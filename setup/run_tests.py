"""Run every check of the project, group by group, and print the time of each."""

from __future__ import annotations

import os
import subprocess
import sys
import time
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from pathlib import Path
from threading import Lock

from changed import changed_files, tests_for

ROOT = Path(__file__).resolve().parents[1]
WEB = ROOT / "web"
TALKING = Lock()


@dataclass(frozen=True)
class Group:
    """One group of checks: commands that must all succeed, run in a directory."""

    name: str
    commands: tuple[tuple[str, ...], ...]
    where: Path = ROOT


PYTHON = sys.executable
SIDE = (
    Group("python-style", (("ruff", "check", "."), ("ruff", "format", "--check", "."))),
    Group("python-types", (("mypy",),)),
    Group("layers", (("lint-imports",),)),
    Group("generated", ((PYTHON, "setup/check_generated.py"), (PYTHON, "setup/licences.py"))),
    Group("web-types", (("npm", "run", "-s", "types"),), WEB),
    Group("web-style", (("npm", "run", "-s", "lint"), ("npm", "run", "-s", "format")), WEB),
    Group("web-unit", (("npm", "run", "-s", "test"),), WEB),
    Group("fuzz", ((PYTHON, "bench/fuzz.py", "20", "1"),)),
)
WHOLE = "JORVEK_WHOLE" in os.environ
"""Everything is tried that there is time for once a week, and lines are counted: that takes half as long again."""
FLOORS = {"core": ("src/jorvek/core", 96), "store": ("src/jorvek/store", 85)} if WHOLE else {}
"""Least share of lines and branches that a layer's own tests run, in %."""


WHOLE_WORKS = tuple(
    f"tests/core/test_{name}.py"
    for name in (
        *(
            "as_it_was",
            "findings_as_they_were",
            "one_step_wrong",
            "stored_is_shown",
            "on_instrument",
            "no_rule_reads_prose",
        ),
        *("twin", "together", "whole_engine_planned", "plans_through_the_metal", "plans", "plans_in_force"),
    )
)
"""What goes through whole procedures and engines: a group of its own, and counted nowhere."""
WALK = ("tests/browser/test_every_size.py", "tests/browser/test_engine.py", "tests/browser/test_for_every_hand.py")
"""About half of what a browser does."""


def _pytest(name: str, *files: str, but: tuple[str, ...] = ()) -> Group:
    command: tuple[str, ...] = ("-m", "pytest", *files, *(f"--ignore={file}" for file in but))
    if name in FLOORS:
        source, floor = FLOORS[name]
        counting = ("--branch", "--source", source, "--fail-under", str(floor), "--skip-covered")
        command = ("-m", "slipcover", *counting, *command)
    return Group(name, ((PYTHON, *command),))


MAIN = (
    _pytest("browser", "tests/browser", but=WALK),
    _pytest("store", "tests/store"),
    _pytest("core", "tests/core", but=WHOLE_WORKS),
    _pytest("works", *WHOLE_WORKS),
    _pytest("api", "tests/api"),
    _pytest("walk", *WALK),
)
"""In an order in which one browser works most of the time: it keeps a core busy and half of another."""
LANES = 3
"""Groups at a time: who waits for the database or a browser leaves its core to another."""


@dataclass(frozen=True)
class Outcome:
    """How a group ended."""

    group: Group
    passed: bool
    seconds: float
    output: str


def run(group: Group) -> Outcome:
    """Run a group to its first failure."""
    started, output = time.monotonic(), ""
    for command in group.commands:
        done = subprocess.run(
            command, cwd=group.where, stdout=subprocess.PIPE, stderr=subprocess.STDOUT, text=True, check=False
        )
        output += done.stdout
        if done.returncode != 0:
            return Outcome(group, False, time.monotonic() - started, output)
    return Outcome(group, True, time.monotonic() - started, output)


def show(outcome: Outcome) -> None:
    """Print a group's result; all of its output when it failed, the last line otherwise."""
    word = "passed" if outcome.passed else "FAILED"
    lines = [line for line in outcome.output.splitlines() if line.strip()]
    last = lines[-1][:100] if lines and outcome.passed else ""
    print(f"{outcome.group.name:14} {word}  {outcome.seconds:6.1f} s  {last}")
    if not outcome.passed:
        print(outcome.output)
    sys.stdout.flush()


def run_and_show(group: Group) -> Outcome:
    """Run a group, and show it as soon as it ends."""
    outcome = run(group)
    with TALKING:
        show(outcome)
    return outcome


def asked_for(wanted: list[str]) -> list[Group]:
    """Return the groups that are named, all without a name, or what a change can touch.

    Raises:
        ValueError: for a name that no group has.
    """
    every = (*MAIN, *SIDE)
    if wanted == ["--changed"]:
        names, files = tests_for(changed_files())
        chosen = [g for g in every if g.name in names]
        return [*chosen, *([_pytest("changed", *files)] if files else [])]
    unknown = set(wanted) - {g.name for g in every}
    if unknown:
        names = [g.name for g in every]
        raise ValueError(f"No such group: {', '.join(sorted(unknown))}. Groups: {', '.join(names)}")
    return [g for g in every if not wanted or g.name in wanted]


def main(wanted: list[str]) -> int:
    """Run groups, a few at a time, whichever is next: the cores are busy until the last one ends."""
    try:
        chosen = asked_for(wanted)
    except ValueError as error:
        print(error)
        return 2
    with ThreadPoolExecutor(LANES) as pool:
        outcomes = list(pool.map(run_and_show, chosen))
    failed = sum(not o.passed for o in outcomes)
    print(f"groups: {len(outcomes) - failed} passed, {failed} failed")
    return 1 if failed else 0


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
