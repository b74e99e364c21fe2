"""From events to the state of a run: one event at a time, pure and always the same."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import replace
from datetime import datetime, timedelta

from jorvek.core.refusal import Refusal
from jorvek.core.run.log import events as ev
from jorvek.core.run.log.definition import Definition
from jorvek.core.run.log.state import (
    Acceptance,
    Attempt,
    Cause,
    ClaimOf,
    GearFree,
    PartOf,
    Photo,
    Redo,
    Rejection,
    Remark,
    Renewal,
    RunState,
    SisterCheck,
    Strike,
    Stuck,
    Tried,
    Trouble,
    Watch,
    takes_over,
)


def begin(definition: Definition, event: ev.Event) -> RunState:
    """Return the state after a run's first event.

    Raises:
        Refusal: ``log_broken`` when the event is not a start of this definition.
    """
    data = event.data
    if not isinstance(data, ev.RunStarted) or event.seq != 1:
        raise Refusal("log_broken", seq=event.seq, why="first event is not a start")
    if (data.procedure_hash, data.cells_hash) != (definition.procedure_hash, definition.cells_hash):
        raise Refusal("log_broken", seq=event.seq, why="procedure does not match")
    watch = Watch(event.seq, event.at, event.author)
    attempts = {one.cell: (_in_force(event, one),) for one in data.in_force}
    return RunState(definition, data, event.at, event.author, event.seq, event.at, attempts=attempts, watches=(watch,))


def _in_force(event: ev.Event, one: ev.IsolationInForce) -> Attempt:
    """What the engine's isolation answers was done when it was isolated, by whoever did it."""
    noted = ev.Judgement(verdict=ev.Verdict.NOTED)
    return Attempt(one.cell, 1, event.seq, one.at, one.by, ev.TickAnswer(), noted, None, "engine")


def advance(state: RunState, event: ev.Event) -> RunState:
    """Return the state after one more event; the given state is left as it was.

    Raises:
        Refusal: ``log_broken`` when the event does not follow on.
    """
    if event.seq != state.seq + 1:
        raise Refusal("log_broken", seq=event.seq, why="sequence has a gap")
    return takes_over(replace(_apply(state, event), seq=event.seq, last_at=event.at), state)


def fold(definition: Definition, events: Iterable[ev.Event]) -> RunState:
    """Return the state that a whole log adds up to.

    Raises:
        Refusal: ``log_broken`` when the log is empty or does not hang together.
    """
    state: RunState | None = None
    for event in events:
        state = begin(definition, event) if state is None else advance(state, event)
    if state is None:
        raise Refusal("log_broken", seq=0, why="empty")
    return state


def _apply(state: RunState, event: ev.Event) -> RunState:  # noqa: PLR0912 — one case for each kind of event
    data = event.data
    match data:
        case ev.Recorded():
            return _recorded(state, event, data)
        case ev.Struck():
            strike = Strike(event.seq, _done_at(event, data), event.author, data.reason)
            return _fall(_change(state, data.cell, data.attempt, struck=strike), data.falls, event.seq)
        case ev.ReasonGiven():
            return _reason(state, data)
        case ev.Accepted():
            acceptance = Acceptance(event.seq, event.at, event.author, data.reason)
            return _change(state, data.cell, data.attempt, accepted=acceptance)
        case ev.PressureTried():
            tried = Tried(event.seq, event.at, event.author, data.step, data.value, data.true_bar)
            return replace(state, ladder=(*state.ladder, tried))
        case ev.NutStuck():
            stuck = Stuck(event.seq, event.at, event.author, data.cell, data.gap, data.true_bar)
            return replace(state, stuck=(*state.stuck, stuck))
        case ev.StuckDecided():
            decided = tuple(
                replace(one, words=data.words, decided_by=event.author) if one.seq == data.stuck else one
                for one in state.stuck
            )
            return _fall(replace(state, stuck=decided), data.falls, event.seq)
        case ev.FastenerRejected():
            rejection = Rejection(event.seq, event.at, event.author, data.piece, data.reason)
            return _fall(_change(state, data.cell, data.attempt, rejected=rejection), data.falls, event.seq)
        case ev.Reopened():
            redo = Redo(event.seq, event.at, event.author, data.cells, data.reason)
            return replace(_fall(state, data.cells, event.seq), redos=(*state.redos, redo))
        case ev.GearTold():
            free = None if data.commander is None else GearFree(data.commander, data.own)
            return replace(state, gear=free)
        case ev.Noted():
            remark = Remark(event.seq, _done_at(event, data), event.author, data.text, data.cell)
            return replace(state, remarks=(*state.remarks, remark))
        case ev.TroubleRaised():
            trouble = Trouble(event.seq, _done_at(event, data), event.author, data.what, data.cell)
            return replace(state, troubles=(*state.troubles, trouble))
        case ev.TroubleEnded():
            return replace(state, troubles=tuple(_ended(t, data, event.author) for t in state.troubles))
        case ev.AgeAnswered():
            renewal = Renewal(event.seq, event.at, event.author, data.words)
            return replace(state, renewals={**state.renewals, data.step: renewal})
        case ev.OutOfTurn():
            allowed = Acceptance(event.seq, event.at, event.author, data.reason)
            return replace(state, out_of_turn={**state.out_of_turn, data.cell: allowed})
        case ev.CauseNamed():
            cause = Cause(event.seq, event.at, event.author, data.cell, data.cause)
            return replace(state, causes=(*state.causes, cause))
        case ev.SisterAsked() | ev.SisterAnswered():
            return _sister(state, event, data)
        case ev.PartTaken():
            others = tuple(part for part in state.parts if part.by.id != event.author.id)
            mine = (PartOf(event.author, data.fasteners),) if data.fasteners else ()
            return replace(state, parts=(*others, *mine))
        case ev.PhotoAdded():
            at, size = _done_at(event, data), (data.width_px, data.height_px)
            photo = Photo(event.seq, at, event.author, data.cell, data.photo, *size, data.words)
            return replace(state, photos=(*state.photos, photo))
        case ev.Claimed():
            return replace(state, claims=(*state.claims, ClaimOf(event.seq, event.at, event.author, data)))
        case ev.ClaimSettled():
            return _settled(state, event, data)
        case ev.Paused():
            return replace(state, status="paused", parts=())
        case ev.TakenOver():
            watch = Watch(event.seq, event.at, event.author)
            return replace(state, status="open", watches=(*state.watches, watch))
        case ev.Closed():
            return replace(state, status="closed", closed_at=event.at, closed_by=event.author)
        case ev.RunStarted():
            raise Refusal("log_broken", seq=event.seq, why="started twice")


