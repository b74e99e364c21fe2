"""What is kept of a plan: what was asked, what was found so far, and whose turn it is to write."""

from __future__ import annotations

import json
import time
from dataclasses import dataclass
from datetime import datetime
from typing import Final, Literal
from uuid import UUID

from pydantic import BaseModel, Field, ValidationError

from jorvek.core.canonical import canonical_text, sha256_hex
from jorvek.core.plan.problem import Problem
from jorvek.core.plan.result import Plan
from jorvek.core.plan.why import Why
from jorvek.store.files import Files
from jorvek.work.plan.problem import Piece, PlanAsked
from jorvek.work.workshop import Workshop


class WhatIf(BaseModel):
    """What something else would change.

    Attributes:
        code: one set more, one person more or less, no late shift, least barring.
        what: class of the set.
    """

    code: Literal["one_set_more", "one_more", "one_less", "one_shift", "least_barring"]
    what: str = ""
    finish_at: datetime | None = None
    barring_deg: float = 0.0
    refused: str | None = None


class Made(BaseModel):
    """A plan as found so far, and what it was found for.

    Attributes:
        ticket: whoever looks holds it; once somebody else asks there is another.
        seal: the engine as it stood.
        who: of every piece its people, by number.
        moves_who: the same of every move.
        wondering: what something else would change is still looked for.
        begun_s: when it was begun, in seconds since 1970 by this machine's clock: that is a first sign of life.
        again: the server that looked for it had stopped, and another has begun anew.
    """

    state: Literal["looking", "ready", "stopped", "failed"]
    ticket: UUID
    asked: PlanAsked
    made_at: datetime
    seal: str
    midnight: datetime | None = None
    problem: Problem | None = None
    pieces: dict[str, Piece] = Field(default={})
    left_out: tuple[str, ...] = ()
    crank_assumed: bool = False
    plan: Plan | None = None
    reasons: dict[str, Why] = Field(default={})
    who: dict[str, tuple[int, ...]] = Field(default={})
    moves_who: tuple[tuple[int, ...], ...] = ()
    first_come_min: int | None = None
    what_if: tuple[WhatIf, ...] = ()
    wondering: bool = False
    begun_s: float = 0.0
    again: bool = False
    refused: str | None = None
    refused_with: dict[str, str] = Field(default={})


@dataclass(frozen=True)
class PlanFile:
    """Where the plan of an overhaul lies."""

    files: Files
    name: str


def file_of(workshop: Workshop, overhaul_id: UUID) -> PlanFile:
    """Return where the plan of an overhaul lies."""
    return PlanFile(workshop.files, f"plan/{overhaul_id}")


_SILENT_S: Final = 120.0
"""So long after its last sign another server that looks is taken to be gone; on a busy machine a sign comes late."""


def sign_of_life(workshop: Workshop, overhaul_id: UUID, ticket: UUID) -> None:
    """Say that whoever holds a ticket still looks."""
    workshop.files.keep(f"plan-alive/{overhaul_id}", f"{ticket} {time.time()}".encode())


def looks_still(workshop: Workshop, overhaul_id: UUID, made: Made) -> bool:
    """Tell whether somebody who looks for a plan has given a sign of life lately."""
    ticket, _, at = (workshop.files.read(f"plan-alive/{overhaul_id}") or b"").decode().partition(" ")
    signed_s = float(at) if ticket == str(made.ticket) else 0.0
    return time.time() - max(signed_s, made.begun_s) < _SILENT_S


def seal_of(workshop: Workshop, overhaul_id: UUID) -> str:
    """Return what a plan rests on: the newest event of the overhaul and of each of its engine's runs."""
    snapshot = workshop.overhauls.snapshot(overhaul_id)
    rows = workshop.registers.runs(snapshot.state.opened.engine.id)
    return sha256_hex(snapshot.head_hash, *(row.head_hash for row in rows))


def read(place: PlanFile) -> Made | None:
    """Return what lies there; nothing where it cannot be read."""
    return _made(place.files.read(place.name))


def _made(text: bytes | None) -> Made | None:
    try:
        return None if text is None else Made.model_validate_json(text)
    except ValidationError:
        return None


def _text(made: Made) -> bytes:
    return canonical_text(json.loads(made.model_dump_json(by_alias=True))).encode()


def write(place: PlanFile, made: Made) -> None:
    """Put something new there: whoever looked until now holds no ticket any more."""
    place.files.keep(place.name, _text(made))


def write_mine(place: PlanFile, made: Made) -> bool:
    """Put there what whoever holds the ticket has found; nothing where somebody else has asked since, or stopped it."""

    def mine(text: bytes | None) -> bytes | None:
        there = _made(text)
        if there is None or there.ticket != made.ticket or there.state == "stopped":
            return None
        return _text(made)

    return place.files.change(place.name, mine)


def change_from(place: PlanFile, ticket: UUID, made: Made) -> bool:
    """Put something in the place of what a ticket was given for; nothing where there is another by now."""

    def same(text: bytes | None) -> bytes | None:
        there = _made(text)
        return _text(made) if there is not None and there.ticket == ticket else None

    return place.files.change(place.name, same)
