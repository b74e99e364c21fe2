"""Run a file of published cases against the core."""

from __future__ import annotations

import json
import math
from dataclasses import dataclass
from pathlib import Path
from typing import Any, Final

from jorvek.casebook.mapping import ENTRIES, evaluate
from jorvek.core.refusal import Refusal

RELATIVE: Final = 1e-7
AT_ZERO: Final = 1e-9
_SPECIAL: Final = {"NaN": math.nan, "Infinity": math.inf, "-Infinity": -math.inf}
_OUTCOMES: Final = ("expect", "refused", "within")


class BadCaseFile(ValueError):
    """A file that holds no cases."""


@dataclass(frozen=True)
class Failure:
    """A case that did not come out as published.

    Attributes:
        case: its id.
        op: function asked.
        expected: what the file says.
        got: what the core says.
    """

    case: str
    op: str
    expected: str
    got: str


def read_cases(path: Path) -> list[dict[str, Any]]:
    """Return the cases of a file.

    Raises:
        BadCaseFile: when the file cannot be read or holds something else.
    """
    try:
        loaded = json.loads(path.read_text(encoding="utf-8"))
    except (OSError, ValueError, RecursionError) as error:
        raise BadCaseFile(f"{path}: cannot be read as JSON ({error})") from error
    cases = loaded.get("vectors") if isinstance(loaded, dict) else loaded
    if not isinstance(cases, list) or not all(_is_case(case) for case in cases):
        wanted = ", ".join(_OUTCOMES)
        raise BadCaseFile(f"{path}: a list of cases is wanted, each with id, op, args and one of {wanted}")
    return cases


def _is_case(case: object) -> bool:
    return (
        isinstance(case, dict)
        and isinstance(case.get("op"), str)
        and isinstance(case.get("args"), dict)
        and sum(outcome in case for outcome in _OUTCOMES) == 1
    )


def _special(value: Any) -> Any:
    """Return arguments with the words for the IEEE values replaced."""
    if isinstance(value, dict):
        return {key: _special(item) for key, item in value.items()}
    if isinstance(value, list):
        return [_special(item) for item in value]
    return _SPECIAL.get(value, value) if isinstance(value, str) else value


def agrees(got: Any, expected: Any) -> bool:
    """Tell whether a result is the published one: numbers nearly, everything else exactly."""
    if isinstance(expected, dict):
        return isinstance(got, dict) and all(k in got and agrees(got[k], v) for k, v in expected.items())
    if isinstance(expected, list):
        return (
            isinstance(got, list) and len(got) == len(expected) and all(map(agrees, got, expected))  # same length
        )
    if isinstance(expected, bool) or isinstance(got, bool) or expected is None or isinstance(expected, str):
        return bool(got == expected and isinstance(got, bool) == isinstance(expected, bool))
    if not isinstance(got, int | float):
        return False
    return bool(abs(got - expected) <= (AT_ZERO if expected == 0 else RELATIVE * abs(expected)))


def _in_bands(got: Any, bands: dict[str, list[float] | None]) -> bool:
    if not isinstance(got, dict):
        return False
    for name, band in bands.items():
        value = got.get(name)
        if band is None or value is None:
            if band is not value:
                return False
        elif not band[0] <= value <= band[1]:
            return False
    return True


def check_case(case: dict[str, Any]) -> Failure | None:
    """Run one case; return how it failed, or None."""
    wanted = next(outcome for outcome in _OUTCOMES if outcome in case)
    good, said = _outcome(case, wanted)
    if good:
        return None
    return Failure(str(case.get("id", "?")), case["op"], f"{wanted} {json.dumps(case[wanted])}", said)


def _outcome(case: dict[str, Any], wanted: str) -> tuple[bool, str]:
    """Return whether a case came out as published, and what the core said."""
    if case["op"] not in ENTRIES:
        return False, "no such function"
    try:
        got = evaluate(case["op"], _special(case["args"]))
    except Refusal as refusal:
        return wanted == "refused", f"refused: {refusal}"
    except Exception as error:  # a fault of the core is a failed case, not the end of the check
        return False, f"broke: {error!r}"
    if wanted == "refused":
        return False, json.dumps(got)
    return (agrees(got, case["expect"]) if wanted == "expect" else _in_bands(got, case["within"])), json.dumps(got)


def check_file(path: Path) -> tuple[int, list[Failure]]:
    """Run all cases of a file; return how many there are and those that failed.

    Raises:
        BadCaseFile: when the file holds no cases.
    """
    cases = read_cases(path)
    return len(cases), [failure for failure in map(check_case, cases) if failure is not None]
