"""What changed between two views, so that a small touch gets a small answer.

A view is written out once, section by section. It goes out whole with its version, which is made of its text. A tablet
that says which version it shows gets the places that changed: only sections whose text differs are looked into. What
was sent last is kept here as text; whoever knows an older one gets the whole view again.
"""

from __future__ import annotations

import hashlib
import json
from collections import OrderedDict
from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from functools import cache
from threading import Lock
from typing import Final, Literal, TypeAlias, get_args, get_origin

from pydantic import JsonValue
from pydantic_core import to_json

from jorvek.core.run.views.labels import View

Place: TypeAlias = tuple[str | int, ...]
_KEPT: Final = 200
"""Views that are kept: a tablet asks with the one it was sent last."""
_LARGEST_SHARE: Final = 0.6
"""Changes that are nearly as long as the whole are no help."""


class Change(View):
    """One place of a view that is different now.

    Attributes:
        does: ``set`` puts the value there, also behind the end of a list; ``drop`` takes an entry away; ``cut``
            shortens a list to as many entries as the value says.
        place: keys and numbers that lead there.
        value: what stands there now.
    """

    does: Literal["set", "drop", "cut"]
    place: Place
    value: JsonValue


@dataclass(frozen=True)
class Written:
    """A view that was written out.

    Attributes:
        text: the whole, as JSON.
        sections: the text of each section by its place; what is no view or list of views is one section.
        lengths: how many entries each list of views has.
    """

    text: str
    sections: Mapping[Place, str]
    lengths: Mapping[Place, int]

    @property
    def version(self) -> str:
        """The version of the view, made of its text."""
        return hashlib.sha256(self.text.encode()).hexdigest()[:16]


def written(view: View) -> Written:
    """Return a view written out, section by section."""
    sections: dict[Place, str] = {}
    lengths: dict[Place, int] = {}
    return Written(_write(view, (), sections, lengths), sections, lengths)


def _write(view: View, place: Place, sections: dict[Place, str], lengths: dict[Place, int]) -> str:
    parts: list[str] = []
    for name, form in _forms(type(view)):
        value, at = getattr(view, name), (*place, name)
        match form:
            case "view":
                text = _write(value, at, sections, lengths)
            case "list":
                texts = [to_json(entry).decode() for entry in value]
                sections.update(((*at, k), entry) for k, entry in enumerate(texts))
                lengths[at] = len(texts)
                text = f"[{','.join(texts)}]"
            case "section":
                text = sections[at] = to_json(value).decode()
        parts.append(f'"{name}":{text}')
    return "{" + ",".join(parts) + "}"


@cache
def _forms(kind: type[View]) -> tuple[tuple[str, Literal["view", "list", "section"]], ...]:
    """Return how each field of a view is written; a view or list that may be missing is one section."""
    found: list[tuple[str, Literal["view", "list", "section"]]] = []
    for name, field in kind.model_fields.items():
        inner = get_args(field.annotation)
        if _is_view(field.annotation):
            found.append((name, "view"))
        elif get_origin(field.annotation) is tuple and len(inner) == 2 and inner[1] is ... and _is_view(inner[0]):
            found.append((name, "list"))
        else:
            found.append((name, "section"))
    return tuple(found)


def _is_view(annotation: object) -> bool:
    return isinstance(annotation, type) and issubclass(annotation, View)


def between(before: Written, after: Written) -> Iterator[Change]:
    """Yield what makes one view of another of the same kind, in an order in which it can be carried out."""
    for place, text in after.sections.items():
        old = before.sections.get(place)
        if old is None:
            yield Change(does="set", place=place, value=json.loads(text))
        elif old != text:
            yield from changes(json.loads(old), json.loads(text), place)
    for place, length in after.lengths.items():
        if length < before.lengths[place]:
            yield Change(does="cut", place=place, value=length)


def changes(before: JsonValue, after: JsonValue, place: Place = ()) -> Iterator[Change]:
    """Yield what makes one JSON value of another, in an order in which it can be carried out.

    Args:
        before: what is known.
        after: what is to be known.
        place: where both stand.
    """
    match before, after:
        case dict(), dict():
            found = list(_of_entries(before, after, place))
        case list(), list():
            found = list(_of_list(before, after, place))
        case _:
            # Python takes 0 and false for equal, JSON does not.
            same = type(before) is type(after) and before == after
            found = [] if same else [Change(does="set", place=place, value=after)]
    if len(found) > 1 and _length(found) >= len(json.dumps(after)):
        found = [Change(does="set", place=place, value=after)]
    yield from found


def _of_entries(before: dict[str, JsonValue], after: dict[str, JsonValue], place: Place) -> Iterator[Change]:
    for key in before.keys() - after.keys():
        yield Change(does="drop", place=(*place, key), value=None)
    for key, value in after.items():
        if key in before:
            yield from changes(before[key], value, (*place, key))
        else:
            yield Change(does="set", place=(*place, key), value=value)


def _of_list(before: list[JsonValue], after: list[JsonValue], place: Place) -> Iterator[Change]:
    for k, (old, new) in enumerate(zip(before, after, strict=False)):
        yield from changes(old, new, (*place, k))
    for k in range(len(before), len(after)):
        yield Change(does="set", place=(*place, k), value=after[k])
    if len(after) < len(before):
        yield Change(does="cut", place=place, value=len(after))


def _length(found: list[Change]) -> int:
    return sum(len(json.dumps([one.place, one.value])) for one in found)


class SentViews:
    """The views that went out last, by their versions; forgotten when others come."""

    def __init__(self) -> None:
        self._sent: OrderedDict[str, Written] = OrderedDict()
        self._lock = Lock()

    def keep(self, view: Written) -> str:
        """Keep a view that goes out, and return its version."""
        version = view.version
        with self._lock:
            self._sent[version] = view
            self._sent.move_to_end(version)
            while len(self._sent) > _KEPT:
                self._sent.popitem(last=False)
        return version

    def since(self, version: str | None, view: Written) -> tuple[Change, ...] | None:
        """Return what has changed since a version; None where the whole is as good, or that version is not kept.

        Args:
            version: the version that is known.
            view: the view as it is now.
        """
        with self._lock:
            before = self._sent.get(version) if version is not None else None
        if before is None:
            return None
        found = tuple(between(before, view))
        return found if _length(list(found)) < _LARGEST_SHARE * len(view.text) else None
