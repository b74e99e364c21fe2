"""Units are converted exactly, or refused; what is typed is read, or asked for again."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from jorvek.core.figures import figure
from jorvek.core.refusal import Refusal
from jorvek.core.units import UNIT_NAMES, Quantity, convert, read_measure, read_number

EXACT = [
    (1500, Quantity.PRESSURE, "bar", "psi", 21755.661),
    (1, Quantity.TORQUE, "lbf.ft", "N.m", 1.3558179483314004),
    (1, Quantity.TORQUE, "kgf.m", "N.m", 9.80665),
    (1, Quantity.LENGTH, "thou", "mm", 0.0254),
    (1, Quantity.LENGTH, "in", "mm", 25.4),
    (1, Quantity.FORCE, "tonf_uk", "N", 2240 * 4.4482216152605),
    (1, Quantity.ANGLE, "turn", "deg", 360),
    (68, Quantity.TEMPERATURE, "degF", "degC", 20),
    (1, Quantity.PRESSURE, "kgf/cm2", "bar", 0.980665),
]


@pytest.mark.parametrize(("value", "quantity", "unit", "wanted", "expected"), EXACT)
def test_known_factors(value: float, quantity: Quantity, unit: str, wanted: str, expected: float) -> None:
    assert convert(value, quantity, unit, wanted) == pytest.approx(expected, rel=1e-7)


@given(st.sampled_from(list(Quantity)), st.data(), st.floats(1, 1e5))
def test_there_and_back_again(quantity: Quantity, data: st.DataObject, value: float) -> None:
    names = st.sampled_from(sorted(UNIT_NAMES[quantity]))
    a, b = data.draw(names), data.draw(names)
    assert convert(convert(value, quantity, a, b), quantity, b, a) == pytest.approx(value, rel=1e-9)
    assert convert(value, quantity, a, a) == value


@pytest.mark.parametrize(
    ("unit", "code"), [("ft-lb", "E_UNIT"), ("ton", "E_UNIT"), ("kg", "E_UNIT"), ("bar", "E_DIM"), ("", "E_UNIT")]
)
def test_ambiguous_and_foreign_units_are_refused(unit: str, code: str) -> None:
    with pytest.raises(Refusal) as refused:
        convert(100, Quantity.TORQUE, unit, "N.m")
    assert refused.value.code == code


def test_nothing_is_colder_than_absolute_zero() -> None:
    with pytest.raises(Refusal):
        convert(-300, Quantity.TEMPERATURE, "degC", "degF")


@pytest.mark.parametrize(("typed", "value"), [("612.034", 612.034), ("612,034", 612.034), (" 7 ", 7), ("-3", -3)])
def test_either_decimal_separator_is_read(typed: str, value: float) -> None:
    assert read_number(typed, Quantity.LENGTH) == value


@pytest.mark.parametrize("typed", ["1,000", "1,050", "12,500", "999,999", "-1,000"])
def test_a_comma_before_three_digits_may_part_the_thousands_and_is_refused_but_for_lengths(typed: str) -> None:
    for quantity in (None, *(one for one in Quantity if one is not Quantity.LENGTH)):
        with pytest.raises(Refusal) as refused:
            read_number(typed, quantity)
        assert refused.value.code == "thousands"
    assert read_number(typed, Quantity.LENGTH) == float(typed.replace(",", "."))


@pytest.mark.parametrize(("typed", "value"), [("0,125", 0.125), ("1,05", 1.05), ("1000,5", 1000.5), ("1.000", 1.0)])
def test_a_comma_that_can_only_be_a_decimal_one_is_read(typed: str, value: float) -> None:
    assert read_number(typed, Quantity.PRESSURE) == value


@pytest.mark.parametrize("typed", ["1,234.5", "1.234,5", "", "abc", "1 000", "1e5", "NaN", "٣", "9" * 30, "5."])
def test_anything_but_one_plain_number_is_refused(typed: str) -> None:
    with pytest.raises(Refusal) as refused:
        read_number(typed)
    assert refused.value.code == "E_TYPE"


def test_a_written_measure_has_a_number_a_space_and_a_unit() -> None:
    assert read_measure("1000 bar", Quantity.PRESSURE) == (1000, "bar")
    for text in ("1000", "1000bar", "bar", "1000  bar", "1000 mm"):
        with pytest.raises(Refusal):
            read_measure(text, Quantity.PRESSURE)


def test_figures_are_rounded_to_what_the_instrument_tells() -> None:
    assert figure(1.15234, Quantity.LENGTH, "mm").text == "1.152"
    assert figure(-0.0001, Quantity.LENGTH, "mm").text == "0.000"
    assert figure(-1.5, Quantity.TEMPERATURE, "degC").text == "−1.5"
    assert figure(859_900, Quantity.FORCE, "kN").text == "860"
