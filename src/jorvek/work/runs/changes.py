"""What changed between two views, so that a small touch gets a small answer.

A view goes out whole with its version, which is made of its text. A tablet that says which version it shows gets the
places that changed. What was sent last is kept here as text; whoever knows an older one gets the whole view again.
"""

from __future__ import annotations

import hashlib
import json
from collections import OrderedDict
from collections.abc import Iterator
from threading import Lock
from typing import Final, Literal, TypeAlias

from pydantic import JsonValue

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


def changes(before: JsonValue, after: JsonValue, place: Place = ()) -> Iterator[Change]:
    """Yield what makes one JSON value of another, in an order in which it can be carried out.

    Args:
        before: what is known.
        after: what is to be known.
        place: where both stand.
    """
    # Python takes 0 and false for equal, JSON does not.
    if before == after and json.dumps(before) == json.dumps(after):
        return
    found: list[Change] = []
    match before, after:
        case dict(), dict():
            found += _of_entries(before, after, place)
        case list(), list():
            found += _of_list(before, after, place)
        case _:
            pass
    whole = Change(does="set", place=place, value=after)
    if found and _length(found) < len(json.dumps(after)):
        yield from found
    else:
        yield whole


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


def version_of(text: str) -> str:
    """Return the version of a view by its text."""
    return hashlib.sha256(text.encode()).hexdigest()[:16]


class SentViews:
    """The views that went out last, by their versions; forgotten when others come."""

    def __init__(self) -> None:
        self._texts: OrderedDict[str, str] = OrderedDict()
        self._lock = Lock()

    def keep(self, text: str) -> str:
        """Keep a view that goes out, and return its version."""
        version = version_of(text)
        with self._lock:
            self._texts[version] = text
            self._texts.move_to_end(version)
            while len(self._texts) > _KEPT:
                self._texts.popitem(last=False)
        return version

    def since(self, version: str | None, text: str) -> tuple[Change, ...] | None:
        """Return what has changed since a version; None where the whole is as good, or that version is not kept.

        Args:
            version: the version that is known.
            text: the view as it is now.
        """
        with self._lock:
            before = self._texts.get(version) if version is not None else None
        if before is None:
            return None
        found = tuple(changes(json.loads(before), json.loads(text)))
        return found if _length(list(found)) < _LARGEST_SHARE * len(text) else None
