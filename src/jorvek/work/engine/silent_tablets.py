"""Tablets that fall silent: somebody may have gone in with one of them that nobody else knows of."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from datetime import timedelta
from typing import Final
from uuid import UUID

from jorvek.core.overhaul.log.commands import SilentTablet
from jorvek.core.overhaul.log.state import Overhaul
from jorvek.core.refusal import Refusal
from jorvek.core.run.log.events import Person
from jorvek.core.run.views.on_engine import RunOnEngine
from jorvek.store.tablets import TabletRow
from jorvek.work.people.accounts import token_hash
from jorvek.work.workshop import Workshop

SILENT_AFTER: Final = timedelta(seconds=90)
"""A tablet says every twenty seconds that it is here; after so long without a word it is silent."""
_ID_LENGTH: Final = 16


def here(workshop: Workshop, actor: Person, token: str, engine_id: str, run_id: UUID | None = None) -> None:
    """Take down that somebody works at an engine with a tablet, or goes in with it.

    Args:
        workshop: the workshop.
        actor: who is signed in on it.
        token: its session.
        engine_id: the engine.
        run_id: the run that it shows; None at the board.

    Raises:
        Refusal: ``no_such_engine``.
    """
    if engine_id not in {engine.id for engine in workshop.registers.engines()}:
        raise Refusal("no_such_engine", engine=engine_id)
    workshop.tablets.here(token_hash(token), actor.id, engine_id, run_id, workshop.clock())


def silent_tablets(workshop: Workshop, overhaul: Overhaul, runs: tuple[RunOnEngine, ...]) -> tuple[SilentTablet, ...]:
    """Return the tablets at an engine that are silent: one for each person, that which was heard last.

    Whoever has nothing open at the engine and signed in elsewhere since has left it.
    """
    newest = {row.person_id: row for row in workshop.tablets.at(overhaul.opened.engine.id)}
    cut = workshop.clock() - SILENT_AFTER
    silent = (row for row in newest.values() if row.heard_at < cut)
    return tuple(sorted(_told(overhaul, runs, silent), key=lambda one: one.heard_at))


def _told(overhaul: Overhaul, runs: tuple[RunOnEngine, ...], silent: Iterable[TabletRow]) -> Iterator[SilentTablet]:
    for row in silent:
        held = open_of(overhaul, runs, row.person_id)
        if held or row.elsewhere_at is None or row.elsewhere_at <= row.heard_at:
            at = next((run.label for run in runs if run.run_id == row.run_id), None)
            yield SilentTablet(row.token_hash[:_ID_LENGTH], row.person, row.heard_at, at, held)


def open_of(overhaul: Overhaul, runs: Iterable[RunOnEngine], person: UUID) -> tuple[str, ...]:
    """Return what somebody has open at an engine: their runs, an entry, a lock; nobody leaves from these in silence."""
    return (
        *(run.label for run in runs if run.in_hand and run.by_id == person),
        *(i.permit for i in overhaul.inside if person in (i.person.id, i.attended_by.id if i.attended_by else None)),
        *(k.lock for k in overhaul.locks if k.by.id == person),
    )
