"""Views of jobs kept by name: for everybody, one's own to let go, and there to compare with."""

from __future__ import annotations

from collections.abc import Callable

import pytest
from fastapi.testclient import TestClient

SignIn = Callable[[str], TestClient]
VIEWS = "/api/v1/incident-types/IT-001/kept-views"
COMPARED = "/api/v1/incident-types/IT-001/jobs-together/compared"


def test_a_view_is_kept_for_all_and_let_go_by_its_keeper_or_an_approver(sign_in: SignIn) -> None:
    ines, marek, oda = sign_in("ines"), sign_in("marek"), sign_in("oda")
    made = ines.post(f"{VIEWS}?model=WR3&district=Saltings", json={"name": "Newer rakes by the sea"})
    assert made.status_code == 201
    (seen,) = marek.get(VIEWS).json()
    assert (seen["name"], seen["by_name"], seen["mine"]) == ("Newer rakes by the sea", "Ines Varga", False)
    assert seen["choices"] == {"model": ["WR3"], "district": ["Saltings"]}
    again = marek.post(f"{VIEWS}?model=WR2", json={"name": "Newer rakes by the sea"})
    assert (again.status_code, again.json()["code"]) == (409, "kept_views.taken")
    assert "Ines Varga" in again.json()["detail"]
    assert marek.delete(VIEWS, params={"name": "Newer rakes by the sea"}).status_code == 403
    changed = ines.post(f"{VIEWS}?model=WR2", json={"name": "Newer rakes by the sea"})
    assert changed.status_code == 201
    assert ines.get(VIEWS).json()[0]["choices"] == {"model": ["WR2"]}
    assert oda.delete(VIEWS, params={"name": "Newer rakes by the sea"}).status_code == 204
    assert ines.get(VIEWS).json() == []
    assert (
        ines.delete(VIEWS, params={"name": "Newer rakes by the sea"}).json()["code"] == "kept_views.unknown"
    )


@pytest.mark.parametrize("name", ["North/South", "..", "50 %?", "a&name=b", "Größer #1"])
def test_whatever_a_view_is_called_it_can_be_compared_with_and_let_go(sign_in: SignIn, name: str) -> None:
    ines = sign_in("ines")
    assert ines.post(f"{VIEWS}?model=WR3", json={"name": name}).status_code == 201
    assert ines.get(COMPARED, params={"model": "WR2", "against": name}).status_code == 200
    assert ines.delete(VIEWS, params={"name": name}).status_code == 204
    assert ines.get(VIEWS).json() == []


@pytest.mark.parametrize(
    ("query", "name", "code"),
    [("", "Nothing chosen", "kept_views.empty"), ("?model=WR3", "  ", "kept_views.name")],
)
def test_what_cannot_be_kept_is_refused(sign_in: SignIn, query: str, name: str, code: str) -> None:
    refused = sign_in("ines").post(f"{VIEWS}{query}", json={"name": name})
    assert (refused.status_code, refused.json()["code"]) == (422, code)


def test_technicians_neither_see_nor_keep_views(sign_in: SignIn) -> None:
    runa = sign_in("runa")
    assert runa.get(VIEWS).status_code == 403
    assert runa.post(f"{VIEWS}?model=WR3", json={"name": "Mine"}).status_code == 403
    assert runa.get(COMPARED).status_code == 403


def test_jobs_are_compared_with_a_view_or_with_all_others(sign_in: SignIn) -> None:
    ines = sign_in("ines")
    n_of = ines.get("/api/v1/incident-types/IT-001/jobs-together").json()["found"]["n_of"]
    others = ines.get(f"{COMPARED}?model=WR3").json()
    assert others["n_first"] + others["n_second"] == n_of
    assert others["alike"] == ["symptom", "cause"]
    ines.post(f"{VIEWS}?model=WR2", json={"name": "Older rakes"})
    view = ines.get(f"{COMPARED}?model=WR3&against=Older rakes").json()
    assert view == others, "there are two models"
    missing = ines.get(f"{COMPARED}?model=WR3&against=Gone")
    assert (missing.status_code, missing.json()["code"]) == (404, "kept_views.unknown")
