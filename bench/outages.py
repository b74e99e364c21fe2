"""Whole outages played by chance: ``./jorvek bench outages [HOW MANY] [ENGINE]``.

Every piece of work takes its time by a skewed distribution around what was planned, and now and then a set, or the
crane, fails for some hours. Three crews do the same outages: one takes the work as the list has it and turns to what
is first; one follows the plan that was made before the first day; one plans anew every morning from where it stands.
Printed are finish and turning of the crank: the middle one, and that which nine in ten stay below.
"""

from __future__ import annotations

import random
import statistics
import sys
import time
from dataclasses import dataclass

from tests.core.whole_engine import complete

from jorvek.core.plan.follow import follow
from jorvek.core.plan.problem import DAY_MIN, Away, PieceOfWork, Problem
from jorvek.core.plan.result import Move, Placed
from jorvek.core.plan.rule import by_tail, first_come
from jorvek.planning.solve import plan

_SKEW = 0.35
_FAILS = 0.3
"""How likely it is in one outage that a set fails."""
_LONGEST_MIN = 900


@dataclass(frozen=True)
class Outage:
    """What chance has in store: how long every piece takes, and when which set is away."""

    minutes: dict[str, int]
    away: tuple[Away, ...]

    def really(self, problem: Problem) -> Problem:
        """Return a problem as it really is."""
        work = tuple(p.model_copy(update={"minutes": self.minutes.get(p.id, p.minutes)}) for p in problem.work)
        return problem.model_copy(update={"work": work, "away": self.away})


def _taken(planned_min: int, dice: random.Random) -> int:
    if planned_min == 0:
        return 0
    return min(_LONGEST_MIN, max(1, round(planned_min * dice.lognormvariate(-(_SKEW**2) / 2, _SKEW))))


def drawn(problem: Problem, dice: random.Random, last_min: int) -> Outage:
    """Draw an outage."""
    minutes = {p.id: _taken(p.minutes, dice) for p in problem.work}
    away: tuple[Away, ...] = ()
    if dice.random() < _FAILS:
        start = dice.randrange(last_min)
        name = dice.choice(sorted(problem.sets))
        away = (Away(what=name, from_min=start, to_min=start + dice.randrange(120, 600)),)
    return Outage(minutes, away)


def replanned(
    problem: Problem, outage: Outage, order: tuple[Placed, ...], moves: tuple[Move, ...]
) -> tuple[int, float]:
    """Follow a plan, and make it anew every morning from what is done by then; return finish and turning."""
    done: dict[str, Placed] = {}
    turned, real = 0.0, outage.really(problem)
    now, start_deg = problem.not_before_min, problem.start_deg
    while True:
        laid = follow(_left(real, done, now, start_deg), order, moves)
        night = (now // DAY_MIN + 1) * DAY_MIN
        today = [p for p in laid.placed if p.start_min < night]
        gone = [m for m in laid.moves if m.start_min < night]
        turned += sum(m.turning_deg for m in gone)
        done |= {p.id: p for p in today}
        start_deg = gone[-1].to_deg if gone else start_deg
        if len(done) == len(problem.work):
            return max(p.end_min for p in done.values()), turned
        now = night
        asked = _left(problem.model_copy(update={"away": ()}), done, now, start_deg)
        ways = (follow(asked, order, moves), by_tail(asked), first_come(asked))
        best = min(ways, key=lambda way: way.finish_min)
        order, moves = best.placed, best.moves


def _left(problem: Problem, done: dict[str, Placed], now: int, start_deg: float) -> Problem:
    """Return what is left of a problem at a moment."""
    left = {p.id for p in problem.work} - set(done)

    def piece(one: PieceOfWork) -> PieceOfWork:
        waits = [done[n].end_min + m for n, m in one.wait_after.items() if n in done]
        return one.model_copy(
            update={
                "after": tuple(n for n in one.after if n in left),
                "wait_after": {n: m for n, m in one.wait_after.items() if n in left},
                "not_before_min": max([one.not_before_min, now, *waits]),
            }
        )

    work = tuple(piece(p) for p in problem.work if p.id in left)
    # A span that is open, or over, is held by what is left of it: its end comes before what it shuts out.
    spans = tuple(s for s in problem.open_spans if s.from_ in left and s.to in left)
    opened = {s.id: s for s in problem.open_spans if s.from_ not in left and s.to in left}
    after: dict[str, list[str]] = {}
    by_id = {s.id: s for s in problem.open_spans}
    for one, other in problem.never_open_together:
        for a, b in ((one, other), (other, one)):
            if a in opened and b in by_id and by_id[b].from_ in left:
                after.setdefault(by_id[b].from_, []).append(opened[a].to)
    work = tuple(p.model_copy(update={"after": (*p.after, *after.get(p.id, ()))}) for p in work)
    holds = tuple(h for h in problem.holds if h.from_ in left and h.to in left)
    return problem.model_copy(
        update={"work": work, "open_spans": spans, "holds": holds, "start_deg": start_deg, "not_before_min": 0}
    )


def main(count: str = "200", name: str = "unit-5") -> None:
    """Play them all."""
    problem, begun = complete(name)[3], time.monotonic()
    made = plan(problem, seconds=10.0)
    dice = random.Random(1)
    rows: dict[str, list[tuple[int, float]]] = {"first come": [], "plan followed": [], "planned anew": []}
    for _ in range(int(count)):
        outage = drawn(problem, dice, made.finish_min)
        real = outage.really(problem)
        listed = first_come(real)
        rows["first come"].append((listed.finish_min, listed.barring_deg))
        kept = follow(real, made.placed, made.moves)
        rows["plan followed"].append((kept.finish_min, kept.barring_deg))
        rows["planned anew"].append(replanned(problem, outage, made.placed, made.moves))
    print(f"{name}: {count} outages, planned {made.finish_min} min, {time.monotonic() - begun:.0f} s")
    print(f"{'crew':16}{'finish, middle':>16}{'nine in ten':>14}{'turns, middle':>16}{'nine in ten':>14}")
    for crew, found in rows.items():
        ends, turns = [f for f, _ in found], [t / 360 for _, t in found]
        figures = (statistics.median(ends), statistics.quantiles(ends, n=10)[8])
        round_ = (statistics.median(turns), statistics.quantiles(turns, n=10)[8])
        print(f"{crew:16}{figures[0]:>16.0f}{figures[1]:>14.0f}{round_[0]:>16.1f}{round_[1]:>14.1f}")


if __name__ == "__main__":
    main(*sys.argv[1:])
