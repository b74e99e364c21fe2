"""One byte-exact text for one piece of data, and its fingerprint."""

from __future__ import annotations

import hashlib
import json
from typing import TypeAlias

Json: TypeAlias = "bool | int | float | str | list[Json] | dict[str, Json] | None"


def canonical_text(data: Json) -> str:
    """Return the canonical text of JSON data: sorted keys, no spaces, UTF-8, no NaN."""
    return json.dumps(data, sort_keys=True, separators=(",", ":"), ensure_ascii=False, allow_nan=False)


def sha256_hex(*parts: str) -> str:
    """Return the SHA-256 of the parts, each closed by a line feed, as 64 hex digits."""
    digest = hashlib.sha256()
    for part in parts:
        digest.update(part.encode())
        digest.update(b"\n")
    return digest.hexdigest()
