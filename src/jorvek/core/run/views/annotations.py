"""What stands beside the readings: troubles, watches, notes, questions from joints of the same kind, photographs."""

from __future__ import annotations

from datetime import datetime
from uuid import UUID

from jorvek.core.run.log.state import RunState
from jorvek.core.run.rules.progress import Debt, DebtKind, debts
from jorvek.core.run.views.labels import Label, View, naming


class Owed(Label):
    """Something owed before the run can close."""

    debt: DebtKind
    attempt: int


class TroubleView(Label):
    """Something that went wrong; ``how`` is None while it is open."""

    seq: int
    what: str
    by: str
    at: datetime
    how: str | None
    words: str | None
    ended_by: str | None


class WatchView(View):
    """Who worked from when."""

    by: str
    person_id: UUID
    at: datetime


class RemarkView(View):
    """A note."""

    by: str
    at: datetime
    text: str


class SisterView(Label):
    """A check that a fault of a joint of the same kind asks for; ``found_too`` is None while it is open."""

    seq: int
    joint: str
    cause: str
    by: str
    at: datetime
    done_again: bool
    found_too: bool | None
    words: str | None
    answered_by: str | None


class PhotoView(Label):
    """A photograph: its name in the store, and what it shows."""

    photo: str
    words: str | None
    by: str
    at: datetime


class PartView(View):
    """Who works on which fasteners, where the work is shared."""

    person_id: UUID
    by: str
    fasteners: tuple[str, ...]


def troubles_of(state: RunState) -> tuple[TroubleView, ...]:
    """Return everything that went wrong in a run, and how each ended."""
    found = []
    for trouble in state.troubles:
        cell = state.definition.by_key[trouble.cell]
        found.append(
            TroubleView(
                **naming(state, cell),
                seq=trouble.seq,
                what=trouble.what.value,
                by=trouble.by.name,
                at=trouble.at,
                how=trouble.how,
                words=trouble.words,
                ended_by=trouble.ended_by.name if trouble.ended_by else None,
            )
        )
    return tuple(found)


def sister_views(state: RunState) -> tuple[SisterView, ...]:
    """Return the checks that faults of joints of the same kind have asked for in a run."""
    found = []
    for check in state.sister_checks:
        cell = state.definition.by_key[check.cell]
        found.append(
            SisterView(
                **naming(state, cell),
                seq=check.seq,
                joint=check.joint,
                cause=check.cause,
                by=check.by.name,
                at=check.at,
                done_again=state.live(cell.key) is not None,
                found_too=check.found_too,
                words=check.words,
                answered_by=check.answered_by.name if check.answered_by else None,
            )
        )
    return tuple(found)


def photo_views(state: RunState) -> tuple[PhotoView, ...]:
    """Return the photographs of a run, oldest first."""
    found = []
    for photo in state.photos:
        cell = state.definition.by_key[photo.cell]
        found.append(
            PhotoView(
                **naming(state, cell),
                photo=photo.photo,
                words=photo.words,
                by=photo.by.name,
                at=photo.at,
            )
        )
    return tuple(found)


def part_views(state: RunState) -> tuple[PartView, ...]:
    """Return who works on which fasteners."""
    return tuple(PartView(person_id=p.by.id, by=p.by.name, fasteners=p.fasteners) for p in state.parts)


def owed_views(state: RunState) -> tuple[Owed, ...]:
    """Return everything owed before a run can close."""
    return tuple(_owed(state, debt) for debt in debts(state))


def _owed(state: RunState, debt: Debt) -> Owed:
    cell = state.definition.by_key[debt.cell]
    return Owed(**naming(state, cell) | {"fastener": debt.fastener}, debt=debt.kind, attempt=debt.attempt)
