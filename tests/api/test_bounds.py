"""Nobody can freeze the server with a small request, and nothing that is sent ends in an error of ours."""

from __future__ import annotations

import time
from collections.abc import Callable, Iterator
from typing import Any
from uuid import uuid4

import pytest
from fastapi import FastAPI
from fastapi.routing import APIRoute
from fastapi.testclient import TestClient

from reedling.wiring import open_context
from tests.alone import run_alone
from tests.api.test_access import allowed, routes_of
from tests.conftest import app_over

SignIn = Callable[[str], TestClient]
PROBLEM = "application/problem+json"


async def ask_without_body(app: FastAPI, method: str, path: str) -> tuple[int, int]:
    """Ask and count how often the body was asked for; gives the status and that count."""
    asked, status = 0, 0

    async def receive() -> dict[str, Any]:
        nonlocal asked
        asked += 1
        return {"type": "http.request", "body": b"[" * 1000, "more_body": True}

    async def send(message: Any) -> None:
        nonlocal status
        if message["type"] == "http.response.start":
            status = message["status"]

    scope = {
        "type": "http",
        "asgi": {"version": "3.0"},
        "http_version": "1.1",
        "method": method,
        "path": path,
        "raw_path": path.encode(),
        "root_path": "",
        "scheme": "http",
        "query_string": b"",
        "headers": [(b"host", b"testserver"), (b"content-type", b"application/json")],
        "client": ("127.0.0.1", 1),
        "server": ("testserver", 80),
        "state": {},
        "app": app,
    }
    await app(scope, receive, send)
    return status, asked


def test_without_a_session_no_byte_of_a_body_is_read(demo_app: FastAPI) -> None:
    guarded = [(m, r.path) for r in routes_of(demo_app) if allowed(r.dependant) for m in r.methods or ()]
    assert len(guarded) > 80
    for method, path in guarded:
        found = run_alone(ask_without_body(demo_app, method, path))
        assert found == (401, 0), f"{method} {path}"


def test_a_body_above_its_bound_is_refused_as_a_problem(sign_in: SignIn) -> None:
    ines = sign_in("ines")
    answer = ines.post("/api/v1/documents", json={"kind": "form", "title": "x" * 300_000})
    assert (answer.status_code, answer.headers["content-type"]) == (413, PROBLEM)
    assert answer.json()["code"] == "http.413"

    def in_pieces() -> Iterator[bytes]:
        yield b'{"kind": "form", "title": "'
        yield from (b"x" * 50_000 for _ in range(6))

    answer = ines.post("/api/v1/documents", content=in_pieces(), headers={"content-type": "application/json"})
    assert (answer.status_code, answer.headers["content-type"]) == (413, PROBLEM)
    assert "larger than this address takes" in answer.json()["detail"]
    big = ines.patch("/api/v1/documents/WP-001/draft", content=b"[" + b" " * 4_100_000, headers=JSON)
    assert (big.status_code, big.headers["content-type"]) == (413, PROBLEM)


JSON = {"content-type": "application/json", "if-match": '"x"'}


def events(n: int) -> dict[str, Any]:
    return {"id": str(uuid4()), "events": [{}] * n}


def test_many_wrong_events_are_answered_at_once_and_not_all_told(sign_in: SignIn) -> None:
    runa = sign_in("runa")
    order = runa.get("/api/v1/pocket/orders").json()["orders"][0]["line"]["id"]
    began = time.perf_counter()
    answer = runa.post(f"/api/v1/pocket/orders/{order}/submissions", json=events(500))
    assert answer.status_code == 422
    assert len(answer.json()["problems"]) <= 51
    assert "more problems" in answer.json()["problems"][-1]["message"]
    assert time.perf_counter() - began < 5, "it was 3.6 s for 2,000 on a fast machine"
    many = runa.post(f"/api/v1/pocket/orders/{order}/submissions", json=events(2000))
    assert (many.status_code, len(many.json()["problems"])) == (422, 1)


@pytest.fixture
def draft(sign_in: SignIn) -> tuple[TestClient, str]:
    ines = sign_in("ines")
    ines.post("/api/v1/documents/WP-001/draft")
    return ines, ines.get("/api/v1/documents/WP-001/plan").headers["etag"]


