"""A plan for an overhaul: looked for in a process of its own at the lowest priority, stopped when asked, and taken."""

from __future__ import annotations

import os
import threading
import time
from collections.abc import Callable, Iterator
from datetime import datetime
from functools import partial
from typing import Final
from uuid import UUID, uuid4

from jorvek.core.overhaul.log import commands as oc
from jorvek.core.overhaul.log import events as ov
from jorvek.core.overhaul.views.outage import SHUTDOWN, job_of
from jorvek.core.overhaul.views.phases import CRANE
from jorvek.core.plan.crew import Timed
from jorvek.core.plan.people import named
from jorvek.core.plan.problem import PieceOfWork, Problem
from jorvek.core.plan.result import Aim, Move, Placed, Plan
from jorvek.core.plan.rule import first_come
from jorvek.core.plan.turning import Circle
from jorvek.core.plan.why import reasons
from jorvek.core.refusal import Refusal
from jorvek.core.rights import Act, demand
from jorvek.core.run.log.events import Person
from jorvek.store.database import Database
from jorvek.store.overhaullog import OverhaulSnapshot
from jorvek.work.engine import overhauls
from jorvek.work.helpers import SOLVING, helper
from jorvek.work.people.accounts import as_actor
from jorvek.work.plan.files import (
    Made,
    PlanFile,
    WhatIf,
    change_from,
    file_of,
    looks_still,
    read,
    seal_of,
    sign_of_life,
    write,
    write_mine,
)
from jorvek.work.plan.problem import Outage, PlanAsked, outage
from jorvek.work.workshop import Workshop

_LOOK_S: Final = 0.3
_SIGN_S: Final = 5.0
_WONDER_S: Final = 4.0
"""So long is looked for what one thing else would change."""


def begin_plan(workshop: Workshop, actor: Person, overhaul_id: UUID, asked: PlanAsked) -> None:
    """Begin to look for a plan; whoever looks for one already ends by itself.

    Raises:
        Refusal: ``not_your_right``, ``no_such_overhaul``.
    """
    demand(actor.role, Act.LEAD_OVERHAUL)
    made = _made_for(workshop, overhaul_id, asked)
    write(file_of(workshop, overhaul_id), made)
    _begin(workshop, overhaul_id, made)


def begin_again(workshop: Workshop, overhaul_id: UUID) -> None:
    """Begin anew where the server that looked for a plan has stopped, once; a second time it has failed.

    Raises:
        Refusal: ``no_such_overhaul``.
    """
    made = read(file_of(workshop, overhaul_id))
    if made is None or not (made.state == "looking" or made.wondering):
        return
    if not (_looked_for_here(overhaul_id) or looks_still(workshop, overhaul_id, made)):
        _go_on_from(workshop, overhaul_id, made)


def _killed(workshop: Workshop, overhaul_id: UUID, ticket: UUID, code: int | None) -> None:
    """Go on where the process that looked for a plan was killed: nobody has to wait for its silence."""
    made = read(file_of(workshop, overhaul_id))
    if code != 0 and made is not None and made.ticket == ticket and (made.state == "looking" or made.wondering):
        _go_on_from(workshop, overhaul_id, made)


def _go_on_from(workshop: Workshop, overhaul_id: UUID, made: Made) -> None:
    """Begin anew where nobody looks for a plan any more, or say that it has failed."""
    anew = made.state == "looking" and not made.again
    after = _made_for(workshop, overhaul_id, made.asked).model_copy(update={"again": True})
    if not anew:
        state = "failed" if made.state == "looking" else made.state
        after = made.model_copy(update={"state": state, "wondering": False, "ticket": uuid4()})
    # Of several who find it at the same time one begins.
    if change_from(file_of(workshop, overhaul_id), made.ticket, after) and anew:
        _begin(workshop, overhaul_id, after)


def _looked_for_here(overhaul_id: UUID) -> bool:
    """Tell whether a process of this server looks: however long it takes to begin, it has not stopped."""
    return SOLVING.holds(overhaul_id)


def _made_for(workshop: Workshop, overhaul_id: UUID, asked: PlanAsked) -> Made:
    seal = seal_of(workshop, overhaul_id)
    now = workshop.clock()
    return Made(state="looking", ticket=uuid4(), asked=asked, made_at=now, seal=seal, begun_s=time.time())


def _begin(workshop: Workshop, overhaul_id: UUID, made: Made) -> None:
    url = workshop.database.url
    rest = (workshop.site_zone, str(overhaul_id), str(made.ticket))
    # Whoever looks already would see by itself that another has asked, but not before it has gathered the problem.
    waits = partial(sign_of_life, workshop, overhaul_id, made.ticket)
    ended = partial(_killed, workshop, overhaul_id, made.ticket)
    SOLVING.put(overhaul_id, helper(_look_for, url, *rest), waits, ended)


