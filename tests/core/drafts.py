"""Wrong drafts: shipped procedures with something altered, left out, moved or put in."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

Data = dict[str, Any]
Change = Callable[[Data], None]
GONE = object()


def step(data: Data, name: str) -> Data:
    return next(s for s in data["steps"] if s["id"] == name)


def at(data: Data, place: str) -> tuple[Any, Any]:
    """Return the holder and the key of a place such as ``@second.pressure`` or ``fasteners.0.reuse``."""
    parts: list[Any] = [int(p) if p.isdigit() else p for p in place.split(".")]
    holder: Any = data
    if isinstance(parts[0], str) and parts[0].startswith("@"):
        holder = step(data, parts.pop(0)[1:])
    for part in parts[:-1]:
        holder = holder[part]
    return holder, parts[-1]


def change(*edits: tuple[str, Any]) -> Change:
    def apply(data: Data) -> None:
        for place, value in edits:
            holder, key = at(data, place)
            if value is GONE:
                del holder[key]
            else:
                holder[key] = value

    return apply


def drop(*names: str) -> Change:
    def apply(data: Data) -> None:
        data["steps"] = [s for s in data["steps"] if s["id"] not in names]
        for other in data["steps"]:
            for field in ("covers", "passed", "repeats", "steps"):
                if field in other:
                    other[field] = [name for name in other[field] if name not in names]
            kept = [order for order in other.pop("must_precede", []) if order["step"] not in names]
            other.update({"must_precede": kept} if kept else {})
        data["redo"] = data["departures"] = []

    return apply


def move(name: str, after: str) -> Change:
    def apply(data: Data) -> None:
        moved = step(data, name)
        data["steps"].remove(moved)
        data["steps"].insert(data["steps"].index(step(data, after)) + 1, moved)

    return apply


def insert(after: str, **new: Any) -> Change:
    return lambda data: data["steps"].insert(data["steps"].index(step(data, after)) + 1, new)


def also(*changes: Change) -> Change:
    def apply(data: Data) -> None:
        for one in changes:
            one(data)

    return apply
