"""Write the theory: every formula of the core with its symbols, source and a worked example."""

from __future__ import annotations

import inspect
import re
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path
from types import ModuleType
from typing import Any

from jinja2 import Environment, PackageLoader, select_autoescape
from markupsafe import Markup, escape

from jorvek.casebook.check import read_cases
from jorvek.casebook.docstring import Explained, explain
from jorvek.casebook.mapping import ENTRIES, evaluate, plain
from jorvek.core import calibration, guard_band, units
from jorvek.core.bolting import (
    angle,
    curve,
    interaction,
    joint,
    order,
    release,
    scatter,
    strength,
    stretch,
    stroke,
    stud,
    tensioner,
    thread,
    torque,
    transfer,
    wrench,
)
from jorvek.core.bolting.thread import Thread, iso_thread
from jorvek.core.engine import crank
from jorvek.core.measuring import bearing, bore, evidence, gates, rings, uncertainty
from jorvek.core.measuring.evidence import Evidence, EvidenceKind
from jorvek.reports.formula import mathml

CHAPTERS: dict[str, tuple[str, tuple[ModuleType, ...]]] = {
    "threads": ("Threads", (thread,)),
    "torque": ("Torque and preload", (torque, scatter)),
    "strength": ("Stress and strength", (strength,)),
    "stiffness": ("Stiffness of stud and joint", (stud, joint)),
    "stretch": ("Stretch and permanent set", (stretch,)),
    "angle": ("Torque and angle", (angle, curve)),
    "tensioner": ("Hydraulic tensioners", (tensioner, transfer, stroke)),
    "release": ("Release pressure", (release,)),
    "interaction": ("Elastic interaction", (interaction,)),
    "wrench": ("Torque wrenches and calibration", (wrench, calibration)),
    "order": ("Orders of tightening", (order,)),
    "gates": ("Gates and fits", (gates, bearing, bore, rings)),
    "uncertainty": ("Uncertainty, decisions and evidence", (uncertainty, guard_band, evidence)),
    "crank": ("Crank geometry", (crank,)),
    "units": ("Units", (units,)),
}

OWN_EXAMPLES: dict[str, dict[str, Any]] = {
    "release_ratio": {"dS0": 1.318e-06, "dP": 2.82e-07, "dNut": 1.169e-07},
    "strip_width": {"clearance_mm": 0.09, "table": [(1.10, 0.152), (1.50, 0.102), (2.00, 0.076), (2.60, 0.051)]},
    "internal_thread_hold": {
        "thread": iso_thread(52, 3),
        "engaged_mm": 62,
        "run_out_mm": 6,
        "tau_hole_MPa": 220,
        "tau_bolt_MPa": 600,
        "F_N": 860_000,
    },
    "seat_pressure": {"F_N": 860_000, "outer_mm": 78, "hole_mm": 54, "limit_MPa": 600},
    "torque_lever_mm": {"thread": iso_thread(24, 2), "mu_t": 0.12, "mu_b": 0.12, "Dkm_mm": 31},
    "monte_carlo_preload_torque": {
        "T_Nm": 240,
        "thread": iso_thread(24, 2),
        "mu_t": 0.12,
        "mu_b": 0.12,
        "Dkm_mm": 31,
        "u_T_rel": 0.02,
        "u_mu_t": 0.02,
        "u_mu_b": 0.02,
        "r_mu": 0.8,
    },
    "piston_position": {"crank_deg": 60, "r_mm": 230, "l_mm": 920},
    "crank_angle": {"s_mm": 140, "r_mm": 230, "l_mm": 920},
    "firing_angles": {"firing_order": ["1", "2", "4", "6", "7", "5", "3"], "strokes": 4},
    "vee_firing_angles": {
        "firing_order": ["A1", "B5", "A5", "B2", "A2", "B3", "A3", "B4", "A4", "B1"],
        "strokes": 4,
        "bank_angle_deg": 90,
        "rotation": "counterclockwise",
    },
    "combine_evidence": {
        "pieces": [
            Evidence(EvidenceKind.PRESSURE, 860_000, 26_000, "second stage"),
            Evidence(EvidenceKind.STRETCH, 850_000, 13_000, "second stage"),
        ]
    },
}
"""Worked examples of functions that no published case covers."""


