"""Cases with known answers, and what the core does with inputs that are wrong."""

from __future__ import annotations

import copy
import inspect
import json
import math
import re
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

import pytest

from jorvek.casebook.check import check_case, check_file, read_cases
from jorvek.casebook.docstring import STANDINGS, explain
from jorvek.casebook.mapping import ENTRIES, evaluate
from jorvek.core.refusal import Refusal
from jorvek.messages import say

PUBLISHED = Path(__file__).parent / "cases" / "published.json"
CASES = read_cases(PUBLISHED)
GOOD = [case for case in CASES if "refused" not in case]
REFUSED = [case for case in CASES if "refused" in case]

EXTRA_REFUSALS: list[tuple[str, dict[str, Any], str]] = [
    ("un_thread", {"D_in": 0.1, "n_tpi": 4}, "E_GEOM"),
    ("wrench_range", {"T_Nm": 50, "scale_max_Nm": 100, "scale_min_Nm": 200}, "E_GEOM"),
    ("coarse_pitch", {"d_mm": 43}, "E_TABLE"),
    ("property_class", {"cls": "11.9", "d_mm": 20}, "E_TABLE"),
    ("convert", {"value": 1, "u_from": "bar", "u_to": "N"}, "E_DIM"),
    ("vdi_cone_tan", {"lK_mm": 1e-9, "dW_mm": 100, "DA_mm": 101}, "E_DATA"),
    (
        "bolt_resilience",
        {"d_mm": 30, "P_mm": 2, "sections": [{"L": 9, "d": 20, "bore": 25}], "ends": ["nut", "nut"]},
        "E_GEOM",
    ),
    ("gum_combine", {"contrib": [[1, 1], [1, 1]], "corr": [[1, 0.5], [0.4, 1]]}, "E_DATA"),
    ("end_float", {"forward_mm": [0.4], "aft_mm": [0.1]}, "E_DATA"),
    ("star_sequence", {"n": 401}, "E_RANGE"),
    ("guard_band_decision", {"value": 1.0}, "E_DATA"),
    ("analyse_torque_angle", {"angle_deg": [0.0, 9.0, 5.0, *range(10, 90)], "torque_Nm": [1.0] * 83}, "E_MONO"),
]  # fmt: skip
"""Promised refusals that no published case and no single wrong value shows."""


def test_every_published_case_comes_out() -> None:
    count, failures = check_file(PUBLISHED)
    assert count == 587
    assert failures == []


def test_the_check_notices_a_wrong_answer() -> None:
    for case in GOOD:
        spoilt = copy.deepcopy(case)
        if "expect" in case:
            spoilt["expect"] = _spoil(case["expect"])
        else:
            spoilt["within"] = {key: [-9.0, -8.0] for key in case["within"]}
        assert check_case(spoilt) is not None, case["id"]
    for case in REFUSED:
        assert check_case({"id": "x", "op": case["op"], "args": case["args"], "expect": 1.0}) is not None


def _spoil(value: Any) -> Any:
    """Change one leaf by a little more than is allowed."""
    if isinstance(value, dict):
        key = next(iter(value))
        return {**value, key: _spoil(value[key])}
    if isinstance(value, list):
        return [_spoil(value[0]), *value[1:]] if value else [1.0]
    if isinstance(value, bool):
        return not value
    if isinstance(value, int | float):
        return value * (1 + 3e-7) + (1e-8 if value == 0 else 0)
    return "something else"


WRONG_NUMBERS: list[Any] = [None, "12,5", True, math.nan, math.inf, 10**400, -1.0, -1e-3, 0, 0.04, 97, 1e6, 1e25, 1e-12]


def _wrong(value: Any) -> Iterator[Any]:
    """Yield what somebody could have put in place of one leaf or one list."""
    if isinstance(value, dict):
        for key, item in value.items():
            yield from ({**value, key: other} for other in _wrong(item))
    elif isinstance(value, list):
        yield from ([], value[:-1], value + value, value[::-1], 7)
        for k in {0, len(value) - 1} & set(range(len(value))):
            yield from ([*value[:k], other, *value[k + 1 :]] for other in _wrong(value[k]))
    elif isinstance(value, str):
        yield from ("another", 3, None)
    else:
        yield from WRONG_NUMBERS


