"""The worked figures of the cylinder head M52×3 come out of the core, to the printed digit."""

from __future__ import annotations

import pytest

from jorvek.core.bolting.transfer import tool_load_for_residual
from tests.core.paper_run import DEFINITION

MODEL = DEFINITION.clamp


@pytest.mark.parametrize(
    ("pressure_bar", "residual_kN", "stretch_mm"), [(600, "520.6", "0.697"), (1000, "859.9", "1.152")]
)
def test_a_pressure_leaves_the_printed_load_and_stretch(pressure_bar: float, residual_kN: str, stretch_mm: str) -> None:
    residual = MODEL.residual_N(pressure_bar)
    assert f"{residual / 1000:.1f}" == residual_kN
    assert f"{MODEL.stretch_mm(residual):.3f}" == stretch_mm


def test_the_second_stage_has_the_printed_tool_load_stress_and_travel() -> None:
    assert f"{MODEL.tool_load_N(1000) / 1000:.1f}" == "910.4"
    assert f"{MODEL.smallest_mm2:.1f}" == "1734.9"
    assert f"{MODEL.peak_share_of_yield(1000):.3f}" == "0.667"
    assert f"{MODEL.residual_N(1000) / MODEL.smallest_mm2 / MODEL.yield_MPa:.3f}" == "0.620"
    assert f"{MODEL.stroke_budget(1000).travel_mm:.2f}" == "2.19"


def test_a_healthy_stud_comes_free_at_the_printed_pressure() -> None:
    stud, dP = MODEL.stud, MODEL.dP
    ratio = (stud.dS0 + dP) / (stud.dS0 + dP + stud.dNut)
    assert f"{ratio:.3f}" == "0.932"
    free_bar = MODEL.residual_N(1000) / ratio / MODEL.tool_load_N(1)
    assert f"{free_bar:.0f}" == "1014"


def test_the_stretch_band_of_the_document_is_eight_percent_of_the_reckoned_stretch() -> None:
    nominal = MODEL.stretch_mm(MODEL.residual_N(1000))
    cell = DEFINITION.by_key["length-after/length/1"]
    assert cell.lower == pytest.approx(0.92 * nominal, abs=5e-4)
    assert cell.upper == pytest.approx(1.08 * nominal, abs=5e-4)


def test_the_tool_load_for_a_wanted_load_is_the_way_back() -> None:
    back = tool_load_for_residual(
        MODEL.residual_N(1000), MODEL.stud.dS0, MODEL.dP, MODEL.stud.dNut, MODEL.f_Z_um, MODEL.rundown_N
    )
    assert back == pytest.approx(MODEL.tool_load_N(1000), rel=1e-12)
