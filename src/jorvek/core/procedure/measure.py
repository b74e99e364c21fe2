"""Numbers of a procedure: a value, its unit, and the author's own text."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated, TypeAlias

from pydantic import GetCoreSchemaHandler, GetJsonSchemaHandler
from pydantic.json_schema import JsonSchemaValue
from pydantic_core import CoreSchema, PydanticCustomError, core_schema

from jorvek.core.refusal import Refusal
from jorvek.core.units import GLOSSARY_UNIT, UNIT_NAMES, Quantity, convert, read_measure, read_number, symbol


@dataclass(frozen=True)
class Measure:
    """A number with its unit as the author wrote it.

    Attributes:
        text: what stands in the document, for example ``1000 bar``.
        quantity: what it measures.
        unit: the author's unit, which stays primary.
        value: the number in the glossary unit of its quantity.
    """

    text: str
    quantity: Quantity
    unit: str
    value: float

    @property
    def shown(self) -> str:
        """The author's number with the printed form of its unit, for example ``105 N·m``."""
        number, _, unit = self.text.partition(" ")
        return f"{number}{'' if unit == 'deg' else ' '}{symbol(unit)}"


def measure_from_text(text: str, quantity: Quantity) -> Measure:
    """Read a measure.

    Raises:
        Refusal: ``E_UNIT`` or ``E_DIM``.
    """
    number, unit = read_measure(text, quantity)
    return Measure(text, quantity, unit, convert(number, quantity, unit, GLOSSARY_UNIT[quantity]))


@dataclass(frozen=True)
class _MeasureOf:
    """Pydantic marker: this field is a text such as ``1000 bar`` of one quantity."""

    quantity: Quantity

    def __get_pydantic_core_schema__(self, source: object, handler: GetCoreSchemaHandler) -> CoreSchema:
        return core_schema.no_info_plain_validator_function(
            self._validate,
            serialization=core_schema.plain_serializer_function_ser_schema(lambda measure: measure.text),
        )

    def __get_pydantic_json_schema__(self, schema: CoreSchema, handler: GetJsonSchemaHandler) -> JsonSchemaValue:
        units = "|".join(name.replace(".", r"\.").replace("/", r"\/") for name in UNIT_NAMES[self.quantity])
        return {
            "type": "string",
            "pattern": rf"^[+\-]?\d+(\.\d+)? ({units})$",
            "description": f"A {self.quantity.value} with its unit, for example '1 {GLOSSARY_UNIT[self.quantity]}'.",
        }

    def _validate(self, given: object) -> Measure:
        if isinstance(given, Measure):
            return given
        if not isinstance(given, str):
            raise self._error("no_unit", str(given))
        try:
            return measure_from_text(given, self.quantity)
        except Refusal as refusal:
            raise self._error("wrong_unit" if refusal.code == "E_DIM" else "no_unit", given) from refusal

    def _error(self, kind: str, given: str) -> PydanticCustomError:
        context = {"got": given[:40], "quantity": self.quantity.value, "allowed": ", ".join(UNIT_NAMES[self.quantity])}
        return PydanticCustomError(
            f"measure_{kind}", "'{got}' is no {quantity} with a unit; allowed units: {allowed}", context
        )


Length: TypeAlias = Annotated[Measure, _MeasureOf(Quantity.LENGTH)]
Pressure: TypeAlias = Annotated[Measure, _MeasureOf(Quantity.PRESSURE)]
Torque: TypeAlias = Annotated[Measure, _MeasureOf(Quantity.TORQUE)]
Force: TypeAlias = Annotated[Measure, _MeasureOf(Quantity.FORCE)]
Area: TypeAlias = Annotated[Measure, _MeasureOf(Quantity.AREA)]
Stress: TypeAlias = Annotated[Measure, _MeasureOf(Quantity.STRESS)]
Duration: TypeAlias = Annotated[Measure, _MeasureOf(Quantity.TIME)]
Temperature: TypeAlias = Annotated[Measure, _MeasureOf(Quantity.TEMPERATURE)]
Angle: TypeAlias = Annotated[Measure, _MeasureOf(Quantity.ANGLE)]
Ratio: TypeAlias = Annotated[Measure, _MeasureOf(Quantity.RATIO)]


@dataclass(frozen=True)
class PureNumber:
    """A number without a unit, as the author wrote it: a coefficient of friction, a ratio.

    Attributes:
        text: what stands in the document.
        value: the number.
    """

    text: str
    value: float


class _NumberOf:
    """Pydantic marker: a plain decimal number between two bounds."""

    def __init__(self, low: float, high: float) -> None:
        self.low, self.high = low, high

    def __get_pydantic_core_schema__(self, source: object, handler: GetCoreSchemaHandler) -> CoreSchema:
        return core_schema.no_info_plain_validator_function(
            self._validate,
            serialization=core_schema.plain_serializer_function_ser_schema(lambda number: number.text),
        )

    def __get_pydantic_json_schema__(self, schema: CoreSchema, handler: GetJsonSchemaHandler) -> JsonSchemaValue:
        return {
            "anyOf": [
                {"type": "string", "pattern": r"^\d+(\.\d+)?$"},
                {"type": "number", "minimum": self.low, "maximum": self.high},
            ],
            "description": f"A plain number from {self.low:g} to {self.high:g}.",
        }

    def _validate(self, given: object) -> PureNumber:
        if isinstance(given, PureNumber):
            return given
        text = str(given) if isinstance(given, int | float | str) and not isinstance(given, bool) else ""
        try:
            number = read_number(text)
        except Refusal:
            number = float("nan")
        if not self.low <= number <= self.high:
            context = {"got": str(given)[:40], "low": f"{self.low:g}", "high": f"{self.high:g}"}
            raise PydanticCustomError("number_out_of_range", "'{got}' is no number from {low} to {high}", context)
        return PureNumber(text, number)


Friction: TypeAlias = Annotated[PureNumber, _NumberOf(0.0, 1.0)]
Gain: TypeAlias = Annotated[PureNumber, _NumberOf(1.0, 1000.0)]
