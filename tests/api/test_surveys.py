"""Strip sheet and gates over the web, and what a start asks for: variant, options, neighbours."""

from __future__ import annotations

from typing import Any
from uuid import uuid4

from jorvek.core.run.log import events as ev
from jorvek.core.run.log.cells import InputType
from jorvek.core.run.rules.progress import next_call
from jorvek.local.demo import DEMO_PIN, actor
from tests.api.conftest import SignedIn
from tests.api.test_web import problem
from tests.conftest import World


def digest_of(signed_in: SignedIn, name: str) -> str:
    listed = signed_in("Bram Okafor").get("/api/procedures").json()
    return str(next(p["hash"] for p in listed if p["id"] == name))


def test_release_pressures_stand_against_last_time_and_against_tightening(world: World, signed_in: SignedIn) -> None:
    bram = signed_in("Bram Okafor")
    assert bram.get("/api/strips").json() == {"engines": [], "engine": None, "sheets": [], "older": False}
    for name in ("ulvane-5x46-main-loosen", "ulvane-5x46-main-tighten"):
        player = world.player("Lio Sandvik")
        player.start("grey-plover", "main-3", digest_of(signed_in, name))
        ines = actor(world.workshop, "Ines Halloran")
        while (call := next_call(player.play())) is not None:
            assert call.ask is InputType.SIGNATURE
            player.sign(ines, DEMO_PIN)
        player.close(ines)
        world.clock.forward(86_400)
    again = world.player("Lio Sandvik", seed=5)
    again.start("grey-plover", "main-3", digest_of(signed_in, "ulvane-5x46-main-loosen"))
    state = again.play(lambda cell: cell.key == "free/free/E")
    again.answer(state.definition.by_key["free/free/E"], ev.ValueAnswer(text="600", unit="bar"))
    now, before = signed_in("Bram Okafor").get("/api/strips").json()["sheets"]
    assert (now["joint"], now["expected_bar"], now["ceiling_bar"]) == ("Main 3", 812.0, 950.0)
    c, e = now["nuts"]
    assert (e["free_bar"], e["tight_bar"], e["standing"]) == (600.0, 580.0, "low")
    assert c["standing"] == "ok"
    assert c["last_bar"] == before["nuts"][0]["free_bar"]
    assert c["tightened_bar"] is not None
    assert 780 <= c["tightened_bar"] <= 820
    assert before["nuts"][0]["last_bar"] is None
    newest = signed_in("Bram Okafor").get("/api/strips", params={"most": 1}).json()
    assert newest["sheets"] == [now], "what came before stands beside it, shown or not"
    assert newest["older"] is True


def test_gates_stand_along_the_engine_with_what_they_chose(world: World, signed_in: SignedIn) -> None:
    player = world.player("Bram Okafor")
    player.start("unit-5", "head-a", digest_of(signed_in, "corvane-v10-head-tighten"), {"tool": "bar"})
    player.play(lambda cell: cell.kind == "close_item")
    fit = world.player("Bram Okafor")
    fit.start("unit-2", "liner-2", digest_of(signed_in, "tarnholt-7l34-liner-fit"))
    fit.play(lambda cell: cell.kind == "no_return")
    bram = signed_in("Bram Okafor")
    newest = bram.get("/api/gates").json()
    assert newest["along"]["engine"] == "Unit 2", "the engine last worked on"
    assert [e["name"] for e in newest["engines"]] == ["Unit 2", "Unit 5"]
    assert bram.get("/api/gates?engine=grey-plover").json()["along"]["gates"] == []
    by_engine = {e: bram.get(f"/api/gates?engine={e}").json()["along"]["gates"] for e in ("unit-2", "unit-5")}
    (protrusion,) = by_engine["unit-5"]
    assert protrusion["part"] == "two notches"
    assert [p["value"] is not None for p in protrusion["points"]] == [True] * 5
    stand_out = next(g for g in by_engine["unit-2"] if g["measure"] == "stand_out")
    assert (stand_out["lower"], stand_out["upper"], stand_out["slot"]) == (0.05, 0.15, 1.0)
    assert stand_out["figures"][0]["label"] == "within"


def test_a_start_asks_what_decides_the_numbers_and_keeps_a_neighbour_shut(world: World, signed_in: SignedIn) -> None:
    bram = signed_in("Bram Okafor")
    world.found("unit-5", head_a="open", girdle_all="open")

    def start(joint: str, name: str, engine: str = "unit-5", **more: Any) -> tuple[int, str]:
        body = {"id": str(uuid4()), "run_id": str(uuid4()), "engine_id": engine, "joint_key": joint}
        body |= {"procedure_hash": digest_of(signed_in, name), **more}
        answer = bram.post("/api/runs", json=body)
        return (answer.status_code, "") if answer.status_code < 400 else problem(answer)

    head = "corvane-v10-head-tighten"
    seen = [{"key": "gasket", "value": "layered steel M", "evidence": "Letter on the tab"}]
    bolts = {"key": "bolts", "value": "aftermarket studs", "evidence": "Mark on the heads"}
    assert start("head-a", head) == (422, "refusal.variant_not_observed")
    assert start("head-a", head, observed=[*seen, bolts]) == (422, "refusal.variant_does_not_match")
    good = [*seen, {**bolts, "value": "as built"}]
    assert start("head-a", head, observed=good) == (422, "refusal.option_open")
    assert start("head-a", head, observed=good, selection={"tool": "teeth"}) == (422, "refusal.options_at_odds")
    assert start("head-a", head, observed=good, selection={"tool": "bar"}) == (200, "")
    main = "corvane-v10-main-loosen"
    assert start("main-2", main) == (200, "")
    assert start("main-3", main) == (409, "refusal.access_under_way")
    assert start("main-4", main) == (200, "")
