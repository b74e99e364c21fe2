"""Change the program by one operator or constant at a time, and see whether the tests notice.

``./jorvek bench mutants PACKAGE [COUNT] [SEED]``, PACKAGE one of ``run``, ``check``, ``store``, ``work``. Where a
change may be made is found by an existing library; which tests run the changed line is measured first. Each change is
tried in a process of its own against some of those tests. Prints every survivor with its place.
"""

from __future__ import annotations

import importlib
import importlib.abc
import importlib.util
import os
import random
import signal
import subprocess
import sys
import time
from collections.abc import Iterator, Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from importlib.machinery import ModuleSpec
from pathlib import Path
from types import ModuleType

import coverage
from cosmic_ray.ast import ast_nodes, get_ast_from_path
from cosmic_ray.mutating import mutate_code
from cosmic_ray.plugins import get_operator

from jorvek.settings import ROOT

PACKAGES = {
    "run": (("core/run/log", "core/run/rules", "core/run/views"), ("tests/core",)),
    "check": (("core/procedure_check",), ("tests/core",)),
    "store": (("store",), ("tests/store", "tests/api")),
    "work": (("work",), ("tests/store", "tests/api")),
}
COMPARED = ("Lt", "LtE", "Gt", "GtE", "Eq", "NotEq")
OPERATORS = (
    "core/AddNot",
    "core/NumberReplacer",
    "core/ReplaceAndWithOr",
    "core/ReplaceOrWithAnd",
    "core/ReplaceTrueWithFalse",
    "core/ReplaceFalseWithTrue",
    "core/ReplaceBinaryOperator_Add_Sub",
    "core/ReplaceBinaryOperator_Sub_Add",
    "core/ReplaceBinaryOperator_Mul_Div",
    "core/ReplaceBinaryOperator_Div_Mul",
    "core/ReplaceUnaryOperator_Delete_Not",
    "core/ReplaceUnaryOperator_Delete_USub",
    "core/ReplaceContinueWithBreak",
    "core/ReplaceBreakWithContinue",
    "core/ZeroIterationForLoop",
    *(f"core/ReplaceComparisonOperator_{a}_{b}" for a in COMPARED for b in COMPARED if a != b),
    "core/ReplaceComparisonOperator_Is_IsNot",
    "core/ReplaceComparisonOperator_IsNot_Is",
)
KEPT = ("as_it_was", "as_they_were")
"""Files whose tests hold what answers and documents came to."""
SLOW = ("test_stored_is_shown", "test_every_kind_of_run", "test_published_cases")
"""Files whose tests play whole procedures: they are asked last."""
SECONDS = 60.0
WORK = ROOT / ".jorvek" / "mutants"


@dataclass(frozen=True)
class Mutant:
    """One change: where, by which operator, and the tests that run the line."""

    path: Path
    line: int
    operator: str
    occurrence: int
    tests: tuple[str, ...]


def measured(name: str, folders: Sequence[str]) -> coverage.CoverageData:
    """Run the tests once and note which test runs which line; a measure of the same program is kept."""
    WORK.mkdir(parents=True, exist_ok=True)
    data = WORK / f"{'-'.join(f.replace('/', '.') for f in folders)}.coverage"
    newest = max(p.stat().st_mtime for d in ("src", "tests") for p in (ROOT / d).rglob("*.py"))
    if not data.exists() or data.stat().st_mtime < newest:
        print(f"which tests of {', '.join(folders)} run which line …", flush=True)
        settings = WORK / "coveragerc"
        settings.write_text(
            f"[run]\ndata_file = {data}\nsource = {ROOT / 'src' / 'jorvek'}\nconcurrency = thread\n"
            "dynamic_context = test_function\n"
        )
        command = [sys.executable, "-m", "coverage", "run", f"--rcfile={settings}", "-m", "pytest", *folders, "-q"]
        subprocess.run(command, cwd=ROOT, check=True, stdout=subprocess.DEVNULL)
    found = coverage.CoverageData(str(data))
    found.read()
    return found


def mutants(name: str) -> Iterator[Mutant]:
    """Yield every change on a line that some test runs."""
    places, folders = PACKAGES[name]
    data = measured(name, folders)
    for path in sorted(p for place in places for p in (ROOT / "src" / "jorvek" / place).rglob("*.py")):
        if "migrations" in path.parts:
            continue
        by_line = data.contexts_by_lineno(str(path))
        tree = list(ast_nodes(get_ast_from_path(path)))
        for operator in dict.fromkeys(OPERATORS):
            made, occurrence = get_operator(operator)(), 0
            for node in tree:
                for (line, _), _ in made.mutation_positions(node):
                    tests = tuple(sorted({test_of(c) for c in by_line.get(line, []) if c}))
                    if tests:
                        yield Mutant(path, line, operator, occurrence, tests)
                    occurrence += 1


