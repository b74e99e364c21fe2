"""The sheet check: a sheet read against itself, by playing its rules on one cylinder with a main on either side."""

from __future__ import annotations

from collections import Counter, deque
from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from functools import cached_property, lru_cache
from typing import Final

from jorvek.core.engine.layout import Engine, FurtherJoints, JointKind
from jorvek.core.procedure.metal_parts import Condition
from jorvek.core.refusal import Refusal
from jorvek.core.sheet.access import Ground, Stand, Work, in_the_way, standing_together
from jorvek.core.sheet.document import FIRST_START, EngineSheet, Needs, Never, Standing
from jorvek.core.sheet.vee import vee_angles

Path = tuple[str | int, ...]
State = tuple[Condition, ...]
_MOST_STATES: Final = 20_000
_STARTS: Final = ("starting_air", "remote_start", "generator_breaker", "gas", "fuel")
"""What could start or feed the engine: it is not lifted for a test."""


@dataclass(frozen=True)
class SheetFinding:
    """One thing that speaks against a sheet: its code in the catalogue, its place, what shows it."""

    code: str
    path: Path
    params: dict[str, str]


def check_sheet(sheet: EngineSheet, engine: Engine) -> tuple[SheetFinding, ...]:
    """Return everything that speaks against a sheet; nobody approves one with a finding.

    Args:
        sheet: a document that can be read.
        engine: an engine of its type: its layout decides which joints there are.
    """
    return _checked(sheet.canonical(), engine.model_dump_json())


@lru_cache(maxsize=32)
def _checked(sheet_body: str, engine_body: str) -> tuple[SheetFinding, ...]:
    """Whoever brings a sheet in and whoever approves it ask the same of the same document."""
    sheet, engine = EngineSheet.model_validate_json(sheet_body), Engine.model_validate_json(engine_body)
    found = [*_ladders(sheet), *_names(sheet), *_doors(sheet, engine), *_isolations(sheet), *_running_in(sheet)]
    found += _banks(sheet, engine)
    return tuple(found or _played(sheet, engine))


def _ladders(sheet: EngineSheet) -> Iterator[SheetFinding]:
    for kind, ladder in sheet.ladders.items():
        for way, rungs in (("undone", ladder.undone), ("put_back", ladder.put_back)):
            twice = [c for c, n in Counter(rungs).items() if n > 1]
            if twice:
                yield SheetFinding("ladder_loops", ("ladders", kind.value, way), {"condition": twice[0]})
        if (ladder.undone[0], ladder.undone[-1]) != (ladder.put_back[-1], ladder.put_back[0]):
            yield SheetFinding("ladder_does_not_close", ("ladders", kind.value), {"kind": kind.value})


def _names(sheet: EngineSheet) -> Iterator[SheetFinding]:
    ids = Counter([*(rule.id for rule in sheet.never), *(rule.id for rule in sheet.needs)])
    rules: list[tuple[Path, Never | Needs]] = [
        *((("never", i), never) for i, never in enumerate(sheet.never)),
        *((("needs", i), needs) for i, needs in enumerate(sheet.needs)),
    ]
    for path, rule in rules:
        if ids[rule.id] > 1:
            yield SheetFinding("rule_twice", (*path, "id"), {"rule": rule.id})
        yield from _conditions(sheet, path, rule)
    for i, row in enumerate(sheet.joints):
        if row.kind not in sheet.ladders:
            yield SheetFinding("no_ladder", ("joints", i, "kind"), {"kind": row.kind.value})


def _conditions(sheet: EngineSheet, path: Path, rule: Never | Needs) -> Iterator[SheetFinding]:
    if isinstance(rule, Never):
        sides: tuple[tuple[str, Standing], ...] = (("one", rule.one), ("other", rule.other))
    else:
        about = (*rule.work.begins, *rule.work.leaves)
        named = Standing.model_validate({"joint": rule.work.joint, "in": about}) if about else None
        sides = (("other", rule.other), *((("work", named),) if named else ()))
    for name, side in sides:
        ladder = sheet.ladders.get(side.joint)
        if ladder is None:
            yield SheetFinding("no_ladder", (*path, name), {"kind": side.joint.value})
            continue
        for condition in side.in_:
            if condition not in ladder.conditions:
                params = {"condition": condition, "kind": side.joint.value}
                yield SheetFinding("not_on_the_ladder", (*path, name), params)


