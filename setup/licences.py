"""The licences of everything that is shipped, held against what goes with Apache-2.0.

Run without arguments it checks that ``docs/licences.md`` says what is there, and that all of it may go along; with
``--write`` it writes the list anew. Needs no link: it reads the packages that are installed, and the front end's lock.
"""

from __future__ import annotations

import json
import re
import sys
from collections.abc import Iterator
from dataclasses import dataclass
from importlib import metadata
from pathlib import Path

ROOT = Path(__file__).resolve().parents[1]
LIST = ROOT / "docs" / "licences.md"
MAY_GO_ALONG = frozenset(
    (
        *("0BSD", "Apache-2.0", "BSD", "BSD-2-Clause", "BSD-3-Clause", "CC0-1.0", "HPND", "ISC", "MIT", "MIT-0"),
        *("MIT-CMU", "PSF-2.0", "Unlicense", "Zlib"),
        # By file: a library that is shipped as it came changes nothing for what stands beside it.
        *("MPL-1.1", "MPL-2.0"),
        # Fonts, shipped as they came and under their own names.
        "OFL-1.1",
    )
)
SAID_IN_WORDS = {
    "3-Clause BSD License": "BSD-3-Clause",
    "Apache 2.0": "Apache-2.0",
    "Apache Software License": "Apache-2.0",
    "BSD License": "BSD",
    "ISC License (ISCL)": "ISC",
    "MIT License": "MIT",
    "Mozilla Public License 1.1 (MPL 1.1)": "MPL-1.1",
    "Mozilla Public License 2.0 (MPL 2.0)": "MPL-2.0",
}
"""Licences as packages write them that do not name them by their SPDX identifiers; any other stays as it is."""


@dataclass(frozen=True)
class Shipped:
    """A package that is shipped, with its licence as an SPDX expression."""

    name: str
    version: str
    licence: str


def main() -> None:
    """Check, or write anew."""
    shipped = [*python_packages(), *front_end_packages()]
    bad = [one for one in shipped if not may_go_along(one.licence)]
    for one in bad:
        print(f"{one.name} {one.version}: {one.licence or 'no licence is stated'} does not go with Apache-2.0")
    text = listed(shipped)
    if "--write" in sys.argv:
        LIST.write_text(text)
    elif not LIST.exists() or LIST.read_text() != text:
        print(f"{LIST.relative_to(ROOT)} is stale; write it anew: ./jorvek generate")
        sys.exit(1)
    if bad:
        sys.exit(1)
    print(f"{len(shipped)} packages, all of them go with Apache-2.0")


def may_go_along(expression: str) -> bool:
    """Tell whether an SPDX expression can be kept: of alternatives one is enough, of parts all have to be."""
    return any(
        all(part.strip() in MAY_GO_ALONG for part in way.split(" AND "))
        for way in expression.replace("(", "").replace(")", "").split(" OR ")
    )


def python_packages() -> Iterator[Shipped]:
    """Yield what the program runs on, as far as this machine needs it."""
    lock = (ROOT / "requirements" / "run.txt").read_text()
    for name, version in sorted(set(re.findall(r"^([A-Za-z0-9_.-]+)==([^\s;]+)", lock, re.MULTILINE))):
        try:
            yield Shipped(name, version, licence_of(metadata.metadata(name)))
        except metadata.PackageNotFoundError:
            # For another sort of machine.
            continue


def licence_of(found: metadata.PackageMetadata) -> str:
    """Return the licence of a package by its own words, the exact ones first."""
    (exact,) = found.get_all("License-Expression") or [""]
    if exact:
        return str(exact)
    classified = [c.rsplit(" :: ", 1)[-1] for c in found.get_all("Classifier") or [] if c.startswith("License")]
    said = classified or found.get_all("License") or [""]
    return " OR ".join(SAID_IN_WORDS.get(one, one) for one in said)


def front_end_packages() -> Iterator[Shipped]:
    """Yield what is built into the pages."""
    lock = json.loads((ROOT / "web" / "package-lock.json").read_text())
    for place, one in sorted(lock["packages"].items()):
        if place and not (one.get("dev") or one.get("devOptional")):
            yield Shipped(place.rsplit("node_modules/", 1)[-1], one["version"], str(one.get("license") or ""))


def listed(shipped: list[Shipped]) -> str:
    """Return the list as a page."""
    lines = [
        "# Licences of what is shipped",
        "",
        "Jorvek itself is under Apache-2.0. It stands on these packages, each under its own licence.",
        "`./jorvek generate` makes the list, and the tests check it. `./jorvek bill DIRECTORY` makes bills of",
        "materials in a common format.",
        "",
        "| package | version | licence |",
        "|---|---|---|",
        *sorted({f"| {one.name} | {one.version} | {one.licence} |" for one in shipped}, key=str.casefold),
        "",
    ]
    return "\n".join(lines)


if __name__ == "__main__":
    main()
