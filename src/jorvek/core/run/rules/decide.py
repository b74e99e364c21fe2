"""What a command leads to: one event, or a refusal that changes nothing."""

from __future__ import annotations

from jorvek.core.refusal import Refusal
from jorvek.core.rights import Act, demand
from jorvek.core.run.log import commands as c
from jorvek.core.run.log import events as ev
from jorvek.core.run.log.state import RunState
from jorvek.core.run.rules import ladder, same_kind_joints
from jorvek.core.run.rules.ageing import aged
from jorvek.core.run.rules.claims import settle
from jorvek.core.run.rules.dangers import (
    demand_acceptable,
    demand_let_down,
    falls_with,
    may_be_rejected,
    standing_pulls,
    stays_free,
)
from jorvek.core.run.rules.departures import demand_authority
from jorvek.core.run.rules.engine_effects import demand_gear_locked
from jorvek.core.run.rules.paper_entry import key_in
from jorvek.core.run.rules.progress import complete, debts, demand_running, waiting_their_turn
from jorvek.core.run.rules.recording import record
from jorvek.core.run.rules.redo import demand_moment, redo_scope


def decide(  # noqa: PLR0912 — one case for each kind of command; mypy proves that none is missing
    state: RunState, command: c.Command, context: c.Context
) -> ev.EventData:
    """Decide on a command: the event that answers it, or a refusal that changes nothing.

    Raises:
        Refusal: naming what was wrong; ``Conflict`` when another person was first.
    """
    if isinstance(command, c.AnswerSister):
        return same_kind_joints.answer(state, command, context)
    # What waited on a tablet may arrive after closing; it is then left out by name.
    if state.status == "closed" and not isinstance(command, c.SettleClaim):
        raise Refusal("run_closed")
    if isinstance(command, c.RecordReading | c.KeyIn | c.TryPressure):
        demand_gear_locked(state, command)
    match command:
        case c.RecordReading():
            return record(state, command, context)
        case c.KeyIn():
            return key_in(state, command, context)
        case c.StrikeReading():
            return _strike(state, command, context)
        case c.GiveReason():
            return _give_reason(state, command, context)
        case c.Accept():
            return _accept(state, command, context)
        case c.TryPressure():
            return ladder.try_pressure(state, command, context)
        case c.ReportStuck():
            return ladder.report_stuck(state, command, context)
        case c.DecideStuck():
            return ladder.decide_stuck(state, command, context)
        case c.RejectFastener():
            return _reject(state, command, context)
        case c.RedoWork():
            return _redo(state, command, context)
        case c.Note():
            return _note(state, command, context)
        case c.RaiseTrouble():
            return _raise_trouble(state, command, context)
        case c.EndTrouble():
            return _end_trouble(state, command, context)
        case c.AnswerAge():
            return _answer_age(state, command, context)
        case c.TakeOutOfTurn():
            return _out_of_turn(state, command, context)
        case c.NameCause():
            return same_kind_joints.name_cause(state, command, context)
        case c.TakePart():
            return _take_part(state, command, context)
        case c.AddPhoto():
            return _add_photo(state, command, context)
        case c.SettleClaim():
            return settle(state, command, context, decide)
        case c.Pause():
            demand(context.actor.role, Act.RECORD)
            demand_running(state)
            return ev.Paused()
        case c.TakeOver():
            return _take_over(state, context)
        case c.Close():
            return _close(state, context)


def _attempt(state: RunState, key: str, number: int) -> None:
    if key not in state.definition.by_key:
        raise Refusal("no_such_cell", cell=key)
    if number > len(state.tries(key)):
        raise Refusal("no_such_reading", cell=key, attempt=number)


def _strike(state: RunState, command: c.StrikeReading, context: c.Context) -> ev.Struck:
    demand(context.actor.role, Act.RECORD)
    demand_running(state)
    _attempt(state, command.cell, command.attempt)
    cell = state.definition.by_key[command.cell]
    live = state.live(command.cell)
    if live is None or live.number != command.attempt:
        raise Refusal("not_standing", cell=command.cell)
    demand_moment(state, cell)
    rests = (*state.definition.users[cell.key], *standing_pulls(state, cell))
    falls = tuple(key for key in rests if state.live(key) is not None)
    return ev.Struck(cell=cell.key, attempt=command.attempt, reason=command.reason, falls=falls)


def _give_reason(state: RunState, command: c.GiveReason, context: c.Context) -> ev.ReasonGiven:
    demand(context.actor.role, Act.RECORD)
    demand_running(state)
    _attempt(state, command.cell, command.attempt)
    struck = state.tries(command.cell)[command.attempt - 1].struck
    if struck is None or struck.reason is not None:
        raise Refusal("no_reason_owed", cell=command.cell)
    return ev.ReasonGiven(cell=command.cell, attempt=command.attempt, reason=command.reason)


def _accept(state: RunState, command: c.Accept, context: c.Context) -> ev.Accepted:
    demand(context.actor.role, Act.ACCEPT)
    demand_running(state)
    _attempt(state, command.cell, command.attempt)
    live = state.live(command.cell)
    if live is None or live.number != command.attempt or live.settled:
        raise Refusal("nothing_to_accept", cell=command.cell)
    demand_acceptable(state, live)
    return ev.Accepted(cell=command.cell, attempt=command.attempt, reason=command.reason)


def _reject(state: RunState, command: c.RejectFastener, context: c.Context) -> ev.FastenerRejected:
    demand(context.actor.role, Act.ACCEPT)
    demand_running(state)
    demand_let_down(state)
    _attempt(state, command.cell, command.attempt)
    live = state.live(command.cell)
    if live is None or live.number != command.attempt or not may_be_rejected(state, live):
        raise Refusal("nothing_to_reject", cell=command.cell)
    falls = falls_with(state, live, redo_scope(state, command.cell))
    return ev.FastenerRejected(
        cell=command.cell, attempt=command.attempt, piece=command.piece, reason=command.reason, falls=falls
    )


