"""The web: who may, what is answered, and that every error has one body."""

from __future__ import annotations

import csv
import io
import json
import os
import re
import subprocess
import sys
import threading
import time
from collections import Counter
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from uuid import UUID, uuid4

import httpx2 as httpx
import pytest
from fastapi.testclient import TestClient
from pypdf import PdfReader

from jorvek.api.app import create_app
from jorvek.core.rights import Role
from jorvek.core.run.log import events as ev
from jorvek.core.run.log.commands import GiveReason, Note, StrikeReading
from jorvek.local.demo import DEMO_PIN, actor
from jorvek.local.mariadb import free_port
from jorvek.local.player import Player
from jorvek.reports.table import csv_rows, read_csv
from jorvek.settings import ROOT
from jorvek.store.verify import verify
from jorvek.work.people.accounts import add_person, person_by_name
from jorvek.work.runs import exports, reading
from tests.api.conftest import SignedIn
from tests.api.whole_schema import ORIGIN, SIGNED_OUT, described, known_places, try_everything
from tests.conftest import World


def problem(answer: httpx.Response) -> tuple[int, str]:
    """Check the one error body and return its status and code."""
    assert answer.headers["content-type"] == "application/problem+json"
    body = answer.json()
    assert body["status"] == answer.status_code
    assert body["detail"]
    assert body["kept"]
    return answer.status_code, body["code"]


def command(kind: str, **rest: object) -> dict[str, object]:
    return {"command": {"kind": kind, "id": str(uuid4()), **rest}}


def tick(cell: str, attempt: int = 1) -> dict[str, object]:
    return command("record", cell=cell, attempt=attempt, answer={"type": "tick"})


def full_run(world: World) -> Player:
    """A run with a struck reading, a note and awkward words, played to its close."""
    player = world.started()
    state = player.play(lambda c: c.key == "length-before/length/3")
    cell = state.definition.by_key["length-before/length/3"]
    player.answer(cell, ev.ValueAnswer(text="612,127", unit="mm"))
    player.send(StrikeReading(kind="strike", id=uuid4(), cell=cell.key, attempt=1))
    reason = "=SUM(A1) <b>figures</b> swapped"
    player.send(GiveReason(kind="give_reason", id=uuid4(), cell=cell.key, attempt=1, reason=reason))
    player.send(Note(kind="note", id=uuid4(), text="<script>alert(1)</script> spacer 2 cleaned"))
    player.play()
    chief = actor(world.workshop, "Ines Halloran")
    player.sign(chief, DEMO_PIN)
    player.close(chief)
    return player


def test_nobody_gets_anything_but_the_list_of_names(nobody: TestClient) -> None:
    assert len(nobody.get("/api/people").json()) == 6
    assert nobody.get("/api/session").json() is None
    for path in ("/api/berth", "/api/runs", "/api/tools", "/api/procedures", "/api/live", f"/api/runs/{uuid4()}"):
        assert problem(nobody.get(path)) == (401, "problem.not_signed_in")


def test_errors_have_one_body_wherever_they_arise(signed_in: SignedIn) -> None:
    bram = signed_in("Bram Okafor")
    assert problem(bram.get("/api/nowhere")) == (404, "problem.not_found")
    assert problem(bram.get(f"/api/runs/{uuid4()}")) == (404, "refusal.no_such_run")
    assert problem(bram.get("/api/runs/none")) == (422, "problem.malformed")
    assert problem(bram.put("/api/berth")) == (405, "problem.method_not_allowed")
    assert problem(bram.post("/api/runs", content=b"{")) == (422, "problem.malformed")
    assert problem(bram.post("/api/runs", content=b"x" * 1_000_001)) == (413, "problem.too_large")
    foreign = {"origin": "https://elsewhere.example"}
    assert problem(bram.delete("/api/session", headers=foreign)) == (403, "problem.wrong_origin")
    assert "default-src 'self'" in bram.get("/api/berth").headers["content-security-policy"]


def test_wrong_pins_are_slowed_down_and_a_right_one_clears_them(world: World, nobody: TestClient) -> None:
    body = {"person_id": str(person_by_name(world.workshop, "Lio Sandvik").id), "pin": "000000"}
    for _ in range(5):
        assert problem(nobody.post("/api/session", json=body)) == (403, "refusal.pin_wrong")
    right = {**body, "pin": DEMO_PIN}
    assert problem(nobody.post("/api/session", json=right)) == (429, "refusal.pin_delay")
    world.clock.forward(31)
    answer = nobody.post("/api/session", json=right)
    assert answer.status_code == 200
    cookie = answer.headers["set-cookie"].lower()
    assert "httponly" in cookie
    assert "samesite=strict" in cookie
    assert nobody.get("/api/session").json()["name"] == "Lio Sandvik"
    nobody.delete("/api/session")
    assert nobody.get("/api/session").json() is None