def stop_plan(workshop: Workshop, actor: Person, overhaul_id: UUID) -> None:
    """Stop looking; what was found so far stays.

    Raises:
        Refusal: ``not_your_right``, ``no_such_overhaul``.
    """
    demand(actor.role, Act.LEAD_OVERHAUL)
    seal_of(workshop, overhaul_id)
    place = file_of(workshop, overhaul_id)
    made = read(place)
    if made is not None and (made.state == "looking" or made.wondering):
        state = "stopped" if made.state == "looking" else made.state
        write(place, made.model_copy(update={"state": state, "wondering": False, "ticket": uuid4()}))
        SOLVING.drop(overhaul_id)


def _look_for(url: str, zone: str, overhaul_id: str, ticket: str) -> None:
    """Run in the other process: gather, look, and write down whatever is better than before."""
    os.nice(19)
    database = Database(url)
    found = file_of(Workshop(database, site_zone=zone), UUID(overhaul_id))
    made = read(found)
    if made is None or str(made.ticket) != ticket:
        return
    asked_at = made.made_at
    shop = Workshop(database, lambda: asked_at, site_zone=zone)

    def watch() -> None:
        signed = 0.0
        while (there := read(found)) is not None and str(there.ticket) == ticket:
            if time.monotonic() - signed > _SIGN_S:
                signed = time.monotonic()
                sign_of_life(shop, UUID(overhaul_id), made.ticket)
            time.sleep(_LOOK_S)
        os._exit(0)

    threading.Thread(target=watch, daemon=True).start()
    try:
        _looked(shop, UUID(overhaul_id), found, made)
    except Refusal as refusal:
        with_ = {name: str(value) for name, value in refusal.params.items()}
        write_mine(found, made.model_copy(update={"state": "failed", "refused": refusal.code, "refused_with": with_}))
    except Exception:
        write_mine(found, made.model_copy(update={"state": "failed"}))
        raise


def _solver() -> Callable[..., Plan]:
    """Return the solver; the helper alone reads it, never the server."""
    from jorvek.planning.solve import plan

    return plan


def _looked(shop: Workshop, overhaul_id: UUID, place: PlanFile, made: Made) -> None:
    asked = outage(shop, overhaul_id, made.asked)
    problem = asked.problem
    made = made.model_copy(
        update={
            "midnight": asked.midnight,
            "problem": problem,
            "pieces": asked.pieces,
            "left_out": asked.left_out,
            "crank_assumed": asked.crank_assumed,
        }
    )
    bare = problem.model_copy(update={"work": tuple(p.model_copy(update={"pinned_min": None}) for p in problem.work)})
    known = in_force_of(shop, overhaul_id, asked)
    tell = partial(_tell, place, made)
    best = _solver()(problem, made.asked.aim, made.asked.seconds, tell, known)
    wonders = made.asked.what_if
    made = made.model_copy(
        update={**_explained(problem, best), "state": "ready", "first_come_min": first_come(bare).finish_min,
                "wondering": wonders}
    )  # fmt: skip
    if write_mine(place, made) and wonders:
        found = []
        for one in _wondered(asked, made, best):
            found.append(one)
            made = made.model_copy(update={"what_if": tuple(found)})
            write_mine(place, made)
        write_mine(place, made.model_copy(update={"wondering": False}))


def _tell(place: PlanFile, made: Made, better: Plan) -> None:
    assert made.problem is not None
    write_mine(place, made.model_copy(update=_explained(made.problem, better)))


def timed_of(problem: Problem, found: Plan) -> Timed:
    """Return a plan as a timetable."""
    circle = Circle(problem)
    at = {one.id: circle.nearest(one.angle_deg) for one in found.placed if one.angle_deg is not None}
    return Timed(found.placed, found.moves, at)


def _explained(problem: Problem, found: Plan) -> dict[str, object]:
    laid = timed_of(problem, found)
    who, moves_who = named(problem, laid, job_of)
    return {"plan": found, "reasons": dict(reasons(problem, laid)), "who": dict(who), "moves_who": moves_who}


def _wondered(asked: Outage, made: Made, best: Plan) -> Iterator[WhatIf]:
    """Yield what one thing else would change: a set, a person, a shift, the other aim."""
    problem, ask = asked.problem, made.asked
    aim: Aim = ask.aim
    seconds = min(_WONDER_S, ask.seconds)
    short = {name for name, why in made.reasons.items() if why.code == "set"}
    for name in sorted({made.reasons[piece].what[0] for piece in short} - {CRANE}):
        more = problem.model_copy(update={"sets": {**problem.sets, name: problem.sets[name] + 1}})
        yield _one(asked, WhatIf(code="one_set_more", what=name), more, aim, seconds, best)
    yield _one(
        asked, WhatIf(code="one_more"), problem.model_copy(update={"hands": problem.hands + 1}), aim, seconds, best
    )
    if problem.hands > 1:
        fewer = problem.model_copy(update={"hands": problem.hands - 1})
        yield _one(asked, WhatIf(code="one_less"), fewer, aim, seconds, None)
    shift = problem.shift
    if shift is not None and shift[1] - shift[0] > _ONE_SHIFT_MIN:
        short_day = problem.model_copy(update={"shift": (shift[0], shift[0] + _ONE_SHIFT_MIN)})
        yield _one(asked, WhatIf(code="one_shift"), short_day, aim, seconds, None)
    if aim == "earliest_finish":
        yield _one(asked, WhatIf(code="least_barring"), problem, "least_barring", seconds, None)


