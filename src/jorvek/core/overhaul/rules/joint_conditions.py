"""How the joints of an engine stand: what was declared, and what the runs since then have done."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping
from uuid import UUID

from jorvek.core.engine.layout import joints_of
from jorvek.core.overhaul.log.state import Declared, Overhaul
from jorvek.core.procedure.metal_parts import Condition
from jorvek.core.run.views.on_engine import Carried, RunOnEngine
from jorvek.core.sheet.access import Ground, Stand, Work
from jorvek.core.sheet.document import EngineSheet, Unless
from jorvek.core.sheet.relations import related


def counts(overhaul: Overhaul, run: RunOnEngine) -> bool:
    """Tell whether a run belongs to an overhaul: started in it, or taken over by it while it was under way."""
    return run.overhaul == overhaul.overhaul_id or run.run_id in overhaul.opened.took_over


def ground_of(overhaul: Overhaul, sheet: EngineSheet, runs: Iterable[RunOnEngine]) -> Ground:
    """Return the engine as far as access is concerned.

    Args:
        overhaul: the overhaul.
        sheet: the engine's sheet.
        runs: the runs on the engine, newest first.
    """
    mine = [run for run in runs if counts(overhaul, run)]
    stands = {
        place.key: _stand(overhaul, sheet, place.key, mine) for place in joints_of(overhaul.opened.engine, sheet.joints)
    }
    return Ground(overhaul.opened.engine, sheet, stands, _idle(overhaul))


def _idle(overhaul: Overhaul) -> frozenset[Unless]:
    found: set[Unless] = set()
    if overhaul.attitude == "inverted":
        found.add("inverted")
    if overhaul.crank_carried:
        found |= {"crank_supported", "shaft_jacked"}
    return frozenset(found)


def work_of(run: RunOnEngine) -> Work:
    """Return a run as work that access rules weigh."""
    return Work(run.joint, run.begins, run.leaves, run.selection)


def _stand(overhaul: Overhaul, sheet: EngineSheet, joint: str, mine: list[RunOnEngine]) -> Stand:
    here = [run for run in mine if run.joint == joint]
    # The newest run that measured a gate decides.
    bad = next((run.gates_bad for run in here if run.measured), False)
    current = next((run for run in here if run.open), None)
    if current is not None:
        ground = Ground(overhaul.opened.engine, sheet, {})
        return Stand(frozenset(ground.path(work_of(current))), work_of(current), bad)
    condition = _with_neighbours(overhaul, joint, condition_of(overhaul, joint, here), mine)
    return Stand(frozenset({condition} if condition else ()), None, bad)


def declared_now(overhaul: Overhaul, joint: str, here: Iterable[RunOnEngine]) -> Declared | None:
    """Return the declaration that still speaks for a joint: no run has been started there since."""
    last = next(reversed(overhaul.declared.get(joint, ())), None)
    newest = next((run.run_id for run in here if run.joint == joint), None)
    return last if last is not None and (newest is None or last.after == newest) else None


def condition_of(overhaul: Overhaul, joint: str, here: list[RunOnEngine]) -> Condition | None:
    """Return the condition of a joint on which nobody works; None where nobody knows.

    Args:
        overhaul: the overhaul.
        joint: its key.
        here: the runs that count, newest first.
    """
    said = declared_now(overhaul, joint, here)
    if said is not None:
        return said.condition
    newest = next((run for run in here if run.joint == joint), None)
    return None if newest is None else newest.condition


def shown_condition(overhaul: Overhaul, joint: str, mine: list[RunOnEngine]) -> Condition | None:
    """Return what a joint is like now, while it is worked on, too."""
    here = [run for run in mine if run.joint == joint]
    current = next((run for run in here if run.open), None)
    if current is not None:
        return current.condition
    return _with_neighbours(overhaul, joint, condition_of(overhaul, joint, here), mine)


def _with_neighbours(
    overhaul: Overhaul, joint: str, condition: Condition | None, mine: list[RunOnEngine]
) -> Condition | None:
    """Return the condition of a joint: with fasteners let go for the work beside it, it is not closed up."""
    if condition != "closed_up" or not any(debt.slackens for run in mine for debt in run.carried):
        return condition
    return "tight" if joint in _slackened(overhaul, mine) else condition


def _slackened(overhaul: Overhaul, mine: list[RunOnEngine]) -> set[str]:
    """Return the joints of which a fastener was let go for work beside them, and is not put right."""
    engine = overhaul.opened.engine
    places = {place.key: place for place in joints_of(engine)}
    return {
        beside.key
        for run, debt in owed(overhaul, mine)
        if debt.slackens is not None and run.joint in places
        for beside in related(engine, places[run.joint], debt.slackens, "beside", list(places.values()))
    }


def owed(overhaul: Overhaul, runs: Iterable[RunOnEngine]) -> Iterator[tuple[RunOnEngine, Carried]]:
    """Yield what runs have left for others to put right, and nobody has, oldest first.

    A debt is paid when another run on its joint, or on another of the same cylinder, by the procedure that it names,
    has put that very point right after it arose, or was begun later and is closed; or by name.
    """
    mine = [run for run in runs if counts(overhaul, run)]
    cylinders = {p.key: p.cylinders for p in joints_of(overhaul.opened.engine)}
    for run in reversed(mine):
        others = [r for r in mine if r.run_id != run.run_id and _together(cylinders, r.joint, run.joint)]
        for debt in run.carried:
            if (run.run_id, debt.cell) not in overhaul.paid and not any(_pays(r, run, debt) for r in others):
                yield run, debt


def _together(cylinders: Mapping[str, frozenset[str]], one: str, other: str) -> bool:
    return one == other or bool(cylinders.get(one, frozenset()) & cylinders.get(other, frozenset()))


def _pays(other: RunOnEngine, run: RunOnEngine, debt: Carried) -> bool:
    """Tell whether another run has put something right: whole and begun later, or that very point after it arose."""
    if debt.to != other.procedure:
        return False
    whole = not other.open and other.started > run.started
    return whole or other.settled.get(debt.point, "") > (debt.at or run.started)


def newest_on(joint: str, runs: Iterable[RunOnEngine]) -> UUID | None:
    """Return the newest run on a joint."""
    return next((run.run_id for run in runs if run.joint == joint), None)
