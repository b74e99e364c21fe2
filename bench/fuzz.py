"""Damage procedure documents at random for as long as asked, and see that reading them ends in findings.

Run with ``./jorvek bench fuzz SECONDS [SEED]``. A stack trace, a hang of more than five seconds or a
finding outside the document ends the run with the document that did it.
"""

from __future__ import annotations

import random
import sys
import time
from collections import Counter
from pathlib import Path

from jorvek.settings import ROOT
from jorvek.work.library.checking import checked_lines

PIECES = [
    b"",
    b"- ",
    b": ",
    b"{",
    b"}",
    b"[",
    b"\t",
    b"\x00",
    b"\xff",
    b"&a ",
    b"*a",
    b"|\n",
    b"'",
    b'"',
    b"? ",
    b"!!str ",
]
VALUES = [
    b"0",
    b"-1",
    b"1e9",
    b"bar",
    b"1000 bar",
    b"999999999999 mm",
    b"0 mm",
    b"null",
    b"true",
    b"[]",
    b"{}",
    b"9" * 300,
]
SLOWEST_S = 5.0


def damaged(raw: bytes, draw: random.Random) -> bytes:
    """Return a document with one to four things wrong in it."""
    for _ in range(draw.randint(1, 4)):
        lines = raw.split(b"\n")
        k = draw.randrange(len(lines))
        match draw.randrange(6):
            case 0:
                at = draw.randrange(len(raw) + 1)
                raw = raw[:at] + draw.choice(PIECES) + raw[at + draw.randint(0, 40) :]
            case 1:
                key, colon, _ = lines[k].partition(b":")
                lines[k] = key + colon + b" " + draw.choice(VALUES)
                raw = b"\n".join(lines)
            case 2:
                raw = b"\n".join(lines[:k] + lines[k + draw.randint(1, 12) :])
            case 3:
                raw = b"\n".join(lines[: k + 1] + lines[k : k + draw.randint(1, 12)] + lines[k + 1 :])
            case 4:
                other = draw.randrange(len(lines))
                lines[k], lines[other] = lines[other], lines[k]
                raw = b"\n".join(lines)
            case _:
                raw = raw[: draw.randrange(1, len(raw) + 1)]
        raw = raw or b"x"
    return raw


def main(seconds: float, seed: int) -> int:
    sources = [path.read_bytes() for path in sorted((ROOT / "procedures").glob("*.yaml"))]
    draw, ended, counts, slowest = random.Random(seed), time.monotonic() + seconds, Counter[str](), 0.0
    while time.monotonic() < ended:
        document = damaged(draw.choice(sources), draw)
        started = time.monotonic()
        try:
            lines, stops = checked_lines(document)
            last = document.count(b"\n") + 1
            assert all(1 <= f.line <= last and f.message for f in lines)
        except Exception:
            Path("fuzz-found.yaml").write_bytes(document)
            print(f"after {sum(counts.values())} documents; kept as fuzz-found.yaml")
            raise
        slowest = max(slowest, time.monotonic() - started)
        assert slowest < SLOWEST_S, "a document took too long"
        counts["refused or faulty" if stops else "still good"] += 1
    print(f"{sum(counts.values())} documents in {seconds:.0f} s: {dict(counts)}, slowest {slowest * 1000:.0f} ms")
    return 0


if __name__ == "__main__":
    given = [float(word) for word in sys.argv[1:3]]
    sys.exit(main(given[0] if given else 60.0, int(given[1]) if len(given) > 1 else 1))