def _redo(state: RunState, command: c.RedoWork, context: c.Context) -> ev.Reopened:
    demand(context.actor.role, Act.RECORD)
    demand_running(state)
    demand_let_down(state)
    live = state.live(command.cell)
    if live is not None and stays_free(state, live):
        raise Refusal("nothing_to_redo", cell=command.cell)
    _demand_after_yield(state, command.cell, context)
    scope = redo_scope(state, command.cell)
    if scope != command.cells:
        raise Refusal("scope_changed", cell=command.cell)
    return ev.Reopened(cell=command.cell, cells=scope, reason=command.reason)


def _demand_after_yield(state: RunState, key: str, context: c.Context) -> None:
    """A fastener that turned on has yielded, or its thread pulls: whoever may accept decides what becomes of it."""
    live = state.live(key)
    if live is not None and isinstance(live.answer, ev.PullAnswer) and live.answer.outcome is ev.PullOutcome.TURNED_ON:
        demand(context.actor.role, Act.ACCEPT)


def _note(state: RunState, command: c.Note, context: c.Context) -> ev.Noted:
    demand(context.actor.role, Act.RECORD)
    if command.cell is not None and command.cell not in state.definition.by_key:
        raise Refusal("no_such_cell", cell=command.cell)
    return ev.Noted(text=command.text, cell=command.cell)


def _raise_trouble(state: RunState, command: c.RaiseTrouble, context: c.Context) -> ev.TroubleRaised:
    demand(context.actor.role, Act.RECORD)
    demand_running(state)
    if command.cell not in state.definition.by_key:
        raise Refusal("no_such_cell", cell=command.cell)
    return ev.TroubleRaised(what=command.what, cell=command.cell)


def _end_trouble(state: RunState, command: c.EndTrouble, context: c.Context) -> ev.TroubleEnded:
    demand(context.actor.role, Act.ACCEPT if command.how == "departure" else Act.RECORD)
    demand_running(state)
    if not any(t.seq == command.trouble and t.how is None for t in state.troubles):
        raise Refusal("no_such_trouble", seq=command.trouble)
    return ev.TroubleEnded(trouble=command.trouble, how=command.how, words=command.words)


def _answer_age(state: RunState, command: c.AnswerAge, context: c.Context) -> ev.AgeAnswered | ev.Reopened:
    """A look shows that grease is still good; a temperature or a sealant is only good when done again."""
    demand(context.actor.role, Act.RECORD)
    old = next((one for one in aged(state, context.now) if one.what.step == command.step), None)
    if old is None:
        raise Refusal("nothing_aged", step=command.step)
    demand_running(state)
    if command.good and old.what.only_again:
        demand(context.actor.role, Act.ACCEPT)
    if command.good:
        return ev.AgeAnswered(step=command.step, words=command.words)
    users = {key for cell in old.what.cells for key in state.definition.users[cell]}
    again = {*old.what.cells, *users}
    scope = tuple(cell.key for cell in state.definition.cells if cell.key in again and state.live(cell.key))
    return ev.Reopened(cell=old.what.cells[0], cells=scope, reason=command.words)


def _out_of_turn(state: RunState, command: c.TakeOutOfTurn, context: c.Context) -> ev.OutOfTurn:
    demand_running(state)
    cell = state.definition.by_key.get(command.cell)
    if cell is None:
        raise Refusal("no_such_cell", cell=command.cell)
    demand_authority(state, cell, context.actor)
    if cell not in waiting_their_turn(state):
        raise Refusal("not_a_matter_of_turn", cell=command.cell)
    return ev.OutOfTurn(cell=command.cell, reason=command.reason)


def _take_part(state: RunState, command: c.TakePart, context: c.Context) -> ev.PartTaken:
    demand(context.actor.role, Act.RECORD)
    demand_running(state)
    known = {p.name for p in state.definition.procedure.positions()}
    for name in command.fasteners:
        if name not in known:
            raise Refusal("no_such_fastener", fastener=name)
        for part in state.parts:
            if part.by.id != context.actor.id and name in part.fasteners:
                raise Refusal("part_taken", fastener=name, by=part.by.name)
    return ev.PartTaken(fasteners=tuple(dict.fromkeys(command.fasteners)))


def _add_photo(state: RunState, command: c.AddPhoto, context: c.Context) -> ev.PhotoAdded:
    demand(context.actor.role, Act.RECORD)
    if command.cell not in state.definition.by_key:
        raise Refusal("no_such_cell", cell=command.cell)
    width_px, height_px = c.photo_size(command.photo, context)
    return ev.PhotoAdded(
        cell=command.cell, photo=command.photo, width_px=width_px, height_px=height_px, words=command.words
    )


def _take_over(state: RunState, context: c.Context) -> ev.TakenOver:
    demand(context.actor.role, Act.RECORD)
    if state.status == "open" and state.watches[-1].by.id == context.actor.id:
        raise Refusal("already_yours")
    return ev.TakenOver()


def _close(state: RunState, context: c.Context) -> ev.Closed:
    demand(context.actor.role, Act.CLOSE_RUN)
    demand_running(state)
    if state.gear is not None and state.gear.own:
        # Whoever had the turning gear freed locks it again before they go.
        raise Refusal("gear_freed", by=state.gear.commander)
    if not complete(state):
        holes = [c.key for c in state.definition.cells if state.live(c.key) is None]
        owed = [d.cell for d in debts(state)]
        raise Refusal("not_complete", holes=len(holes), owed=len(owed), first=(holes + owed)[0])
    return ev.Closed()
