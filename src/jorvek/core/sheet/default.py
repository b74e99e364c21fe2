"""The sheet of an engine that has none: by its layout, on the cautious side."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any, Final

from jorvek.core.engine.layout import Engine, JointKind
from jorvek.core.procedure.metal_parts import LADDERS, Condition
from jorvek.core.sheet.document import SHEET_FORMAT, EngineSheet

DEFAULT_ID: Final = "default-by-layout"
_HEAD_ON: Final = ["closed_up", "tight", "loose", "landed"]
_SHUT: Final = ["closed_up", "tight"]


def default_sheet(engine: Engine) -> EngineSheet:
    """Return the sheet that serves an engine without one of its own."""
    return EngineSheet.model_validate(
        {
            "format": SHEET_FORMAT,
            "id": DEFAULT_ID,
            "title": "Default by layout",
            "revision": "A",
            "author": "Jorvek",
            "source": {"document": "Common practice", "section": "by layout", "issued": "2026-11-28"},
            "engine_type": engine.type,
            "ladders": {kind.value: ladder_of(kind) for kind in JointKind},
            "never": list(_never(engine)),
            "needs": list(_needs(engine)),
            "crank": {
                "cycle": "360 deg" if engine.crossheads else "720 deg",
                "ways": ["ahead", "astern"],
                "turn": "4 min",
                "prepare": "15 min",
                "moves_with": list(_moves_with(engine)),
            },
            "isolations": [
                {"point": point, "text": text, "locks": locks, "for_test": point in _FOR_TEST}
                for point, text, locks in _POINTS
            ],
            "restore": [point for point, _, _ in _POINTS],
            "after_shutdown": "30 min",
            "after_alarm": "60 min",
            "running_in": [{"id": i, "after": after, "text": text} for i, after, text in _RUNNING_IN],
        }
    )


def ladder_of(kind: JointKind) -> dict[str, list[Condition]]:
    """Return the usual ladder of a kind of joint."""
    known = LADDERS[kind]
    if kind is JointKind.LINER:
        return {"undone": ["landed", "open"], "put_back": ["open", "landed"]}
    undone: tuple[Condition, ...] = ("closed_up", "tight", "loose", "open")
    put_back: tuple[Condition, ...] = ("open", "landed" if "landed" in known else "loose", "tight", "closed_up")
    return {"undone": [c for c in undone if c in known], "put_back": [c for c in put_back if c in known]}


def _never(engine: Engine) -> Iterator[dict[str, Any]]:
    yield {
        "id": "neighbouring-mains",
        "one": {"joint": "main", "in": ["loose", "open"]},
        "other": {"joint": "main", "in": ["loose", "open"]},
        "of": "beside",
        "unless": ["inverted", "crank_supported"],
        "reason": "The crank hangs in its bearings; between two open neighbours it sags and bends",
        "hurts": True,
    }
    yield {
        "id": "liner-under-head",
        "one": {"joint": "liner", "in": ["open"]},
        "other": {"joint": "head", "in": _HEAD_ON},
        "of": "same_cylinder",
        "reason": "A head that is on holds the liner down, and closes over nothing where the liner is out",
        "hurts": True,
    }


def _needs(engine: Engine) -> Iterator[dict[str, Any]]:
    yield {
        "id": "liner-without-head",
        "work": {"joint": "liner"},
        "other": {"joint": "head", "in": ["open"]},
        "of": "same_cylinder",
        "reason": "A liner is neither drawn, fitted nor measured under its head",
    }
    yield {
        "id": "gates-before-head",
        "work": {"joint": "head", "leaves": ["landed", "tight", "closed_up"]},
        "other": {"joint": "liner", "in": ["landed"]},
        "of": "same_cylinder",
        "gates": True,
        "reason": "The head of a liner whose gate failed stays off; closing up waits for the gates",
    }
    if not engine.crossheads:
        yield {
            "id": "piston-under-head",
            "work": {"joint": "rod", "chosen": {"piston": ["out", "in"]}},
            "other": {"joint": "head", "in": ["open"]},
            "of": "same_cylinder",
            "reason": "The piston is drawn and comes back through the open cylinder",
            "hurts": True,
        }
        yield {
            "id": "liner-without-piston",
            "work": {"joint": "liner", "begins": ["landed"]},
            "other": {"joint": "rod", "in": ["open"]},
            "of": "same_cylinder",
            "reason": "The liner is drawn once rod and piston are out of it",
            "hurts": True,
        }

        yield {
            "id": "rod-into-liner",
            "work": {"joint": "rod", "leaves": _SHUT},
            "other": {"joint": "liner", "in": ["landed"]},
            "of": "same_cylinder",
            "reason": "The piston goes back into a liner that is home",
            "hurts": True,
        }


def _moves_with(engine: Engine) -> Iterator[str]:
    yield "camshaft, valves and fuel pumps of all cylinders"
    yield "attached pumps and balancers"
    yield "shaft and propeller" if engine.crossheads else "the alternator's rotor"


_FOR_TEST: Final = ("coolant", "prelube", "turning_gear", "valve_gear", "air_springs")
"""What may be lifted for a test; what could start or feed the engine never is."""
_POINTS: Final = (
    ("people", "Everybody out by name, tools and rags counted", False),
    ("doors", "Crankcase doors", False),
    ("coolant", "Coolant shut and drained below the joint", True),
    ("fuel", "Fuel and fuel rail shut and drained", True),
    ("gas", "Gas shut, blanked and vented", True),
    ("prelube", "Lubricating oil and prelube pump off", True),
    ("barred", "Barred two turns with the cocks open", False),
    ("turning_gear", "Turning gear engaged, its supply locked", True),
    ("generator_breaker", "Generator breaker racked out and earthed", True),
    ("remote_start", "Remote start off, batteries isolated", True),
    ("valve_gear", "Hydraulic valve gear and accumulators without pressure", True),
    ("air_springs", "Air springs of the exhaust valves vented", True),
    ("backflow", "Common exhaust, vent and fuel return blanked towards running neighbours", True),
    ("starting_air", "Starting air and its distributor line shut and vented", True),
    ("blown_through", "Blown through on air", False),
    ("cocks", "Indicator cocks open", False),
    ("signs", "Signs at the desk and at the engine", False),
)
_RUNNING_IN: Final = (
    ("five-minutes", "5 min", "Stopped; bearings and covers felt over by hand against their neighbours"),
    ("one-hour", "1 h", "Stopped; felt over again, oil filter looked at for metal"),
    ("one-shift", "8 h", "Stopped and cold; temperatures, leaks, oil filter once more"),
)
