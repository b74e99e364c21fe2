"""Run every check of the project, group by group, and print the time of each."""

from __future__ import annotations

import subprocess
import sys
import time
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from pathlib import Path
from threading import Lock

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
FLOORS = {"core": ("src/jorvek/core", 96), "store": ("src/jorvek/store", 85)}
"""Least share of lines and branches that a layer's own tests run, in %."""


KEPT = {
    "core": tuple(
        f"tests/core/test_{name}.py"
        for name in (
            *("as_it_was", "findings_as_they_were", "one_step_wrong", "stored_is_shown", "on_instrument"),
            *("twin", "together", "whole_engine_planned", "plans_through_the_metal"),
        )
    )
}
"""What goes through whole procedures and engines: counting takes half as long again, for hardly a line more."""


def _pytest(name: str) -> Group:
    command: tuple[str, ...] = ("-m", "pytest", f"tests/{name}")
    kept = KEPT.get(name, ())
    if name in FLOORS:
        source, floor = FLOORS[name]
        counting = ("--branch", "--source", source, "--fail-under", str(floor), "--skip-covered")
        command = ("-m", "slipcover", *counting, *command)
    command = (PYTHON, *command)
    command += tuple(f"--ignore={file}" for file in kept)
    return Group(name, (command, (PYTHON, "-m", "pytest", *kept)) if kept else (command,))


MAIN = tuple(_pytest(name) for name in ("core", "store", "api", "browser"))


FRONT = ("browser", "web-types", "web-style", "web-unit")
"""What runs beside the rest: two lanes of about one length for two cores."""


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


def lane(groups: list[Group]) -> list[Outcome]:
    """Run groups one after the other, showing each as it ends."""
    outcomes: list[Outcome] = []
    for group in groups:
        outcomes.append(run(group))
        with TALKING:
            show(outcomes[-1])
    return outcomes


def main(wanted: list[str]) -> int:
    """Run the groups in two lanes: the browser waits more than it reckons, and leaves a core to the rest."""
    every = (*MAIN, *SIDE)
    unknown = set(wanted) - {g.name for g in every}
    if unknown:
        print(f"No such group: {', '.join(sorted(unknown))}. Groups: {', '.join(g.name for g in every)}")
        return 2
    chosen = [g for g in every if not wanted or g.name in wanted]
    lanes = [[g for g in chosen if g.name in FRONT], [g for g in chosen if g.name not in FRONT]]
    with ThreadPoolExecutor(len(lanes)) as pool:
        outcomes = [outcome for ended in pool.map(lane, lanes) for outcome in ended]
    failed = sum(not o.passed for o in outcomes)
    print(f"groups: {len(outcomes) - failed} passed, {failed} failed")
    return 1 if failed else 0


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
