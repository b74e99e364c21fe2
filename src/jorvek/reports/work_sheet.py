"""A procedure as a work sheet to be filled in by pencil."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass
from uuid import UUID

from jorvek import __version__
from jorvek.core.procedure.document import Procedure
from jorvek.core.procedure.kinds import KINDS
from jorvek.core.procedure.options import Selection, applies, selections
from jorvek.core.procedure.steps import RoundStep
from jorvek.core.run.log.cells import Cell, InputType, Rule
from jorvek.core.run.log.expansion import expand
from jorvek.core.run.log.state import RunState
from jorvek.core.run.views.joint_plan import plan_of
from jorvek.core.run.views.rows import in_cell_unit
from jorvek.core.units import symbol
from jorvek.messages import catalogue, number_text, say, speaking
from jorvek.reports.paper import FONTS, code, figure_text, template, to_pdf


@dataclass(frozen=True)
class Blank:
    """One thing to be written down.

    Attributes:
        what: what it is.
        aim: target and band, or empty.
        unit: unit of a value, or empty for a tick.
        tick: a tick is enough.
    """

    what: str
    aim: str
    unit: str
    tick: bool


@dataclass(frozen=True)
class SheetStep:
    """A step on paper: lines for the whole joint, a grid with one row per fastener, lines after it.

    Attributes:
        ticks: the grid holds ticks alone, and stands as one row for each thing to do.
    """

    number: int
    title: str
    cautions: tuple[str, ...]
    before: tuple[Blank, ...]
    columns: tuple[Blank, ...]
    fasteners: tuple[str, ...]
    after: tuple[Blank, ...]
    ticks: bool


def _aim(cell: Cell) -> str:
    target, lower, upper = (in_cell_unit(cell, v) for v in (cell.target, cell.lower, cell.upper))
    parts = [figure_text(target)] if target else []
    if lower and upper:
        parts.append(f"({number_text(lower.text)} … {number_text(upper.text)})")
    elif upper:
        parts.append(f"{say('bench.at_most')} {figure_text(upper)}")
    elif lower:
        parts.append(f"{say('bench.at_least')} {figure_text(lower)}")
    of = say(f"worksheet.of.{cell.rule.value}") if parts and cell.rule in (Rule.GROWTH, Rule.STRETCH) else ""
    return " ".join([of, *parts]).strip()


def item_words(cell: Cell) -> str:
    """Return what a cell asks for, in words."""
    if cell.in_author_words and cell.text is not None:
        return cell.text
    word, _, number = cell.item.partition(":")
    words = say(f"item.{word}")
    plain = number.partition(".")[0]
    text = (
        f" — {cell.text}" if cell.text and cell.traits.evidence != "pressure" and cell.ask is not InputType.PULL else ""
    )
    return f"{words}{f' {number}' if plain.isdigit() else ''}{text}"


def choice_words(choice: str) -> str:
    """Return an answer to choose, in words; the author's own words stay."""
    known = catalogue()["choice"]
    assert isinstance(known, dict)
    return str(known.get(choice, choice))


def _blank(cell: Cell) -> Blank:
    what = item_words(cell)
    unit = symbol(cell.unit) if cell.unit is not None and cell.ask is InputType.VALUE else ""
    if cell.ask is InputType.CHOICE:
        return Blank(what, " / ".join(choice_words(c) for c in cell.choices), "", tick=False)
    tick = cell.ask in (InputType.TICK, InputType.FEELER, InputType.SEEN, InputType.PULL)
    return Blank(what, _aim(cell), symbol(cell.unit) if cell.ask is InputType.TURN and cell.unit else unit, tick)


def _step(number: int, title: str, cells: list[Cell]) -> SheetStep:
    each = [c for c in cells if c.fastener is not None]
    first = cells.index(each[0]) if each else len(cells)
    single = [(k, _blank(c)) for k, c in enumerate(cells) if c.fastener is None]
    names = tuple(dict.fromkeys(c.fastener for c in each if c.fastener is not None))
    by_item = {c.item: _blank(c) for c in reversed(each)}
    columns = tuple(by_item[item] for item in dict.fromkeys(c.item for c in each))
    return SheetStep(
        number=number,
        title=title,
        cautions=cells[0].cautions,
        before=tuple(blank for k, blank in single if k < first),
        columns=columns,
        fasteners=names,
        after=tuple(blank for k, blank in single if k > first),
        ticks=all(column.tick for column in columns),
    )


def work_steps(
    procedure: Procedure, selection: Selection | None = None, done: frozenset[str] = frozenset()
) -> tuple[SheetStep, ...]:
    """Return the steps of a procedure as they stand on the work sheet, in working order, repetitions included.

    Steps that are done keep their number and are left out.
    """
    titles = {step.id: step.title for step in procedure.steps}
    by_step: dict[str, list[Cell]] = {}
    for cell in expand(procedure, selection):
        by_step.setdefault(cell.step, []).append(cell)
    return tuple(
        _step(number, _titled(titles[cells[0].step_id], cells[0].cycle), cells)
        for number, (key, cells) in enumerate(by_step.items(), 1)
        if key not in done
    )


def _titled(title: str, cycle: int) -> str:
    return title if cycle == 1 else f"{title} ({say('worksheet.time_round', {'n': cycle})})"


def turn_numbers(procedure: Procedure, selection: Selection) -> dict[str, int]:
    """Return each fastener's place in the first order that works on it."""
    numbers: dict[str, int] = {}
    for step in procedure.steps:
        if isinstance(step, RoundStep) and KINDS[step.kind].load != "none" and applies(step.only, selection):
            names = procedure.orders[step.order].names()
            numbers |= {name: k for k, name in enumerate(names, 1) if name not in numbers}
    return numbers