def _isolations(sheet: EngineSheet) -> Iterator[SheetFinding]:
    points = Counter(p.point for p in sheet.isolations)
    for i, one in enumerate(sheet.isolations):
        if points[one.point] > 1:
            yield SheetFinding("point_twice", ("isolations", i), {"point": one.point})
        if one.for_test and one.point in _STARTS:
            yield SheetFinding("never_lifted", ("isolations", i, "for_test"), {"point": one.point})
        if one.point not in sheet.restore:
            yield SheetFinding("never_restored", ("isolations", i), {"point": one.point})
    for i, point in enumerate(sheet.restore):
        if point not in points:
            yield SheetFinding("restores_nothing", ("restore", i), {"point": point})
        if sheet.restore.count(point) > 1:
            yield SheetFinding("point_twice", ("restore", i), {"point": point})


def _doors(sheet: EngineSheet, engine: Engine) -> Iterator[SheetFinding]:
    ids = Counter(door.id for door in sheet.doors)
    for i, door in enumerate(sheet.doors):
        if ids[door.id] > 1:
            yield SheetFinding("door_twice", ("doors", i, "id"), {"door": door.id})
        for name in door.cylinders:
            if name not in engine.cylinders():
                yield SheetFinding("no_such_cylinder", ("doors", i, "cylinders"), {"cylinder": name})


def _banks(sheet: EngineSheet, engine: Engine) -> Iterator[SheetFinding]:
    """A vee says how its banks lie; its firing order is one that its pins allow."""
    if engine.layout != "vee" or engine.tdc_deg:
        return
    if sheet.crank.bank_angle is None:
        yield SheetFinding("no_bank_angle", ("crank",), {})
        return
    try:
        vee_angles(engine, sheet.crank)
    except Refusal as why:
        pair = {name: str(why.params.get(name, "")) for name in ("first", "second")}
        yield SheetFinding("pins_at_odds", ("crank", "bank_angle"), {**pair, "order": ", ".join(engine.firing_order)})


def _running_in(sheet: EngineSheet) -> Iterator[SheetFinding]:
    before = -1.0
    ids = Counter((FIRST_START, *(stop.id for stop in sheet.running_in)))
    for i, stop in enumerate(sheet.running_in):
        if ids[stop.id] > 1:
            yield SheetFinding("stop_twice", ("running_in", i, "id"), {"stop": stop.id})
        if stop.after.value <= before:
            yield SheetFinding("stop_out_of_order", ("running_in", i, "after"), {"stop": stop.id})
        before = stop.after.value


def one_cylinder(sheet: EngineSheet, engine: Engine) -> Engine:
    """Return an engine of the same layout with one crankpin; of a vee one bank, unless a rule is about shared pins."""
    pins = "same_pin" in {*(r.of for r in sheet.never), *(r.of for r in sheet.needs)}
    banks = engine.banks if pins else engine.banks[:1]
    cylinders = tuple(f"{bank}1" for bank in banks) or ("1",)
    changes = {"cylinders_per_bank": 1, "banks": banks, "firing_order": cylinders, "tdc_deg": {}}
    return engine.model_copy(update=changes)


def _by_the_first_cylinder(sheet: EngineSheet) -> EngineSheet:
    """Return the sheet with those of its further joints that lie by the first cylinder; of each sort at least one."""
    rows: list[FurtherJoints] = []
    for row in sheet.joints:
        near = [k for k, slot in enumerate(row.slots) if abs(slot) <= 0.5] or [0]
        names, slots = tuple(row.names[k] for k in near), tuple(row.slots[k] for k in near)
        rows.append(row.model_copy(update={"names": names, "slots": slots}))
    return sheet.model_copy(update={"joints": tuple(rows)})


