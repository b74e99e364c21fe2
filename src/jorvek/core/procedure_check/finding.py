"""Findings of the procedure check."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum

Path = tuple[str | int, ...]


class Severity(StrEnum):
    """How a finding is to be taken."""

    ERROR = "error"
    WARNING = "warning"
    NOTE = "note"


@dataclass(frozen=True)
class CheckFinding:
    """One thing in a procedure that would hurt, or that nobody should have to wonder about.

    Attributes:
        code: name of the finding; the catalogue says in words what it is and what cures it.
        severity: error or warning.
        path: place in the document.
        params: the numbers that show it.
    """

    code: str
    severity: Severity
    path: Path
    params: dict[str, str | float]


def error(code: str, path: Path, **params: str | float) -> CheckFinding:
    """Return a finding that bars approval."""
    return CheckFinding(code, Severity.ERROR, path, params)


def warning(code: str, path: Path, **params: str | float) -> CheckFinding:
    """Return a finding that somebody should look at."""
    return CheckFinding(code, Severity.WARNING, path, params)


def percent(share: float) -> float:
    """Return a share as a figure in percent."""
    return round(100.0 * share, 1)


def kilo(load_N: float) -> float:
    """Return a load in N as a figure in kN."""
    return round(load_N / 1000.0, 1)


def note(code: str, path: Path, **params: str | float) -> CheckFinding:
    """Return what is good to know beforehand: nothing is wrong, and nothing need be changed."""
    return CheckFinding(code, Severity.NOTE, path, params)
