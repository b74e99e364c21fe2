"""Work that waited on a tablet without a link: taken in when it still fits, kept as a claim when it does not."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from datetime import datetime, timedelta
from typing import Final

from jorvek.core.refusal import Refusal
from jorvek.core.rights import Act, demand
from jorvek.core.run import commands as c
from jorvek.core.run import events as ev
from jorvek.core.run.cells import Cell
from jorvek.core.run.details import in_author_words
from jorvek.core.run.figures import Figure
from jorvek.core.run.readings import Row, View, answer_code, as_read, note_of, row_of, step_title
from jorvek.core.run.state import ClaimOf, RunState

Decide = Callable[[RunState, c.Command, c.Facts], ev.EventData]

Waits = c.RecordReading | c.StrikeReading | c.Note | c.RaiseTrouble | c.AddPhoto
"""What may wait on a tablet."""

_MEANWHILE_SHOWN: Final = 6


def decide_late(state: RunState, command: c.Command, facts: c.Facts, late: c.Late, again: Decide) -> ev.EventData:
    """Decide on a command that waited on a tablet.

    What still fits is taken as if it had come at once, with the time it was made. The first thing
    that does not fit, and all that follow it in the same stretch without a link, are kept as claims:
    they were done by somebody who could not know what had happened meanwhile.

    Args:
        state: the run as it stands.
        command: what was asked.
        facts: who asks, from the session, and the server's time.
        late: how long it waited, and in which stretch.
        again: how a command is decided that did not wait.

    Raises:
        Refusal: what ``again`` refuses, for commands that are no work or can be no claim.
    """
    if not isinstance(command, Waits):
        return again(state, command, facts)
    kept_s = _credible_s(state, facts.now, late.kept_s)
    if any(claim.said.batch == late.batch for claim in state.claims):
        return _claimed(state, command, facts, late, Refusal("follows_claim"))
    made_at = facts.now - timedelta(seconds=kept_s or 0)
    try:
        data = again(state, command, replace(facts, now=made_at))
    except Refusal as refusal:
        return _claimed(state, command, facts, late, refusal)
    return data.model_copy(update={"kept_s": kept_s}) if isinstance(data, ev.Done) else data


def _credible_s(state: RunState, now: datetime, kept_s: float | None) -> float | None:
    """A tablet's clock may have jumped: nothing was made before the present watch began."""
    if kept_s is None or now - timedelta(seconds=kept_s) < state.watches[-1].at:
        return None
    return kept_s


def _claimed(
    state: RunState,
    command: Waits,
    facts: c.Facts,
    late: c.Late,
    refusal: Refusal,
) -> ev.Claimed:
    demand(facts.actor.role, Act.RECORD)
    if command.cell is not None and command.cell not in state.definition.by_key:
        raise refusal
    return ev.Claimed(
        work=_work_of(command, facts),
        batch=late.batch,
        saw=late.saw,
        kept_s=_credible_s(state, facts.now, late.kept_s),
        why=ev.Reason(code=refusal.code, params={k: _said(v) for k, v in refusal.params.items() if v is not None}),
    )


def _said(value: str | int | float) -> float | str:
    return value if isinstance(value, str) else float(value)


def _work_of(command: Waits, facts: c.Facts) -> ev.Work:
    match command:
        case c.RecordReading():
            return ev.ReadingWork(kind="record", cell=command.cell, attempt=command.attempt, answer=command.answer)
        case c.StrikeReading():
            return ev.StrikeWork(kind="strike", cell=command.cell, attempt=command.attempt, reason=command.reason)
        case c.Note():
            return ev.NoteWork(kind="note", text=command.text, cell=command.cell)
        case c.RaiseTrouble():
            return ev.TroubleWork(kind="raise_trouble", what=command.what, cell=command.cell)
        case c.AddPhoto():
            width_px, height_px = c.photo_size(command.photo, facts)
            return ev.PhotoWork(
                kind="add_photo",
                cell=command.cell,
                photo=command.photo,
                width_px=width_px,
                height_px=height_px,
                words=command.words,
            )


def settle(state: RunState, command: c.SettleClaim, facts: c.Facts, again: Decide) -> ev.ClaimSettled:
    """Take a claim in, judged like any other work, or leave it out for a reason.

    Raises:
        Refusal: ``not_your_right``; ``no_such_claim``; ``words_owed`` for leaving out without a reason;
            what ``again`` refuses: what stands in the way has to be settled first.
    """
    demand(facts.actor.role, Act.ACCEPT)
    claim = next((one for one in state.claims if one.seq == command.claim and one.taken is None), None)
    if claim is None:
        raise Refusal("no_such_claim", seq=command.claim)
    if not command.take:
        if command.words is None:
            raise Refusal("words_owed")
        return ev.ClaimSettled(claim=claim.seq, words=command.words)
    if state.status == "closed":
        raise Refusal("run_closed")
    asked = _asked_again(state, claim, command)
    # The PIN of whoever decides never signs for whoever did the work.
    told = replace(facts, actor=claim.by, now=claim.done_at, pin_confirmed=False, photos=_photos_of(claim))
    data = again(state, asked, told)
    assert isinstance(data, ev.Recorded | ev.Struck | ev.Noted | ev.TroubleRaised | ev.PhotoAdded)
    late: dict[str, object] = {"kept_s": (facts.now - claim.done_at).total_seconds()}
    if isinstance(data, ev.Recorded):
        late["source"] = "claim"
    return ev.ClaimSettled(claim=claim.seq, words=command.words, led_to=data.model_copy(update=late))


def _photos_of(claim: ClaimOf) -> dict[str, tuple[int, int]]:
    work = claim.said.work
    return {work.photo: (work.width_px, work.height_px)} if isinstance(work, ev.PhotoWork) else {}


def _asked_again(state: RunState, claim: ClaimOf, command: c.SettleClaim) -> c.Command:
    work, known = claim.said.work, {"id": command.id, "tablet_at": command.tablet_at}
    match work:
        case ev.ReadingWork():
            attempt = len(state.tries(work.cell)) + 1
            return c.RecordReading(kind="record", cell=work.cell, attempt=attempt, answer=work.answer, **known)
        case ev.StrikeWork():
            live = state.live(work.cell)
            attempt = live.number if live is not None else work.attempt
            return c.StrikeReading(kind="strike", cell=work.cell, attempt=attempt, reason=work.reason, **known)
        case ev.NoteWork():
            return c.Note(kind="note", text=work.text, cell=work.cell, **known)
        case ev.TroubleWork():
            return c.RaiseTrouble(kind="raise_trouble", what=work.what, cell=work.cell, **known)
        case ev.PhotoWork():
            return c.AddPhoto(kind="add_photo", cell=work.cell, photo=work.photo, words=work.words, **known)


class ClaimView(View):
    """Work from a tablet without a link that did not fit any more, and what had happened meanwhile.

    Attributes:
        work: what kind of work.
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
    cell: str | None
    title: str | None
    kind: str | None
    item: str | None
    fastener: str | None
    worded: bool
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
        cell=work.cell,
        title=step_title(state, cell.step) if cell else None,
        kind=cell.kind if cell else None,
        item=cell.item if cell else None,
        fastener=cell.fastener if cell else None,
        worded=cell is not None and in_author_words(cell),
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
