"""The loop over the API: what a phone sends, what comes back, and what two clients at once get."""

from __future__ import annotations

import io
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from datetime import UTC, datetime
from typing import Any
from uuid import uuid4

import pytest
from fastapi.testclient import TestClient
from PIL import Image

SignIn = Callable[[str], TestClient]


def now() -> str:
    return datetime.now(UTC).isoformat()


def picture() -> bytes:
    out = io.BytesIO()
    Image.new("RGB", (12, 9), "teal").save(out, "JPEG")
    return out.getvalue()


@pytest.fixture
def order(sign_in: SignIn) -> str:
    """A stalled rake's order, planned for Runa, through the API."""
    planner = sign_in("marek")
    made = planner.post(
        "/api/v1/orders", json={"asset": "AS-101", "symptom": "stalls", "report": "Stuck"}
    ).json()
    body = {"technician": "runa", "planned_for": now()}
    assert planner.post(f"/api/v1/orders/{made['id']}/visit", json=body).json()["state"] == "Planned"
    return str(made["id"])


def send(client: TestClient, order: str, *events: dict[str, Any], name: str | None = None) -> Any:
    body = {"id": name or str(uuid4()), "events": [{"at": now(), **event} for event in events]}
    return client.post(f"/api/v1/pocket/orders/{order}/submissions", json=body)


ARRIVE = ({"kind": "headed out"}, {"kind": "arrived", "east": 0.1, "north": 0.3})


def test_a_phone_heads_out_arrives_and_answers(sign_in: SignIn, order: str) -> None:
    runa = sign_in("runa")
    assert order in [o["line"]["id"] for o in runa.get("/api/v1/pocket/orders").json()["orders"]]
    assert send(runa, order, *ARRIVE).json()["state"] == "On site"
    name = str(uuid4())
    kept = runa.post(
        f"/api/v1/pocket/orders/{order}/pictures/{name}", files={"file": ("a.jpg", picture(), "image/jpeg")}
    )
    assert (kept.status_code, kept.json()["width"], kept.json()["media_type"]) == (200, 12, "image/jpeg")
    events = (
        {"kind": "step started", "line": "WP-001:plate"},
        {"kind": "answered", "question": "WP-001:plate-photo", "value": name},
        {"kind": "step done", "line": "WP-001:plate"},
    )
    assert send(runa, order, *events).status_code == 200
    page = runa.get(f"/api/v1/pocket/orders/{order}").json()
    assert page["job"]["answers"] == {"WP-001:plate-photo": name}
    assert page["run"]["progress"]["next_line"] == "WP-001:isolate"
    assert runa.get(f"/api/v1/pictures/{name}").content == picture()


def test_a_reading_out_of_limits_says_so_and_opens_its_branch(sign_in: SignIn, order: str) -> None:
    runa = sign_in("runa")
    send(runa, order, *ARRIVE)
    send(runa, order, {"kind": "answered", "question": "WP-001:bar", "value": 84})
    run = runa.get(f"/api/v1/pocket/orders/{order}").json()["run"]
    assert [f["sentence"] for f in run["progress"]["findings"]] == ["Pressure: 84 bar is below 90 bar."]
    assert run["consequences"]["WP-001:bar"]["opened"] == ["WP-001:valve"]


def test_the_same_submission_at_once_from_many_is_applied_once(sign_in: SignIn, order: str) -> None:
    runa = sign_in("runa")
    send(runa, order, *ARRIVE)
    note = {"kind": "note written", "text": "Gate key under the sill", "line": None}
    name, at = str(uuid4()), now()
    body = {"id": name, "events": [{**note, "at": at}]}

    def post(_: int) -> Any:
        return runa.post(f"/api/v1/pocket/orders/{order}/submissions", json=body)

    with ThreadPoolExecutor(6) as pool:
        answers = list(pool.map(post, range(6)))
    assert {a.status_code for a in answers} == {200}
    assert len({a.text for a in answers}) == 1
    notes = runa.get(f"/api/v1/pocket/orders/{order}").json()["job"]["notes"]
    assert [n["text"] for n in notes] == ["Gate key under the sill"]