def test_a_reading_is_posted_judged_and_shown_and_a_refused_one_writes_nothing(
    world: World, signed_in: SignedIn
) -> None:
    bram, anneke = signed_in("Bram Okafor"), signed_in("Anneke Ruhl")
    world.found("unit-2", head_4="landed")
    run_id = str(uuid4())
    start = {
        "id": str(uuid4()),
        "run_id": run_id,
        "engine_id": "unit-2",
        "joint_key": "head-4",
        "procedure_hash": world.procedure,
    }
    assert problem(anneke.post("/api/runs", json=start)) == (403, "refusal.not_your_right")
    wrong = {**start, "joint_key": "rod-4"}
    assert problem(bram.post("/api/runs", json=wrong)) == (422, "refusal.does_not_apply")
    assert bram.post("/api/runs", json=start).json()["view"]["status"] == "call"
    path = f"/api/runs/{run_id}/commands"
    view = bram.post(path, json=tick("prepare/landed")).json()["view"]
    assert (view["seq"], view["last"]["by"]) == (2, "Bram Okafor")
    refused = [
        (anneke.post(path, json=tick("prepare/threads")), (403, "refusal.not_your_right")),
        (bram.post(path, json=tick("prepare/landed")), (409, "refusal.cell_taken")),
        (bram.post(path, json=tick("seat/seat/1")), (409, "refusal.not_yet")),
        (bram.post(path, json=command("strike", cell="prepare/landed", attempt=2)), (404, "refusal.no_such_reading")),
        (bram.post(path, json=command("close")), (409, "refusal.not_complete")),
        (bram.post(path, json=command("dance")), (422, "problem.malformed")),
        (bram.post(path, json={**tick("prepare/threads"), "author": "Ines"}), (200, "")),
    ]
    for answer, expected in refused[:-1]:
        assert problem(answer) == expected
    assert bram.get(f"/api/runs/{run_id}").json()["view"]["seq"] == 3
    assert {s.event.author.name for s in world.workshop.log.stored(UUID(run_id))} == {"Bram Okafor"}


def test_a_signature_needs_the_pin_again(world: World, signed_in: SignedIn) -> None:
    player = world.started()
    player.play()
    ines, path = signed_in("Ines Halloran"), f"/api/runs/{player.run_id}/commands"
    sign = command("record", cell="chief-sees/sign", attempt=1, answer={"type": "signature"})
    assert problem(ines.post(path, json=sign)) == (403, "refusal.pin_needed")
    assert problem(ines.post(path, json={**sign, "pin": "111111"})) == (403, "refusal.pin_wrong")
    assert ines.post(path, json={**sign, "pin": DEMO_PIN}).json()["view"]["status"] == "complete"
    assert ines.get("/api/berth").json()["waiting"][0]["what"] == "close"


def test_somebody_else_signs_on_the_tablet_of_whoever_is_signed_in(world: World, signed_in: SignedIn) -> None:
    player = world.started("Lio Sandvik")
    player.play()
    lio, path = signed_in("Lio Sandvik"), f"/api/runs/{player.run_id}/commands"
    call = lio.get(f"/api/runs/{player.run_id}").json()["view"]["calls"][0]
    assert call["somebody_else"] == {"why": "rank", "rank": "chief"}
    able = lio.get(f"/api/runs/{player.run_id}/able", params={"cell": call["cell"]}).json()
    assert [one["name"] for one in able] == ["Ines Halloran"]

    sign = command("record", cell=call["cell"], attempt=1, answer={"type": "signature"})
    by = {**sign, "by": able[0]["id"]}
    assert problem(lio.post(path, json=by)) == (403, "refusal.pin_needed"), (
        "nobody acts in another's name without a PIN"
    )
    waited = {"batch": str(uuid4()), "saw": 1, "kept_s": 60}
    kept = {**by, "pin": DEMO_PIN, "late": waited}
    assert problem(lio.post(path, json=kept)) == (403, "refusal.pin_needed"), "no PIN waits on a tablet"
    assert problem(lio.post(path, json={**by, "pin": "111111"})) == (403, "refusal.pin_wrong")
    bram = next(p["id"] for p in lio.get("/api/people").json() if p["name"] == "Bram Okafor")
    assert problem(lio.post(path, json={**by, "by": bram, "pin": DEMO_PIN})) == (403, "refusal.not_your_signature")
    assert lio.post(path, json={**by, "pin": DEMO_PIN}).json()["view"]["status"] == "complete"

    signed = world.workshop.log.snapshot(player.run_id).state.live(call["cell"])
    assert signed is not None
    assert signed.by.name == "Ines Halloran"
    assert lio.get("/api/session").json()["name"] == "Lio Sandvik", "whoever was signed in still is"
    closing = {"command": {"kind": "close", "id": str(uuid4())}}
    assert problem(lio.post(path, json=closing)) == (403, "refusal.not_your_right")
    leads = [p["name"] for p in lio.get("/api/people", params={"may": "close_run"}).json()]
    assert leads == ["Bram Okafor", "Ines Halloran"]
    assert lio.post(path, json={**closing, "by": bram, "pin": DEMO_PIN}).json()["view"]["status"] == "closed"


