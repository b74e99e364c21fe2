"""Which tests a change since the last commit can touch: by what imports what, and by what lies where."""

from __future__ import annotations

import subprocess
import sys
from pathlib import Path

import grimp

ROOT = Path(__file__).resolve().parents[1]
ALWAYS = ("python-style", "python-types", "layers")
"""Quick, and no change of the Python side is too small for them."""
FRONT = ("web-types", "web-style", "web-unit")


def changed_files() -> list[str]:
    """Return what differs from the last commit, new files too."""
    asked = (["git", "diff", "--name-only", "HEAD"], ["git", "ls-files", "--others", "--exclude-standard"])
    return [
        line
        for command in asked
        for line in subprocess.run(command, cwd=ROOT, capture_output=True, text=True, check=True).stdout.splitlines()
    ]


def module_of(file: str) -> str | None:
    """Return the module that a file holds; None for anything else."""
    path = Path(file)
    if path.suffix != ".py" or path.parts[0] not in ("src", "tests"):
        return None
    parts = path.with_suffix("").parts[1 if path.parts[0] == "src" else 0 :]
    return ".".join(parts[:-1] if parts[-1] == "__init__" else parts)


def tests_for(files: list[str]) -> tuple[list[str], list[str]]:
    """Return the groups that a change asks for, and the test files that can see it.

    A document, a catalogue or the demo world is read by name, not imported: every test of the core and the API is run.
    """
    groups = list(ALWAYS) if any(file.endswith(".py") for file in files) else []
    if any(file.startswith("web/") for file in files):
        groups += FRONT
    if any(
        file.startswith(("web/", "src/jorvek/api", "src/jorvek/core", "docs/format", "procedures")) for file in files
    ):
        groups.append("generated")
    sys.path.insert(0, str(ROOT))
    graph = grimp.build_graph("jorvek", "tests")
    seen: set[str] = set()
    for module in filter(None, map(module_of, files)):
        if module in graph.modules:
            seen |= {module, *graph.find_downstream_modules(module)}
    found = {f"{module.replace('.', '/')}.py" for module in seen if module.rpartition(".")[2].startswith("test_")}
    if any(file.startswith(("procedures/", "sheets/", "world/", "src/jorvek/messages/")) for file in files):
        found |= {
            str(path.relative_to(ROOT))
            for part in ("core", "api")
            for path in (ROOT / "tests" / part).glob("test_*.py")
        }
    # The stories work a whole world and import all of it; they are asked for what one sees and how it is asked for.
    if not any(file.startswith(("web/", "src/jorvek/api", "tests/browser")) for file in files):
        found = {file for file in found if not file.startswith("tests/browser")}
    if any(file.startswith("web/src/") for file in files):
        found |= {str(path.relative_to(ROOT)) for path in (ROOT / "tests" / "browser").glob("test_*.py")}
    return groups, sorted(found)