@dataclass(frozen=True)
class FormulaPage:
    """One function as the theory shows it."""

    name: str
    title: str
    signature: str
    said: Explained
    formulas: list[str]
    given: list[tuple[str, str]]
    result: list[tuple[str, str]]


def _short(value: Any) -> str:
    """Return data as text, long lists cut."""
    if isinstance(value, list) and len(value) > 8:
        return f"[{_short(value[:3])[1:-1]}, … {len(value)} in all]"
    if isinstance(value, list):
        return "[" + ", ".join(_short(item) for item in value) + "]"
    if isinstance(value, dict):
        return ", ".join(f"{key} {_short(item)}" for key, item in value.items())
    return f"{value:.7g}" if isinstance(value, float) else str(value)


def _rows(value: Any) -> list[tuple[str, str]]:
    pairs = value.items() if isinstance(value, dict) else [("result", value)]
    return [(name, _short(item)) for name, item in pairs]


def _example(function: Callable[..., Any], cases: dict[str, dict[str, Any]]) -> tuple[Any, Any]:
    ops = [op for op, entry in ENTRIES.items() if entry.function is function]
    if ops:
        args = cases[ops[0]]
        return args, evaluate(ops[0], args)
    own = OWN_EXAMPLES[function.__name__]
    shown = {name: f"M{v.d_mm:g}×{v.P_mm:g}" if isinstance(v, Thread) else plain(v, {}) for name, v in own.items()}
    return shown, plain(function(**own), {})


def _functions(module: ModuleType) -> list[Callable[..., Any]]:
    """Public functions of a module whose docstring states how sure they are, in order."""
    own = [f for _, f in inspect.getmembers(module, inspect.isfunction) if f.__module__ == module.__name__]
    stated = [f for f in own if not f.__name__.startswith("_") and explain(f).standing]
    return sorted(stated, key=lambda f: f.__code__.co_firstlineno)


def _with_code(text: str) -> Markup:
    """Return a docstring's text with what stands in double backquotes set as code."""
    return Markup(re.sub(r"``(.+?)``", r"<code>\1</code>", str(escape(text))))  # noqa: S704 — escaped just before


def _entry(function: Callable[..., Any], cases: dict[str, dict[str, Any]]) -> FormulaPage:
    given, result = _example(function, cases)
    said = explain(function)
    names = ", ".join(inspect.signature(function).parameters)
    return FormulaPage(
        name=function.__name__,
        title=said.summary.removeprefix("Return ").rstrip("."),
        signature=f"{function.__name__}({names})",
        said=said,
        formulas=[mathml(line, block=True) for line in said.formulas],
        given=_rows(given),
        result=_rows(result),
    )


def theory(published: Path) -> dict[str, str]:
    """Return the pages of the theory by file name.

    Args:
        published: file of cases that the worked examples are taken from.
    """
    cases: dict[str, dict[str, Any]] = {}
    for case in read_cases(published):
        if "refused" not in case:
            cases.setdefault(case["op"], case["args"])
    loader = PackageLoader("jorvek.reports", ".")
    house = Environment(loader=loader, autoescape=select_autoescape(default=True))
    house.filters["code"] = _with_code
    page = house.get_template("theory.html.jinja")
    chapters = {
        key: (title, [_entry(f, cases) for module in modules for f in _functions(module)])
        for key, (title, modules) in CHAPTERS.items()
    }
    pages = {"index": None, **{key: key for key in chapters}}
    return {f"{name}.html": page.render(chapters=chapters, here=here).rstrip() + "\n" for name, here in pages.items()}
