"""Every string field of the API: valid Unicode alone is taken, in every place it can be sent."""

from __future__ import annotations

import json
from collections.abc import Callable, Iterator
from itertools import islice
from typing import Any

import pytest
from fastapi import FastAPI
from fastapi.testclient import TestClient

SignIn = Callable[[str], TestClient]
BAD = ("\ud83d", "a\u0000b", "bell \u0007", "\udc00\ud800")
WHO = {"/api/v1/pocket": "runa", "/api/v1/orders": "marek", "/api/v1/people": "oda"}


def samples(schema: dict[str, Any], schemas: dict[str, Any], bad: str, depth: int = 0) -> Iterator[Any]:
    """Values of a schema, each with the bad text in one of its string fields (or keys)."""
    if depth > 9:
        return
    if "$ref" in schema:
        yield from samples(schemas[schema["$ref"].rsplit("/", 1)[1]], schemas, bad, depth + 1)
    for key in ("anyOf", "oneOf", "allOf"):
        for inner in schema.get(key, ()):
            yield from samples(inner, schemas, bad, depth + 1)
    match schema.get("type"):
        case "string":
            yield bad
        case "array":
            for value in samples(schema.get("items", {}), schemas, bad, depth + 1):
                yield [value]
        case "object":
            for name, inner in schema.get("properties", {}).items():
                for value in samples(inner, schemas, bad, depth + 1):
                    yield {name: value}
            if schema.get("additionalProperties"):
                yield {bad: "x"}


@pytest.mark.slow
def test_a_bad_text_is_refused_in_every_string_field_of_every_body(
    demo_app: FastAPI, sign_in: SignIn
) -> None:
    openapi = demo_app.openapi()
    schemas = openapi["components"]["schemas"]
    clients = {who: sign_in(who) for who in ("oda", "runa", "marek")}
    n_fields = 0
    for path, operations in openapi["paths"].items():
        client = clients[next((w for prefix, w in WHO.items() if path.startswith(prefix)), "oda")]
        for method, operation in operations.items():
            content = operation.get("requestBody", {}).get("content", {}).get("application/json")
            if content is None or path == "/api/v1/session":
                continue
            # Wide unions of edits go through conditions within conditions: the first fields stand for them.
            for n, body in enumerate(islice(samples(content["schema"], schemas, BAD[0]), 60)):
                n_fields += 1
                text = json.dumps(body).replace(json.dumps(BAD[0])[1:-1], json.dumps(BAD[n % 4])[1:-1])
                answer = client.request(
                    method.upper(),
                    path.replace("{", "").replace("}", ""),
                    content=text,
                    headers={"content-type": "application/json", "if-match": '"x"'},
                )
                assert (answer.status_code, answer.json()["code"]) == (422, "text.unfit"), f"{path} {text}"
    assert n_fields > 150


def test_a_bad_text_is_refused_in_every_part_of_an_address(demo_app: FastAPI, sign_in: SignIn) -> None:
    oda, n_fields = sign_in("oda"), 0
    for path, operations in demo_app.openapi()["paths"].items():
        for method, operation in operations.items():
            for parameter in operation.get("parameters", ()):
                # The stand-ins keep nothing of what they are asked.
                if parameter["in"] != "query" or method != "get" or path.startswith("/standins"):
                    continue
                n_fields += 1
                address = path.replace("{", "").replace("}", "")
                answer = oda.get(f"{address}?{parameter['name']}=a%00b")
                assert answer.status_code in (403, 422), f"{path} {parameter['name']}: {answer.text[:200]}"
    assert n_fields > 20


def test_a_text_is_kept_in_its_normal_form(sign_in: SignIn) -> None:
    """Unicode Standard Annex #15: the letter and its accent, written apart or as one, are the same text."""
    ines = sign_in("ines")
    made = ines.post("/api/v1/documents", json={"kind": "form", "title": "Pru\u0308fliste"}).json()["id"]
    assert ines.get(f"/api/v1/documents/{made}/plan").json()["content"]["title"] == "Prüfliste"
    found = ines.get("/api/v1/search", params={"q": "Prüfliste"}).json()
    assert [f["id"] for f in found] == [made]


def test_a_text_beyond_its_bound_is_refused_by_its_length(sign_in: SignIn) -> None:
    ines = sign_in("ines")
    for title, status in (("x" * 200, 201), ("x" * 201, 422)):
        assert ines.post("/api/v1/documents", json={"kind": "form", "title": title}).status_code == status
