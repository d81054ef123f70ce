"""The API's answers: one shape for refusals, tags on drafts, the loop's routes."""

from __future__ import annotations

import gzip
from collections.abc import Callable
from pathlib import Path

import pytest
from fastapi.testclient import TestClient

SignIn = Callable[[str], TestClient]
FIELDS = {"type", "title", "status", "detail", "code", "where", "hint", "problems"}


def test_health_answers_without_a_session(sign_in: SignIn) -> None:
    assert sign_in("").get("/api/v1/health").json() == {"status": "ready"}


@pytest.mark.parametrize(
    ("method", "path", "body", "status", "code"),
    [
        ("GET", "/api/v1/incident-types/IT-999", None, 404, "documents.unknown"),
        ("GET", "/api/v1/nothing", None, 404, "http.404"),
        ("PUT", "/api/v1/incident-types", None, 405, "http.405"),
        ("POST", "/api/v1/incident-types", {"titel": "x"}, 422, "request.malformed"),
        ("POST", "/api/v1/incident-types", "{", 400, "json.invalid"),
        ("POST", "/api/v1/tried-orders", {"asset": "AS-999", "symptom": "stalls"}, 404, "assets.unknown"),
        ("PATCH", "/api/v1/documents/WP-001/draft", [], 422, "request.malformed"),
        ("POST", "/api/v1/documents/WP-999/draft", None, 404, "documents.unknown"),
        ("POST", "/api/v1/documents/IT-001/send", {"note": ""}, 409, "drafts.none"),
        (
            "POST",
            "/api/v1/previews",
            {"documents": ["WP-001"], "answers": {"WP-001:bar": "x"}},
            422,
            "preview.answer",
        ),
        ("GET", "/api/v1/documents/WP-001/compare?older=A&newer=Z", None, 404, "revisions.unknown"),
    ],
)
def test_every_refusal_is_a_problem_document(
    sign_in: SignIn, method: str, path: str, body: object, status: int, code: str
) -> None:
    client = sign_in("ines")
    sent = (
        {"content": body, "headers": {"content-type": "application/json"}}
        if isinstance(body, str)
        else {"json": body}
    )
    answer = client.request(method, path, **sent)
    assert (answer.status_code, answer.headers["content-type"]) == (status, "application/problem+json")
    found = answer.json()
    assert set(found) == FIELDS
    assert (found["status"], found["code"]) == (status, code)
    assert found["detail"]


def test_a_draft_carries_a_tag_and_a_stale_one_is_answered_412(sign_in: SignIn) -> None:
    ines, oda = sign_in("ines"), sign_in("oda")
    assert ines.post("/api/v1/documents/WP-001/draft").json() == {"id": "C"}
    read = ines.get("/api/v1/documents/WP-001/plan")
    tag = read.headers["etag"]
    assert tag == read.json()["etag"]
    change = [{"op": "replace", "path": "/summary", "value": "By Oda"}]
    theirs = oda.patch("/api/v1/documents/WP-001/draft", json=change, headers={"If-Match": tag})
    assert theirs.status_code == 200
    mine = ines.patch(
        "/api/v1/documents/WP-001/draft",
        json=[{"op": "replace", "path": "/summary", "value": "By Ines"}],
        headers={"If-Match": tag},
    )
    assert mine.status_code == 412
    assert "Oda Fennimore saved meanwhile: changed summary of the whole" in mine.json()["detail"]
    assert ines.get("/api/v1/documents/WP-001/plan").json()["content"]["summary"] == "By Oda"


def test_a_patch_needs_the_values_it_speaks_of(sign_in: SignIn) -> None:
    ines = sign_in("ines")
    ines.post("/api/v1/documents/WP-001/draft")
    tag = ines.get("/api/v1/documents/WP-001/plan").headers["etag"]
    answer = ines.patch(
        "/api/v1/documents/WP-001/draft",
        json=[{"op": "replace", "path": "/summary"}],
        headers={"If-Match": tag},
    )
    assert (answer.status_code, answer.json()["detail"]) == (422, "/summary: replace needs a value.")


def test_the_preview_opens_the_branch_a_reading_asks_for(sign_in: SignIn) -> None:
    body = {"documents": ["WP-001"], "answers": {"WP-001:bar": 84}, "done": []}
    run = sign_in("ines").post("/api/v1/previews", json=body).json()
    told = run["consequences"]["WP-001:bar"]
    assert told["sentence"] == "84 bar is below 90 bar. “Check relief valve seat” is added, about 15 min."
    assert run["wanted"]["WP-001:bar"] == "want 90 to 120 bar"


