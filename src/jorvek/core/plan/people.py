"""Who does what: the hands of a plan given names. Whoever began a joint goes on with it. Derived here."""

from __future__ import annotations

from collections.abc import Callable, Mapping

from jorvek.core.plan.crew import Timed
from jorvek.core.plan.problem import Problem


def named(
    problem: Problem, plan: Timed, job_of: Callable[[str], str], before: Mapping[str, tuple[int, ...]] | None = None
) -> tuple[Mapping[str, tuple[int, ...]], tuple[tuple[int, ...], ...]]:
    """Return the people of every piece and of every move, by number from 0.

    Args:
        problem: what was asked.
        plan: it holds, so at no moment more hands are wanted than there are.
        job_of: the job that a piece belongs to: the same people stay with one.
        before: by job who was to do it before.
    """
    pieces = {piece.id: piece for piece in problem.work}
    wanted = [(one.start_min, one.end_min, one.id, pieces[one.id].hands) for one in plan.placed]
    wanted += [(m.start_min, m.end_min, f"\0{k}", problem.move_hands) for k, m in enumerate(plan.moves)]
    free_at = dict.fromkeys(range(problem.hands), 0)
    last: dict[str, tuple[int, ...]] = dict(before or {})
    worked = dict.fromkeys(range(problem.hands), 0)
    found: dict[str, tuple[int, ...]] = {}
    for start, end, name, hands in sorted(wanted):
        job = job_of(name) if name in pieces else ""
        free = [who for who, at in free_at.items() if at <= start]
        # Those of the job first, then whoever has done least so far.
        free.sort(key=lambda who: (who not in last.get(job, ()), worked[who], who))
        chosen = tuple(free[:hands])
        for who in chosen:
            free_at[who] = end
            worked[who] += end - start
        if job and chosen:
            last[job] = chosen
        found[name] = chosen
    moves = tuple(found.pop(f"\0{k}") for k in range(len(plan.moves)))
    return found, moves
