"""The library over the web: bringing in, checking, approving, comparing, taking away; refusals write nothing."""

from __future__ import annotations

import io
import zipfile

from httpx2 import Response
from pypdf import PdfReader

from jorvek.core.rights import RIGHTS, Act, Role
from jorvek.local.demo import HEAD
from jorvek.settings import ROOT
from tests.api.conftest import SignedIn
from tests.api.test_rights import NAMES, footprint
from tests.api.test_web import problem
from tests.conftest import World

SHIPPED = (ROOT / "procedures" / "tarnholt-7l34-head-tighten.yaml").read_text(encoding="utf-8")
NEXT = SHIPPED.replace("revision: E", "revision: F").replace("hold: 30 s", "hold: 45 s").replace(
    "Spacer rings on with the slot facing the nut bar", "Spacer rings on with their slot towards the nut bar"
)  # fmt: skip


def test_a_revision_goes_its_way_from_draft_to_withdrawn(world: World, signed_in: SignedIn) -> None:
    anneke, ines, lio = (signed_in(name) for name in ("Anneke Ruhl", "Ines Halloran", "Lio Sandvik"))
    digest = anneke.post("/api/procedures", json={"document": NEXT}).json()["hash"]
    path = f"/api/procedures/{digest}"
    assert problem(anneke.post("/api/procedures", json={"document": NEXT})) == (409, "refusal.revision_known")
    changed = NEXT.replace("hold: 45 s", "hold: 50 s")
    assert problem(anneke.post("/api/procedures", json={"document": changed})) == (409, "refusal.revision_taken")

    read = lio.get(path).json()
    assert (read["listed"]["status"], read["may_approve"], read["sheet"]["findings"]) == ("draft", False, [])
    old = next(p["hash"] for p in lio.get("/api/procedures").json() if (p["id"], p["revision"]) == (HEAD, "E"))
    changes = lio.get(f"{path}/differences", params={"against": old}).json()
    assert [(c["where"], c["before"], c["after"], c["number"]) for c in changes] == [
        ("steps.second.hold", "30 s", "45 s", True),
        ("revision", "E", "F", False),
        (
            "steps.prepare.items.spacers.text",
            "Spacer rings on with the slot facing the nut bar",
            "Spacer rings on with their slot towards the nut bar",
            False,
        ),
    ]

    assert ines.get(path).json()["may_approve"]
    assert ines.post(f"{path}/approve").status_code == 204
    assert problem(ines.post(f"{path}/approve")) == (409, "refusal.not_a_draft")
    taken = lio.get(f"{path}/document.yaml")
    assert taken.headers["content-disposition"] == 'attachment; filename="tarnholt-7l34-head-tighten-F.yaml"'
    assert problem(anneke.post("/api/procedures", json={"document": taken.text})) == (409, "refusal.revision_known")
    assert ines.post(f"{path}/withdraw").status_code == 204
    assert lio.get(path).json()["listed"]["status"] == "withdrawn"
    started = {"id": digest[:8] + "-0000-4000-8000-000000000001", "run_id": digest[:8] + "-0000-4000-8000-000000000002"}
    started |= {"engine_id": "unit-2", "joint_key": "head-6", "procedure_hash": digest}
    assert problem(lio.post("/api/runs", json=started)) == (409, "refusal.not_approved")


def test_the_work_sheet_has_every_call_and_says_when_it_is_not_for_work(signed_in: SignedIn) -> None:
    tam = signed_in("Tam Pereira")
    by_id = {p["id"]: p for p in tam.get("/api/procedures").json()}

    def printed(name: str) -> str:
        answer = tam.get(f"/api/procedures/{by_id[name]['hash']}/worksheet.pdf")
        assert answer.headers["content-type"] == "application/pdf"
        return " ".join(page.extract_text() for page in PdfReader(io.BytesIO(answer.content)).pages)

    good, bad = printed("tarnholt-7l34-head-tighten"), printed("tarnholt-7l34-head-bad")
    for words in ("1000 bar", "stretch 1.152 mm", "Never feel for a leak.", "spread of stretch", "Chief's hold point"):
        assert words in good
    assert "Not approved" in bad
    assert "Not approved" not in good


def test_a_bad_draft_is_shown_with_what_is_wrong_and_cannot_be_approved(world: World, signed_in: SignedIn) -> None:
    ines = signed_in("Ines Halloran")
    bad = next(p["hash"] for p in ines.get("/api/procedures").json() if p["id"].endswith("bad"))
    found = ines.get(f"/api/procedures/{bad}").json()["sheet"]["findings"]
    assert {f["step"] for f in found} >= {None, "ceiling", "first", "second", "length-after"}
    before = footprint(world)
    answer = ines.post(f"/api/procedures/{bad}/approve")
    assert problem(answer) == (422, "refusal.check_not_clean")
    assert answer.json()["params"] == {"errors": sum(f["severity"] == "error" for f in found)}
    assert footprint(world) == before


