"""What an overhaul leaves behind on paper: exceptions first, a sheet a joint, what was not measured, who worked."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from datetime import date, datetime
from typing import Final
from uuid import UUID

from jorvek.core.engine.layout import Engine, JointPlace, joints_of
from jorvek.core.overhaul.log.state import Overhaul
from jorvek.core.overhaul.rules.joint_conditions import counts, declared_now, owed, shown_condition
from jorvek.core.overhaul.views.close_out import DeflectionSheet, WitnessNow, deflection_sheets, witnesses
from jorvek.core.overhaul.views.log_lines import LogLine, entry_of
from jorvek.core.procedure.metal_parts import Condition
from jorvek.core.run.views.found import FoundView
from jorvek.core.run.views.labels import View
from jorvek.core.run.views.on_engine import RunOnEngine
from jorvek.core.run.views.record import DepartureView, DrawnTool, RedoView, RunRecord, Signature, StudSummary
from jorvek.core.run.views.rows import Row
from jorvek.core.sheet.document import EngineSheet


class WorkDone(View):
    """One run on a joint, with the seal of its log.

    Attributes:
        seal: hash of its newest event; None for a run that is still open.
    """

    run_id: UUID
    title: str
    revision: str
    started_at: datetime
    closed_at: datetime | None
    people: tuple[str, ...]
    readings: int
    seal: str | None


class JointSheet(View):
    """What was done to one joint, and what it holds.

    Attributes:
        by_word: who said how it stands, where no run does.
        hours_run: running hours since it was put together last before; None where nobody can tell.
        studs: what each fastener holds, by the newest run that knows.
        gates: readings of its gates.
        parts: numbers, marks and decisions on its parts: what was found, what stays, what went out.
    """

    label: str
    condition: Condition | None
    by_word: str | None
    hours_run: float | None
    works: tuple[WorkDone, ...]
    studs: tuple[StudSummary, ...]
    gates: tuple[Row, ...]
    parts: tuple[Row, ...]
    exceptions: tuple[Row, ...]
    found: tuple[FoundView, ...]
    departures: tuple[DepartureView, ...]
    redos: tuple[RedoView, ...]
    signatures: tuple[Signature, ...]


class RuleLet(View):
    """A rule of the engine sheet that a run departed from, by name."""

    joint: str
    rule: str
    other: str
    reason: str
    by: str
    at: datetime


class Worked(View):
    """Somebody who worked on it."""

    name: str
    readings: int


class Dossier(View):
    """Everything in one.

    Attributes:
        seal: hash of the newest event of the overhaul's log.
        owed: what is still owed, in words.
        not_measured: joints of the scope on which nothing was measured in a run.
        deflections: of the whole shaft, before and after.
        witnesses: who attended, and who had to and did not.
        run_in: stops of the running-in.
        left_out: readings that were left out by authority, with their joint.
    """

    overhaul_id: UUID
    seal: str
    engine: Engine
    title: str
    opened_at: datetime
    opened_by: str
    closed_at: datetime | None
    hours: float | None
    sheet: str
    joints: tuple[JointSheet, ...]
    rules_let: tuple[RuleLet, ...]
    owed: tuple[str, ...]
    not_measured: tuple[str, ...]
    left_out: tuple[str, ...]
    people: tuple[Worked, ...]
    tools: tuple[DrawnTool, ...]
    deflections: tuple[DeflectionSheet, ...]
    witnesses: tuple[WitnessNow, ...]
    run_in: tuple[LogLine, ...]
    log: tuple[LogLine, ...]
    today: date

    @property
    def exceptions(self) -> int:
        """How many exceptions there are in all."""
        return sum(len(j.exceptions) + len(j.found) + len(j.departures) for j in self.joints) + len(self.rules_let)


def dossier(
    overhaul: Overhaul,
    seal: str,
    sheet: EngineSheet,
    runs: tuple[RunOnEngine, ...],
    records: dict[UUID, RunRecord],
    hours_run: Mapping[str, float],
    today: date,
) -> Dossier:
    """Return the dossier of an overhaul.

    Args:
        overhaul: as it stands.
        seal: hash of its newest event.
        sheet: its sheet.
        runs: the runs that count for it, newest first.
        records: the record of each of them.
        hours_run: by joint, running hours since it was put together last before this overhaul.
        today: date at the site.
    """
    mine = [run for run in runs if counts(overhaul, run)]
    sheets = tuple(
        _joint(overhaul, place, [r for r in mine if r.joint == place.key], records, hours_run.get(place.key))
        for place in joints_of(overhaul.opened.engine, sheet.joints)
    )
    worked = {place.label for place in joints_of(overhaul.opened.engine, sheet.joints) if place.key in overhaul.scope}
    return Dossier(
        overhaul_id=overhaul.overhaul_id,
        seal=seal,
        engine=overhaul.opened.engine,
        title=overhaul.opened.title,
        opened_at=overhaul.opened_at,
        opened_by=overhaul.opened_by.name,
        closed_at=overhaul.closed_at,
        hours=overhaul.opened.hours,
        sheet=f"{sheet.title}, {sheet.revision}",
        joints=tuple(joint for joint in sheets if joint.works or joint.by_word or joint.label in worked),
        rules_let=tuple(_rules_let(mine, records)),
        owed=tuple(f"{run.label}: {debt.text}" for run, debt in owed(overhaul, mine)),
        not_measured=tuple(j.label for j in sheets if j.label in worked and not j.works),
        left_out=tuple(
            f"{record.joint}: {row.title}{f' {row.fastener}' if row.fastener else ''}"
            for record in records.values()
            for row in _exceptions(record)
            if row.verdict.value == "left_out"
        ),
        people=tuple(_people(records.values())),
        tools=tuple({tool.id: tool for record in records.values() for tool in record.tools}.values()),
        deflections=deflection_sheets(overhaul, sheet),
        witnesses=witnesses(overhaul, sheet),
        run_in=tuple(entry_of(line) for line in overhaul.run_in.values()),
        log=tuple(entry_of(line) for line in overhaul.lines),
        today=today,
    )


_OF_PARTS: Final = ("inspect", "matched_part", "choose_part")


def _joint(
    overhaul: Overhaul,
    place: JointPlace,
    mine: list[RunOnEngine],
    records: dict[UUID, RunRecord],
    hours_run: float | None,
) -> JointSheet:
    key, label = place.key, place.label
    of = [records[run.run_id] for run in reversed(mine)]
    said = declared_now(overhaul, key, mine)
    return JointSheet(
        label=label,
        condition=shown_condition(overhaul, key, mine),
        by_word=f"{said.by.name}: {said.words}" if said is not None and said.seq > 2 else None,
        hours_run=hours_run,
        works=tuple(_work(record) for record in of),
        studs=next((record.studs for record in reversed(of) if record.studs), ()),
        gates=tuple(
            row for record in of for part in record.sections if part.kind in ("gate", "deflection") for row in part.rows
        ),
        parts=tuple(
            row
            for record in of
            for part in record.sections
            for row in part.rows
            if (part.kind in _OF_PARTS and (row.note or row.read)) or row.rejected
        ),
        exceptions=tuple(row for record in of for row in _exceptions(record)),
        found=tuple(one for record in of for one in record.found),
        departures=tuple(one for record in of for one in record.departures),
        redos=tuple(one for record in of for one in record.redos),
        signatures=tuple(one for record in of for one in record.signatures),
    )


def _exceptions(record: RunRecord) -> list[Row]:
    """Return the exceptions of a run; what was left to whoever is last on the engine is owed, and no exception."""
    return [row for row in record.exceptions if all(reason.code != "left_to_engine" for reason in row.reasons)]


def _work(record: RunRecord) -> WorkDone:
    rows = [row for section in record.sections for row in section.rows]
    return WorkDone(
        run_id=record.run_id,
        title=record.procedure_title,
        revision=record.revision,
        started_at=record.started_at,
        closed_at=record.closed.at if record.closed else None,
        people=tuple(dict.fromkeys(row.by for row in rows)),
        readings=len(rows),
        seal=record.content_hash if record.closed else None,
    )


def _rules_let(mine: list[RunOnEngine], records: dict[UUID, RunRecord]) -> Iterable[RuleLet]:
    for run in mine:
        record = records[run.run_id]
        for one in run.departed:
            yield RuleLet(
                joint=run.label,
                rule=one.rule,
                other=one.joint,
                reason=one.reason,
                by=record.started_by,
                at=record.started_at,
            )


def _people(records: Iterable[RunRecord]) -> Iterable[Worked]:
    found: dict[str, int] = {}
    for record in records:
        for section in record.sections:
            for row in section.rows:
                found[row.by] = found.get(row.by, 0) + 1
    return (Worked(name=name, readings=count) for name, count in sorted(found.items()))
