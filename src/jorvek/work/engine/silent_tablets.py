"""Tablets that fall silent: somebody may have gone in with one of them that nobody else knows of."""

from __future__ import annotations

from datetime import timedelta
from typing import Final

from jorvek.core.overhaul.log.commands import SilentTablet
from jorvek.core.refusal import Refusal
from jorvek.core.run.log.events import Person
from jorvek.work.people.accounts import token_hash
from jorvek.work.workshop import Workshop

SILENT_AFTER: Final = timedelta(seconds=90)
"""A tablet says every twenty seconds that it is here; after so long without a word it is silent."""
_ID_LENGTH: Final = 16


def here(workshop: Workshop, actor: Person, token: str, engine_id: str) -> None:
    """Take down that a tablet is in use at an engine.

    Raises:
        Refusal: ``no_such_engine``.
    """
    if engine_id not in {engine.id for engine in workshop.registers.engines()}:
        raise Refusal("no_such_engine", engine=engine_id)
    workshop.tablets.here(token_hash(token), actor.id, engine_id, workshop.clock())


def silent_tablets(workshop: Workshop, engine_id: str) -> tuple[SilentTablet, ...]:
    """Return the tablets at an engine that are silent; signing out on one takes it away, its time does not."""
    rows = workshop.tablets.unheard(engine_id, workshop.clock() - SILENT_AFTER)
    return tuple(SilentTablet(row.token_hash[:_ID_LENGTH], row.person, row.heard_at) for row in rows)
