"""Every route says who may use it, and holds to it."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence

import pytest
from fastapi import FastAPI
from fastapi.dependencies.models import Dependant
from fastapi.routing import APIRoute
from fastapi.testclient import TestClient

from reedling.api.guarded import allowed_of
from reedling.core.people import ROLES

SignIn = Callable[[str], TestClient]
METHODS = ("GET", "POST", "PUT", "PATCH", "DELETE")
USERS = {"engineer": "ines", "approver": "oda", "planner": "marek", "technician": "runa"}
OPEN_TO_ALL = {
    ("GET", "/api/v1/health"),
    ("GET", "/api/v1/sign-in"),
    ("POST", "/api/v1/session"),
    ("DELETE", "/api/v1/session"),
    ("GET", "/standins/camera.jpg"),
    ("GET", "/standins/position"),
    ("GET", "/api/v1/live"),
    ("GET", "/api/v1/invitations/{token}"),
    ("POST", "/api/v1/invitations"),
    ("GET", "/metrics"),
    ("GET", "/errors/{code}"),
    *((m, f"/{under}/{{path:path}}") for m in METHODS for under in ("api", "standins")),
}


def routes_of(app: FastAPI) -> Iterator[APIRoute]:
    yield from walk(app.routes)


def walk(routes: Sequence[object]) -> Iterator[APIRoute]:
    for route in routes:
        if isinstance(route, APIRoute):
            yield route
        elif hasattr(route, "original_router"):
            yield from walk(route.original_router.routes)


def allowed(dependant: Dependant) -> set[str] | None:
    """The roles a route is for; of the people of the demo, the approver alone is an administrator."""
    found = allowed_of(dependant)
    if found is None:
        return None
    return {"approver"} if found.administrators else set(found.roles)


def test_every_route_says_who_may_use_it(demo_app: FastAPI) -> None:
    silent = {
        (method, route.path)
        for route in routes_of(demo_app)
        for method in route.methods or ()
        if allowed(route.dependant) is None
    }
    assert silent == OPEN_TO_ALL


def test_without_a_session_every_guarded_route_answers_401(demo_app: FastAPI, sign_in: SignIn) -> None:
    outside = sign_in("")
    guarded = [r for r in routes_of(demo_app) if allowed(r.dependant) is not None]
    assert len(guarded) > 25
    for route in guarded:
        for method in route.methods or ():
            answer = outside.request(method, route.path)
            assert answer.status_code == 401, f"{method} {route.path}: {answer.text}"
            assert answer.json()["code"] == "sign_in.needed"


@pytest.mark.parametrize("role", ROLES)
def test_each_role_is_let_in_or_turned_away_as_the_route_says(
    role: str, demo_app: FastAPI, sign_in: SignIn
) -> None:
    """All routes, asked for what is not there: the answer is 403 or the route's own, and never an error of ours."""
    client = sign_in(USERS[role])
    for route in routes_of(demo_app):
        roles = allowed(route.dependant)
        for method in route.methods or ():
            if (method, route.path) == ("DELETE", "/api/v1/session"):
                continue
            answer = client.request(method, route.path.replace("{", "x").replace("}", ""))
            assert answer.status_code < 500, f"{role} {method} {route.path}: {answer.text[:200]}"
            if roles is None:
                continue
            refused = answer.status_code == 403 and answer.json()["code"] == "access.role"
            assert refused is (role not in roles), f"{role} {method} {route.path}: {answer.status_code}"


def test_a_wrong_name_and_a_wrong_password_are_refused_alike(sign_in: SignIn) -> None:
    outside = sign_in("")
    answers = [
        outside.post("/api/v1/session", json={"username": name, "password": "wrong"})
        for name in ("ines", "nobody")
    ]
    assert [a.status_code for a in answers] == [401, 401]
    assert (
        answers[0].json()["detail"]
        == answers[1].json()["detail"]
        == "That name and password do not go together."
    )


def test_a_session_ends_when_signed_out(sign_in: SignIn) -> None:
    client = sign_in("ines")
    token = client.cookies["reedling_session"]
    assert client.get("/api/v1/session").json()["name"] == "Ines Varga"
    client.delete("/api/v1/session")
    client.cookies.set("reedling_session", token)
    assert client.get("/api/v1/session").status_code == 401


def test_the_cookie_is_kept_from_scripts(sign_in: SignIn) -> None:
    answer = sign_in("").post("/api/v1/session", json={"username": "ines", "password": "reed-bed"})
    cookie = answer.headers["set-cookie"].lower()
    assert "httponly" in cookie
    assert "samesite=strict" in cookie


def test_a_technician_sees_only_their_own_pictures_and_orders(sign_in: SignIn) -> None:
    technician, engineer = sign_in("runa"), sign_in("ines")
    strange = next(
        o["id"]
        for o in engineer.get("/api/v1/orders").json()["rows"]
        if o["technician"] not in ("runa", None)
    )
    assert technician.get(f"/api/v1/pocket/orders/{strange}").status_code == 404
    job = engineer.get(f"/api/v1/completions/{strange}").json()
    photos = [
        p["id"]
        for line in job["page"]["run"]["runsheet"]["lines"]
        for p in line["questions"]
        if p["kind"] == "photo"
    ]
    picture = next(job["page"]["job"]["answers"][p] for p in photos if p in job["page"]["job"]["answers"])
    assert engineer.get(f"/api/v1/pictures/{picture}").headers["content-type"] == "image/jpeg"
    assert technician.get(f"/api/v1/pictures/{picture}").status_code == 404