@dataclass(frozen=True)
class _Play:
    """The rules on one cylinder: which states can be reached, and what kept the others out."""

    sheet: EngineSheet
    engine: Engine

    @cached_property
    def joints(self) -> list[tuple[str, JointKind]]:
        """The joints that rules speak of; the others move as they please."""
        kinds = {k for r in self.sheet.never for k in (r.one.joint, r.other.joint)}
        kinds |= {k for r in self.sheet.needs for k in (r.work.joint, r.other.joint)}
        ground = Ground(self.engine, self.sheet, {})
        return [(p.key, p.kind) for p in ground.places if p.kind in kinds and p.kind in self.sheet.ladders]

    @cached_property
    def start(self) -> State:
        """Everything closed up."""
        return tuple(self.sheet.ladders[kind].undone[0] for _, kind in self.joints)

    def ground(self, state: State) -> Ground:
        """Return the engine in a state."""
        stands = {key: Stand(frozenset({c})) for (key, _), c in zip(self.joints, state, strict=True)}
        return Ground(self.engine, self.sheet, stands)

    def works(self, state: State) -> Iterator[tuple[int, Work]]:
        """Yield every single move up or down a ladder, in each way of choosing that a rule names."""
        named = (r.work.chosen for r in self.sheet.needs if r.work.chosen)
        chosen: list[dict[str, str]] = [{}, *({k: v[0] for k, v in one.items()} for one in named)]
        for k, ((key, kind), condition) in enumerate(zip(self.joints, state, strict=True)):
            ladder = self.sheet.ladders[kind]
            for way in (ladder.undone, ladder.put_back):
                at = way.index(condition) if condition in way else len(way)
                if at + 1 < len(way):
                    yield from ((k, Work(key, condition, way[at + 1], c)) for c in chosen)


def _played(sheet: EngineSheet, engine: Engine) -> Iterator[SheetFinding]:
    play = _Play(_by_the_first_cylinder(sheet), one_cylinder(sheet, engine))
    for one, other, rule in standing_together(play.ground(play.start)):
        yield SheetFinding("forbids_the_beginning", ("never", sheet.never.index(rule)), {"one": one, "other": other})
        return
    back: dict[State, list[State]] = {play.start: []}
    kept_out: dict[tuple[JointKind, Condition], set[str]] = {}
    begun: set[str] = set()
    queue = deque([play.start])
    while queue and len(back) < _MOST_STATES:
        state = queue.popleft()
        ground = play.ground(state)
        for k, work in play.works(state):
            assert work.leaves is not None
            ways = in_the_way(ground, work)
            if ways:
                at = (play.joints[k][1], work.leaves)
                kept_out.setdefault(at, set()).update(o.rule for o in ways if o.rule is not None)
                continue
            begun |= set(_met(play, ground, work))
            after = (*state[:k], work.leaves, *state[k + 1 :])
            if after not in back:
                back[after] = []
                queue.append(after)
            back[after].append(state)
    if queue:
        yield SheetFinding("too_many_states", ("never",), {"most": str(_MOST_STATES)})
        return
    yield from _never_reached(play, set(back), kept_out)
    yield from _no_way_back(play, back)
    for i, rule_ in enumerate(sheet.needs):
        if rule_.id not in begun and any(kind is rule_.work.joint for _, kind in play.joints):
            yield SheetFinding("work_locked_out", ("needs", i), {"rule": rule_.id})


def _met(play: _Play, ground: Ground, work: Work) -> Iterator[str]:
    """Yield the rules that some work was held to, and that let it begin."""
    kind = ground.by_key[work.joint].kind
    for rule in play.sheet.needs:
        about = rule.work
        begins = not about.begins or work.begins in about.begins
        leaves = not about.leaves or work.leaves in about.leaves
        if kind is about.joint and begins and leaves and all(work.chosen.get(k) in v for k, v in about.chosen.items()):
            yield rule.id


def _never_reached(
    play: _Play, reached: set[State], kept_out: Mapping[tuple[JointKind, Condition], set[str]]
) -> Iterator[SheetFinding]:
    seen = {(kind, c) for state in reached for (_, kind), c in zip(play.joints, state, strict=True)}
    for kind in dict.fromkeys(kind for _, kind in play.joints):
        for condition in play.sheet.ladders[kind].conditions:
            rules = kept_out.get((kind, condition), set())
            if (kind, condition) not in seen and rules:
                params = {"kind": kind.value, "condition": condition, "rules": ", ".join(sorted(rules))}
                yield SheetFinding("locked_out", ("ladders", kind.value), params)


def _no_way_back(play: _Play, back: Mapping[State, list[State]]) -> Iterator[SheetFinding]:
    """Yield a state that can be reached, and from which the engine is never closed up again."""
    home, queue = {play.start}, deque([play.start])
    while queue:
        for before in back[queue.popleft()]:
            if before not in home:
                home.add(before)
                queue.append(before)
    lost = next((state for state in back if state not in home), None)
    if lost is not None:
        words = ", ".join(f"{key} {c}" for (key, _), c in zip(play.joints, lost, strict=True))
        yield SheetFinding("no_way_back", ("needs",), {"state": words})
