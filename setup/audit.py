"""Hold the locked packages against the published advisories; asks the registries, so it needs a link to them."""

from __future__ import annotations

import subprocess
import sys
from pathlib import Path

ROOT = Path(__file__).resolve().parents[1]
BIN = Path(sys.executable).parent

AUDITS: tuple[tuple[str, Path, list[str]], ...] = (
    (
        "Python packages",
        ROOT,
        [
            str(BIN / "pip-audit"),
            "--requirement",
            "requirements/run.txt",
            "--require-hashes",
            "--disable-pip",
            "--strict",
            "--progress-spinner=off",
        ],
    ),
    ("Front-end packages", ROOT / "web", ["npm", "audit", "--omit=dev"]),
)


def main() -> None:
    """Run both audits; what could not be asked counts as a failure, not as good news."""
    failed = []
    for name, where, command in AUDITS:
        print(f"· {name}", flush=True)
        if subprocess.run(command, cwd=where, check=False).returncode != 0:
            failed.append(name)
    if failed:
        print(f"Not clean, or not to be asked from here: {', '.join(failed)}", file=sys.stderr)
        sys.exit(1)
    print("No advisory is known for any locked package.")


if __name__ == "__main__":
    main()
