"""The Bench without its figures, for when it cannot be worked out: what is stored stays in reach."""

from __future__ import annotations

from uuid import UUID

from jorvek.core.run.log.answers import answer_code, as_read
from jorvek.core.run.log.cells import Cell
from jorvek.core.run.log.state import Attempt, RunState
from jorvek.core.run.rules.progress import last_reading
from jorvek.core.run.views.annotations import WatchView
from jorvek.core.run.views.bench import BenchView, gear_now, may_strike, open_for, status_of
from jorvek.core.run.views.calls import Call, Fault, somebody_else, units_of
from jorvek.core.run.views.joint_plan import Plan
from jorvek.core.run.views.labels import naming
from jorvek.core.run.views.looking import Looking
from jorvek.core.run.views.rows import Row, note_of

_NO_PLAN = Plan(
    outline=(),
    parts=(),
    open=False,
    heads=(),
    hoses=(),
    x_minus="",
    x_plus="",
    y_minus="",
    y_plus="",
    attitude=None,
    quarter_turns=0,
    measuring=None,
)


def plain_bench(run_id: UUID, state: RunState, looking: Looking, why: str) -> BenchView:
    """Return calls, last reading and strike of a run, and nothing that has to be worked out.

    Args:
        run_id: the run.
        state: the run as it stands.
        looking: who looks.
        why: what failed, for whoever looks after the program.
    """
    procedure, started, last, watch = (
        state.definition.procedure,
        state.started,
        last_reading(state),
        state.watches[-1],
    )
    mine = open_for(state, looking.person_id)
    return BenchView(
        run_id=run_id,
        seq=state.seq,
        fault=Fault(code="cannot_be_shown", params={"why": why}),
        status=status_of(state),
        engine=started.engine.name,
        engine_id=started.engine.id,
        joint=started.joint_label,
        joint_key=started.joint_key,
        procedure_title=procedure.title,
        revision=procedure.revision,
        procedure_hash=state.definition.procedure_hash,
        started_at=state.started_at,
        plan=_NO_PLAN,
        calls=tuple(_plain_call(state, cell, looking) for cell in mine),
        later=(),
        ages=(),
        parts=(),
        sister_checks=(),
        ribbon=(),
        last=_plain_row(state, last) if last else None,
        last_may_strike=last is not None and may_strike(state, last.cell),
        questions=(),
        owed=(),
        carried=(),
        watch=WatchView(by=watch.by.name, person_id=watch.by.id, at=watch.at),
        troubles=(),
        ladder=None,
        stuck=(),
        claims=(),
        gear=gear_now(state),
    )


def _plain_call(state: RunState, cell: Cell, looking: Looking) -> Call:
    peers = state.definition.by_step[cell.step]
    return Call(
        **naming(state, cell),
        attempt=len(state.tries(cell.key)) + 1,
        ask=cell.ask,
        cautions=cell.cautions,
        deliberate=cell.deliberate,
        figure=None,
        lower=None,
        upper=None,
        stated=None,
        computed=None,
        fault=None,
        units=units_of(cell, looking.units),
        tool=None,
        tool_class=None,
        sees=(),
        signed_by=None,
        not_before=None,
        why=None,
        choices=cell.choices,
        owing=(),
        marked=False,
        movement=None,
        holds=None,
        bites=None,
        flat_deg=None,
        details={},
        lines={},
        own=None,
        confirmed_by=None,
        somebody_else=somebody_else(state, cell, looking),
        laddered=False,
        stillness=False,
        signed=False,
        as_stretch=False,
        may_leave_out=False,
        for_engine=False,
        turns_crank=False,
        moves_crank=False,
        set_to=None,
        starts={},
        also={},
        photograph=False,
        photos=0,
        done=sum(state.live(c.key) is not None for c in peers),
        total=len(peers),
    )


def _plain_row(state: RunState, attempt: Attempt) -> Row:
    return Row(
        **naming(state, state.definition.by_key[attempt.cell]),
        attempt=attempt.number,
        answer=answer_code(attempt.answer),
        note=note_of(attempt.answer),
        read=as_read(attempt.answer),
        corrected=None,
        judged=None,
        target=None,
        lower=None,
        upper=None,
        uncertainty=None,
        clamp=None,
        verdict=attempt.judgement.verdict,
        reasons=attempt.judgement.reasons,
        tool=attempt.tool.id if attempt.tool else None,
        by=attempt.by.name,
        at=attempt.at,
        source=attempt.source,
        made_at=None,
        written=None,
        struck=None,
        accepted=None,
        rejected=None,
        fallen=attempt.fallen_by is not None,
    )
