"""Older formats of the procedure document, brought to the present one.

One function per step from a format to the next. Stored texts are never rewritten: they are
upgraded whenever they are read, and keep the address that their own text gave them.
"""

from __future__ import annotations

from typing import Any

Path = tuple[str | int, ...]


def _one_to_two(data: dict[str, Any]) -> dict[str, Any]:
    """Several fastener groups and tensioners in place of one; orders say how they were made."""
    new = {key: value for key, value in data.items() if key not in ("clamped", "tensioner", "fasteners", "orders")}
    group = data.get("fasteners")
    if isinstance(group, dict):
        new["fasteners"] = [{**group, **({"clamped": data["clamped"]} if "clamped" in data else {})}]
        tool = data.get("tensioner")
        if isinstance(tool, dict):
            new["tensioners"] = [{**tool, "group": group.get("id"), "area_per": "element"}]
    orders = data.get("orders")
    if isinstance(orders, dict):
        new["orders"] = {name: {"sequence": sequence} for name, sequence in orders.items()}
    return {**new, "format": "jorvek-procedure/2"}


def _two_to_three(data: dict[str, Any]) -> dict[str, Any]:
    """Nothing is said otherwise; a document in the third format may say more."""
    return {**data, "format": "jorvek-procedure/3"}


def _place_in_two(path: Path) -> Path:
    match path:
        case ("fasteners", *rest):
            return ("fasteners", 0, *rest)
        case ("clamped", *rest):
            return ("fasteners", 0, "clamped", *rest)
        case ("tensioner", *rest):
            return ("tensioners", 0, *rest)
        case ("orders", name, *rest):
            return ("orders", name, "sequence", *rest)
        case _:
            return path


def upgrade(data: Any) -> Any:
    """Return a document in the present format; anything else unchanged.

    Args:
        data: plain data of a document.
    """
    if isinstance(data, dict) and data.get("format") == "jorvek-procedure/1":
        return _two_to_three(_one_to_two(data))
    if isinstance(data, dict) and data.get("format") == "jorvek-procedure/2":
        return _two_to_three(data)
    return data


def upgraded_places(data: Any, lines: dict[Path, int]) -> dict[Path, int]:
    """Return the lines of a document under the places that its parts have in the present format."""
    if isinstance(data, dict) and data.get("format") == "jorvek-procedure/1":
        return {**lines, **{_place_in_two(path): line for path, line in lines.items()}}
    return lines