def test_the_tools_of_a_call_say_what_bars_them_before_one_is_drawn(world: World, signed_in: SignedIn) -> None:
    player = world.started()
    player.play(lambda cell: cell.key == "tools/oil-gauge")
    client, params = signed_in("Lio Sandvik"), {"cell": "tools/oil-gauge"}
    listed = client.get(f"/api/runs/{player.run_id}/tools", params=params).json()
    first, *others = listed
    assert (first["unfit"], first["out_of_date"], first["withdrawn"]) == (None, False, None)
    assert {t["tool_class"] for t in listed} == {first["tool_class"]}
    assert any(t["unfit"] for t in others)
    assert problem(client.get(f"/api/runs/{player.run_id}/tools", params={"cell": "nothing"}))[0] == 404


def test_the_record_leaves_as_pdf_that_tells_everything(world: World, signed_in: SignedIn) -> None:
    player = full_run(world)
    client = signed_in("Ines Halloran")
    answer = client.get(f"/api/runs/{player.run_id}/record.pdf")
    assert answer.headers["content-type"] == "application/pdf"
    pages = PdfReader(io.BytesIO(answer.content)).pages
    text = "\n".join(page.extract_text() for page in pages)
    seal = world.workshop.log.snapshot(player.run_id).head_hash
    assert "612,127 mm" in text, "the struck value stays legible"
    assert re.search(r"crossed out by Bram Okafor.*figures.*swapped", text.replace("\n", " "))
    for number, page in enumerate(pages, 1):
        assert f"page {number} of {len(pages)}" in page.extract_text()
        assert seal in page.extract_text()
    for words in ("PG-12", "Signatures", "signed by Ines Halloran, chief", "Closed by Ines Halloran", "980 … 1020"):
        assert words in text, words
    assert "<script>" in text, "words of people are text, never markup"
    again = client.get(f"/api/runs/{player.run_id}/record.pdf").content
    assert again == answer.content


def test_the_table_and_the_export_read_back(world: World, signed_in: SignedIn) -> None:
    player = full_run(world)
    client = signed_in("Bram Okafor")
    text = client.get(f"/api/runs/{player.run_id}/record.csv").text
    record = reading.record(world.workshop, player.run_id)
    assert read_csv(text) == csv_rows(record)
    raw = list(csv.reader(io.StringIO(text)))
    assert not [cell for row in raw for cell in row if cell.startswith(("=", "+", "-", "@"))]
    struck = [row for row in read_csv(text) if row["struck_by"]]
    assert [(row["read"], row["struck_reason"][:8]) for row in struck] == [("612,127", "=SUM(A1)")]
    exported = client.get(f"/api/runs/{player.run_id}/record.json").json()
    assert exported == json.loads(exports.export_run(world.workshop, player.run_id).model_dump_json())


def test_a_name_with_markup_stays_a_name(world: World, signed_in: SignedIn) -> None:
    add_person(world.workshop, "<img src=x onerror=alert(1)>", Role.MECHANIC, DEMO_PIN)
    client = signed_in("<img src=x onerror=alert(1)>")
    player = world.player("<img src=x onerror=alert(1)>")
    player.start("unit-2", "head-5", world.procedure)
    text = PdfReader(io.BytesIO(client.get(f"/api/runs/{player.run_id}/record.pdf").content)).pages[0].extract_text()
    assert "onerror=alert(1)" in text.replace("\n", "")


