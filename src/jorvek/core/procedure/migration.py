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


_NO_LONGER_BOOLEANS: dict[str, dict[str, str]] = {
    "does": {"in": "put_in", "off": "take_off"},
    "starts": {"off": "aside"},
}
"""Words that YAML 1.1 takes for true or false, and those that stand beside them, by the field that holds them."""


def _three_to_four(data: dict[str, Any]) -> dict[str, Any]:
    """No key or value is one of YAML 1.1's words for true and false; words in as many languages as there are."""
    new = {**data, "format": "jorvek-procedure/4"}
    if isinstance(data.get("parts"), list):
        new["parts"] = [_reworded(_renamed(part, "on", "lies_on")) for part in data["parts"]]
    if isinstance(data.get("steps"), list):
        new["steps"] = [_reworded(step) for step in data["steps"]]
    words = data.get("other_words")
    if isinstance(words, dict) and isinstance(words.get("language"), str):
        new["other_words"] = {words["language"]: words.get("texts")}
    return new


def _renamed(part: Any, old: str, new: str) -> Any:
    return {new if key == old else key: value for key, value in part.items()} if isinstance(part, dict) else part


def _reworded(part: Any) -> Any:
    if not isinstance(part, dict):
        return part
    words = {
        key: known[part[key]]
        for key, known in _NO_LONGER_BOOLEANS.items()
        if isinstance(part.get(key), str) and part[key] in known
    }
    return {**part, **words}


_STEPS_UP = {
    "jorvek-procedure/1": _one_to_two,
    "jorvek-procedure/2": _two_to_three,
    "jorvek-procedure/3": _three_to_four,
}


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


def _place_in_four(path: Path) -> Path:
    match path:
        case ("parts", k, "on", *rest):
            return ("parts", k, "lies_on", *rest)
        case ("other_words", "texts", *rest):
            return ("other_words", *rest)
        case _:
            return path


def upgrade(data: Any) -> Any:
    """Return a document in the present format; anything else unchanged.

    Args:
        data: plain data of a document.
    """
    while isinstance(data, dict) and (step_up := _STEPS_UP.get(str(data.get("format")))) is not None:
        data = step_up(data)
    return data


def upgraded_places(data: Any, lines: dict[Path, int]) -> dict[Path, int]:
    """Return the lines of a document under the places that its parts have in the present format."""
    written = data.get("format") if isinstance(data, dict) else None
    if written == "jorvek-procedure/1":
        lines = {**lines, **{_place_in_two(path): line for path, line in lines.items()}}
    if written in _STEPS_UP:
        lines = {**lines, **{_place_in_four(path): line for path, line in lines.items()}}
    return lines
