"""Plan problems with proven answers: every one solved, and what came out otherwise."""

from __future__ import annotations

import json
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import Any, Final

from pydantic import ValidationError

from jorvek.core.plan.check import broken
from jorvek.core.plan.problem import Problem
from jorvek.core.plan.result import Aim, Plan
from jorvek.core.refusal import Refusal
from jorvek.planning.solve import plan

_AIMS: Final[dict[str, tuple[Aim, float]]] = {
    "least_barring_deg": ("least_barring", 0.01),
    "earliest_finish_min": ("earliest_finish", 0.0),
}
"""By the name of the answer: what is aimed at, and the tolerance."""


class BadPlanFileError(Exception):
    """The file holds no plan problems."""


@dataclass(frozen=True)
class Solved:
    """One problem: what was expected and what came out.

    Attributes:
        wrong: what is wrong with it in words; None where it is as expected.
    """

    name: str
    expected: float
    got: float | None
    wrong: str | None


def plan_cases(file: Path) -> list[dict[str, Any]]:
    """Return the cases of a file.

    Raises:
        BadPlanFileError: saying what was wrong.
    """
    try:
        cases = json.loads(file.read_text(encoding="utf-8"))["cases"]
    except OSError as error:
        raise BadPlanFileError(f"{file}: cannot be read ({error.strerror})") from error
    except (ValueError, KeyError, TypeError) as error:
        raise BadPlanFileError(f"{file}: a JSON object with a list under 'cases' is wanted") from error
    if not isinstance(cases, list) or not all(isinstance(case, dict) for case in cases):
        raise BadPlanFileError(f"{file}: a list of objects is wanted under 'cases'")
    return cases


def planned_text(file: Path, seconds: float) -> str:
    """Return a plan as JSON for the problem in a file.

    Raises:
        BadPlanFileError: saying what was wrong.
        Refusal: as ``plan``.
    """
    try:
        problem = Problem.model_validate_json(file.read_text(encoding="utf-8"))
    except OSError as error:
        raise BadPlanFileError(f"{file}: cannot be read ({error.strerror})") from error
    except ValidationError as error:
        first = error.errors()[0]
        raise BadPlanFileError(f"{file}: {'.'.join(str(p) for p in first['loc'])}: {first['msg']}") from error
    return plan(problem, seconds=seconds).model_dump_json(indent=1)


def solve_cases(cases: list[dict[str, Any]], seconds: float) -> Iterator[Solved]:
    """Solve cases one after the other."""
    for k, case in enumerate(cases):
        yield solve_case(case, str(case.get("name", k)), seconds)


def solve_case(case: dict[str, Any], name: str, seconds: float) -> Solved:
    """Solve one case with the solver that plans overhauls."""
    answer = next((key for key in _AIMS if key in case), None)
    if answer is None:
        return Solved(name, 0.0, None, f"one of {', '.join(_AIMS)} is wanted")
    aim, tolerance = _AIMS[answer]
    expected = float(case[answer])
    try:
        problem = Problem.model_validate(case.get("problem"))
        found = plan(problem, aim, seconds)
    except ValidationError as error:
        first = error.errors()[0]
        return Solved(name, expected, None, f"{'.'.join(str(p) for p in first['loc'])}: {first['msg']}")
    except Refusal as refusal:
        return Solved(name, expected, None, f"{refusal.code} {refusal.params}")
    return Solved(name, expected, found.reached, _wrong(problem, found, expected, tolerance))


def _wrong(problem: Problem, found: Plan, expected: float, tolerance: float) -> str | None:
    if abs(found.reached - expected) > tolerance:
        return "another answer" if found.proven else "not proven in time"
    if found.aim == "earliest_finish":
        return next(broken(problem, found), None)
    return None