@contextmanager
def serving(world: World) -> Iterator[tuple[subprocess.Popen[bytes], str]]:
    """Serve the world's database from a process of its own."""
    port = free_port()
    environment = {
        **os.environ,
        "PYTHONPATH": str(ROOT / "src"),
        "JORVEK_DATABASE_URL": world.url,
        "JORVEK_PORT": str(port),
        "JORVEK_WEB": "",
    }
    process = subprocess.Popen(
        [sys.executable, "-m", "tests.api.serve_alone"], cwd=ROOT, env=environment, stdout=subprocess.DEVNULL
    )
    address = f"http://127.0.0.1:{port}"
    until = time.monotonic() + 30
    while time.monotonic() < until:
        try:
            if httpx.get(f"{address}/api/health").status_code == 200:
                break
        except httpx.TransportError:
            time.sleep(0.05)
    try:
        yield process, address
    finally:
        process.kill()
        process.wait()


def sign_in(address: str, world: World, name: str) -> httpx.Client:
    client = httpx.Client(base_url=address, headers={"Origin": address}, timeout=10)
    person = person_by_name(world.workshop, name)
    assert client.post("/api/session", json={"person_id": str(person.id), "pin": DEMO_PIN}).status_code == 200
    return client


def test_killed_while_readings_are_posted_the_server_has_kept_each_acknowledged_one_once(world: World) -> None:
    player = world.started()
    acknowledged: list[str] = []
    unsure: list[dict[str, object]] = []
    path = f"/api/runs/{player.run_id}/commands"
    for enough in (12, 24):
        with serving(world) as (process, address):
            client = sign_in(address, world, "Bram Okafor")
            killer = threading.Thread(target=process.kill)
            for body in unsure:
                assert client.post(path, json=body).status_code == 200
                # The body was made a few lines above.
                acknowledged.append(str(body["command"]["id"]))  # type: ignore[index]  # the shape is asserted by the very use
            unsure = []
            while not unsure:
                # It falls while the next ones are posted, however long one takes here.
                if len(acknowledged) == enough:
                    killer.start()
                body = command("note", text="a reading")
                try:
                    answer = client.post(path, json=body)
                except httpx.TransportError:
                    unsure.append(body)
                else:
                    assert answer.status_code == 200
                    # The body was made a few lines above.
                    acknowledged.append(str(body["command"]["id"]))  # type: ignore[index]  # the shape is asserted by the very use
    stored = [str(s.event.id) for s in world.workshop.log.stored(player.run_id)]
    assert len(acknowledged) >= 24
    assert len(stored) == len(set(stored))
    assert set(acknowledged) <= set(stored)
    assert verify(world.workshop.database).alterations == ()


def test_a_second_process_hears_of_a_reading(world: World) -> None:
    player = world.started()
    with serving(world) as (_, first), serving(world) as (_, second):
        bram, lio = sign_in(first, world, "Bram Okafor"), sign_in(second, world, "Lio Sandvik")
        with lio.stream("GET", "/api/live") as stream:
            lines = stream.iter_lines()
            assert next(lines).startswith("retry")
            time.sleep(0.6)
            bram.post(f"/api/runs/{player.run_id}/commands", json=command("note", text="x"))
            heard = next(line for line in lines if line.startswith("data:"))
            assert json.loads(heard[5:]) == {"run_id": str(player.run_id), "seq": 2}


def test_the_database_going_away_gives_one_clear_answer(world: World, signed_in: SignedIn) -> None:
    bram = signed_in("Bram Okafor")
    world.workshop.database.engine.dispose()
    url = world.workshop.database.engine.url.set(port=free_port())
    object.__setattr__(world.workshop, "database", type(world.workshop.database)(str(url)))
    for name in ("registers", "log"):
        world.workshop.__dict__.pop(name, None)
    answer = bram.post(f"/api/runs/{uuid4()}/commands", json=tick("prepare/landed"))
    assert problem(answer) == (503, "problem.database_away")
    assert "still on your screen" in answer.json()["kept"]


