"""An overhaul as a problem for a plan: what is still to be done, phase by phase, and what waits for what.

The rules of the engine sheet become demands: two periods that never stand together follow on each other, where their
order is settled by how the joints stand now, or shut each other out. So no plan contains what the rules would refuse.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass, field
from itertools import combinations, pairwise
from typing import Any, Final, TypeAlias

from jorvek.core.overhaul.views.phases import CRANE, Phase
from jorvek.core.plan.problem import Away, Problem
from jorvek.core.procedure.metal_parts import Condition
from jorvek.core.refusal import Refusal
from jorvek.core.sheet.access import Ground, Work
from jorvek.core.sheet.document import Needs, Never
from jorvek.core.sheet.relations import related


@dataclass(frozen=True)
class Run:
    """A run that is still to be made.

    Attributes:
        joint: key of its joint.
        procedure: name of its procedure.
        begins: condition in which it begins.
        leaves: condition in which it leaves the joint.
        selection: how its options are chosen.
        phases: in working order.
    """

    joint: str
    procedure: str
    begins: Condition | None
    leaves: Condition | None
    phases: tuple[Phase, ...]
    selection: Mapping[str, str] = field(default_factory=dict)

    @property
    def work(self) -> Work:
        """It as access rules weigh it."""
        return Work(self.joint, self.begins, self.leaves, dict(self.selection))

    @property
    def named(self) -> tuple[tuple[str, Phase], ...]:
        """Its phases with the names they have in every plan, however far the run has come."""
        return tuple((f"{self.joint} {self.procedure} {phase.index + 1}", phase) for phase in self.phases)

    @property
    def first(self) -> str:
        """Name of its first phase."""
        return self.named[0][0]

    @property
    def last(self) -> str:
        """Name of its last phase."""
        return self.named[-1][0]


def job_of(name: str) -> str:
    """Return the run that a piece of a plan belongs to."""
    return name.rpartition(" ")[0]


@dataclass(frozen=True)
class Crew:
    """Who and what is there.

    Attributes:
        hands: people.
        sets: of each class of tool how many sets.
        cranes: how many.
        shift: minutes of the day; None around the clock.
        away: who and what is away, and when.
        pins: by name of a piece, where a person has put it, in minutes from the first midnight.
    """

    hands: int
    sets: Mapping[str, int]
    cranes: int = 1
    shift: tuple[int, int] | None = (360, 1320)
    away: tuple[Away, ...] = ()
    pins: Mapping[str, int] = field(default_factory=dict)


SHUTDOWN: Final = "shutdown"
"""The moment from which cooling counts: the plan's own beginning."""
Period: TypeAlias = tuple[Run | None, Run | None]
"""From the start of a run, or from now, to the end of another, or for good."""


@dataclass
class _Demands:
    """What the rules ask, while it is gathered."""

    ground: Ground
    chains: Mapping[str, list[Run]]
    now: Mapping[str, Condition]
    after: dict[str, set[str]] = field(default_factory=dict)
    spans: dict[str, tuple[str, str]] = field(default_factory=dict)
    pairs: set[tuple[str, str]] = field(default_factory=set)

    def periods(self, joint: str, within: frozenset[Condition]) -> Iterator[Period]:
        """Yield when a joint is in some conditions, as runs take it into them and out."""
        runs = self.chains.get(joint, [])
        here = self.now.get(joint)
        begun: list[Run | None] | None = [None] if here in within else None
        for run in runs:
            touches = bool(set(self.ground.path(run.work)) & within)
            if touches and begun is None:
                begun = [run]
            if begun is not None and run.leaves not in within:
                yield begun[0], run
                begun = None
        if begun is not None:
            yield begun[0], None

    def apart(self, one: Period, other: Period, rule: str) -> None:
        """Hold two periods apart.

        Raises:
            Refusal: ``plan_rule_broken`` where both last from now on, or one for good.
        """
        for first, second in ((one, other), (other, one)):
            if first[0] is None:
                if first[1] is None or second[0] is None:
                    raise Refusal("plan_rule_broken", rule=rule)
                self._before(first[1], second[0])
                return
        for first, second in ((one, other), (other, one)):
            if first[1] is None:
                if second[1] is None or first[0] is None:
                    raise Refusal("plan_rule_broken", rule=rule)
                self._before(second[1], first[0])
                return
        self.pairs.add((self._span(one), self._span(other)))

    def _before(self, earlier: Run, later: Run) -> None:
        if earlier is not later:
            self.after.setdefault(later.first, set()).add(earlier.last)

    def alone(self) -> None:
        """Hold apart what stands in the sweep of one joint and of another, where one turns the crank meanwhile."""
        every = [one for runs in self.chains.values() for one in _stood(runs)]
        for one, other in combinations(every, 2):
            if (one.turns or other.turns) and (one.begin, other.begin) != (SHUTDOWN, SHUTDOWN):
                names = [f"{stood.begin} … {stood.end} in the sweep" for stood in (one, other)]
                self.spans |= {n: (s.begin, s.end) for n, s in zip(names, (one, other), strict=True)}
                self.pairs.add((names[0], names[1]))

    def _span(self, period: Period) -> str:
        start, end = period
        assert start is not None
        assert end is not None
        name = f"{start.first} … {end.last}"
        self.spans[name] = (start.first, end.last)
        return name

    def never(self, rule: Never) -> None:
        for place in self.ground.places:
            if place.kind is not rule.one.joint:
                continue
            for other in related(self.ground.engine, place, rule.other.joint, rule.of, self.ground.places):
                if rule.one.joint is rule.other.joint and place.key > other.key:
                    continue
                for mine in self.periods(place.key, frozenset(rule.one.in_)):
                    for theirs in self.periods(other.key, frozenset(rule.other.in_)):
                        self.apart(mine, theirs, rule.id)

    def needs(self, rule: Needs) -> None:
        for runs in self.chains.values():
            for run in runs:
                if self._meant(rule, run):
                    self._needs(rule, run)

    def _meant(self, rule: Needs, run: Run) -> bool:
        work = rule.work
        if self.ground.by_key[run.joint].kind is not work.joint:
            return False
        if work.begins and run.begins not in work.begins:
            return False
        if work.leaves and run.leaves not in work.leaves:
            return False
        return all(run.selection.get(option) in choices for option, choices in work.chosen.items())

    def _needs(self, rule: Needs, run: Run) -> None:
        place = self.ground.by_key[run.joint]
        for other in related(self.ground.engine, place, rule.other.joint, rule.of, self.ground.places):
            ladder = self.ground.sheet.ladders.get(other.kind)
            if ladder is None:
                continue
            outside = frozenset(ladder.conditions) - frozenset(rule.other.in_)
            for period in self.periods(other.key, outside):
                self.apart((run, run), period, rule.id)