def _sister(state: RunState, event: ev.Event, data: ev.SisterAsked | ev.SisterAnswered) -> RunState:
    """Keep the question; in an open run the check itself opens again, with what rests on it."""
    if isinstance(data, ev.SisterAnswered):
        checks = tuple(_answered(check, data, event.author) for check in state.sister_checks)
        return replace(state, sister_checks=checks)
    check = SisterCheck(event.seq, event.at, event.author, data.joint, data.cell, data.cause)
    asked = replace(state, sister_checks=(*state.sister_checks, check))
    if state.status == "closed":
        return asked
    return _fall(asked, (data.cell, *state.definition.users[data.cell]), event.seq)


def _done_at(event: ev.Event, data: ev.Done) -> datetime:
    """What waited on a tablet was done before it arrived."""
    return event.at - timedelta(seconds=data.kept_s or 0)


def _settled(state: RunState, event: ev.Event, data: ev.ClaimSettled) -> RunState:
    """What is taken in counts as the work of whoever did it; whoever decided stands at the claim."""
    claim = next((c for c in state.claims if c.seq == data.claim), None)
    if claim is None or claim.taken is not None:
        raise Refusal("log_broken", seq=event.seq, why="no such claim")
    done = replace(claim, taken=data.led_to is not None, words=data.words, settled_by=event.author)
    after = replace(state, claims=tuple(done if c is claim else c for c in state.claims))
    if data.led_to is None:
        return after
    return _apply(after, event.model_copy(update={"data": data.led_to, "author": claim.by}))


def _answered(check: SisterCheck, data: ev.SisterAnswered, by: ev.Person) -> SisterCheck:
    if check.seq != data.asked:
        return check
    return replace(check, found_too=data.found_too, words=data.words, answered_by=by)


def _ended(trouble: Trouble, data: ev.TroubleEnded, by: ev.Person) -> Trouble:
    if trouble.seq != data.trouble:
        return trouble
    return replace(trouble, how=data.how, words=data.words, ended_by=by)


def _recorded(state: RunState, event: ev.Event, data: ev.Recorded) -> RunState:
    state = _fall(state, data.falls, event.seq)
    before = state.tries(data.cell)
    if data.attempt != len(before) + 1 or (before and before[-1].live and before[-1].settled):
        raise Refusal("log_broken", seq=event.seq, why="a cell is filled twice")
    # The earlier answer was outside its limits and is replaced by a new one; it stays on the record as set aside.
    state = _fall(state, (data.cell,), event.seq)
    before = state.tries(data.cell)
    attempt = Attempt(
        data.cell,
        data.attempt,
        event.seq,
        event.at,
        event.author,
        data.answer,
        data.judgement,
        data.tool,
        data.source,
        data.paper,
        data.kept_s,
    )
    return replace(state, attempts={**state.attempts, data.cell: (*before, attempt)})


def _change(
    state: RunState,
    key: str,
    number: int,
    *,
    struck: Strike | None = None,
    accepted: Acceptance | None = None,
    rejected: Rejection | None = None,
    fallen_by: int | None = None,
) -> RunState:
    tries = list(state.tries(key))
    old = tries[number - 1]
    tries[number - 1] = replace(
        old,
        struck=struck or old.struck,
        accepted=accepted or old.accepted,
        rejected=rejected or old.rejected,
        fallen_by=fallen_by or old.fallen_by,
    )
    return replace(state, attempts={**state.attempts, key: tuple(tries)})


def _fall(state: RunState, keys: tuple[str, ...], seq: int) -> RunState:
    for key in keys:
        attempt = state.live(key)
        if attempt is not None:
            state = _change(state, key, attempt.number, fallen_by=seq)
    return state


def _reason(state: RunState, data: ev.ReasonGiven) -> RunState:
    struck = state.tries(data.cell)[data.attempt - 1].struck
    if struck is None:
        raise Refusal("log_broken", seq=state.seq + 1, why="reason without a strike")
    return _change(state, data.cell, data.attempt, struck=replace(struck, reason=data.reason))