def test_copies_of_copies_are_refused_before_they_are_made(draft: tuple[TestClient, str]) -> None:
    ines, tag = draft
    doubling = [{"op": "copy", "from": "/steps", "path": "/steps/0/x"}] + [
        {"op": "copy", "from": "/steps", "path": f"/steps/0/x{n}"} for n in range(25)
    ]
    answer = ines.patch("/api/v1/documents/WP-001/draft", json=doubling, headers={"if-match": tag})
    assert (answer.status_code, answer.json()["code"]) == (422, "drafts.patch_size")
    assert ines.get("/api/v1/documents/WP-001/plan").headers["etag"] == tag


def nested(depth: int) -> dict[str, Any]:
    condition: dict[str, Any] = {"kind": "comparison", "question": "bar", "operator": "below", "value": 90}
    for _ in range(depth):
        condition = {"kind": "not", "part": condition}
    return condition


@pytest.mark.parametrize("depth", [300, 600])
def test_a_condition_nested_deep_is_refused_by_its_depth(draft: tuple[TestClient, str], depth: int) -> None:
    ines, tag = draft
    patch = [{"op": "add", "path": "/steps/2/condition", "value": nested(depth)}]
    answer = ines.patch("/api/v1/documents/WP-001/draft", json=patch, headers={"if-match": tag})
    assert (answer.status_code, answer.json()["code"]) == (422, "data.deep")


def test_a_document_of_too_many_steps_is_refused_with_the_way_out(draft: tuple[TestClient, str]) -> None:
    ines, tag = draft
    step = {"phase": "Diagnose", "text": "Look"}
    patch = [{"op": "add", "path": "/steps/-", "value": {**step, "id": f"n{n}"}} for n in range(5_000)]
    answer = ines.patch("/api/v1/documents/WP-001/draft", json=patch, headers={"if-match": tag})
    assert (answer.status_code, answer.json()["code"]) == (422, "drafts.too_large")
    assert "1,000 steps" in answer.json()["detail"]


@pytest.mark.parametrize(
    ("method", "path", "status"),
    [
        ("GET", "/%00", 404),
        ("GET", "/assets/%00", 404),
        ("GET", "/api/v1/%00", 404),
        ("GET", "/api/v1/documents/%00/plan", 404),
        ("GET", "/" + "a" * 5_000, 404),
        ("GET", "/api/v1/" + "a" * 5_000, 404),
        ("GET", "/api/v1/search?q=" + "a" * 9_000, 422),
        ("GET", "/api/v1/search?q=%00", 422),
        ("GET", "/api/v1/nothing", 404),
        ("POST", "/api/v1/nothing", 404),
        ("DELETE", "/api/v1/nothing/at/all", 404),
        ("GET", "/standins/nothing", 404),
        ("PUT", "/standins/nothing", 404),
        ("PUT", "/api/v1/incident-types", 405),
        ("GET", "/api/v1/changes/lists/parts?before=" + "9" * 200, 422),
    ],
)
def test_an_address_that_cannot_be_is_answered_in_our_shape(
    sign_in: SignIn, method: str, path: str, status: int
) -> None:
    answer = sign_in("ines").request(method, path)
    assert (answer.status_code, answer.headers["content-type"]) == (status, PROBLEM), answer.text[:200]
    assert answer.headers["x-request-id"]


def test_a_tag_of_thousands_of_digits_is_refused(draft: tuple[TestClient, str]) -> None:
    ines, _ = draft
    for tag in ('"' + "9" * 5_000 + '"', '"WP-001-C-' + "9" * 180 + '-Draft"'):
        answer = ines.patch("/api/v1/documents/WP-001/draft", json=[], headers={"if-match": tag})
        assert answer.status_code in (412, 422)


@pytest.mark.parametrize("at", ["9999-12-31T23:59:59-12:00", "0001-01-01T00:00:00+12:00"])
def test_a_time_beyond_the_calendar_is_refused(sign_in: SignIn, at: str) -> None:
    marek, runa = sign_in("marek"), sign_in("runa")
    waiting = marek.get("/api/v1/orders?state=Logged").json()["rows"][0]["id"]
    planned = marek.post(f"/api/v1/orders/{waiting}/visit", json={"technician": "runa", "planned_for": at})
    assert planned.status_code == 422
    order = runa.get("/api/v1/pocket/orders").json()["orders"][0]["line"]["id"]
    body = {"id": str(uuid4()), "events": [{"kind": "headed out", "at": at}]}
    assert runa.post(f"/api/v1/pocket/orders/{order}/submissions", json=body).status_code == 422
    body = {
        "id": str(uuid4()),
        "sent_at": at,
        "events": [{"kind": "headed out", "at": "2026-01-01T00:00:00Z"}],
    }
    assert runa.post(f"/api/v1/pocket/orders/{order}/submissions", json=body).status_code < 500


