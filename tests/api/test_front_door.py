"""Headers, origins, the log, the metrics, and what is told to whom."""

from __future__ import annotations

import gc
import json
import time
import weakref
from collections.abc import Callable
from pathlib import Path
from typing import Any

import pytest
import structlog
from fastapi import FastAPI
from fastapi.testclient import TestClient
from starlette.requests import Request
from starlette.types import Message, Receive, Scope, Send

from reedling.api.observing import Metrics, ObservedRequests
from reedling.app import create_app
from reedling.wiring import open_context, read_settings
from tests.alone import run_alone

SignIn = Callable[[str], TestClient]
TECHNICIAN_PAGE = "/api/v1/pocket/orders"


@pytest.mark.parametrize("path", ["/api/v1/session", "/api/v1/nothing", "/api/v1/health", "/metrics"])
def test_every_answer_carries_the_headers_that_bind_a_browser(sign_in: SignIn, path: str) -> None:
    headers = sign_in("ines").get(path).headers
    policy = headers["content-security-policy"]
    assert "script-src 'self'" in policy
    assert "unsafe-inline" not in policy.split("style-src")[0]
    assert "'unsafe-eval'" not in policy, "WebAssembly may be compiled, no script made from text"
    assert "frame-ancestors 'none'" in policy
    assert "object-src 'none'" in policy
    assert "base-uri 'none'" in policy
    assert headers["x-content-type-options"] == "nosniff"
    assert headers["x-frame-options"] == "DENY"
    assert headers["referrer-policy"] == "same-origin"
    assert headers["cross-origin-opener-policy"] == "same-origin"


def test_answers_about_work_are_not_stored_by_browsers(sign_in: SignIn) -> None:
    runa = sign_in("runa")
    for path in ("/api/v1/session", TECHNICIAN_PAGE, "/api/v1/nothing", "/standins/position?east=0&north=0"):
        assert runa.get(path).headers["cache-control"] == "no-store"


@pytest.mark.parametrize(
    "headers",
    [
        {"origin": "https://elsewhere.example"},
        {"origin": "null"},
        {"origin": "http://testserver.elsewhere.example"},
        {"sec-fetch-site": "cross-site"},
        {"sec-fetch-site": "same-site"},
    ],
)
@pytest.mark.parametrize("method", ["POST", "DELETE"])
def test_a_change_asked_for_by_another_site_is_refused_with_or_without_a_body(
    sign_in: SignIn, headers: dict[str, str], method: str
) -> None:
    ines = sign_in("ines")
    path = "/api/v1/documents/WP-001/draft"
    answer = ines.request(method, path, headers={"if-match": '"x"', **headers})
    assert (answer.status_code, answer.json()["code"]) == (403, "access.origin")
    answer = ines.request("DELETE", "/api/v1/session", headers=headers)
    assert answer.status_code == 403
    assert ines.get("/api/v1/session", headers=headers).status_code == 200


def test_our_own_pages_and_programs_that_are_no_browsers_are_let_in(sign_in: SignIn) -> None:
    ines = sign_in("ines")
    for headers in ({"origin": "http://testserver"}, {"sec-fetch-site": "same-origin"}, {}):
        answer = ines.post("/api/v1/documents", json={"kind": "form", "title": "New"}, headers=headers)
        assert answer.status_code == 201


def test_behind_a_proxy_the_address_people_open_counts_as_ours(demo_dir: Path) -> None:
    settings = read_settings(
        {
            "REEDLING_DATA": str(demo_dir),
            "REEDLING_ADDRESS": "https://guidance.example",
            "REEDLING_WEB": "/none",
        }
    )
    with TestClient(create_app(open_context(demo_dir), settings)) as client:
        asked = {"origin": "https://guidance.example"}
        answer = client.post("/api/v1/session", json={"username": "x", "password": "y"}, headers=asked)
        assert answer.status_code == 401
        asked = {"origin": "https://guidance.example.elsewhere"}
        answer = client.post("/api/v1/session", json={"username": "x", "password": "y"}, headers=asked)
        assert answer.status_code == 403


def test_an_application_that_is_put_away_is_gone(demo_dir: Path) -> None:
    app = create_app(
        open_context(demo_dir), read_settings({"REEDLING_DATA": str(demo_dir), "REEDLING_WEB": "/none"})
    )
    with TestClient(app) as client:
        assert client.get("/api/v1/nothing").status_code == 404
    held = weakref.ref(app)
    del app, client
    # The thread that answered may be a moment away from letting go of what it was given.
    until = time.monotonic() + 20
    while gc.collect() >= 0 and held() is not None and time.monotonic() < until:
        time.sleep(0.1)
    assert held() is None


def test_only_named_hosts_are_answered_where_they_are_set(demo_dir: Path) -> None:
    settings = read_settings(
        {"REEDLING_DATA": str(demo_dir), "REEDLING_HOSTS": "guidance.example", "REEDLING_WEB": "/none"}
    )
    with TestClient(create_app(open_context(demo_dir), settings)) as client:
        assert client.get("/api/v1/health").status_code == 400
        assert client.get("/api/v1/health", headers={"host": "guidance.example"}).status_code == 200