_ONE_SHIFT_MIN: Final = 540


def _one(asked: Outage, one: WhatIf, problem: Problem, aim: Aim, seconds: float, known: Plan | None) -> WhatIf:
    try:
        found = _solver()(problem, aim, seconds, known=known)
    except Refusal as refusal:
        return one.model_copy(update={"refused": refusal.code})
    return one.model_copy(update={"finish_at": asked.at(found.finish_min), "barring_deg": found.barring_deg})


def in_force_of(workshop: Workshop, overhaul_id: UUID, asked: Outage) -> Plan | None:
    """Return the plan in force in minutes of what is asked now; None where none was taken."""
    taken = workshop.overhauls.snapshot(overhaul_id).state.plan
    return None if taken is None else minutes_of(taken.plan, asked)


def minutes_of(taken: ov.PlanTaken, asked: Outage) -> Plan:
    """Return a plan that was taken in minutes of what is asked now."""

    def minute(at: object) -> int:
        return round((at - asked.midnight).total_seconds() / 60.0)  # type: ignore[operator,no-any-return]

    placed = tuple(
        {"id": p.id, "start_min": minute(p.start_at), "end_min": minute(p.end_at), "angle_deg": p.angle_deg}
        for p in taken.pieces
    )
    moves = tuple(
        {
            **m.model_dump(exclude={"start_at", "end_at", "who"}),
            "start_min": minute(m.start_at),
            "end_min": minute(m.end_at),
        }
        for m in taken.moves
    )
    return Plan.model_validate(
        {
            "aim": taken.aim,
            "placed": placed,
            "moves": moves,
            "finish_min": minute(taken.finish_at),
            "barring_deg": taken.barring_deg,
            "bound": 0.0,
            "bound_parts": (),
            "proven": False,
        }
    )


def take_plan(workshop: Workshop, actor: Person, overhaul_id: UUID, command: oc.TakePlan) -> OverhaulSnapshot:
    """Take the plan that was found: it is written into the log of the overhaul, and work goes by it.

    Raises:
        Refusal: ``not_your_right``, ``no_such_overhaul``; ``plan_gone`` where another was looked for since, or none was
            found.
    """
    made = read(file_of(workshop, overhaul_id))
    return overhauls.act(workshop, actor, overhaul_id, command, plan=None if made is None else _taken(workshop, made))


def _taken(workshop: Workshop, made: Made) -> ov.PlanTaken | None:
    if made.plan is None or made.problem is None or made.midnight is None or made.state == "looking":
        return None
    people = {p.id: as_actor(p) for p in workshop.registers.people()}
    found, by_id = made.plan, {p.id: p for p in made.problem.work}
    at = Outage(made.problem, made.midnight, made.pieces, (), crank_assumed=False).at
    return ov.PlanTaken(
        made_at=made.made_at,
        aim=found.aim,
        finish_at=at(found.finish_min),
        barring_deg=found.barring_deg,
        gap_percent=round(100 * found.gap, 1),
        hands=made.problem.hands,
        people=tuple(people[one] for one in made.asked.who if one in people),
        cranes=made.asked.cranes,
        from_min=made.asked.from_min,
        to_min=made.asked.to_min,
        sets=made.asked.sets,
        away=made.asked.away,
        pieces=tuple(_piece(made, by_id[one.id], one, at) for one in found.placed if one.id != SHUTDOWN),
        moves=tuple(_planned(move, who, at) for move, who in zip(found.moves, made.moves_who, strict=True)),
        pins=tuple(made.asked.pins),
    )


def _piece(made: Made, work: PieceOfWork, one: Placed, at: Callable[[float], datetime]) -> ov.PlannedPiece:
    said = made.pieces[one.id]
    return ov.PlannedPiece(
        id=one.id,
        joint=said.joint,
        label=said.label,
        title=said.title,
        start_at=at(one.start_min),
        end_at=at(one.end_min),
        hands=work.hands,
        who=made.who.get(one.id, ()),
        sets=tuple(s for s in work.uses if s != CRANE),
        crane=CRANE in work.uses,
        angle_deg=one.angle_deg,
    )


def _planned(move: Move, who: tuple[int, ...], at: Callable[[float], datetime]) -> ov.PlannedMove:
    return ov.PlannedMove(
        start_at=at(move.start_min),
        end_at=at(move.end_min),
        from_deg=move.from_deg,
        to_deg=move.to_deg,
        turning_deg=move.turning_deg,
        who=who,
    )