def problem_of(
    ground: Ground,
    chains: Mapping[str, list[Run]],
    now: Mapping[str, Condition],
    crew: Crew,
    start_deg: float,
    now_min: int = 0,
    stopped_min: int = 0,
) -> Problem:
    """Return what a plan is asked for.

    Args:
        ground: engine and sheet.
        chains: by joint the runs that are still to be made, in order.
        now: how the joints stand.
        crew: who and what is there.
        start_deg: where the crank stands.
        now_min: minute of the first day from which on anything starts.
        stopped_min: how long the engine has stood already.

    Raises:
        Refusal: ``plan_rule_broken`` where a rule cannot be held however it is planned.
    """
    demands = _Demands(ground, chains, now)
    for never in ground.sheet.never:
        if not ground.idle & set(never.unless):
            demands.never(never)
    for needs in ground.sheet.needs:
        if not ground.idle & set(needs.unless):
            demands.needs(needs)
    demands.alone()
    crank = ground.sheet.crank
    ways = set(crank.ways)
    return Problem.model_validate(
        {
            "cycle_deg": round(crank.cycle.value),
            "direction": "both" if len(ways) > 1 else "forward",
            "start_deg": start_deg,
            "work": list(_work(chains, demands.after, crew.pins, now_min, stopped_min)),
            "open_spans": [{"id": n, "from": a, "to": b} for n, (a, b) in demands.spans.items()],
            "never_open_together": sorted(demands.pairs),
            "hands": crew.hands,
            "sets": {**crew.sets, CRANE: crew.cranes},
            "shift": crew.shift,
            "deg_per_minute": 360.0 / max(crank.turn.value / 60.0, 1e-6),
            "minutes_per_move": round(crank.prepare.value / 60.0),
            "not_before_min": now_min,
            "move_hands": 1,
            "moves_in_shift": crew.shift is not None,
            "holds": list(_holds(chains)),
            "away": [one.model_dump() for one in crew.away],
        }
    )


def _work(
    chains: Mapping[str, list[Run]],
    after: Mapping[str, Iterable[str]],
    pins: Mapping[str, int],
    now_min: int,
    stopped_min: int,
) -> Iterator[dict[str, Any]]:
    yield {"id": SHUTDOWN, "hands": 0}
    for runs in chains.values():
        before: str | None = None
        for run in runs:
            for name, phase in run.named:
                since = SHUTDOWN if phase.since_shutdown else before
                left = max(0, phase.wait_min - (stopped_min if phase.since_shutdown else 0))
                yield {
                    "id": name,
                    "crank": _crank(phase),
                    "after": sorted(
                        {*([before] if before else []), *(after.get(name, ()) if name == run.first else ())}
                    ),
                    "minutes": phase.minutes,
                    "hands": phase.hands,
                    "uses": _uses(phase),
                    "wait_after": {since: left} if since is not None and left else {},
                    # A wait in a run that is under way had begun before the plan was made.
                    "not_before_min": now_min + left if since is None and left else 0,
                    "turns": phase.through,
                    "pinned_min": pins.get(name),
                }
                before = name


@dataclass(frozen=True)
class _Stood:
    """From the piece in which something comes into the sweep to that in which it goes; whether one turns the crank."""

    begin: str
    end: str
    turns: bool


def _stood(runs: list[Run]) -> Iterator[_Stood]:
    before = SHUTDOWN
    now: _Stood | None = None
    for name, phase in (one for run in runs for one in run.named):
        if phase.stands:
            now = _Stood(now.begin if now else before, name, phase.through or (now is not None and now.turns))
        elif now is not None:
            yield now
            now = None
        before = name
    if now is not None:
        yield now


def _holds(chains: Mapping[str, list[Run]]) -> Iterator[dict[str, str]]:
    """Yield where the crank stays from one phase to the next.

    It would be read and proved again, or something stands in its sweep; what stands there when a run ends stays for
    the next run on that joint, and what stands there now was put there before the plan began.
    """
    for runs in chains.values():
        named = [one for run in runs for one in run.named]
        if named and named[0][1].stands:
            yield {"from": SHUTDOWN, "to": named[0][0]}
        for (name, phase), (following, then) in pairwise(named):
            if phase.holds or then.stands:
                yield {"from": name, "to": following}


def _crank(phase: Phase) -> list[tuple[float, float]] | None:
    if phase.crank is not None:
        return [phase.crank]
    return None


def _uses(phase: Phase) -> dict[str, int]:
    found = dict.fromkeys(phase.sets, 1)
    if phase.crane:
        found[CRANE] = 1
    return found
