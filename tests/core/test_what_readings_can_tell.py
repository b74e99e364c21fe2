"""The check says beforehand what readings cannot tell: a window that sound studs fill, a bolt that hides it is soft."""

from __future__ import annotations

import copy
from typing import Any

import pytest

from jorvek.core.procedure.document import Procedure
from jorvek.core.procedure_check import check
from jorvek.core.procedure_check.finding import CheckFinding
from tests.core.paper_run import shipped

STUDS, ANGLE = "tarnholt-7l34-rod-tighten", "corvane-v10-rod-tighten"


def found(name: str, change: Any, *codes: str) -> list[CheckFinding]:
    plain = copy.deepcopy(shipped(name).plain())
    change(plain)
    return [one for one in check(Procedure.model_validate(plain)) if one.code in codes]


def stretch(target_mm: float, half_mm: float) -> Any:
    def changed(plain: Any) -> None:
        for step in plain["steps"]:
            if step["kind"] == "stretch":
                step["target"] = f"{target_mm:.3f} mm"
                step["lower"], step["upper"] = (f"{target_mm + side * half_mm:.4f} mm" for side in (-1, 1))

    return changed


@pytest.mark.parametrize(
    ("half_mm", "code"),
    [
        # Two readings of ± 0.02 mm are ± 0.0283, sound studs of 1 mm scatter ± 0.045: together 0.0733.
        (0.080, None),
        (0.074, None),
        (0.072, "gauge_window_not_capable"),
        (0.054, "gauge_window_not_capable"),
        # Even ± 0.005 mm leaves no room beside the studs themselves.
        (0.050, "window_too_narrow"),
        (0.030, "window_too_narrow"),
    ],
)
def test_gauge_and_window_are_capable_of_each_other_or_it_is_said(half_mm: float, code: str | None) -> None:
    said = found(STUDS, stretch(1.0, half_mm), "gauge_window_not_capable", "window_too_narrow")
    assert [one.code for one in said] == ([] if code is None else [code])
    for one in said:
        assert one.params["wanted"] == pytest.approx(0.073, abs=0.001), "what would do"
        assert one.params.get("gauge", 0.0) == pytest.approx(max(0.0, half_mm - 0.045) / 2**0.5, abs=0.001) or (
            one.code == "window_too_narrow"
        )


def test_an_angle_without_end_torque_or_length_cannot_show_a_soft_bolt() -> None:
    def without(plain: Any) -> None:
        for step in plain["steps"]:
            step.pop("end_torque", None)
        plain["steps"] = [s for s in plain["steps"] if s["kind"] not in ("stretch", "stud_length")]

    assert found(ANGLE, lambda _: None, "soft_bolt_not_seen") == []
    said = found(ANGLE, without, "soft_bolt_not_seen")
    assert said
    assert all(one.severity.value == "note" for one in said), "nothing is wrong: the maker may want it so"
