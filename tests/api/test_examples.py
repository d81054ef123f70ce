"""The examples in the API's description: one at every body of JSON, each taken by its route."""

from __future__ import annotations

import json
from collections.abc import Callable

import pytest
from fastapi import FastAPI
from fastapi.testclient import TestClient

from reedling.api.examples import EXAMPLES
from reedling.api.guarded import GuardedRoute
from tests.api.test_access import routes_of

SignIn = Callable[[str], TestClient]

SENT = (
    ("ines", "POST /api/v1/incident-types"),
    ("ines", "POST /api/v1/documents"),
    ("ines", "POST /api/v1/incident-types/{document}/plans"),
    ("ines", "POST /api/v1/documents/{document}/comments"),
    ("ines", "PUT /api/v1/lists/{name}"),
    ("ines", "POST /api/v1/lists/{name}/sheet"),
    ("ines", "PUT /api/v1/settings/order-card"),
    ("ines", "POST /api/v1/settings/order-card/previews"),
    ("ines", "PUT /api/v1/settings/taking-along"),
    ("ines", "POST /api/v1/previews"),
    ("ines", "POST /api/v1/previews/tours"),
    ("ines", "POST /api/v1/previews/witness-answers"),
    ("ines", "PATCH /api/v1/documents/{document}/draft"),
    ("ines", "POST /api/v1/documents/{document}/edits"),
    ("ines", "POST /api/v1/completions/{order_id}/questions"),
    ("marek", "POST /api/v1/orders"),
    ("marek", "POST /api/v1/tried-orders"),
    ("oda", "POST /api/v1/people"),
    ("oda", "POST /api/v1/programs"),
)
"""Who sends which example as it stands, in this order."""
ADDRESSED = {"name": "symptoms", "order_id": "WO-0001"}
"""What stands for the parts of addresses; a document is an incident type or, of a draft, a plan."""


def test_every_body_of_json_has_an_example_and_every_example_a_route(demo_app: FastAPI) -> None:
    described = demo_app.openapi()
    wanted = {
        f"{method.upper()} {address}"
        for address, path in described["paths"].items()
        for method, operation in path.items()
        if "application/json" in operation.get("requestBody", {}).get("content", {})
    }
    assert wanted == set(EXAMPLES)
    body = described["paths"]["/api/v1/orders"]["post"]["requestBody"]["content"]["application/json"]
    assert body["example"] == EXAMPLES["POST /api/v1/orders"]


def test_every_example_is_what_its_route_reads(demo_app: FastAPI) -> None:
    read = set()
    for route in routes_of(demo_app):
        for method in route.methods or ():
            name = f"{method} {route.path}"
            if name in EXAMPLES and isinstance(route, GuardedRoute):
                route._read(json.dumps(EXAMPLES[name]).encode())
                read.add(name)
    assert read == set(EXAMPLES)


@pytest.mark.slow
def test_examples_are_carried_out_as_they_stand(sign_in: SignIn) -> None:
    clients = {who: sign_in(who) for who in ("ines", "marek", "oda")}
    refused: dict[str, str] = {}
    for who, name in SENT:
        method, pattern = name.split(" ")
        is_plan = pattern.endswith(("/draft", "/edits", "/comments"))
        address = pattern.format(document="WP-001" if is_plan else "IT-001", **ADDRESSED)
        headers = {}
        thing = address.removesuffix("/draft").removesuffix("/edits").removesuffix("/sheet")
        for tagged in (f"{thing}/plan", thing):
            read = clients[who].get(tagged)
            if read.status_code == 200 and "etag" in read.headers:
                headers = {"if-match": read.headers["etag"]}
        given = {"begin": "true"} if headers and is_plan else {}
        answer = clients[who].request(method, address, json=EXAMPLES[name], headers=headers, params=given)
        if not answer.is_success:
            refused[name] = answer.json()["detail"]
    assert refused == {}
