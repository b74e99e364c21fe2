"""Every role against every command and every route: what is refused writes nothing."""

from __future__ import annotations

from collections.abc import Callable
from uuid import uuid4

import pytest
import sqlalchemy as sa
from fastapi.testclient import TestClient
from pydantic import TypeAdapter

from jorvek.core.refusal import Refusal
from jorvek.core.rights import RIGHTS, Act, Role
from jorvek.core.run.log.commands import Command
from jorvek.core.run.log.events import FeelerAnswer
from jorvek.core.run.rules.progress import next_call
from jorvek.local.demo import DEMO_PIN, actor
from jorvek.store import tables as t
from jorvek.work.library import revisions
from jorvek.work.people import accounts
from jorvek.work.runs import acts
from tests.conftest import PROCEDURE, World

COMMAND: TypeAdapter[Command] = TypeAdapter(Command)
NAMES = {
    Role.CHIEF: "Ines Halloran",
    Role.LEAD_HAND: "Bram Okafor",
    Role.MECHANIC: "Lio Sandvik",
    Role.AUTHOR: "Anneke Ruhl",
    Role.TRAINEE: "Tam Pereira",
    Role.KEEPER: "Mira Osei",
}


def footprint(world: World) -> list[tuple[str, int]]:
    """Count the rows of every table but the sessions, and but the site log, which takes in by itself meanwhile."""
    with world.workshop.database.reading() as connection:
        tables = [table for table in t.metadata.sorted_tables if not table.name.startswith(("session", "site_"))]
        return [(x.name, connection.execute(sa.select(sa.func.count()).select_from(x)).scalar_one()) for x in tables]


@pytest.fixture
def crew(world: World) -> World:
    accounts.add_person(world.workshop, NAMES[Role.KEEPER], Role.KEEPER, DEMO_PIN)
    return world


COMMANDS: dict[str, tuple[Act, dict[str, object]]] = {
    "record": (Act.RECORD, {"cell": "second/feeler/2", "attempt": 1, "answer": {"type": "feeler", "enters": False}}),
    "key_in": (
        Act.RECORD,
        {
            "cell": "second/feeler/2",
            "attempt": 1,
            "text": "n",
            "written_by": "00000000-0000-4000-8000-000000000000",
            "written_at": "2026-11-23T08:30:00Z",
        },
    ),
    "strike": (Act.RECORD, {"cell": "second/feeler/1", "attempt": 1}),
    "accept": (Act.ACCEPT, {"cell": "second/feeler/1", "attempt": 1, "reason": "seen"}),
    "reject_fastener": (
        Act.ACCEPT,
        {"cell": "second/feeler/1", "attempt": 1, "piece": "S-9", "reason": "seen"},
    ),
    "try_pressure": (Act.RECORD, {"step": "free", "text": "800", "unit": "bar"}),
    "report_stuck": (Act.RECORD, {"cell": "second/feeler/2", "gap": True}),
    "decide_stuck": (Act.ACCEPT, {"stuck": 3, "words": "seen"}),
    "redo": (
        Act.RECORD,
        {"cell": "second/feeler/1", "cells": ["second/nut/1", "second/lowest", "second/feeler/1"], "reason": "again"},
    ),
    "note": (Act.RECORD, {"text": "x"}),
    "give_reason": (Act.RECORD, {"cell": "second/feeler/1", "attempt": 1, "reason": "x"}),
    "raise_trouble": (Act.RECORD, {"cell": "second/feeler/1", "what": "dirt"}),
    "end_trouble": (Act.RECORD, {"trouble": 1, "how": "fixed", "words": "x"}),
    "answer_age": (Act.RECORD, {"step": "prepare", "good": True, "words": "x"}),
    "out_of_turn": (Act.ACCEPT, {"cell": "second/feeler/3", "reason": "x"}),
    "name_cause": (Act.RECORD, {"cell": "second/feeler/1", "cause": "x"}),
    "answer_sister": (Act.RECORD, {"asked": 1, "found_too": False, "words": "x"}),
    "take_part": (Act.RECORD, {"fasteners": ["1"]}),
    "add_photo": (Act.RECORD, {"cell": "second/feeler/1", "photo": "0" * 64}),
    "settle_claim": (Act.ACCEPT, {"claim": 1, "take": True}),
    "pause": (Act.RECORD, {}),
    "take_over": (Act.RECORD, {}),
    "close": (Act.CLOSE_RUN, {}),
}


