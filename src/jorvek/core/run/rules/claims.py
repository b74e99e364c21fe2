"""Work that waited on a tablet without a link: taken in when it still fits, kept as a claim when it does not."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from datetime import datetime, timedelta

from jorvek.core.refusal import Refusal, RefusalKind
from jorvek.core.rights import Act, demand
from jorvek.core.run.log import commands as c
from jorvek.core.run.log import events as ev
from jorvek.core.run.log.state import ClaimOf, RunState
from jorvek.core.run.rules.asked_first import as_sure

Decide = Callable[[RunState, c.Command, c.Context], ev.EventData]

Waits = c.RecordReading | c.StrikeReading | c.Note | c.RaiseTrouble | c.AddPhoto
"""What may wait on a tablet."""


def decide_late(state: RunState, command: c.Command, context: c.Context, late: c.Late, again: Decide) -> ev.EventData:
    """Decide on a command that waited on a tablet.

    What still fits is taken as if it had come at once, with the time it was made. The first thing
    that does not fit, and all that follow it in the same stretch without a link, are kept as claims:
    they were done by somebody who could not know what had happened meanwhile.

    Args:
        state: the run as it stands.
        command: what was asked.
        context: who asks, from the session, and the server's time.
        late: how long it waited, and in which stretch.
        again: how a command is decided that did not wait.

    Raises:
        Refusal: what ``again`` refuses, for commands that are no work or can be no claim.
    """
    if not isinstance(command, Waits):
        return again(state, command, context)
    kept_s = _credible_s(state, context.now, late.kept_s)
    if any(claim.said.batch == late.batch for claim in state.claims):
        return _claimed(state, command, context, late, Refusal("follows_claim"))
    made_at = context.now - timedelta(seconds=kept_s or 0)
    try:
        # What was done without a link is done, whether the turning gear has been freed since or not.
        data = again(replace(state, gear=None), command, replace(context, now=made_at))
    except Refusal as refusal:
        return _claimed(state, command, context, late, refusal)
    return data.model_copy(update={"kept_s": kept_s}) if isinstance(data, ev.Done) else data


def _credible_s(state: RunState, now: datetime, kept_s: float | None) -> float | None:
    """A tablet's clock may have jumped: nothing was made before the present watch began."""
    if kept_s is None or now - timedelta(seconds=kept_s) < state.watches[-1].at:
        return None
    return kept_s


def _claimed(
    state: RunState,
    command: Waits,
    context: c.Context,
    late: c.Late,
    refusal: Refusal,
) -> ev.Claimed:
    demand(context.actor.role, Act.RECORD)
    if command.cell is not None and command.cell not in state.definition.by_key:
        raise refusal
    return ev.Claimed(
        work=_work_of(command, context),
        batch=late.batch,
        saw=late.saw,
        kept_s=_credible_s(state, context.now, late.kept_s),
        why=ev.Reason(code=refusal.code, params={k: _said(v) for k, v in refusal.params.items() if v is not None}),
    )


def _said(value: str | int | float) -> float | str:
    return value if isinstance(value, str) else float(value)


def _work_of(command: Waits, context: c.Context) -> ev.Work:
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
            width_px, height_px = c.photo_size(command.photo, context)
            return ev.PhotoWork(
                kind="add_photo",
                cell=command.cell,
                photo=command.photo,
                width_px=width_px,
                height_px=height_px,
                words=command.words,
            )


def settle(state: RunState, command: c.SettleClaim, context: c.Context, again: Decide) -> ev.ClaimSettled:
    """Take a claim in, judged like any other work, or leave it out for a reason.

    Raises:
        Refusal: ``not_your_right``; ``no_such_claim``; ``words_owed`` for leaving out without a reason;
            what ``again`` refuses: what stands in the way has to be settled first.
    """
    demand(context.actor.role, Act.ACCEPT)
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
    told = replace(context, actor=claim.by, now=claim.done_at, pin_confirmed=False, photos=_photos_of(claim))
    data = _taken_in(state, asked, told, again)
    assert isinstance(data, ev.Recorded | ev.Struck | ev.Noted | ev.TroubleRaised | ev.PhotoAdded)
    late: dict[str, object] = {"kept_s": (context.now - claim.done_at).total_seconds()}
    if isinstance(data, ev.Recorded):
        late["source"] = "claim"
    return ev.ClaimSettled(claim=claim.seq, words=command.words, led_to=data.model_copy(update=late))


def _taken_in(state: RunState, asked: c.Command, told: c.Context, again: Decide) -> ev.EventData:
    """Decide on what is taken in; what is unlikely was looked at by whoever takes it in by name."""
    try:
        return again(state, asked, told)
    except Refusal as refusal:
        if refusal.kind is not RefusalKind.ASKED or not isinstance(asked, c.RecordReading):
            raise
        return again(state, asked.model_copy(update={"answer": as_sure(asked.answer)}), told)


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
