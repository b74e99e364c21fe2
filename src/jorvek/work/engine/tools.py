"""Where every tool is, across all engines of the site; withdrawn, taken back, handed on."""

from __future__ import annotations

from collections.abc import Iterator
from datetime import date, datetime
from uuid import UUID

from jorvek.core.refusal import Refusal
from jorvek.core.rights import Act, demand
from jorvek.core.run.log.cells import InputType
from jorvek.core.run.log.commands import Command, RecordReading
from jorvek.core.run.log.events import Person, ToolAnswer
from jorvek.core.run.rules.recording import why_unfit
from jorvek.core.run.views.calls import Fault
from jorvek.core.run.views.labels import View
from jorvek.core.run.views.on_engine import RunOnEngine
from jorvek.core.tools import Tool
from jorvek.store.eventlog import Stamp
from jorvek.store.toolstanding import Standing
from jorvek.work.engine.asked_again import ask_cells_again
from jorvek.work.engine.overhauls import ON_ENGINE
from jorvek.work.workshop import Workshop


class ToolPlace(View):
    """Where a tool is: the run that drew it.

    Attributes:
        bound: it sits on studs in that work, or shows their pressure: it is handed on by name. A blade, a
            thermometer, a length gauge goes from hand to hand.
        at_work: it sits there now.
        idle: that work has no further call for it.
    """

    run_id: UUID
    engine: str
    joint: str
    by: str
    bound: bool
    at_work: bool
    idle: bool


class ToolNow(View):
    """A tool as it stands.

    Attributes:
        place: the run that has it; None where it lies in the store.
        withdrawn: why it is withdrawn; None where it is not.
    """

    id: str
    name: str
    tool_class: str
    pieces: int
    certificate: str
    calibration_due: date
    out_of_date: bool
    place: ToolPlace | None
    withdrawn: str | None
    withdrawn_by: str | None
    withdrawn_at: datetime | None


class ToolForCall(ToolNow):
    """A tool of the class that a call asks for.

    Attributes:
        unfit: why it cannot do what the call asks, whatever its calibration; None where it can.
    """

    unfit: Fault | None


class Touched(View):
    """A run in which a tool was used since its last good check."""

    run_id: UUID
    engine: str
    joint: str
    title: str
    started: str
    open: bool


def _open_runs(workshop: Workshop) -> list[tuple[str, RunOnEngine]]:
    rows = [row for row in workshop.registers.runs() if row.open]
    names = {engine.id: engine.name for engine in workshop.registers.engines()}
    summaries = workshop.summaries.of(ON_ENGINE, rows)
    return [(names[row.engine_id], summaries[row.id]) for row in rows]


def places(workshop: Workshop) -> dict[str, ToolPlace]:
    """Return where each drawn tool is; one that was handed on is with whoever drew it last."""
    found: dict[str, ToolPlace] = {}
    # Newest runs come first; a call opened again by handing on names the tool no more.
    for engine, run in _open_runs(workshop):
        for tool in run.drawn:
            place = ToolPlace(
                run_id=run.run_id,
                engine=engine,
                joint=run.label,
                by=run.by,
                bound=tool in run.bound,
                at_work=tool in run.on_studs,
                idle=tool in run.idle,
            )
            held = found.get(tool)
            if held is None or (held.idle and not place.idle):
                found[tool] = place
    return found


def tools_now(workshop: Workshop) -> list[ToolNow]:
    """Return the tools, each with its place."""
    today, where, said = workshop.today(), places(workshop), workshop.tool_standings.now()
    return [_now(tool, today, where, said) for tool in workshop.registers.tools()]


def tools_for(workshop: Workshop, run_id: UUID, cell: str) -> list[ToolForCall]:
    """Return the tools of the class that a call asks for, those that may be drawn first, each with what bars it.

    Raises:
        Refusal: ``no_such_run``; ``no_such_cell`` where no tool is drawn.
    """
    state = workshop.log.snapshot(run_id).state
    asked = state.definition.by_key.get(cell)
    if asked is None or asked.ask is not InputType.TOOL:
        raise Refusal("no_such_cell", cell=cell)
    today, where, said = workshop.today(), places(workshop), workshop.tool_standings.now()
    found = []
    for tool in workshop.registers.tools():
        why = why_unfit(state, asked, tool)
        if why is None or why.code != "tool_class":
            fault = None if why is None else Fault(code=why.code, params=why.params)
            found.append(ToolForCall(**dict(_now(tool, today, where, said)), unfit=fault))
    return sorted(found, key=_out_of_reach)


def _out_of_reach(tool: ToolForCall) -> tuple[bool, bool, bool]:
    elsewhere = tool.place is not None and tool.place.at_work
    return tool.withdrawn is not None or elsewhere, tool.unfit is not None, tool.out_of_date


