"""Whether a procedure may be started by its own terms, variant and options, and where tools sit on an engine."""

from __future__ import annotations

import re
from uuid import UUID

from jorvek.core.engine.layout import Engine
from jorvek.core.procedure.document import Procedure
from jorvek.core.procedure.options import Selection, selections
from jorvek.core.refusal import Refusal
from jorvek.core.run.log.events import Observed
from jorvek.core.run.rules.progress import DebtKind, debts
from jorvek.work.workshop import Workshop


def demand_variant(procedure: Procedure, engine: Engine, observed: tuple[Observed, ...]) -> None:
    """Refuse a start unless every key that decides the numbers was observed and is one they hold for.

    Raises:
        Refusal: ``variant_not_observed``, ``variant_does_not_match``.
    """
    found = {one.key: one.value for one in observed}
    for key in procedure.variants:
        value = found.get(key.id)
        if value is None:
            raise Refusal("variant_not_observed", title=key.title, evidence=key.evidence)
        if key.serials is not None:
            digits = re.findall(r"\d+", engine.serial if value == engine.serial else value)
            good = bool(digits) and key.serials.first <= int(digits[-1]) <= key.serials.last
            allowed = f"{key.serials.first} – {key.serials.last}"
        else:
            good, allowed = value in key.values, ", ".join(key.values)
        if not good:
            raise Refusal("variant_does_not_match", title=key.title, got=value, allowed=allowed)


def demand_selection(procedure: Procedure, chosen: Selection) -> Selection:
    """Return the choice of options, whole and possible.

    Raises:
        Refusal: ``option_open`` naming the option, ``options_at_odds``.
    """
    for option in procedure.options:
        if option.id not in chosen:
            raise Refusal("option_open", title=option.title)
    if chosen and chosen not in selections(procedure):
        raise Refusal("options_at_odds", title=procedure.title)
    return chosen


def tools_on_elsewhere(workshop: Workshop, engine_id: str, run_id: UUID) -> tuple[str, ...]:
    """Return the joints of an engine, but for one run's, on which a tool sits on a stud now."""
    found: list[str] = []
    for row in workshop.registers.runs(engine_id):
        if not row.open or row.id == run_id:
            continue
        state = workshop.log.snapshot(row.id).state
        if any(debt.kind is DebtKind.TOOL_ON for debt in debts(state)):
            found.append(state.started.joint_label)
    return tuple(found)
