"""The engine's page, engine sheets and tools over HTTP."""

from __future__ import annotations

from datetime import datetime, timedelta
from typing import Any
from uuid import uuid4

import pytest
import yaml

from jorvek.core.refusal import Refusal
from jorvek.settings import ROOT
from jorvek.work.engine import page as page_of_engine
from tests.api.conftest import SignedIn
from tests.conftest import World

SHEET = (ROOT / "sheets" / "tarnholt-7l34.yaml").read_text()


def problem(answer: Any) -> tuple[int, str]:
    return answer.status_code, answer.json()["code"]


def opened(client: Any, engine: str = "unit-4", **more: Any) -> dict[str, Any]:
    body = {"id": str(uuid4()), "overhaul_id": str(uuid4()), "engine_id": engine, "title": "Outage", **more}
    answer = client.post("/api/overhauls", json=body)
    assert answer.status_code == 200, answer.text
    page: dict[str, Any] = answer.json()
    return page


def told(client: Any, page: dict[str, Any], **command: Any) -> Any:
    path = f"/api/overhauls/{page['overhaul']['overhaul_id']}/commands"
    return client.post(path, json={"command": {"id": str(uuid4()), **command}})


def test_an_engines_page_says_how_every_joint_stands_and_what_is_next(world: World, signed_in: SignedIn) -> None:
    bram = signed_in("Bram Okafor")
    bare = bram.get("/api/engines/unit-4").json()
    assert bare["overhaul"] is None
    assert bare["may_lead"]
    page = opened(bram, scope=["head-4", "main-3"], as_it_ran=True)
    whole = page["overhaul"]
    assert {j["condition"] for j in whole["joints"] if not j["key"].startswith("liner")} == {"closed_up"}
    assert whole["next"] == ["head-4", "main-3"]
    strip = next(e for e in bram.get("/api/berth").json()["engines"] if e["id"] == "unit-4")
    head = next(j for j in strip["joints"] if j["key"] == "head-4")
    assert [(o["id"].removeprefix("tarnholt-7l34-head-"), o["when"]) for o in head["offers"]] == [
        ("loosen", "now"),
        ("land", "later"),
        ("tighten", "later"),
        ("close", "later"),
    ], "in working order, never by the alphabet"
    assert not whole["default_sheet"]
    assert [p["state"] for p in whole["points"]] == ["open"] * len(whole["points"])
    assert problem(bram.get("/api/engines/unit-9")) == (404, "refusal.no_such_engine")


def test_when_the_engine_stopped_is_noted_and_nobody_goes_in_before_it_has_stood(
    world: World, signed_in: SignedIn
) -> None:
    bram, lio = signed_in("Bram Okafor"), signed_in("Lio Sandvik")
    page = opened(bram, as_it_ran=True)
    assert page["overhaul"]["stop"] is None, "nobody has said"
    told(bram, page, kind="isolate", point="turning_gear", lock="Lock 1")
    now = world.workshop.clock()
    at = (now - timedelta(minutes=20)).isoformat()
    after = told(lio, page, kind="note_stop", stopped_at=at, cause="mist_alarm").json()["overhaul"]
    assert (after["stop"]["cause"], after["stop"]["by"]) == ("mist_alarm", "Lio Sandvik")
    assert datetime.fromisoformat(after["stop"]["until_at"]) == datetime.fromisoformat(at) + timedelta(minutes=60)
    assert after["log"]["lines"][0]["kind"] == "engine_stopped"
    me = lio.get("/api/session").json()["id"]
    entry = {"space": "crankcase", "permit": "P", "attendant": "Tam", "oxygen_pct": 20.9, "gas_pct": 0, "person": me}
    refused = told(lio, page, kind="enter", **entry)
    assert problem(refused) == (409, "refusal.not_stood")
    assert "40 min" in refused.json()["detail"] or "41 min" in refused.json()["detail"]
    later = (now + timedelta(hours=1)).isoformat()
    assert problem(told(lio, page, kind="note_stop", stopped_at=later, cause="planned")) == (422, "refusal.stop_when")
    assert problem(told(lio, page, kind="note_stop", stopped_at=at, cause="bored")) == (422, "problem.malformed")


