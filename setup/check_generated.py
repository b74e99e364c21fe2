"""Fail when a generated file is not what its source makes of it today."""

from __future__ import annotations

import json
import subprocess
import sys
import tempfile
from pathlib import Path

from jorvek.api.app import create_app
from jorvek.reports.theory import theory
from jorvek.store.database import Database
from jorvek.work.library.engine_sheets import schema_of_sheets
from jorvek.work.library.reading import schema_of_procedures
from jorvek.work.workshop import Workshop

ROOT = Path(__file__).resolve().parents[1]
PUBLISHED = ROOT / "tests" / "core" / "cases" / "published.json"


def text(data: object) -> str:
    """Return data as the committed files hold it."""
    return json.dumps(data, indent=1, sort_keys=True) + "\n"


def main(write: bool) -> int:
    """Compare, or write when asked."""
    app = create_app(Workshop(Database("mysql+pymysql://")))
    made = {
        ROOT / "web" / "openapi.json": text(app.openapi()),
        ROOT / "docs" / "format" / "procedure.schema.json": text(schema_of_procedures()),
        ROOT / "docs" / "format" / "engine-sheet.schema.json": text(schema_of_sheets()),
        **{ROOT / "docs" / "theory" / name: page for name, page in theory(PUBLISHED).items()},
    }
    if write:
        for path, content in made.items():
            path.write_text(content, encoding="utf-8")
        subprocess.run(["npm", "run", "-s", "client"], cwd=ROOT / "web", check=True)
        return 0
    client = ROOT / "web" / "src" / "api" / "schema.d.ts"
    with tempfile.TemporaryDirectory() as directory:
        fresh = Path(directory) / "schema.d.ts"
        command = ["npx", "openapi-typescript", "openapi.json", "-o", str(fresh), "--alphabetize"]
        subprocess.run(command, cwd=ROOT / "web", check=True, capture_output=True)
        made[client] = fresh.read_text(encoding="utf-8")
    stale = [str(p.relative_to(ROOT)) for p, content in made.items() if not p.exists() or p.read_text() != content]
    if stale:
        print(f"Stale: {', '.join(stale)}. Write them anew with: ./jorvek generate")
    else:
        print(f"{len(made)} generated files are current")
    return 1 if stale else 0


if __name__ == "__main__":
    sys.exit(main("--write" in sys.argv[1:]))
