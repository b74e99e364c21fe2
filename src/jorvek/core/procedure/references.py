"""Names within a document: each defined once, and before it is used."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from itertools import pairwise
from typing import Any, Final

from pydantic_core import PydanticCustomError

from jorvek.core.procedure.contents import Contents
from jorvek.core.procedure.kinds import SETTLED_BY
from jorvek.core.procedure.orders import Order
from jorvek.core.procedure.steps import (
    ChoosePartStep,
    FollowUpStep,
    GateStep,
    HoldPointStep,
    LubricateStep,
    NoReturnStep,
    RepeatStep,
    Step,
    StretchStep,
    ToolIssueStep,
    TorqueStep,
)

BEFORE = "before"
"""Stands for a step of an earlier procedure."""
_INSTRUMENTS: Final = ("gauge", "instrument", "thermometer", "wrench", "tool")


Path = tuple[str | int, ...]


def _wrong(kind: str, path: Path, message: str, **context: str) -> None:
    raise PydanticCustomError(f"procedure_{kind}", message, {**context, "path": path})


def once(what: str, named: Iterable[tuple[str, Path]]) -> None:
    """Refuse a name that appears twice, at its second place.

    Raises:
        PydanticCustomError: naming it.
    """
    seen: set[str] = set()
    for name, path in named:
        if name in seen:
            _wrong("duplicate", path, "{what} '{name}' appears more than once", what=what, name=name)
        seen.add(name)


def known(what: str, name: str, names: Iterable[str], path: Path, where: str) -> None:
    """Refuse a name that is not defined.

    Raises:
        PydanticCustomError: naming it and what there is.
    """
    present = sorted(names)
    if name not in present:
        _wrong(
            "unknown",
            path,
            "'{where}' refers to {what} '{name}', which is not defined before it; known: {known}",
            where=where,
            what=what,
            name=name,
            known=", ".join(present) or "none",
        )


def _ids(place: str, parts: Iterable[Any], key: str = "id") -> Iterator[tuple[str, Path]]:
    for k, part in enumerate(parts):
        yield str(getattr(part, key)), (place, k, key)


def check_references(p: Contents) -> None:
    """Refuse a document whose names do not hang together.

    Raises:
        PydanticCustomError: for the first name that does not, with its place.
    """
    once("fastener group", _ids("fasteners", p.fasteners))
    spots = (
        (spot.name, ("fasteners", g, "positions", k))
        for g, x in enumerate(p.fasteners)
        for k, spot in enumerate(x.positions)
    )
    once("position", spots)
    once("step", _ids("steps", p.steps))
    once("tensioner", _ids("tensioners", p.tensioners, "role"))
    once("variant key", _ids("variants", p.variants))
    _options(p)
    _orders(p)
    _tensioners(p)
    _parts(p)
    _steps(p)
    _made(p)
    _redo(p)
    _other_words(p)


def _other_words(p: Contents) -> None:
    """Refuse words for a text that the document does not have: nobody would ever see them."""
    if not p.other_words:
        return
    written = set(_texts(p.model_dump(mode="json", exclude={"other_words"})))
    for language, words in p.other_words.items():
        for text in words:
            if text not in written:
                message = "words in another language for '{text}', which is no text of this document"
                _wrong("other_words", ("other_words", language, text), message, text=text)


def _texts(data: Any) -> Iterator[str]:
    if isinstance(data, str):
        yield data
    elif isinstance(data, dict | list):
        for one in data.values() if isinstance(data, dict) else data:
            yield from _texts(one)


def _options(p: Contents) -> None:
    once("option", _ids("options", p.options))
    choices = {o.id: {c.id for c in o.choices} for o in p.options}
    for k, option in enumerate(p.options):
        once(f"choice of {option.id}", ((c.id, ("options", k, "choices", j)) for j, c in enumerate(option.choices)))
        for j, choice in enumerate(option.choices):
            _conditions(choice.needs, choices, ("options", k, "choices", j, "needs"), f"{option.id}.{choice.id}")
    links = {o.id: {name for c in o.choices for name in c.needs} for o in p.options}
    for k, start in enumerate(links):
        _no_way_back("option", start, links, ("options", k))
    for i, step in enumerate(p.steps):
        _conditions(step.only, choices, ("steps", i, "only"), step.id)
    for i, hose in enumerate(p.hoses):
        _conditions(hose.only, choices, ("hoses", i, "only"), hose.name)
    for g, group in enumerate(p.fasteners):
        for k, hanging in enumerate(group.hangs):
            _conditions(hanging.only, choices, ("fasteners", g, "hangs", k, "only"), hanging.part)


def _conditions(only: dict[str, tuple[str, ...]], choices: dict[str, set[str]], path: Path, where: str) -> None:
    for option, wanted in only.items():
        known("option", option, choices, path, where)
        for choice in wanted:
            known(f"choice of {option}", choice, choices[option], (*path, option), where)


def _no_way_back(what: str, start: str, links: dict[str, set[str]], path: Path) -> None:
    seen: set[str] = set()
    queue = list(links[start])
    while queue:
        name = queue.pop()
        if name == start:
            _wrong("option_cycle", path, "{what} '{name}' depends on itself through others", what=what, name=start)
        if name not in seen:
            seen.add(name)
            queue += links.get(name, ())


def _orders(p: Contents) -> None:
    names = {spot.name for spot in p.positions()}
    for key, order in p.orders.items():
        path: Path = ("orders", key, "sequence")
        once(f"fastener in order '{key}'", ((name, path) for name in order.names()))
        for name in order.names():
            known("fastener", name, names, path, key)
        if order.made is None and order.sequence:
            _whole(p, key, order)


def _whole(p: Contents, key: str, order: Order) -> None:
    """An order written out takes whole groups; a part of one is made by a rule that says which part."""
    listed = set(order.names())
    for group in p.fasteners:
        members = {spot.name for spot in group.positions}
        missing = sorted(members - listed)
        if members & listed and missing and order.stated_by is None:
            _wrong(
                "order_incomplete",
                ("orders", key, "sequence"),
                "order '{order}' must name each fastener of '{group}' exactly once; missing: {missing}. "
                "A part of a group is taken by 'made' or 'stated_by'",
                order=key,
                group=group.id,
                missing=", ".join(missing),
            )


def _tensioners(p: Contents) -> None:
    groups = {g.id: g for g in p.fasteners}
    for k, tool in enumerate(p.tensioners):
        known("fastener group", tool.group, groups, ("tensioners", k, "group"), tool.role)
        group = groups[tool.group]
        if group.nut_height is None or group.free_above_nut is None:
            _wrong(
                "no_nut",
                ("fasteners", list(groups).index(group.id)),
                "group '{group}' is pulled by '{role}' and needs 'nut_height' and 'free_above_nut'",
                group=group.id,
                role=tool.role,
            )
    once("group with a tensioner", _ids("tensioners", p.tensioners, "group"))
    names = {spot.name for spot in p.positions()}
    for k, hose in enumerate(p.hoses):
        for tool_at in (hose.feeds, *hose.linked):
            known("fastener", tool_at, names, ("hoses", k), hose.name)
    served = ((name, ("hoses", k)) for k, h in enumerate(p.hoses) if not h.only for name in (h.feeds, *h.linked))
    once("tool on a hose", served)


_ALONE: Final = frozenset({"head", "liner", "cap", "rod", "journal"})
"""Parts of which a joint has one, unless ``which`` tells several apart."""


def _parts(p: Contents) -> None:
    choices = {o.id: {c.id for c in o.choices} for o in p.options}
    parts, groups = {part.id: part for part in p.parts}, {g.id for g in p.fasteners}
    for k, part in enumerate(p.parts):
        path: Path = ("parts", k)
        for field in ("lies_on", "goes_with", "carries"):
            named = getattr(part, field)
            for name in named if isinstance(named, tuple) else (named,):
                if name is not None:
                    known("part", name, parts.keys() - {part.id}, (*path, field), part.id)
        for group in part.held_by:
            known("fastener group", group, groups, (*path, "held_by"), part.id)
        _conditions(part.only, choices, (*path, "only"), part.id)
        # One part may begin otherwise under another choice; it is stated once for each.
        twice = [q.id for q in p.parts[:k] if not _exclude(q.only, part.only)]
        once("part", ((name, (*path, "id")) for name in (*dict.fromkeys(twice), part.id)))
        _no_way_back("part", part.id, {n: {q.goes_with} if q.goes_with else set() for n, q in parts.items()}, path)
        _one_place(p, k)


def _one_place(p: Contents, k: int) -> None:
    """Two parts that are one and the same cannot both be in the joint."""
    part = p.parts[k]
    for other in p.parts[:k]:
        same = (part.kind, part.which) == (other.kind, other.which) and part.kind in _ALONE
        if same and not _exclude(part.only, other.only):
            _wrong(
                "two_in_one_place",
                ("parts", k),
                "'{part}' and '{other}' are both the {sort} of this joint; tell them apart by 'which', or by 'only'",
                part=part.id,
                other=other.id,
                sort=part.kind,
            )


def _exclude(one: dict[str, tuple[str, ...]], other: dict[str, tuple[str, ...]]) -> bool:
    """Tell whether two conditions never hold together."""
    return any(not set(one[name]) & set(other[name]) for name in one.keys() & other.keys())


def _steps(p: Contents) -> None:
    roles: list[tuple[str, Path]] = []
    earlier: list[Step] = []
    for i, step in enumerate(p.steps):
        if isinstance(step, ToolIssueStep):
            drawn: list[tuple[str, Path]] = [(t.role, ("steps", i, "tools", k)) for k, t in enumerate(step.tools)]
            apart = [s for s in earlier if isinstance(s, ToolIssueStep) and not _exclude(s.only, step.only)]
            taken: list[tuple[str, Path]] = [(t.role, ("steps",)) for s in apart for t in s.tools]
            once("tool role", taken + drawn)
            roles += drawn
        for field, (what, names) in _referred(p, {role for role, _ in roles}).items():
            name = getattr(step, field, None)
            if isinstance(name, str):
                known(what, name, names, ("steps", i, field), step.id)
        if isinstance(getattr(step, "tools", None), str):
            # The line above made sure that the step has the field.
            known("tensioner", step.tools, {t.role for t in p.tensioners}, ("steps", i, "tools"), step.id)  # type: ignore[union-attr, arg-type]
        if isinstance(step, LubricateStep) and step.friction_test is not None:
            for field in ("torque_sensor", "load_cell"):
                place = ("steps", i, "friction_test", field)
                known("tool role", getattr(step.friction_test, field), {role for role, _ in roles}, place, step.id)
        for name in step.sources:
            known("field", name, type(step).model_fields, ("steps", i, "sources"), step.id)
        _earlier_steps(step, earlier, ("steps", i))
        _later_steps(step, p.steps[i + 1 :], ("steps", i))
        _metal(p, i, step)
        earlier.append(step)
    for k, departure in enumerate(p.departures):
        known("step", departure.step, (s.id for s in p.steps), ("departures", k, "step"), "departures")


def _later_steps(step: Step, later: tuple[Step, ...], path: Path) -> None:
    """Refuse a time or a stretch of work that ends with no later step."""
    if step.open_time is not None:
        known("later step", step.open_time.until, (s.id for s in later), (*path, "open_time", "until"), step.id)
    if step.unbroken_until is not None:
        known("later step", step.unbroken_until, (s.id for s in later), (*path, "unbroken_until"), step.id)


_PARTS_OF_STEPS: Final = ("touches", "proof_on", "allows")


def _metal(p: Contents, i: int, step: Step) -> None:
    """A step names parts that are there, and does something to them; an order names another step."""
    parts = {part.id for part in p.parts}
    for field in _PARTS_OF_STEPS:
        named = getattr(step, field, None)
        for name in named if isinstance(named, tuple) else (named,):
            if name is not None:
                known("part", name, parts, ("steps", i, field), step.id)
    once(f"part touched by '{step.id}'", ((name, ("steps", i, "touches")) for name in step.touches))
    if step.does is not None and not step.touches:
        _wrong("does_nothing", ("steps", i, "does"), "'does' needs 'touches': the parts that it is done to")
    for k, order in enumerate(step.must_precede):
        others = [s.id for s in p.steps if s.id != step.id]
        known("step", order.step, others, ("steps", i, "must_precede", k), step.id)
    # Steps that must precede each other in a circle can never be done.
    _no_way_back(
        "step", step.id, {s.id: {o.step for o in s.must_precede} for s in p.steps}, ("steps", i, "must_precede")
    )


def _referred(p: Contents, roles: set[str]) -> dict[str, tuple[str, Iterable[str]]]:
    """Return what each field that refers to something refers to."""
    groups = {g.id for g in p.fasteners}
    instruments = dict.fromkeys(_INSTRUMENTS, ("tool role", roles))
    return {
        **instruments,
        "order": ("order", p.orders),
        "nuts_free": ("order", p.orders),
        "group": ("fastener group", groups),
    }


def _made(p: Contents) -> None:
    """A torque in equal parts names a torque."""
    torques = {s.id for s in p.steps if isinstance(s, TorqueStep)}
    for i, step in enumerate(p.steps):
        if isinstance(step, TorqueStep) and step.made is not None:
            known("torque", step.made.of, torques - {step.id}, ("steps", i, "made", "of"), step.id)


def _earlier_steps(step: Step, earlier: list[Step], path: Path) -> None:
    before = {s.id: s for s in earlier}
    for field, name in _step_names(step):
        known("step", name, before, (*path, field), step.id)
    if isinstance(step, ChoosePartStep) and not isinstance(before[step.gate], GateStep):
        known("gate", step.gate, (s.id for s in earlier if isinstance(s, GateStep)), (*path, "gate"), step.id)
    if isinstance(step, GateStep):
        for name in step.places:
            known("point", name, getattr(step.gate, "points", ()), (*path, "places", name), step.id)
    if isinstance(step, RepeatStep):
        _consecutive(step, [s.id for s in earlier], path)
    of = getattr(step, "of", None)
    if isinstance(of, str) and of != BEFORE:
        settles = {"restore": "make_safe", **{on: off for off, on in SETTLED_BY.items()}}[step.kind]
        # A support is fitted like a temporary part, and comes off like one.
        kinds = {settles, "support"} if settles == "temporary_on" else {settles}
        known(f"'{settles}' step", of, (s.id for s in earlier if s.kind in kinds), (*path, "of"), step.id)


_STEP_FIELDS: Final = {
    StretchStep: ("before",),
    ChoosePartStep: ("gate",),
    HoldPointStep: ("covers",),
    NoReturnStep: ("passed",),
    RepeatStep: ("steps",),
    FollowUpStep: ("repeats",),
}


def _step_names(step: Step) -> Iterator[tuple[str, str]]:
    """Yield the earlier steps that a step names, with the field that names them."""
    for field in _STEP_FIELDS.get(type(step), ()):
        value = getattr(step, field)
        for name in (value,) if isinstance(value, str) else value:
            yield field, name


def _consecutive(step: RepeatStep, ids: list[str], path: Path) -> None:
    places = [ids.index(name) for name in step.steps]
    if any(b != a + 1 for a, b in pairwise(places)):
        _wrong("repeat_gap", (*path, "steps"), "'{where}' must repeat consecutive steps, in their order", where=step.id)


def _redo(p: Contents) -> None:
    ids = [s.id for s in p.steps]
    names = {spot.name for spot in p.positions()}
    once("redo group", _ids("redo", p.redo))
    for k, group in enumerate(p.redo):
        path: Path = ("redo", k)
        for name in (*group.steps, group.from_step):
            known("step", name, ids, path, group.id)
        for name in group.together:
            known("fastener", name, names, (*path, "together"), group.id)
        if min(ids.index(name) for name in group.steps) < ids.index(group.from_step):
            _wrong("redo_forward", path, "redo group '{id}' cannot begin after the work it repeats", id=group.id)
