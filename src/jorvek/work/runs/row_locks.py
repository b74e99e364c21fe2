"""What a command on a run has to lock besides the run: whatever others decide by, too."""

from __future__ import annotations

from collections.abc import Iterable

from jorvek.core.refusal import Refusal
from jorvek.core.run.log import commands as c
from jorvek.core.run.log import events as ev
from jorvek.core.run.log.cells import Cell
from jorvek.core.run.log.state import RunState
from jorvek.core.run.rules.engine_effects import moves_door
from jorvek.core.run.rules.paper_entry import read_written
from jorvek.core.run.rules.redo import redo_scope
from jorvek.core.run.rules.rejected import named_mark, plain_mark
from jorvek.store.row_locks import RowLock, engine_lock, piece_lock, tool_lock


def locks_of(state: RunState, command: c.CommandBase) -> frozenset[RowLock]:
    """Return the row locks that a command needs.

    A reading that changes nothing others rely on needs none, so that its way stays short; the table
    of kinds says which do. What takes work back, takes waiting work in or closes the run changes what
    others see of the joint.
    """
    engine = engine_lock(state.started.engine.id)
    match command:
        case c.RecordReading() | c.KeyIn():
            cell = state.definition.by_key.get(command.cell)
            if cell is None:
                return frozenset()
            own = {engine} if cell.changes_shared_facts or moves_door(state, cell) else set()
            return frozenset(own | _named_in(cell, _answer(cell, command)))
        case c.StrikeReading():
            return frozenset({engine, *_standing_pieces(state, [command.cell])})
        case c.RejectFastener():
            return frozenset({engine, piece_lock(plain_mark(command.piece))})
        case c.RedoWork():
            return frozenset({engine, *_standing_pieces(state, _scope(state, command.cell))})
        case c.AnswerAge() if not command.good:
            return frozenset({engine})
        case c.DecideStuck():
            # It may open people clear and zero again.
            return frozenset({engine})
        case c.SettleClaim() if command.take:
            return frozenset({engine, *_claimed(state, command.claim)})
        case c.Close() | c.TakeOver():
            # Whoever stands outside for somebody takes no work over, and who has work in hand stands outside nowhere.
            return frozenset({engine})
        case _:
            return frozenset()


def _answer(cell: Cell, command: c.RecordReading | c.KeyIn) -> ev.Answer | None:
    if isinstance(command, c.RecordReading):
        return command.answer
    try:
        return read_written(cell, command.text.strip(), command.unit)
    except Refusal:
        # It is refused once more, and said so, when it is decided.
        return None


def _named_in(cell: Cell, answer: ev.Answer | None) -> set[RowLock]:
    if isinstance(answer, ev.ToolAnswer):
        return {tool_lock(answer.tool_id)}
    mark = named_mark(cell, answer) if answer is not None else None
    return {piece_lock(mark)} if mark else set()


def _standing_pieces(state: RunState, cells: Iterable[str]) -> set[RowLock]:
    """Return the row locks of pieces that standing answers name: struck, they may go or come again."""
    found: set[RowLock] = set()
    for key in cells:
        live, cell = state.live(key), state.definition.by_key.get(key)
        if live is not None and cell is not None:
            found |= _named_in(cell, live.answer)
    return found


def _scope(state: RunState, cell: str) -> tuple[str, ...]:
    try:
        return redo_scope(state, cell)
    except Refusal:
        return ()


def _claimed(state: RunState, seq: int) -> set[RowLock]:
    work = next((one.said.work for one in state.claims if one.seq == seq), None)
    if work is None or work.cell is None:
        return set()
    named = _standing_pieces(state, [work.cell])
    if isinstance(work, ev.ReadingWork):
        named |= _named_in(state.definition.by_key[work.cell], work.answer)
    return named