def _now(tool: Tool, today: date, where: dict[str, ToolPlace], said: dict[str, Standing]) -> ToolNow:
    word = said.get(tool.id)
    gone = word if word is not None and word.withdrawn else None
    return ToolNow(
        id=tool.id,
        name=tool.name,
        tool_class=tool.tool_class,
        pieces=tool.pieces,
        certificate=tool.certificate,
        calibration_due=tool.calibration_due,
        out_of_date=tool.out_of_date(today),
        place=where.get(tool.id),
        withdrawn=gone.words if gone else None,
        withdrawn_by=gone.by if gone else None,
        withdrawn_at=gone.at if gone else None,
    )


def withdraw_tool(workshop: Workshop, actor: Person, tool_id: str, words: str) -> None:
    """Withdraw a tool: it is not drawn any more until it is taken back.

    Raises:
        Refusal: ``not_your_right``, ``no_such_tool``, ``tool_withdrawn``.
    """
    demand(actor.role, Act.RECORD)
    _known(workshop, tool_id)

    def still_good() -> None:
        demand_not_withdrawn(workshop, tool_id)

    workshop.tool_standings.say(tool_id, words, actor.id, workshop.clock(), withdrawn=True, demand=still_good)


def take_tool_back(workshop: Workshop, actor: Person, tool_id: str, words: str) -> None:
    """Take a withdrawn tool back after it was checked.

    Raises:
        Refusal: ``not_your_right``, ``no_such_tool``, ``tool_not_withdrawn``.
    """
    demand(actor.role, Act.KEEP_REGISTER)
    _known(workshop, tool_id)

    def is_gone() -> None:
        word = workshop.tool_standings.now().get(tool_id)
        if word is None or not word.withdrawn:
            raise Refusal("tool_not_withdrawn", tool=tool_id)

    workshop.tool_standings.say(tool_id, words, actor.id, workshop.clock(), withdrawn=False, demand=is_gone)


def _known(workshop: Workshop, tool_id: str) -> None:
    if not any(tool.id == tool_id for tool in workshop.registers.tools()):
        raise Refusal("no_such_tool", tool=tool_id)


def demand_not_withdrawn(workshop: Workshop, tool_id: str) -> None:
    """Refuse a tool that is withdrawn.

    Raises:
        Refusal: ``tool_withdrawn``.
    """
    word = workshop.tool_standings.now().get(tool_id)
    if word is not None and word.withdrawn:
        raise Refusal("tool_withdrawn", tool=tool_id, by=word.by, words=word.words)


def touched_by(workshop: Workshop, tool_id: str, since: datetime | None = None) -> list[Touched]:
    """Return the runs in which a tool was used, newest first, since a time if one is given.

    Raises:
        Refusal: ``no_such_tool``.
    """
    _known(workshop, tool_id)
    rows = [row for row in workshop.registers.runs() if since is None or row.started_at >= since]
    names = {engine.id: engine.name for engine in workshop.registers.engines()}
    summaries = workshop.summaries.of(ON_ENGINE, rows)
    return list(_touched(tool_id, ((names[row.engine_id], summaries[row.id]) for row in rows)))


def _touched(tool_id: str, runs: Iterator[tuple[str, RunOnEngine]]) -> Iterator[Touched]:
    for engine, run in runs:
        if tool_id in run.drawn:
            yield Touched(
                run_id=run.run_id, engine=engine, joint=run.label, title=run.title, started=run.started, open=run.open
            )


def named_tool(command: Command) -> ToolAnswer | None:
    """Return the tool that a command draws; None for any other."""
    answer = command.answer if isinstance(command, RecordReading) else None
    return answer if isinstance(answer, ToolAnswer) else None


def demand_tool_free(workshop: Workshop, run_id: UUID, answer: ToolAnswer) -> None:
    """Refuse a tool that is withdrawn, or that is somewhere else and was not handed on.

    Asked under the tool's lock.

    Raises:
        Refusal: ``tool_withdrawn``; ``tool_at_work`` while it sits on a stud; ``tool_elsewhere`` while nobody hands
            it on.
    """
    demand_not_withdrawn(workshop, answer.tool_id)
    place = places(workshop).get(answer.tool_id)
    if place is None or place.run_id == run_id or place.idle or not place.bound:
        return
    where = {"tool": answer.tool_id, "joint": f"{place.engine} · {place.joint}", "by": place.by}
    if place.at_work:
        raise Refusal("tool_at_work", **where)
    if not answer.handed_on:
        raise Refusal("tool_elsewhere", **where)


def let_go(workshop: Workshop, run_id: UUID, answer: ToolAnswer, command: Command, stamp: Stamp) -> None:
    """Open the drawing of a tool again in the run that it was handed on from.

    Belongs in one transaction with its drawing, under the tool's lock.
    """
    for _, run in _open_runs(workshop):
        cell = run.drawn.get(answer.tool_id)
        if cell is None or run.run_id == run_id or answer.tool_id not in run.bound or answer.tool_id in run.idle:
            continue
        why = f"{answer.tool_id} was handed on to another joint"
        ask_cells_again(workshop, run.run_id, (cell,), why, command, stamp)
