"""Every described request, drawn by chance from its own description, and what is wrong with the answers."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from typing import Any
from uuid import UUID

import schemathesis
from fastapi import FastAPI
from hypothesis import HealthCheck, given, seed, settings
from schemathesis.specs.openapi.checks import positive_data_acceptance

from jorvek.work.workshop import Workshop

UNENDING = "/api/live"
"""A stream without an end; it has tests of its own."""
SIGNED_OUT = 401


def described(app: FastAPI) -> set[str]:
    """Return every operation of the description but the unending one."""
    paths = app.openapi()["paths"].items()
    return {f"{method.upper()} {path}" for path, item in paths for method in item if path != UNENDING}


@dataclass
class Tried:
    """What came of it.

    Attributes:
        answered: how often each operation was answered with each status.
        failures: what was wrong, an operation each.
    """

    answered: dict[str, Counter[int]] = field(default_factory=dict)
    failures: list[str] = field(default_factory=list)

    def with_status(self, status: int) -> int:
        """Return how many were answered so."""
        return sum(counted[status] for counted in self.answered.values())


ORIGIN = {"Origin": "http://testserver"}
"""Every browser says so with what changes something."""


def try_everything(
    app: FastAPI, sign_in: Callable[[], str], known: Mapping[str, str], examples: int, chance: int = 0
) -> Tried:
    """Send so many requests of every sort; every second one asks for what is there.

    That something well formed is refused is no fault here: what a rule forbids no description of a form can tell.

    Args:
        app: the application, its life begun.
        sign_in: gives the cookie of somebody who may do everything; asked again once a session has ended, as the
            operations that end sessions make it.
        known: what stands in paths, by its name there: a run, an engine, a tool that this place knows.
        examples: how many of each operation at the most.
        chance: where chance begins.
    """
    found, session = Tried(), [sign_in()]
    schema = schemathesis.openapi.from_asgi("/api/openapi.json", app).exclude(path=UNENDING)
    # An error is a failure of its own. In the order of the program, not of the file: PINs that chance makes up are
    # tried after everything that ends a session, for enough of them shut the address out.
    operations = [result.ok() for result in schema.get_all_operations()]  # type: ignore[union-attr]
    order = list(app.openapi()["paths"])
    for operation in sorted(operations, key=lambda one: order.index(one.path)):
        found.answered[operation.label] = Counter()

        @seed(chance)
        @settings(max_examples=examples, deadline=None, database=None, suppress_health_check=list(HealthCheck))
        @given(case=operation.as_strategy())
        def run(case: Any) -> None:
            if case.path_parameters and found.answered[case.operation.label].total() % 2 == 1:
                case.path_parameters.update({k: v for k, v in known.items() if k in case.path_parameters})
            cookies = {"jorvek_session": session[0]}
            answer = case.call_and_validate(cookies=cookies, headers=ORIGIN, excluded_checks=[positive_data_acceptance])
            found.answered[case.operation.label][answer.status_code] += 1
            if answer.status_code == SIGNED_OUT:
                session[0] = sign_in()

        try:
            run()
        except (Exception, BaseExceptionGroup) as error:  # every finding of every operation is wanted
            found.failures.append(f"{operation.label}: {error}")
    return found


def known_places(shop: Workshop, run_id: UUID) -> dict[str, str]:
    """Return what may stand in a path of a place that is at work.

    Without an overhaul: each of its dossiers is printed by a program of its own, which takes longer than all the rest.
    """
    return {
        "run_id": str(run_id),
        "engine_id": "unit-2",
        "tool_id": shop.registers.tools()[0].id,
        "digest": shop.registers.revisions()[0].hash,
        "question": "torque",
    }
