"""A procedure as a work sheet to be filled in by pencil."""

from __future__ import annotations

from dataclasses import dataclass

from jorvek import __version__
from jorvek.core.procedure.document import Procedure
from jorvek.core.run.cells import Ask, Cell, Rule, expand
from jorvek.core.run.readings import in_cell_unit
from jorvek.core.units import symbol
from jorvek.messages import say
from jorvek.reports.paper import FONTS, code, template, to_pdf


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
    parts = [f"{target.text} {target.unit}"] if target else []
    if lower and upper:
        parts.append(f"({lower.text} … {upper.text})")
    elif upper:
        parts.append(f"{say('bench.at_most')} {upper.text} {upper.unit}")
    elif lower:
        parts.append(f"{say('bench.at_least')} {lower.text} {lower.unit}")
    of = say(f"worksheet.of.{cell.rule.value}") if parts and cell.rule in (Rule.GROWTH, Rule.STRETCH) else ""
    return " ".join([of, *parts]).strip()


def _blank(cell: Cell) -> Blank:
    worded = cell.kind in ("confirm", "vent", "tool_issue") and cell.text is not None
    what = cell.text if worded and cell.text is not None else say(f"item.{cell.item}")
    unit = symbol(cell.unit) if cell.unit is not None and cell.ask is Ask.VALUE else ""
    return Blank(what, _aim(cell), unit, cell.ask in (Ask.TICK, Ask.FEELER, Ask.SEEN))


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


def work_steps(procedure: Procedure) -> tuple[SheetStep, ...]:
    """Return the steps of a procedure as they stand on the work sheet, in working order."""
    cells = expand(procedure)
    return tuple(
        _step(number, step.title, [c for c in cells if c.step == step.id])
        for number, step in enumerate(procedure.steps, 1)
    )


def worksheet_pdf(procedure: Procedure, status: str, base_url: str) -> bytes:
    """Return the work sheet of a procedure as PDF bytes.

    Args:
        procedure: the revision.
        status: draft, approved or withdrawn; all but approved is printed across the sheet.
        base_url: address that the printed code leads back to.
    """
    digest = procedure.content_hash()
    address = f"{base_url}/procedures/{digest}"
    spots = [(p.name, p.x.value, p.y.value) for p in procedure.fasteners.positions]
    order = next(iter(procedure.orders.values()))
    html = template("worksheet.html.jinja").render(
        p=procedure,
        steps=work_steps(procedure),
        status=status,
        digest=digest,
        address=address,
        qr=code(address),
        t=lambda key, **params: say(key, params),
        spots=[(name, x, y, order.index(name) + 1) for name, x, y in spots],
        across=procedure.fasteners.across.value,
        half=max([abs(v) for _, x, y in spots for v in (x, y)]) + 1.9 * procedure.fasteners.across.value,
        fonts=FONTS,
        app_version=__version__,
    )
    return to_pdf(html, digest[:32])