def test_find_finds_by_every_word(sign_in: SignIn) -> None:
    ines = sign_in("ines")
    assert ines.get("/api/v1/search", params={"q": "rake stalls"}).json()[0]["id"] == "IT-001"
    assert {f["kind"] for f in ines.get("/api/v1/search", params={"q": "farrow"}).json()} >= {"asset"}
    assert ines.get("/api/v1/search", params={"q": " "}).json() == []


def test_the_counts_beside_the_verbs_follow_the_work(sign_in: SignIn) -> None:
    ines = sign_in("ines")
    before = ines.get("/api/v1/waiting").json()
    ines.post("/api/v1/documents/WP-001/draft")
    assert ines.get("/api/v1/waiting").json() == {**before, "refine": before["refine"] + 1}


def test_steps_are_saved_as_a_sheet(sign_in: SignIn) -> None:
    answer = sign_in("ines").get("/api/v1/incident-types/IT-001/evidence/steps.csv")
    lines = answer.text.splitlines()
    assert answer.headers["content-type"].startswith("text/csv")
    assert lines[0].startswith("document,step,text,phase,planned_min")
    assert len(lines) == 11


def test_the_interface_does_not_give_out_other_files(demo_dir: Path, tmp_path: Path) -> None:
    from reedling.app import create_app
    from reedling.wiring import open_context, read_settings

    web = tmp_path / "web"
    (web / "assets").mkdir(parents=True)
    (web / "index.html").write_text("<title>Reedling</title>")
    script = b"export const reeds = 1;\n" * 90
    (web / "assets/reeds-1.js").write_bytes(script)
    (web / "assets/reeds-1.js.gz").write_bytes(gzip.compress(script))
    (tmp_path / "secret.txt").write_text("secret")
    settings = read_settings({"REEDLING_DATA": str(demo_dir), "REEDLING_WEB": str(web)})
    with TestClient(create_app(open_context(demo_dir), settings)) as client:
        assert "Reedling" in client.get("/author/IT-001").text
        assert "secret" not in client.get("/..%2Fsecret.txt").text
        assert client.get("/assets/..%2F..%2Fsecret.txt").status_code == 404
        assert client.get("/standins/camera.jpg").status_code == 404
        assert client.get("/api/v1/sign-in").json() == {"people": [], "password": "", "stand_ins": False}
        for takes in ("gzip", "identity"):
            sent = client.get("/assets/reeds-1.js", headers={"Accept-Encoding": takes})
            assert (sent.content, sent.headers["content-type"]) == (script, "text/javascript; charset=utf-8")
            assert sent.headers.get("content-encoding") == ("gzip" if takes == "gzip" else None)
            assert "immutable" in sent.headers["cache-control"]


@pytest.mark.parametrize(
    "path",
    [
        "/api/v1/orders?state=Finished&state=Reviewed",
        "/api/v1/completions",
        "/api/v1/incident-types/IT-001/jobs",
    ],
)
def test_lists_come_in_pages_by_offset_and_limit(sign_in: SignIn, path: str) -> None:
    ines = sign_in("ines")
    whole = ines.get(path, params={"limit": 200}).json()
    (held,) = (name for name, value in whole.items() if isinstance(value, list) and name in ("rows", "jobs"))
    assert len(whole[held]) == whole["total"] > 3
    pages = [ines.get(path, params={"offset": n, "limit": 3}).json() for n in range(0, whole["total"], 3)]
    assert {page["total"] for page in pages} == {whole["total"]}
    assert [row for page in pages for row in page[held]] == whole[held]
    for wrong in ({"limit": 0}, {"limit": 201}, {"offset": -1}):
        assert ines.get(path, params=wrong).json()["code"] == "request.malformed"


def test_what_can_be_changed_says_its_tag_and_the_description_says_so(sign_in: SignIn) -> None:
    ines = sign_in("ines")
    described = ines.get("/api/v1/openapi.json").json()["paths"]
    tagged = {path for path, ops in described.items() if "ETag" in str(ops.get("get", {}).get("responses"))}
    values = {
        "/api/v1/documents/{document}/plan": "/api/v1/documents/WP-001/plan",
        "/api/v1/documents/{document}/table": "/api/v1/documents/DT-001/table",
        "/api/v1/documents/{document}/guide": "/api/v1/documents/FG-001/guide",
        "/api/v1/lists/{name}": "/api/v1/lists/symptoms",
        "/api/v1/settings/order-card": "/api/v1/settings/order-card",
        "/api/v1/settings/taking-along": "/api/v1/settings/taking-along",
    }
    assert tagged == set(values)
    for path in values.values():
        assert ines.get(path).headers["etag"], path
