"""Work from a tablet without a link that did not fit any more, as it is shown to whoever decides on it."""

from __future__ import annotations

from datetime import datetime
from typing import Final

from jorvek.core.figures import Figure
from jorvek.core.run.log import events as ev
from jorvek.core.run.log.answers import answer_code, as_read
from jorvek.core.run.log.cells import Cell
from jorvek.core.run.log.state import ClaimOf, RunState
from jorvek.core.run.views.labels import Label, View, label_of
from jorvek.core.run.views.rows import Row, note_of, row_of

_MEANWHILE_SHOWN: Final = 6


class ClaimView(View):
    """Work from a tablet without a link that did not fit any more, and what had happened meanwhile.

    Attributes:
        work: what kind of work.
        about: the cell it is about; a remark may be about none.
        answer: the answer, as a code or in words; None when the work is no answer.
        made_at: when it was done, as far as the tablet could tell.
        photo: name of the photograph in the store, when the work is one.
        why: what stood against it when it arrived.
        standing: what stands in its cell now.
        meanwhile: what others recorded in the same step since the tablet had last heard, newest first.
        taken: whether it was taken in; None while nobody has decided.
    """

    seq: int
    work: str
    about: Label | None
    text: str | None
    answer: str | None
    read: Figure | None
    note: str | None
    photo: str | None
    by: str
    at: datetime
    made_at: datetime
    why: ev.Reason
    standing: Row | None
    meanwhile: tuple[Row, ...]
    taken: bool | None
    words: str | None
    settled_by: str | None


def claim_views(state: RunState) -> tuple[ClaimView, ...]:
    """Return all claims of a run, oldest first."""
    return tuple(_claim_view(state, claim) for claim in state.claims)


def _claim_view(state: RunState, claim: ClaimOf) -> ClaimView:
    work = claim.said.work
    cell = state.definition.by_key[work.cell] if work.cell is not None else None
    answer = work.answer if isinstance(work, ev.ReadingWork) else None
    live = state.live(cell.key) if cell is not None else None
    return ClaimView(
        seq=claim.seq,
        work=work.kind,
        about=label_of(state, cell.key) if cell else None,
        text=work.text if isinstance(work, ev.NoteWork) else cell.text if cell else None,
        answer=answer_code(answer) if answer else work.what if isinstance(work, ev.TroubleWork) else None,
        read=as_read(answer) if answer else None,
        note=note_of(answer) if answer else work.words if isinstance(work, ev.PhotoWork) else None,
        photo=work.photo if isinstance(work, ev.PhotoWork) else None,
        by=claim.by.name,
        at=claim.at,
        made_at=claim.done_at,
        why=claim.said.why,
        standing=row_of(state, live) if live else None,
        meanwhile=_meanwhile(state, claim, cell),
        taken=claim.taken,
        words=claim.words,
        settled_by=claim.settled_by.name if claim.settled_by else None,
    )


def _meanwhile(state: RunState, claim: ClaimOf, cell: Cell | None) -> tuple[Row, ...]:
    if cell is None or claim.taken is not None:
        return ()
    peers = (peer for peer in state.definition.cells if peer.step == cell.step)
    others = (a for peer in peers for a in state.tries(peer.key) if a.by.id != claim.by.id)
    since = sorted((a for a in others if claim.said.saw < a.seq < claim.seq), key=lambda a: -a.seq)
    return tuple(row_of(state, attempt) for attempt in since[:_MEANWHILE_SHOWN])
