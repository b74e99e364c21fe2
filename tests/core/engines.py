"""Engines, sheets and grounds for the tests of the engine as a whole."""

from __future__ import annotations

from jorvek.core.engine.layout import Engine, joints_of
from jorvek.core.procedure.metal_parts import Condition
from jorvek.core.sheet.access import Ground, Stand
from jorvek.core.sheet.default import default_sheet
from jorvek.core.sheet.document import EngineSheet, Unless
from jorvek.documents.yaml_reader import read_model, read_yaml
from jorvek.settings import ROOT


def engine(name: str) -> Engine:
    """An engine of the made-up world."""
    return read_model(read_yaml((ROOT / "world" / "engines" / f"{name}.yaml").read_bytes()), Engine)


UNIT_2, UNIT_5, GREY_PLOVER = engine("unit-2"), engine("unit-5"), engine("grey-plover")
ENGINES = (UNIT_2, UNIT_5, GREY_PLOVER)


def ground(
    of: Engine, sheet: EngineSheet | None = None, idle: frozenset[Unless] = frozenset(), **stands: Condition
) -> Ground:
    """An engine closed up, but for the joints that are named: ``head_4="open"``."""
    sheet = sheet or default_sheet(of)
    found = {p.key: sheet.ladders[p.kind].undone[0] for p in joints_of(of, sheet.joints)}
    found |= {key.replace("_", "-"): condition for key, condition in stands.items()}
    return Ground(of, sheet, {key: Stand(frozenset({c})) for key, c in found.items()}, idle)
