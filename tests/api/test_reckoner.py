"""The Reckoner over the web: what can be asked, answers in wanted units, refusals by field, nothing stored."""

from __future__ import annotations

import sqlalchemy as sa

from jorvek.core.reckoner.questions import QUESTIONS
from tests.api.conftest import SignedIn
from tests.api.test_web import problem
from tests.conftest import World


def counts(world: World) -> dict[str, int]:
    engine = world.workshop.database.engine
    with engine.connect() as connection:
        names = sa.inspect(connection).get_table_names()
        return {n: connection.execute(sa.text(f"SELECT COUNT(*) FROM `{n}`")).scalar_one() for n in names}


def test_a_question_is_answered_from_an_approved_stud_and_leaves_no_trace(world: World, signed_in: SignedIn) -> None:
    tam = signed_in("Tam Pereira")
    before = counts(world)
    questions = {q["name"]: q["fields"] for q in tam.get("/api/reckoner").json()}
    assert list(questions) == list(QUESTIONS)
    studs = {stud["title"]: stud for stud in tam.get("/api/reckoner/studs").json()}
    assert len(studs) >= 7
    stud = studs["Tarnholt 7L34 · Head stud M52×3"]
    # What the stud says goes over what the page begins with; every field of the question is then filled.
    typed = {f["name"]: {"text": f["default"], "unit": f["unit"]} for f in questions["pressure"]}
    typed |= {name: written for name, written in stud["typed"].items() if name in typed}
    typed["F_res_N"] = {"text": "859.9", "unit": "kN"}
    body = {"typed": typed, "units": {"pressure": "MPa", "force": "tf"}}
    answer = tam.post("/api/reckoner/pressure", json=body).json()
    shown = {t["name"]: (t["text"], t["unit"]) for t in answer["told"]}
    assert shown["p_bar"] == ("100.0", "MPa")
    assert shown["F_tool_N"] == ("92.83", "tf")
    assert all(line["numbers"].startswith("<math") for line in answer["why"])
    assert counts(world) == before


def test_a_refusal_names_the_field_and_what_is_allowed(signed_in: SignedIn) -> None:
    bram = signed_in("Bram Okafor")
    fields = {f["name"]: f for q in bram.get("/api/reckoner").json() if q["name"] == "torque" for f in q["fields"]}
    typed = {name: {"text": f["default"], "unit": f["unit"]} for name, f in fields.items()}

    def ask(**changed: str) -> tuple[int, str, str]:
        now = typed | {name: {"text": text, "unit": typed[name]["unit"]} for name, text in changed.items()}
        answer = bram.post("/api/reckoner/torque", json={"typed": now})
        return (*problem(answer), answer.json()["params"].get("name", ""))

    assert ask(mu_min="12") == (422, "refusal.E_RANGE", "mu_min")
    assert ask(F_N="") == (422, "refusal.E_DATA", "F_N")
    assert ask(F_N="64,0,0") == (422, "refusal.E_TYPE", "F_N")
    wrong_unit = typed | {"F_N": {"text": "64", "unit": "bar"}}
    assert problem(bram.post("/api/reckoner/torque", json={"typed": wrong_unit})) == (422, "refusal.E_DIM")
    assert problem(bram.post("/api/reckoner/horoscope", json={"typed": {}})) == (422, "refusal.E_TABLE")


def test_nobody_reckons_without_signing_in(nobody: object, signed_in: SignedIn) -> None:
    client = signed_in("Lio Sandvik")
    client.cookies.clear()
    assert problem(client.get("/api/reckoner")) == (401, "problem.not_signed_in")