def test_schemathesis_finds_nothing(world: World, signed_in: SignedIn) -> None:
    player = world.started()
    player.play(lambda cell: cell.step == "seat")
    app = create_app(world.workshop)
    with TestClient(app):
        known = known_places(world.workshop, player.run_id)
        tried = try_everything(app, lambda: signed_in("Ines Halloran").cookies["jorvek_session"], known, examples=8)
    assert tried.failures == []
    assert tried.answered.keys() == described(app)
    asked = sum(map(Counter.total, tried.answered.values()))
    assert tried.with_status(SIGNED_OUT) < asked / 20, "whoever asks is signed in, or nothing behind is tried"
    assert tried.with_status(404) < 0.6 * asked, "and asks for what is there"


def test_whoever_is_answered_is_answered_in_their_language(world: World, signed_in: SignedIn) -> None:
    player = full_run(world)
    ines = signed_in("Ines Halloran")
    path = f"/api/runs/{player.run_id}/record.pdf"

    def printed(**asked: str) -> str:
        return "".join(
            page.extract_text() for page in PdfReader(io.BytesIO(ines.get(path, params=asked).content)).pages
        )

    english, german = printed(), printed(language="de")
    assert "Scan to open this record" in english
    assert re.search(r"\d\.\d{3}\s*mm", english)
    assert re.search(r"\d,\d{3}\s*mm", german)
    assert not re.search(r"\d\.\d{3}\s*mm", german), "one decimal mark on a sheet"
    assert "Scannen, um dieses Protokoll" in german, "a sheet may be printed in another language than one's own"
    chosen = ines.put("/api/session/language", json={"language": "nb"})
    assert chosen.json()["language"] == "nb"
    assert ines.get("/api/session").json()["language"] == "nb"
    ines.cookies.set("jorvek_language", "nb")
    assert "Skann for å åpne" in printed()
    refused = ines.put("/api/session/language", json={"language": "xx"})
    assert refused.status_code == 422
    assert refused.json()["detail"].startswith("«xx» er ikke noe svar her")
    ines.cookies.clear()
    for accepted, word in (
        ("no-NO,no;q=0.9", "Ingen"),
        ("de-AT", "Niemand"),
        ("fr, es;q=0.5", "Nadie"),
        ("fr", "Nobody"),
    ):
        said = ines.get("/api/berth", headers={"Accept-Language": accepted}).json()["detail"]
        assert said.startswith(word)


def test_everything_that_has_a_name_is_found(world: World, signed_in: SignedIn) -> None:
    world.started("Bram Okafor").play(lambda cell: cell.key == "tools/oil-gauge")
    client = signed_in("Lio Sandvik")

    def found(words: str) -> list[tuple[str, str]]:
        hits = client.get("/api/search", params={"words": words}).json()
        return [(hit["kind"], hit["title"]) for hit in hits]

    assert found("") == []
    assert found("   ") == []
    assert found("nothing is called that") == []
    assert {kind for kind, _ in found("4")} >= {"engine", "joint", "run"}
    assert ("joint", "Unit 2 · Head 4") in found("HEAD unit 4")
    assert found("head 4")[0] == ("joint", "Unit 2 · Head 4"), "before all heads of an engine type with a 4 in its name"
    assert ("run", "Unit 2 · Head 4") in found("bram head 4")
    assert ("stud", "Unit 2 · Head 4 · 3") in found("unit 2 head 4 3")
    assert ("stud", "Unit 2 · Head 4 · 3") in found("stud 3 HEAD 4")
    for nothing in ("head 4", "unit 2 head 4", "5", "stud", "unit 2 head 4 99", "unit 2 head 3 1", "head 4 3 2"):
        assert "stud" not in {kind for kind, _ in found(nothing)}, f"no stud is named by {nothing!r}"
    assert [kind for kind, _ in found("pg-12")] == ["tool"]
    assert ("person", "Bram Okafor") in found("okafor")
    assert ("procedure", "Tarnholt 7L34 — cylinder head — tighten") in found("tighten 7l34 head")
    assert all(len([1 for kind, _ in found("1") if kind == wanted]) <= 6 for wanted in ("joint", "run", "tool"))


@pytest.mark.parametrize(
    "odd", ["%00", "a%00.js", "x" * 300, "%ff%fe", "..%2f..%2fetc%2fpasswd", "%0a", "a/" * 200, "%"]
)
def test_an_odd_path_is_not_there_and_no_fault_of_the_program(world: World, tmp_path: Path, odd: str) -> None:
    (tmp_path / "assets").mkdir()
    (tmp_path / "index.html").write_text("<title>Jorvek</title>")
    client = TestClient(create_app(world.workshop, tmp_path), raise_server_exceptions=False, headers=ORIGIN)
    assert client.get(f"/assets/{odd}").status_code == 404