@dataclass(frozen=True)
class Spot:
    """A fastener on the printed plan, drawn so large, in mm; its place in the order, 0 for none."""

    name: str
    x: float
    y: float
    across: float
    turn: int


def _spots(procedure: Procedure, selection: Selection) -> tuple[Spot, ...]:
    numbers, places = turn_numbers(procedure, selection), procedure.positions()
    widest = max((g.across.value for g in procedure.fasteners), default=0.0)
    drawn = 1.5 * _head_radius([(p.x.value, p.y.value) for p in places], widest)
    return tuple(Spot(p.name, p.x.value, p.y.value, drawn, numbers.get(p.name, 0)) for p in places)


def _head_radius(xy: list[tuple[float, float]], across: float) -> float:
    """Return how large heads are drawn, in mm: large enough for their names, small enough to stand apart."""
    if len(xy) < 2:
        return 0.62 * across
    nearest = min(math.dist(a, b) for k, a in enumerate(xy) for b in xy[k + 1 :])
    xs, ys = [x for x, _ in xy], [y for _, y in xy]
    reach = max(max(xs) - min(xs), max(ys) - min(ys))
    return min(0.36 * nearest, max(0.62 * across, reach / 15.0))


@dataclass(frozen=True)
class SheetOf:
    """The run that a sheet is printed for.

    Attributes:
        engine: the engine, as people call it.
        serial: its serial number.
        joint: the joint.
        observed: what decides the numbers, as it was found, in words.
        marks: landmarks at the left, right, upper and lower edge of the plan.
        address: where the printed code leads.
        done: steps that are finished, and not printed again.
    """

    engine: str
    serial: str
    joint: str
    observed: tuple[str, ...]
    marks: tuple[str, str, str, str]
    address: str
    done: frozenset[str]


def run_sheet_pdf(state: RunState, run_id: UUID, base_url: str) -> bytes:
    """Return the work sheet of exactly one run as PDF bytes; see ``run_sheet_html``."""
    return to_pdf(run_sheet_html(state, run_id, base_url), state.definition.procedure_hash[:32])


def run_sheet_html(state: RunState, run_id: UUID, base_url: str) -> str:
    """Return the work sheet of exactly one run: what is left to do, on this engine, as it lies.

    Args:
        state: the run as it stands.
        run_id: the run, for the printed code.
        base_url: address that the code leads back to.
    """
    plan, engine = plan_of(state), state.started.engine
    titles = {key.id: key.title for key in state.definition.procedure.variants}
    of = SheetOf(
        engine=engine.name,
        serial=engine.serial,
        joint=state.started.joint_label,
        observed=tuple(f"{titles.get(o.key, o.key)}: {o.value}" for o in state.started.observed),
        marks=(plan.x_minus, plan.x_plus, plan.y_plus, plan.y_minus),
        address=f"{base_url}/sheet/{run_id}",
        done=frozenset(key for key, cells in state.definition.steps if all(state.live(c.key) for c in cells)),
    )
    return _sheet_html(state.definition.procedure, "approved", base_url, state.started.selection, of)


def worksheet_pdf(procedure: Procedure, status: str, base_url: str, selection: Selection | None = None) -> bytes:
    """Return the work sheet of a procedure as PDF bytes.

    Args:
        procedure: the revision.
        selection: how its options are chosen; the first possible way when None.
        status: draft, approved or withdrawn; all but approved is printed across the sheet.
        base_url: address that the printed code leads back to.
    """
    return to_pdf(_sheet_html(procedure, status, base_url, selection, None), procedure.content_hash()[:32])


def _twice(words: dict[str, str]) -> Callable[[str], str]:
    """Return how an author's text is printed: with the second language of the document behind it, where it has one."""
    return lambda text: f"{text} / {words[text]}" if text in words else text


def _sheet_html(
    procedure: Procedure, status: str, base_url: str, selection: Selection | None, of: SheetOf | None
) -> str:
    digest = procedure.content_hash()
    address = of.address if of is not None else f"{base_url}/procedures/{digest}"
    chosen = selection if selection is not None else next(iter(selections(procedure)), {})
    spots = _spots(procedure, chosen)
    # Landmarks stand round the plan of a run, and want room.
    frame = _frame(spots, 1.9 if of is None else 3.2)
    return template("worksheet.html.jinja").render(
        p=procedure,
        steps=work_steps(procedure, chosen, of.done if of is not None else frozenset()),
        of=of,
        chosen=[(o.title, next(c.title for c in o.choices if c.id == chosen[o.id])) for o in procedure.options],
        status=status,
        digest=digest,
        address=address,
        qr=code(address),
        t=lambda key, **params: say(key, params),
        twice=_twice(procedure.in_other_words(speaking.get())),
        spots=spots,
        frame=frame,
        fonts=FONTS,
        app_version=__version__,
    )


def _frame(spots: tuple[Spot, ...], room: float) -> tuple[float, float, float, float]:
    """Return left, top, width and height in mm of the printed plan, y down."""
    if not spots:
        return (-1.0, -1.0, 2.0, 2.0)
    pad = room * max(s.across for s in spots)
    left, right = min(s.x for s in spots) - pad, max(s.x for s in spots) + pad
    top, bottom = min(-s.y for s in spots) - pad, max(-s.y for s in spots) + pad
    return (left, top, right - left, bottom - top)