def test_a_document_that_cannot_be_taken_is_refused_line_by_line(world: World, signed_in: SignedIn) -> None:
    anneke, before = signed_in("Anneke Ruhl"), footprint(world)
    broken = NEXT.replace("ceiling: 1050 bar", "ceiling: 1050").replace("order: round", "order: square", 1)
    answer = anneke.post("/api/procedures", json={"document": broken})
    assert problem(answer) == (422, "problem.document_refused")
    lines = {f["where"]: f["line"] for f in answer.json()["findings"]}
    wanted = next(n for n, line in enumerate(broken.splitlines(), 1) if "ceiling: 1050" in line)
    assert lines["steps.7.ceiling"] == wanted
    for text in ("", "a: &x 1\nb: *x", "[" * 60, "format: jorvek-procedure/9", "\x00", "- 1\n- 2"):
        refused = anneke.post("/api/procedures", json={"document": text})
        assert refused.status_code == 422
        assert footprint(world) == before


def packed(**files: str) -> bytes:
    raw = io.BytesIO()
    with zipfile.ZipFile(raw, "w") as archive:
        for name, text in files.items():
            archive.writestr(f"{name}.yaml", text)
    return raw.getvalue()


def test_a_zip_is_taken_in_whole_or_not_at_all_and_the_library_goes_out_as_one(
    world: World, signed_in: SignedIn
) -> None:
    anneke = signed_in("Anneke Ruhl")

    def bring(raw: bytes) -> Response:
        return anneke.post("/api/procedures/archive", content=raw, headers={"Content-Type": "application/octet-stream"})

    other = NEXT.replace("revision: F", "revision: G")
    before = footprint(world)
    broken = other.replace("ceiling: 1050 bar", "ceiling: 1050")
    refused = bring(packed(next=NEXT, other=broken))
    assert problem(refused) == (422, "problem.document_refused")
    assert refused.json()["findings"][0]["where"] == "other.yaml: steps.7.ceiling"
    clash = SHIPPED.replace("hold: 30 s", "hold: 31 s")
    assert problem(bring(packed(next=NEXT, clash=clash))) == (409, "refusal.revision_taken")
    for raw, code in ((b"PK\x03\x04 no zip", "E_DATA"), (b"", "E_DATA"), (packed(), "archive_empty")):
        assert problem(bring(raw)) == (422, f"refusal.{code}")
    assert footprint(world) == before

    taken = bring(packed(shipped=SHIPPED, next=NEXT, again=NEXT, other=other)).json()
    assert (len(taken["taken"]), len(taken["known"])) == (2, 1)
    whole = anneke.get("/api/procedures/archive.zip").content
    assert whole == anneke.get("/api/procedures/archive.zip").content
    everything = bring(whole).json()
    assert everything["taken"] == []
    assert len(everything["known"]) == len(anneke.get("/api/procedures").json())


def test_a_sheet_is_printed_for_the_options_that_were_chosen(signed_in: SignedIn) -> None:
    tam = signed_in("Tam Pereira")
    cover = next(p["hash"] for p in tam.get("/api/procedures").json() if p["id"] == "ulvane-5x46-cover-tighten")
    read = tam.get(f"/api/procedures/{cover}").json()
    assert [w["selection"] for w in read["sheet"]["ways"]] == [{"tools": "eight"}, {"tools": "four"}]

    def printed(*choose: str) -> str:
        answer = tam.get(f"/api/procedures/{cover}/worksheet.pdf", params={"choose": list(choose)})
        return " ".join(page.extract_text() for page in PdfReader(io.BytesIO(answer.content)).pages)

    assert "775 bar" in printed("tools:four")
    assert "775 bar" not in printed("tools:eight")
    answer = tam.get(f"/api/procedures/{cover}/worksheet.pdf", params={"choose": "tools:nine"})
    assert problem(answer) == (422, "refusal.options_at_odds")


def test_only_the_roles_that_may_bring_in_approve_or_withdraw(world: World, signed_in: SignedIn) -> None:
    chief = signed_in("Ines Halloran")
    digest = next(p["hash"] for p in chief.get("/api/procedures").json() if p["status"] == "approved")
    for role in set(Role) - {Role.KEEPER}:
        client, before = signed_in(NAMES[role]), footprint(world)
        for path, body, act in (
            ("", {"document": NEXT}, Act.IMPORT_PROCEDURE),
            (f"/{digest}/approve", None, Act.APPROVE_PROCEDURE),
            (f"/{digest}/withdraw", None, Act.APPROVE_PROCEDURE),
        ):
            if role not in RIGHTS[act]:
                assert problem(client.post(f"/api/procedures{path}", json=body)) == (403, "refusal.not_your_right")
                assert footprint(world) == before
