"""Named orders: written out, or made by a rule and then frozen in the document."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal, TypeAlias

from jorvek.core.bolting.order import group_sequence, reverse_sequence, spiral_sequence, star_sequence
from jorvek.core.engine.layout import Slug
from jorvek.core.procedure.fasteners import FastenerGroup, Position
from jorvek.core.procedure.parts import Part, PositionName, Text
from jorvek.core.refusal import Refusal

Place: TypeAlias = PositionName | tuple[PositionName, ...]


class Made(Part):
    """How an order was made, so that anybody can make it again.

    Attributes:
        rule: ``cross`` on a circle, ``centre_out`` and ``spiral`` for any layout, ``along_rows``,
            ``centre_row_first`` (the rows nearest the middle line, each from its centre outwards,
            then the next), ``spread_groups`` of ``count`` tools on a circle, ``alternating_sides``,
            ``reverse_of`` another order, ``first_of`` another (its first ``count`` places),
            ``only_group`` out of another.
        group: fastener group it is made over.
        of: order it is made from.
        count: tools at once, or places.
    """

    rule: Literal[
        "cross",
        "centre_out",
        "spiral",
        "along_rows",
        "centre_row_first",
        "spread_groups",
        "alternating_sides",
        "reverse_of",
        "first_of",
        "only_group",
    ]
    group: Slug | None = None
    of: Slug | None = None
    count: int | None = None


class Order(Part):
    """A named order.

    Attributes:
        sequence: positions one after another; several taken at once stand in a list of their own.
        made: the rule it was made by; the sequence stays what counts.
        stated_by: where the order is stated, in the author's words. A loosening order needs one:
            that it is the tightening order reversed is a statement too, never assumed.
    """

    sequence: tuple[Place, ...]
    made: Made | None = None
    stated_by: Text | None = None

    def names(self) -> tuple[str, ...]:
        """Return the positions one by one, in order."""
        return tuple(name for place in self.sequence for name in ((place,) if isinstance(place, str) else place))


@dataclass(frozen=True)
class OrderBook:
    """What rules work on: the groups and the orders of a document."""

    groups: Sequence[FastenerGroup]
    orders: dict[str, Order]

    def positions(self, made: Made) -> tuple[Position, ...]:
        """Return the positions of the group that a rule names.

        Raises:
            Refusal: ``order_rule_group`` when it names none that exists.
        """
        found = next((g for g in self.groups if g.id == made.group), None)
        if found is None:
            raise Refusal("order_rule_group", group=made.group)
        return found.positions

    def source(self, made: Made) -> Order:
        """Return the order that a rule starts from.

        Raises:
            Refusal: ``order_rule_source`` when it names none that exists.
        """
        found = self.orders.get(made.of or "")
        if found is None:
            raise Refusal("order_rule_source", order=made.of)
        return found


def _xy(positions: Sequence[Position]) -> list[tuple[float, float]]:
    return [(p.x.value, p.y.value) for p in positions]


def _from_centre(positions: Sequence[Position]) -> list[Position]:
    """Return one row from its middle outwards, to the smaller side first."""
    middle = (min(p.x.value for p in positions) + max(p.x.value for p in positions)) / 2.0
    return sorted(positions, key=lambda p: (round(abs(p.x.value - middle), 6), p.x.value))


def _rows(positions: Sequence[Position]) -> list[list[Position]]:
    """Return positions by rows, lowest y first, each along x."""
    rows: dict[float, list[Position]] = {}
    for p in positions:
        rows.setdefault(round(p.y.value, 3), []).append(p)
    return [sorted(rows[y], key=lambda p: p.x.value) for y in sorted(rows)]


def _centre_row_first(positions: Sequence[Position]) -> list[str]:
    """Return the rows nearest the middle line first, each pair of rows worked together from its centre."""
    middle = (min(p.y.value for p in positions) + max(p.y.value for p in positions)) / 2.0
    bands: dict[float, list[Position]] = {}
    for p in positions:
        bands.setdefault(round(abs(p.y.value - middle), 3), []).append(p)
    return [p.name for distance in sorted(bands) for p in _from_centre(bands[distance])]


def _alternating(positions: Sequence[Position]) -> list[str]:
    sides: dict[str, list[str]] = {}
    for p in positions:
        sides.setdefault(p.side or ("plus" if p.y.value >= 0 else "minus"), []).append(p.name)
    longest = max(len(names) for names in sides.values())
    return [names[k] for k in range(longest) for names in sides.values() if k < len(names)]


def make(made: Made, book: OrderBook) -> tuple[Place, ...]:
    """Return the sequence that a rule gives.

    Args:
        made: the rule.
        book: groups and orders of the document.

    Raises:
        Refusal: ``order_rule_group``, ``order_rule_source``, ``order_rule_count``; those of the
            pattern, such as ``E_GEOM`` when tools do not divide the circle.
    """
    match made.rule:
        case "reverse_of":
            names = book.source(made).sequence
            turned = reverse_sequence([k + 1 for k in range(len(names))])
            return tuple(names[k - 1] for k in turned if isinstance(k, int))
        case "first_of":
            return book.source(made).sequence[: _count(made)]
        case "only_group":
            wanted = {p.name for p in book.positions(made)}
            return tuple(name for name in book.source(made).names() if name in wanted)
        case _:
            return _pattern(made, book.positions(made))


def _count(made: Made) -> int:
    if made.count is None or made.count < 1:
        raise Refusal("order_rule_count", rule=made.rule)
    return made.count


def _pattern(made: Made, positions: Sequence[Position]) -> tuple[Place, ...]:
    names = [p.name for p in positions]
    match made.rule:
        case "cross":
            return tuple(names[k - 1] for k in star_sequence(len(names)))
        case "centre_out" | "spiral":
            mode = "cross" if made.rule == "centre_out" else "spiral"
            return tuple(names[k - 1] for k in spiral_sequence(_xy(positions), mode))
        case "along_rows":
            return tuple(p.name for row in _rows(positions) for p in row)
        case "centre_row_first":
            return tuple(_centre_row_first(positions))
        case "spread_groups":
            groups = group_sequence(len(names), _count(made))
            return tuple(tuple(names[k - 1] for k in group) for group in groups)
        case _:
            return tuple(_alternating(positions))
