"""Requests nobody would think of: every route answers in its documented way, and nothing is lost."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import pytest
import schemathesis
from fastapi import FastAPI
from fastapi.testclient import TestClient
from hypothesis import HealthCheck, Phase, given, settings
from hypothesis import strategies as st
from schemathesis.checks import not_a_server_error
from schemathesis.specs.openapi.checks import (
    content_type_conformance,
    response_schema_conformance,
    status_code_conformance,
)

from tests.examples import examples

SignIn = Callable[[str], TestClient]
N_PER_ROUTE = 6
LEFT_OUT = ("/api/v1/session", "/standins/", "/api/v1/pictures/", "/api/v1/illustrations/")
"""Signing in and out would end the session; the others answer with pictures."""


@pytest.mark.slow
def test_no_route_falls_over_whatever_is_sent(demo_app: FastAPI, sign_in: SignIn) -> None:
    """Schemathesis on every route, signed in as the one who may use the most of them."""
    schema = schemathesis.openapi.from_dict(demo_app.openapi())
    schema.app = demo_app
    clients = {who: sign_in(who) for who in ("oda", "marek", "runa")}
    faults: list[str] = []
    for found in schema.get_all_operations():
        operation: Any = found.ok()  # type: ignore[union-attr]
        if operation.path.startswith(LEFT_OUT):
            continue
        client = clients[_who(operation.path)]
        try:
            _send_cases(operation, dict(client.cookies))
        except (Exception, BaseExceptionGroup) as error:  # each is told, with its route
            faults.append(f"{operation.method.upper()} {operation.path}: {_told(error)}")
    assert faults == []


def _send_cases(operation: Any, cookies: dict[str, str]) -> None:
    checks = [
        not_a_server_error,
        status_code_conformance,
        content_type_conformance,
        response_schema_conformance,
    ]

    @settings(
        max_examples=N_PER_ROUTE,
        deadline=None,
        database=None,
        derandomize=True,
        phases=[Phase.generate],
        suppress_health_check=list(HealthCheck),
    )
    @given(operation.as_strategy())
    def send(case: Any) -> None:
        case.call_and_validate(cookies=cookies, checks=checks)

    send()


def _who(path: str) -> str:
    if "/pocket/" in path:
        return "runa"
    return "marek" if path.startswith("/api/v1/orders") else "oda"


JSON = st.recursive(
    st.none() | st.booleans() | st.floats(allow_nan=False, allow_infinity=False) | st.text(max_size=20),
    lambda inner: st.lists(inner, max_size=3) | st.dictionaries(st.text(max_size=8), inner, max_size=3),
    max_leaves=6,
)
POINTERS = st.one_of(
    st.text(max_size=30),
    st.sampled_from(
        [
            "",
            "/steps/0",
            "/steps/0/questions/0",
            "/steps/99/text",
            "/steps/-",
            "/steps/0/minutes/likely",
            "/steps/3/condition",
            "/title",
            "/applies_when",
            "/nothing",
            "/steps/0/~2",
        ]
    ),
)
OPERATIONS = st.fixed_dictionaries(
    {"op": st.sampled_from(["add", "remove", "replace", "move", "copy", "test", "swap"]), "path": POINTERS},
    optional={"value": JSON, "from": POINTERS},
)


@pytest.mark.slow
@pytest.mark.parametrize("document", ["WP-001"])
def test_no_patch_loses_anything(sign_in: SignIn, document: str) -> None:
    """Whatever patch is sent, the draft is afterwards either as before or as its answer says."""
    client = sign_in("ines")
    client.post(f"/api/v1/documents/{document}/draft")
    path = f"/api/v1/documents/{document}/draft"

    @settings(max_examples=examples(120), deadline=None, database=None, derandomize=True)
    @given(st.lists(OPERATIONS, min_size=1, max_size=3))
    def send(patch: list[dict[str, Any]]) -> None:
        before = client.get(f"/api/v1/documents/{document}/plan").json()
        answer = client.patch(path, json=patch, headers={"if-match": before["etag"]})
        after = client.get(f"/api/v1/documents/{document}/plan").json()
        assert answer.status_code in (200, 400, 409, 422), answer.text
        if answer.status_code == 200:
            assert after["content"] == answer.json()["plan"]["content"]
            back = client.patch(path, json=answer.json()["inverse"], headers={"if-match": after["etag"]})
            assert back.status_code == 200, back.text
            assert back.json()["plan"]["content"] == before["content"]
        else:
            assert after == before
            assert answer.json()["detail"]

    send()


@pytest.mark.parametrize(
    "title",
    ["泵站检查", "Проверка насоса", "فحص المضخة", "🛠️ pump 🌾", "a" * 200, "<b>bold</b>", "'; DROP TABLE x"],
)
def test_a_name_may_be_in_any_script(sign_in: SignIn, title: str) -> None:
    client = sign_in("ines")
    made = client.post("/api/v1/documents", json={"kind": "form", "title": title}).json()["id"]
    view = client.get(f"/api/v1/documents/{made}/plan").json()
    assert view["content"]["title"] == title
    patch = [{"op": "replace", "path": "/steps/0/text", "value": title}]
    saved = client.patch(f"/api/v1/documents/{made}/draft", json=patch, headers={"if-match": view["etag"]})
    assert saved.json()["plan"]["content"]["steps"][0]["text"] == title
    found = client.get(f"/api/v1/documents/{made}/text-places", params={"words": title[:3]}).json()
    assert {p["text"] for p in found} == {title}


def test_a_form_of_five_thousand_questions_is_taken_or_refused_with_the_way_out(sign_in: SignIn) -> None:
    client = sign_in("ines")
    made = client.post("/api/v1/documents", json={"kind": "form", "title": "Long"}).json()["id"]
    tag = client.get(f"/api/v1/documents/{made}/plan").json()["etag"]
    steps = [
        {
            "id": f"s{i}",
            "phase": "Diagnose",
            "text": f"Section {i}",
            "questions": [{"kind": "yes_no", "id": f"q{i}-{j}", "label": f"Question {j}"} for j in range(50)],
        }
        for i in range(100)
    ]
    answer = client.patch(
        f"/api/v1/documents/{made}/draft",
        json=[{"op": "replace", "path": "/steps", "value": steps}],
        headers={"if-match": tag},
    )
    assert answer.status_code == 422
    assert answer.json()["code"] == "drafts.too_large"
    assert "2,000 questions" in answer.json()["detail"]
    assert "Split it" in answer.json()["hint"]
    assert client.get(f"/api/v1/documents/{made}/plan").json()["etag"] == tag


def _told(error: BaseException) -> str:
    """The failures in a group, each on its line."""
    inner = getattr(error, "exceptions", (error,))
    return "; ".join(str(e)[:600] for e in inner)