def test_of(context: str) -> str:
    """Return a test as pytest names it; coverage calls it by the dotted name of its function."""
    module, _, function = context.rpartition(".")
    return f"{module.replace('.', '/')}.py::{function}"


class _Changed(importlib.abc.MetaPathFinder, importlib.abc.Loader):
    """Lets one module be read from a changed text."""

    def __init__(self, module: str, path: Path, text: bytes) -> None:
        self.module, self.path, self.text = module, path, text

    def find_spec(self, name: str, path: Sequence[str] | None, target: ModuleType | None = None) -> ModuleSpec | None:
        if name != self.module:
            return None
        return importlib.util.spec_from_file_location(name, self.path, loader=self)

    def create_module(self, spec: ModuleSpec) -> None:
        return None

    def exec_module(self, module: ModuleType) -> None:
        exec(compile(self.text, str(self.path), "exec"), module.__dict__)


def noticed(mutant: Mutant) -> bool | None:
    """Try one change; None when it changes nothing that can be written."""
    text = mutate_code(mutant.path.read_bytes(), get_operator(mutant.operator)(), mutant.occurrence)
    if text is None:
        return None
    changed = WORK / f"changed-{os.getpid()}-{id(mutant)}.py"
    changed.write_bytes(text.encode() if isinstance(text, str) else text)
    relative = mutant.path.relative_to(ROOT / "src").with_suffix("")
    module = ".".join(relative.parts).removesuffix(".__init__")
    command = [sys.executable, "-m", "bench.mutants", "--try", module, str(mutant.path), str(changed), *mutant.tests]
    process = subprocess.Popen(
        command, cwd=ROOT, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL, start_new_session=True
    )
    try:
        return process.wait(SECONDS) != 0
    except subprocess.TimeoutExpired:
        # A loop without end is noticed, too.
        os.killpg(process.pid, signal.SIGKILL)
        return True
    finally:
        changed.unlink(missing_ok=True)


def attempt(module: str, path: str, changed: str, tests: list[str]) -> int:
    """Run tests with one module changed, in this process."""
    sys.meta_path.insert(0, _Changed(module, Path(path), Path(changed).read_bytes()))
    pytest = importlib.import_module("pytest")
    return int(pytest.main(["-x", "-q", "-p", "no:cacheprovider", *tests]))


def quickest(chance: random.Random, tests: tuple[str, ...]) -> tuple[str, ...]:
    """Return some tests: those of single rules, then those that hold figures, then those that play whole procedures."""
    mixed = chance.sample(tests, len(tests))
    kept = [test for test in mixed if any(name in test for name in KEPT)]
    slow = [test for test in mixed if any(name in test for name in SLOW)]
    single = [test for test in mixed if test not in kept and test not in slow]
    return (*single[:40], *kept[:12], *slow[:8])


def main(name: str = "run", count: int = 150, seed: int = 1) -> int:
    """Try a sample and print what survived."""
    chance = random.Random(seed)
    every = list(mutants(name))
    sample = chance.sample(every, min(count, len(every)))
    sample = [Mutant(m.path, m.line, m.operator, m.occurrence, quickest(chance, m.tests)) for m in sample]
    print(f"{name}: {len(every)} changes on lines that tests run; {len(sample)} tried, seed {seed}", flush=True)
    started, killed, survived = time.monotonic(), 0, list[Mutant]()
    with ThreadPoolExecutor(2) as pool:
        for mutant, seen in zip(sample, pool.map(noticed, sample), strict=True):
            if seen is None:
                continue
            killed += seen
            if not seen:
                survived.append(mutant)
                place = mutant.path.relative_to(ROOT / "src" / "jorvek")
                line = mutant.path.read_text().splitlines()[mutant.line - 1].strip()
                print(f"  survived {place}:{mutant.line} {mutant.operator.partition('/')[2]}: {line[:90]}", flush=True)
    tried = killed + len(survived)
    share = 100.0 * killed / tried if tried else 100.0
    print(f"{name}: {killed} of {tried} noticed ({share:.0f} %) in {time.monotonic() - started:.0f} s")
    return 0


if __name__ == "__main__":
    if sys.argv[1:2] == ["--try"]:
        sys.exit(attempt(sys.argv[2], sys.argv[3], sys.argv[4], sys.argv[5:]))
    given = sys.argv[1:]
    sys.exit(main(given[0] if given else "run", *(int(one) for one in given[1:3])))