def test_a_command_is_answered_with_the_page_and_a_refused_one_changes_nothing(
    world: World, signed_in: SignedIn
) -> None:
    bram, lio = signed_in("Bram Okafor"), signed_in("Lio Sandvik")
    page = opened(bram, as_it_ran=True)
    after = told(bram, page, kind="isolate", point="turning_gear", lock="Lock 1").json()
    gear = next(p for p in after["overhaul"]["points"] if p["point"] == "turning_gear")
    assert (gear["state"], gear["by"], gear["lock"]) == ("isolated", "Bram Okafor", "Lock 1")
    assert problem(told(lio, page, kind="isolate", point="fuel")) == (403, "refusal.not_your_point")
    assert problem(told(bram, page, kind="isolate", point="turning_gear")) == (409, "refusal.isolated_already")
    assert problem(told(bram, page, kind="isolate", point="bilge")) == (422, "problem.malformed")
    assert problem(told(bram, page, kind="move_crank", to_deg="nan", way="ahead", commander="B", looked_at=["x"])) == (
        422,
        "problem.malformed",
    )
    me = lio.get("/api/session").json()["id"]
    entry = {"space": "crankcase", "permit": "P", "attendant": "Tam", "oxygen_pct": 18.0, "gas_pct": 0}
    assert problem(told(lio, page, kind="enter", person=me, **entry)) == (422, "refusal.air_not_good")
    seq = bram.get("/api/engines/unit-4").json()["overhaul"]["seq"]
    assert seq == after["overhaul"]["seq"], "what is refused writes nothing"
    missing = f"/api/overhauls/{uuid4()}/commands"
    remark = {"command": {"id": str(uuid4()), "kind": "remark", "words": "Hello"}}
    assert problem(bram.post(missing, json=remark)) == (404, "refusal.no_such_overhaul")


def test_what_is_stored_is_answered_as_stored_though_the_engine_cannot_be_shown(
    world: World, signed_in: SignedIn, monkeypatch: pytest.MonkeyPatch
) -> None:
    bram = signed_in("Bram Okafor")
    page = opened(bram, as_it_ran=True)

    def broken(*_: object) -> None:
        raise Refusal("E_DATA", name="sheet", why="made for the test")

    monkeypatch.setattr(page_of_engine, "engine_view", broken)
    answer = told(bram, page, kind="isolate", point="fuel")
    assert answer.status_code == 200
    assert (answer.json()["overhaul"], answer.json()["fault"]) == (None, "Refusal")
    monkeypatch.undo()
    whole = bram.get("/api/engines/unit-4").json()
    assert whole["fault"] is None
    assert next(p for p in whole["overhaul"]["points"] if p["point"] == "fuel")["state"] == "isolated"


def test_a_sheet_is_brought_in_approved_by_another_and_goes_into_the_next_overhaul(
    world: World, signed_in: SignedIn
) -> None:
    anneke, ines, bram = signed_in("Anneke Ruhl"), signed_in("Ines Halloran"), signed_in("Bram Okafor")
    text = SHEET.replace("revision: C", "revision: D").replace("hurts: true", "hurts: false")
    assert problem(bram.post("/api/sheets", json={"document": text})) == (403, "refusal.not_your_right")
    assert problem(anneke.post("/api/sheets", json={"document": SHEET})) == (409, "refusal.sheet_known")
    digest = anneke.post("/api/sheets", json={"document": text}).json()["hash"]
    assert problem(anneke.post(f"/api/sheets/{digest}/approve")) == (403, "refusal.not_your_right")
    other = SHEET.replace("revision: C", "revision: D")
    assert problem(anneke.post("/api/sheets", json={"document": other})) == (409, "refusal.revision_taken")
    before = opened(bram, "unit-4", as_it_ran=True)
    assert ines.post(f"/api/sheets/{digest}/approve").status_code == 204
    assert problem(ines.post(f"/api/sheets/{digest}/approve")) == (409, "refusal.not_a_draft")
    after = opened(bram, "unit-2", as_it_ran=True)
    sheets = {s["revision"]: s["status"] for s in bram.get("/api/sheets").json() if s["id"] == "tarnholt-7l34"}
    assert sheets == {"C": "approved", "D": "approved"}
    revisions = [
        world.workshop.overhauls.snapshot(p["overhaul"]["overhaul_id"]).state.opened.sheet for p in (before, after)
    ]
    assert revisions[1] == digest
    assert revisions[0] != digest, "an open overhaul goes on by the sheet that it was opened with"
    assert ines.post(f"/api/sheets/{digest}/withdraw").status_code == 204
    assert problem(ines.post(f"/api/sheets/{digest}/withdraw")) == (409, "refusal.withdrawn_already")
    assert bram.get(f"/api/sheets/{digest}").json()["revision"] == "D"
    assert bram.get("/api/sheets/default/unit-5").json()["id"] == "default-by-layout"
    assert problem(bram.get(f"/api/sheets/{'0' * 64}")) == (404, "refusal.no_such_sheet")