def test_every_command_has_its_right_here() -> None:
    union = COMMAND.json_schema()["discriminator"]["mapping"]
    assert set(COMMANDS) == set(union)


@pytest.mark.parametrize("role", list(Role))
def test_a_role_does_what_it_may_and_nothing_else(crew: World, role: Role) -> None:
    player = crew.started("Dessa Marlow")
    state = player.play(lambda cell: cell.key == "second/feeler/1")
    from_feeler = next_call(state)
    assert from_feeler is not None
    player.answer(from_feeler, FeelerAnswer(enters=True))
    who = actor(crew.workshop, NAMES[role])
    for kind, (act, rest) in COMMANDS.items():
        command = COMMAND.validate_python({"kind": kind, "id": str(uuid4()), **rest})
        before = footprint(crew)
        try:
            acts.act(crew.workshop, who, player.run_id, command)
        except Refusal as refusal:
            assert footprint(crew) == before
            allowed = role in RIGHTS[act]
            assert (refusal.code == "not_your_right") is not allowed, (kind, refusal.code)
        else:
            assert role in RIGHTS[act], kind


@pytest.mark.parametrize("role", list(Role))
def test_library_and_register_are_kept_by_those_who_may(crew: World, role: Role) -> None:
    who, shop = actor(crew.workshop, NAMES[role]), crew.workshop
    text = PROCEDURE.read_text()
    may_do: dict[Act, Callable[[], object]] = {
        Act.IMPORT_PROCEDURE: lambda: revisions.import_procedure(
            shop, who, text.replace("revision: E", "revision: F").encode()
        ),
        Act.APPROVE_PROCEDURE: lambda: revisions.approve(shop, who, crew.procedure),
        Act.KEEP_REGISTER: lambda: revisions.add_tool(
            shop, who, (PROCEDURE.parents[1] / "world/tools/pg-12.yaml").read_text().replace("PG-12", "PG-99").encode()
        ),
        Act.START_RUN: lambda: acts.start_run(
            shop,
            who,
            acts.StartRun(
                id=uuid4(), run_id=uuid4(), engine_id="unit-2", joint_key="head-1", procedure_hash=crew.procedure
            ),
        ),
    }
    for act, do in may_do.items():
        before = footprint(crew)
        try:
            do()
        except Refusal as refusal:
            assert footprint(crew) == before
            assert (refusal.code == "not_your_right") is not (role in RIGHTS[act])
        else:
            assert role in RIGHTS[act]


def test_nobody_approves_what_they_wrote_or_brought_in(crew: World) -> None:
    shop, chief = crew.workshop, actor(crew.workshop, "Ines Halloran")
    text = PROCEDURE.read_text().replace("revision: E", "revision: F")
    digest = revisions.import_procedure(shop, chief, text.encode())
    with pytest.raises(Refusal) as refused:
        revisions.approve(shop, chief, digest)
    assert refused.value.code == "own_procedure"
    with pytest.raises(Refusal) as refused:
        revisions.import_procedure(shop, chief, text.encode())
    assert refused.value.code == "revision_known"
    with pytest.raises(Refusal) as refused:
        revisions.import_procedure(shop, chief, text.replace("1000 bar", "990 bar").encode())
    assert refused.value.code == "revision_taken"
    draft = acts.StartRun(id=uuid4(), run_id=uuid4(), engine_id="unit-2", joint_key="head-1", procedure_hash=digest)
    with pytest.raises(Refusal) as refused:
        acts.start_run(shop, chief, draft)
    assert refused.value.code == "not_approved"


OPEN_TO_ALL = {
    "/api/people",
    "/api/session",
    "/api/health",
    "/api/format/procedure.schema.json",
    "/api/format/engine-sheet.schema.json",
    "/api/format/plan-problem.schema.json",
    "/api/format/plan.schema.json",
}


def test_every_other_route_needs_a_session(crew: World, nobody: TestClient) -> None:
    described = nobody.get("/api/openapi.json").json()["paths"]
    before = footprint(crew)
    seen = 0
    for path, item in described.items():
        for method in item:
            address = path.replace("{run_id}", str(uuid4())).replace("{digest}", "0" * 64).replace("{photo}", "0" * 64)
            answer = nobody.request(method.upper(), address + "?cell=x", json={})
            if path in OPEN_TO_ALL:
                assert answer.status_code != 401
            else:
                assert answer.status_code == 401, (method, path, answer.text)
                seen += 1
    assert seen >= 10
    assert footprint(crew) == before