def _trials(op: str) -> Iterator[tuple[dict[str, Any], Any]]:
    """Run a function with its good cases and with each argument made wrong in many ways."""
    cases = [case["args"] for case in CASES if case["op"] == op]
    extra = [args for name, args, _ in EXTRA_REFUSALS if name == op]
    base = [case["args"] for case in GOOD if case["op"] == op][:2]
    optional = {p: [1, -1.0, "x", math.nan] for p in _parameters(ENTRIES[op].function) if p not in base[0]}
    wrong = [{**args, key: other} for args in base for key in args for other in _wrong(args[key])]
    wrong += [{**base[0], key: other} for key, others in optional.items() for other in others]
    for args in [*cases, *extra, *wrong]:
        try:
            yield args, evaluate(op, _numbers(args))
        except Refusal as refusal:
            yield args, refusal


def _numbers(value: Any) -> Any:
    if isinstance(value, dict):
        return {key: _numbers(item) for key, item in value.items()}
    if isinstance(value, list):
        return [_numbers(item) for item in value]
    return {"NaN": math.nan, "Infinity": math.inf}.get(value, value) if isinstance(value, str) else value


def _parameters(function: Callable[..., Any]) -> list[str]:
    return list(inspect.signature(function).parameters)


def _leaves(value: Any) -> Iterator[Any]:
    if isinstance(value, dict):
        for item in value.values():
            yield from _leaves(item)
    elif isinstance(value, list):
        for item in value:
            yield from _leaves(item)
    else:
        yield value


@pytest.mark.parametrize("op", sorted(ENTRIES))
def test_wrong_input_is_refused_with_a_promised_code_or_answered_with_numbers(op: str) -> None:
    function = ENTRIES[op].function
    promised = explain(function).codes
    raised: set[str] = set()
    for args, outcome in _trials(op):
        if isinstance(outcome, Refusal):
            raised.add(outcome.code)
            assert not re.search(r"\{\w+\}", say(f"refusal.{outcome.code}", outcome.params)), (args, outcome)
        else:
            assert all(math.isfinite(x) for x in _leaves(outcome) if isinstance(x, float)), (args, outcome)
            json.dumps(outcome)
    # Data that cannot even be turned into the function's own types is refused before it is called.
    assert raised - promised <= {"E_DATA", "E_GEOM", "E_TYPE", "E_RANGE", "E_FINITE"} & _edge_codes(function), raised
    assert promised <= raised, promised - raised


def _edge_codes(function: Callable[..., Any]) -> set[str]:
    """Codes that come from building a thread, a section or a step out of plain data."""
    built = {"thread", "sections", "sections_below", "layers", "grades", "steps", "prior_steps"}
    return {"E_DATA", "E_GEOM", "E_TYPE", "E_RANGE", "E_FINITE"} if built & set(_parameters(function)) else set()


@pytest.mark.parametrize(("op", "args", "code"), EXTRA_REFUSALS)
def test_what_cannot_be_is_refused_for_its_own_reason(op: str, args: dict[str, Any], code: str) -> None:
    with pytest.raises(Refusal) as refused:
        evaluate(op, args)
    assert refused.value.code == code


@pytest.mark.parametrize("case", REFUSED, ids=lambda case: case["id"])
def test_published_refusals_carry_a_fitting_code(case: dict[str, Any]) -> None:
    with pytest.raises(Refusal) as refused:
        evaluate(case["op"], _numbers(case["args"]))
    # The published kind is a hint; the two that a person would act on differently must be right.
    if case["refused"] in {"E_TYPE", "E_FINITE", "E_UNIT", "E_SCOPE"}:
        assert refused.value.code == case["refused"]


UNITS = {"mm": "mm", "N": "N", "Nm": "N·m", "bar": "bar", "MPa": "MPa", "C": "°C", "um": "µm", "us": "µs", "K": "K"}


@pytest.mark.parametrize("op", sorted(ENTRIES))
def test_docstrings_name_every_argument_with_its_unit_and_source(op: str) -> None:
    function = ENTRIES[op].function
    said = explain(function)
    assert list(said.arguments) == _parameters(function)
    assert said.returns
    assert said.source
    assert said.standing.startswith(STANDINGS)
    for name, meaning in said.arguments.items():
        _, _, suffix = name.rpartition("_")
        if name != suffix and suffix in UNITS:
            assert UNITS[suffix] in meaning, f"{name}: {meaning}"
        if suffix == "deg":
            assert "°" in meaning or "degrees" in meaning or "angle" in meaning, f"{name}: {meaning}"
