"""Bills of materials of what is shipped, as CycloneDX JSON: one of the Python packages, one of the front end's."""

from __future__ import annotations

import subprocess
import sys
from pathlib import Path

ROOT = Path(__file__).resolve().parents[1]
BIN = Path(sys.executable).parent


def main(place: Path) -> None:
    """Write both into a directory."""
    place.mkdir(parents=True, exist_ok=True)
    lock = str(ROOT / "requirements" / "run.txt")
    python = [str(BIN / "cyclonedx-py"), "requirements", "--output-format", "JSON", "--output-file"]
    subprocess.run([*python, str(place / "python.cdx.json"), lock], check=True)
    with (place / "front-end.cdx.json").open("w") as out:
        npm = ["npm", "sbom", "--omit=dev", "--sbom-format", "cyclonedx"]
        subprocess.run(npm, cwd=ROOT / "web", stdout=out, check=True)
    print(f"{place / 'python.cdx.json'} and {place / 'front-end.cdx.json'}")


if __name__ == "__main__":
    if len(sys.argv) != 2:
        sys.exit("Usage: ./jorvek bill DIRECTORY")
    main(Path(sys.argv[1]).absolute())