def test_a_release_of_a_day_long_past_is_refused(draft: tuple[TestClient, str], sign_in: SignIn) -> None:
    ines, tag = draft
    patch = [{"op": "replace", "path": "/summary", "value": "Anew"}]
    ines.patch("/api/v1/documents/WP-001/draft", json=patch, headers={"if-match": tag})
    ines.post("/api/v1/documents/WP-001/send", json={"note": ""})
    oda = sign_in("oda")
    for day in ("1999-01-01", "9999-12-31"):
        answer = oda.post("/api/v1/documents/WP-001/release", json={"effective_on": day})
        assert (answer.status_code, answer.json()["code"]) == (422, "reviews.day")
    assert oda.post("/api/v1/documents/WP-001/release", json={"effective_on": None}).status_code == 200


def test_a_picture_whose_file_is_gone_is_told_of(sign_in: SignIn, demo_app: FastAPI) -> None:
    ines = sign_in("ines")
    folder = demo_app.state.context.store.pictures_dir
    with demo_app.state.context.store.reading() as unit:
        picture, name = next(
            (value, found.sha256)
            for order in unit.orders.find(states=("Reviewed",))
            for value in _answers(unit, order.id)
            if (found := unit.pictures.get(value))
        )
    (folder / name).unlink()
    answer = ines.get(f"/api/v1/pictures/{picture}")
    assert (answer.status_code, answer.json()["code"]) == (404, "pictures.gone")


def _answers(unit: Any, order: str) -> Iterator[str]:
    from reedling.core.runsheet.job import replay

    yield from (
        v
        for v in replay(unit.orders.get(order).runsheet, unit.recorded.events(order)).answers.values()
        if isinstance(v, str)
    )


def test_every_page_of_an_empty_installation_opens(tmp_path: Any) -> None:
    from reedling.core.people import Person
    from reedling.services.actions.sessions import add_person

    context = open_context(tmp_path)
    add_person(
        context,
        Person(id="ann", name="Ann Reed", role="approver", username="ann"),
        "marsh harrier over reeds",
    )
    app = app_over(context, tmp_path, demo=False)
    with TestClient(app) as ann:
        ann.post("/api/v1/session", json={"username": "ann", "password": "marsh harrier over reeds"})
        for route in routes_of(app):
            if isinstance(route, APIRoute) and route.methods == {"GET"} and allowed(route.dependant):
                path = route.path.replace("{name}", "parts").replace("{", "x").replace("}", "")
                if not path.startswith("/docs"):
                    assert ann.get(path).status_code < 500, path
        assert ann.get("/api/v1/coverage?across=symptom").status_code == 200


def test_only_routes_that_hash_passwords_run_on_the_event_loop(demo_app: FastAPI) -> None:
    """All others, those that take pictures among them, are plain functions, run in worker threads."""
    from inspect import iscoroutinefunction

    waiting = {r.path for r in routes_of(demo_app) if iscoroutinefunction(r.endpoint)}
    assert waiting == {"/api/v1/session", "/api/v1/session/password", "/api/v1/invitations", "/api/v1/live"}


def test_a_document_of_another_kind_than_a_route_is_about_is_refused(sign_in: SignIn) -> None:
    """Every route with a document in its address, asked for one of every kind, with the smallest body it describes."""
    ines = sign_in("ines")
    described = ines.get("/api/v1/openapi.json").json()
    wrong = []
    n_asked = 0
    for path, operations in described["paths"].items():
        if "{document}" not in path:
            continue
        for document in ("IT-001", "WP-001", "DT-001", "SS-001", "FM-001", "FG-001", "XX-999"):
            for method, operation in operations.items():
                if method == "delete":
                    continue
                address = path.format(document=document, letter="A")
                query = {p["name"]: "A" for p in operation.get("parameters", ()) if p["in"] == "query"}
                asked_for = {name: value for name, value in query.items() if name != "begin"}
                for params in ({}, asked_for) if asked_for else ({},):
                    body: dict[str, str] | None = {} if "requestBody" in operation else None
                    answer = ines.request(
                        method, address, params=params, json=body, headers={"if-match": '"none"'}
                    )
                    n_asked += 1
                    if answer.status_code >= 500:
                        wrong.append(f"{method} {address} {params} {answer.status_code}")
    assert wrong == []
    assert n_asked > 300