def test_a_request_is_logged_once_with_who_what_and_how_long(sign_in: SignIn, demo_app: FastAPI) -> None:
    ines = sign_in("ines")
    with structlog.testing.capture_logs(processors=[structlog.contextvars.merge_contextvars]) as lines:
        answer = ines.get("/api/v1/documents/WP-001/plan", headers={"x-request-id": "0123456789abcdef"})
    assert answer.headers["x-request-id"] == "0123456789abcdef"
    (line,) = [x for x in lines if x["event"] == "request"]
    assert line["person"] == "ines"
    assert line["route"] == "/api/v1/documents/{document}/plan"
    assert (line["status"], line["request"]) == (200, "0123456789abcdef")
    assert line["milliseconds"] > 0


def test_an_identity_that_is_none_is_not_taken_over(sign_in: SignIn) -> None:
    answer = sign_in("ines").get("/api/v1/session", headers={"x-request-id": "a b\tc" * 9})
    assert len(answer.headers["x-request-id"]) == 16


def test_an_error_nobody_foresaw_is_logged_once_without_secrets(
    sign_in: SignIn, demo_app: FastAPI, monkeypatch: pytest.MonkeyPatch
) -> None:
    ines = sign_in("ines")

    def broken(*_: Any, **__: Any) -> None:
        raise RuntimeError("a wheel came off")

    monkeypatch.setattr("reedling.services.views.documents.plan_document", broken)
    with structlog.testing.capture_logs() as lines:
        answer = ines.get("/api/v1/documents/WP-001/plan")
    assert (answer.status_code, answer.json()["code"]) == (500, "server.unexpected")
    assert "wheel" not in answer.text
    told = [x for x in lines if x["event"] == "unexpected error"]
    assert len(told) == 1
    assert str(told[0]["exc_info"]) == "a wheel came off"
    text = json.dumps(lines, default=str)
    assert "reed-bed" not in text
    assert ines.cookies["reedling_session"] not in text


def test_a_failing_statement_does_not_tell_its_parameters(demo_app: FastAPI) -> None:
    from sqlalchemy import exc, text

    with pytest.raises(exc.StatementError) as failed, demo_app.state.context.store.reading() as unit:
        unit.session.execute(text("SELECT * FROM nowhere WHERE a = :secret"), {"secret": "$argon2id"})
    assert "argon2" not in str(failed.value)


def test_metrics_are_in_the_open_text_format_and_only_for_those_allowed(demo_dir: Path) -> None:
    allowed = {"REEDLING_METRICS_FROM": "testclient", "REEDLING_WEB": "/none", "REEDLING_DATA": str(demo_dir)}
    with TestClient(create_app(open_context(demo_dir), read_settings(allowed))) as client:
        client.get("/api/v1/health")
        answer = client.get("/metrics")
        assert answer.headers["content-type"].startswith("text/plain; version=0.0.4")
        told = 'reedling_requests_total{method="GET",route="/api/v1/health",status="200"} 1.0'
        assert told in answer.text
    others = {**allowed, "REEDLING_METRICS_FROM": "10.0.0.1"}
    with TestClient(create_app(open_context(demo_dir), read_settings(others))) as client:
        assert client.get("/metrics").status_code == 403


def test_metrics_read_by_the_reference_parser(demo_dir: Path) -> None:
    from prometheus_client.parser import text_string_to_metric_families

    settings = {
        "REEDLING_METRICS_FROM": "testclient",
        "REEDLING_WEB": "/none",
        "REEDLING_DATA": str(demo_dir),
    }
    with TestClient(create_app(open_context(demo_dir), read_settings(settings))) as client:
        client.get("/api/v1/nothing/for/anybody")
        names = {f.name for f in text_string_to_metric_families(client.get("/metrics").text)}
    assert {"reedling_requests", "reedling_request_seconds", "reedling_errors"} <= names


def test_it_lives_while_its_database_is_gone_but_is_not_ready(demo_dir: Path) -> None:
    settings = read_settings({"REEDLING_DATA": str(demo_dir), "REEDLING_WEB": "/none"})
    context = open_context(demo_dir)
    with TestClient(create_app(context, settings)) as client:
        assert client.get("/api/v1/health").json() == {"status": "ready"}
        context.store.engine.dispose()
        for path in demo_dir.glob("reedling.sqlite*"):
            path.unlink()
        (demo_dir / "reedling.sqlite").write_bytes(b"not a database at all" * 300)
        assert client.get("/api/v1/live").json() == {"status": "alive"}
        answer = client.get("/api/v1/health")
        assert (answer.status_code, answer.json()["code"]) == (503, "store.corrupt")
        assert answer.headers["retry-after"] == "2"


def test_the_description_of_the_api_is_for_those_signed_in(sign_in: SignIn) -> None:
    assert sign_in("").get("/api/v1/openapi.json").status_code == 401
    assert sign_in("runa").get("/api/v1/openapi.json").json()["info"]["title"] == "Reedling"
    assert sign_in("ines").get("/openapi.json").status_code == 404


def test_who_goes_before_the_request_is_read_is_no_error_of_the_server() -> None:
    async def reads(scope: Scope, receive: Receive, _send: Send) -> None:
        await Request(scope, receive).body()

    async def gone() -> Message:
        return {"type": "http.disconnect"}

    answered: list[Message] = []

    async def send(message: Message) -> None:
        answered.append(message)

    metrics = Metrics()
    scope = {"type": "http", "method": "POST", "path": "/", "headers": [], "query_string": b""}
    with structlog.testing.capture_logs() as logged:
        run_alone(ObservedRequests(reads, metrics)(scope, gone, send))
    assert answered == []
    assert [(line["log_level"], line["status"]) for line in logged] == [("info", 0)]
    assert b"reedling_errors_total 0.0" in metrics.text()
