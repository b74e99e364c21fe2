"""Hold the locked packages against the published advisories; asks the registries, so it needs a link to them."""

from __future__ import annotations

import subprocess
import sys
from datetime import UTC, datetime
from pathlib import Path

ROOT = Path(__file__).resolve().parents[1]
BIN = Path(sys.executable).parent
ANSWERED = ROOT / ".jorvek" / "advisories"
"""When both were asked last and knew of nothing."""

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
        print(f"Not clean, or not to be asked from here: {', '.join(failed)}. {last_answer()}", file=sys.stderr)
        sys.exit(1)
    ANSWERED.parent.mkdir(parents=True, exist_ok=True, mode=0o700)
    ANSWERED.write_text(datetime.now(UTC).isoformat())
    print("No advisory is known for any locked package.")


def last_answer() -> str:
    """Say how old the last good answer is."""
    try:
        at = datetime.fromisoformat(ANSWERED.read_text())
    except (OSError, ValueError):
        return "They have never answered here."
    return f"The last time that nothing was known: {at:%Y-%m-%d}, {(datetime.now(UTC) - at).days} days ago."


if __name__ == "__main__":
    main()