@pytest.mark.parametrize(
    ("body", "status", "words"),
    [
        ({"id": "not-an-id", "events": []}, 422, "id"),
        ({"events": []}, 422, "id: this is missing."),
        (
            {"id": str(uuid4()), "events": [{"kind": "teleported", "at": "2026-01-01T00:00:00Z"}]},
            422,
            "the kind must be one of",
        ),
        ({"id": str(uuid4()), "events": [{"kind": "headed out"}]}, 422, "events/0/at: this is missing."),
        ({"id": str(uuid4()), "events": [{"kind": "headed out", "at": "soon"}]}, 422, "got 'soon'"),
        ({"id": str(uuid4()), "events": []}, 422, "a submission has at least one event"),
    ],
)
def test_a_malformed_submission_is_told_what_and_where(
    sign_in: SignIn, order: str, body: dict[str, Any], status: int, words: str
) -> None:
    answer = sign_in("runa").post(f"/api/v1/pocket/orders/{order}/submissions", json=body)
    assert answer.status_code == status
    assert words in answer.json()["detail"]


def test_of_two_edits_at_once_one_is_saved_and_the_other_is_told(sign_in: SignIn) -> None:
    ines = sign_in("ines")
    ines.post("/api/v1/documents/WP-001/draft")
    tag = ines.get("/api/v1/documents/WP-001/plan").headers["etag"]

    def patch(n: int) -> int:
        change = [{"op": "replace", "path": "/summary", "value": f"Version {n}"}]
        return ines.patch(
            "/api/v1/documents/WP-001/draft", json=change, headers={"If-Match": tag}
        ).status_code

    with ThreadPoolExecutor(5) as pool:
        answers = sorted(pool.map(patch, range(5)))
    assert answers == [200, 412, 412, 412, 412]


def test_the_tours_of_a_plan_fill_its_preview_to_the_end(sign_in: SignIn) -> None:
    ines = sign_in("ines")
    for document in ("WP-001", "WP-002", "WP-003"):
        ways = ines.post("/api/v1/previews/tours", json={"documents": [document]}).json()
        assert 2 <= len(ways) <= 5
        met: set[str] = set()
        for answers in ways:
            run = ines.post("/api/v1/previews", json={"documents": [document], "answers": answers}).json()
            assert all(line["missing"] == [] for line in run["progress"]["lines"])
            met |= {line["line"] for line in run["progress"]["lines"] if line["state"] == "due"}
        assert met == {line["id"] for line in run["runsheet"]["lines"]}


def test_a_defect_comes_with_its_mend_while_writing(sign_in: SignIn) -> None:
    ines = sign_in("ines")
    ines.post("/api/v1/documents/WP-001/draft")
    view = ines.get("/api/v1/documents/WP-001/plan").json()
    index = next(i for i, s in enumerate(view["content"]["steps"]) if s["id"] == "valve")
    bar = {"kind": "comparison", "question": "bar", "upper": None}
    both = [{**bar, "operator": "below", "value": 90}, {**bar, "operator": "above", "value": 120}]
    change = [{"op": "replace", "path": f"/steps/{index}/condition", "value": {"kind": "all", "parts": both}}]
    saved = ines.patch(
        "/api/v1/documents/WP-001/draft", json=change, headers={"If-Match": view["etag"]}
    ).json()
    never = [d for d in saved["plan"]["defects"] if d["problem"]["code"] == "reach.never"]
    assert [d["fix"]["change"]["step"] for d in never] == ["valve", "reseat"]
    assert "pressure is below 90 bar and that pressure is above 120 bar" in never[0]["problem"]["message"]
    assert never[0]["fix"] == {"label": "Remove the step", "change": {"kind": "remove step", "step": "valve"}}
    refused = ines.post("/api/v1/documents/IT-001/send", json={"note": ""})
    assert refused.status_code == 422
    assert "can never be asked" in str(refused.json()["problems"])