def test_a_bad_sheet_is_refused_with_its_lines(world: World, signed_in: SignedIn) -> None:
    anneke = signed_in("Anneke Ruhl")

    def found(text: str) -> dict[int, str]:
        answer = anneke.post("/api/sheets", json={"document": text.replace("revision: C", "revision: E")})
        assert problem(answer) == (422, "problem.document_refused")
        return {f["line"]: f["message"] for f in answer.json()["findings"]}

    line = next(k for k, text in enumerate(SHEET.splitlines(), 1) if text.startswith("  head:"))
    loop = found(
        SHEET.replace("undone: [closed_up, tight, loose, open]", "undone: [closed_up, tight, loose, tight, open]", 1)
    )
    assert "stands twice" in loop[line]
    barred = found(
        SHEET.replace(
            "work: {joint: liner}\n    other: {joint: head, in: [open]}",
            "work: {joint: liner}\n    other: {joint: head, in: [tight]}",
        )
    )
    assert any("always stand in the way" in message or "can never begin" in message for message in barred.values())
    unknown = found(SHEET + "colour: green\n")
    assert len(SHEET.splitlines()) + 1 in unknown
    assert found("- not a sheet")
    assert found(yaml.safe_dump({**yaml.safe_load(SHEET), "engine_type": 7, "revision": "A"}))


def test_a_sheet_for_an_engine_type_that_nobody_has_is_no_sheet_here(world: World, signed_in: SignedIn) -> None:
    text = SHEET.replace("engine_type: Tarnholt 7L34", "engine_type: Tarnholt 9L34").replace(
        "revision: C", "revision: E"
    )
    assert problem(signed_in("Anneke Ruhl").post("/api/sheets", json={"document": text})) == (
        404,
        "refusal.no_such_engine",
    )


def test_a_tool_is_withdrawn_by_whoever_dropped_it_and_taken_back_by_the_keeper_or_the_chief(
    world: World, signed_in: SignedIn
) -> None:
    lio, ines = signed_in("Lio Sandvik"), signed_in("Ines Halloran")
    assert lio.post("/api/tools/HT-52/withdraw", json={"words": "Dropped"}).status_code == 204
    tool = next(t for t in lio.get("/api/tools").json() if t["id"] == "HT-52")
    assert (tool["withdrawn"], tool["withdrawn_by"], tool["place"]) == ("Dropped", "Lio Sandvik", None)
    assert problem(lio.post("/api/tools/HT-52/back", json={"words": "Fine"})) == (403, "refusal.not_your_right")
    assert ines.post("/api/tools/HT-52/back", json={"words": "Pressed to 1500 bar"}).status_code == 204
    assert lio.get("/api/tools/HT-52/touched").json() == []
    assert problem(lio.post("/api/tools/HT-99/withdraw", json={"words": "Lost"})) == (404, "refusal.no_such_tool")


def test_hours_are_entered_with_their_date_and_never_run_back(world: World, signed_in: SignedIn) -> None:
    lio = signed_in("Lio Sandvik")
    path = "/api/engines/unit-2/hours"
    assert lio.post(path, json={"hours": 18500.5, "on": "2026-11-23"}).status_code == 204
    assert problem(lio.post(path, json={"hours": 18500, "on": "2026-11-23"})) == (422, "refusal.hours_run_back")
    assert problem(lio.post(path, json={"hours": -1, "on": "2026-11-23"})) == (422, "problem.malformed")
    assert problem(lio.post("/api/engines/unit-9/hours", json={"hours": 1, "on": "2026-11-23"})) == (
        404,
        "refusal.no_such_engine",
    )
