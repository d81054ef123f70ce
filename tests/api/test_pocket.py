"""What a phone and the office ask of each other: pictures in pieces, loose records, what is taken along."""

from __future__ import annotations

import hashlib
from collections.abc import Callable
from datetime import UTC, datetime, timedelta
from typing import Any
from uuid import uuid4

import pytest
from fastapi.testclient import TestClient

from tests.api.test_loop import ARRIVE, order, picture, send

__all__ = ["order"]

SignIn = Callable[[str], TestClient]


def test_a_picture_comes_in_pieces_and_is_shown(sign_in: SignIn, order: str) -> None:
    runa = sign_in("runa")
    data, name = picture(), str(uuid4())
    whole = {"order": order, "size": len(data), "sha256": hashlib.sha256(data).hexdigest()}
    told = runa.put(f"/api/v1/pocket/pictures/{name}", json=whole).json()
    while not told["is_kept"]:
        piece = data[told["have"] : told["have"] + 100]
        told = runa.post(
            f"/api/v1/pocket/pictures/{name}/pieces",
            params={"at": told["have"], "sha256": hashlib.sha256(piece).hexdigest()},
            files={"file": ("piece", piece)},
        ).json()
    assert runa.get(f"/api/v1/pictures/{name}").content == data


def test_an_answer_may_name_a_picture_that_is_still_on_its_way(sign_in: SignIn, order: str) -> None:
    runa = sign_in("runa")
    send(runa, order, *ARRIVE)
    name = str(uuid4())
    answer = {"kind": "answered", "question": "WP-001:plate-photo", "value": name}
    assert send(runa, order, answer).json()["loose"] == ""
    assert runa.get(f"/api/v1/pictures/{name}").status_code == 404
    strange = {"kind": "answered", "question": "WP-001:plate-photo", "value": "../secret"}
    assert "no picture of that name" in send(runa, order, strange).json()["loose"]


def test_the_office_decides_on_what_a_job_could_not_take_in(sign_in: SignIn, order: str) -> None:
    runa, marek = sign_in("runa"), sign_in("marek")
    marek.post(f"/api/v1/orders/{order}/cancellation", json={"reason": "Rang off"})
    names = [send(runa, order, event).json()["submission"] for event in ARRIVE]
    waiting = marek.get("/api/v1/loose-records").json()
    assert [w["submission"] for w in waiting] == names
    assert runa.get("/api/v1/loose-records").status_code == 403
    aside = {"submissions": names, "decision": "set aside", "reason": " "}
    assert marek.post("/api/v1/loose-records/decisions", json=aside).json()["code"] == "loose_records.reason"
    taken = marek.post("/api/v1/loose-records/decisions", json={"submissions": names, "decision": "taken in"})
    assert [d["decision"] for d in taken.json()] == ["taken in", "taken in"]
    assert marek.get(f"/api/v1/orders/{order}").json()["job"]["visits"][0]["arrived_at"]


def test_several_submissions_go_in_one_request_each_by_itself(sign_in: SignIn, order: str) -> None:
    runa = sign_in("runa")
    at = datetime.now(UTC).isoformat()
    events: list[list[dict[str, Any]]] = [
        [{"kind": "headed out"}],
        [{"kind": "arrived"}],
        [{"kind": "step started", "line": "WP-001:no-such-line"}],
        [{"kind": "note written", "text": "After the one that is refused.", "line": None}],
    ]
    sent = [
        {"id": str(uuid4()), "order": order, "checked": False, "events": [{**e, "at": at} for e in es]}
        for es in events
    ]
    first = runa.post("/api/v1/pocket/submissions", json={"submissions": sent}).json()
    assert [bool(one["receipt"]) for one in first] == [True, True, False, True]
    assert first[2]["refusal"]["code"] == "jobs.line"
    assert [one["submission"] for one in first] == [one["id"] for one in sent]
    again = runa.post("/api/v1/pocket/submissions", json={"submissions": sent}).json()
    assert again == first, "a repeat changes nothing"
    kept = runa.get(f"/api/v1/pocket/orders/{order}").json()
    assert kept["n_recorded"] == 3
    assert [note["text"] for note in kept["job"]["notes"]] == ["After the one that is refused."]


def test_submissions_of_somebody_else_are_told_apart(sign_in: SignIn, order: str) -> None:
    body = {
        "submissions": [
            {
                "id": str(uuid4()),
                "order": order,
                "person": "teo",
                "events": [{"kind": "headed out", "at": "2026-01-01T00:00:00Z"}],
            }
        ]
    }
    (answer,) = sign_in("runa").post("/api/v1/pocket/submissions", json=body).json()
    assert (answer["receipt"], answer["refusal"]["code"]) == (None, "submissions.person")
    assert sign_in("marek").post("/api/v1/pocket/submissions", json=body).status_code == 403


def test_the_version_of_an_order_is_another_one_once_somebody_else_changed_it(
    sign_in: SignIn, order: str
) -> None:
    runa, marek = sign_in("runa"), sign_in("marek")

    def version() -> Any:
        lines = runa.get("/api/v1/pocket/orders").json()["orders"]
        return next(o["version"] for o in lines if o["line"]["id"] == order)

    before = version()
    marek.post(
        f"/api/v1/orders/{order}/visit", json={"technician": "runa", "planned_for": "2026-11-27T07:00:00Z"}
    )
    planned = version()
    send(runa, order, *ARRIVE)
    assert version() == planned != before, "what the technician recorded is no news to the technician"


def as_read(client: TestClient, setting: str) -> dict[str, str]:
    """What guards a setting as this client reads it now."""
    return {"if-match": client.get(f"/api/v1/settings/{setting}").headers["etag"]}


@pytest.mark.parametrize(("days_ahead", "taken"), [(0, False), (60, True)])
def test_engineers_say_what_phones_take_along(sign_in: SignIn, days_ahead: int, taken: bool) -> None:
    runa, ines, marek = sign_in("runa"), sign_in("ines"), sign_in("marek")
    order = runa.get("/api/v1/pocket/orders").json()["orders"][0]["line"]["id"]
    marek.post(
        f"/api/v1/orders/{order}/visit",
        json={"technician": "runa", "planned_for": planned_in(40)},
    )
    rule = {"days_back": 0, "days_ahead": days_ahead, "pictures": False}
    tag = as_read(ines, "taking-along")
    assert marek.put("/api/v1/settings/taking-along", json=rule, headers=tag).status_code == 403
    assert ines.put("/api/v1/settings/taking-along", json=rule, headers=tag).json()["rule"] == rule
    day = runa.get("/api/v1/pocket/orders").json()
    assert day["taking_along"] == rule
    assert next(o["taken"] for o in day["orders"] if o["line"]["id"] == order) is taken
    loads = marek.get("/api/v1/settings/taking-along/loads", params={"technician": "runa", **rule}).json()
    load = next(o for o in loads["orders"] if o["line"]["id"] == order)
    assert load["taken"] is taken
    assert load["data_bytes"] > 10_000
    tag = as_read(ines, "taking-along")
    refused = ines.put("/api/v1/settings/taking-along", json={**rule, "days_back": 61}, headers=tag)
    assert refused.json()["code"] == "taking_along.days"


def test_engineers_say_what_the_card_of_an_order_shows(sign_in: SignIn) -> None:
    runa, ines, marek = sign_in("runa"), sign_in("ines"), sign_in("marek")

    def own() -> dict[str, Any]:
        return dict(runa.get("/api/v1/pocket/orders").json()["orders"][0])

    before = own()
    order = before["line"]["id"]
    page = f"/api/v1/pocket/orders/{order}"
    held = marek.get("/api/v1/settings/order-card").json()
    assert {line["label"] for line in runa.get(page).json()["card"]} == {
        field["label"] for field in held["card"]["further"]
    }
    assert before["card"] == []
    card = {
        "first": [{"fact": "customer.name", "label": "Whose"}, {"fact": "order.reference", "label": ""}],
        "further": [{"fact": "asset.serial", "label": ""}, {"fact": "site.contract", "label": "Cover"}],
    }
    shown = marek.post("/api/v1/settings/order-card/previews", json={"card": card, "order": order}).json()
    assert own() == before, "a preview keeps nothing"
    tag = as_read(ines, "order-card")
    assert marek.put("/api/v1/settings/order-card", json=card, headers=tag).status_code == 403
    assert ines.put("/api/v1/settings/order-card", json=card, headers=tag).json()["card"] == card
    line = before["line"]
    now = own()
    assert now["card"] == shown["first"] == [{"label": "Whose", "text": line["site"]["customer"]}]
    assert now["version"] != before["version"], "phones that have the order fetch it anew"
    assert runa.get(page).json()["card"] == shown["further"]
    assert shown["further"][0] == {"label": "Serial", "text": line["asset"]["serial"]}
    assert shown["further"][1]["text"] not in ("", line["site"]["contract"]), "in words, not as a code"
    wrong = {**card, "first": [{"fact": "asset.colour"}]}
    refused = ines.put("/api/v1/settings/order-card", json=wrong, headers=as_read(ines, "order-card"))
    assert (refused.status_code, refused.json()["code"]) == (422, "order_card.fact")
    missing = {"card": card, "order": "WO-9999"}
    assert marek.post("/api/v1/settings/order-card/previews", json=missing).status_code == 404


def test_a_setting_is_not_written_over_what_somebody_else_set_meanwhile(sign_in: SignIn) -> None:
    ines, oda, runa = sign_in("ines"), sign_in("oda"), sign_in("runa")
    settings: dict[str, tuple[dict[str, Any], dict[str, Any]]] = {
        "taking-along": (
            {"days_back": 2, "days_ahead": 3, "pictures": True},
            {"days_back": 0, "days_ahead": 9, "pictures": True},
        ),
        "order-card": (
            {"first": [{"fact": "asset.serial", "label": ""}], "further": []},
            {"first": [], "further": [{"fact": "asset.serial", "label": ""}]},
        ),
    }
    for name, (first, second) in settings.items():
        read = as_read(oda, name)
        assert ines.put(f"/api/v1/settings/{name}", json=first, headers=read).status_code == 200
        late = oda.put(f"/api/v1/settings/{name}", json=second, headers=read)
        assert (late.status_code, late.json()["code"]) == (412, "settings.stale")
        assert oda.put(f"/api/v1/settings/{name}", json=second, headers=as_read(oda, name)).status_code == 200
    assert runa.get("/api/v1/pocket/orders").json()["taking_along"] == settings["taking-along"][1]


def planned_in(days: int) -> str:
    return (datetime.now(UTC) + timedelta(days=days)).isoformat()


def test_a_page_of_another_version_gets_no_order_and_still_sends_what_it_has(
    sign_in: SignIn, order: str
) -> None:
    runa = sign_in("runa")
    app: Any = runa.app
    before, app.state.rules = getattr(app.state, "rules", None), "/rules/new/"
    try:
        address = f"/api/v1/pocket/orders/{order}"
        assert runa.get(address).status_code == 200  # A program has no rules of its own.
        assert runa.get(address, headers={"X-Reedling-Rules": "/rules/new/"}).status_code == 200
        of_page = {"X-Reedling-Rules": "/rules/old/"}
        told = runa.get(address, headers=of_page)
        assert (told.status_code, told.json()["code"]) == (409, "pocket.outdated")
        sent = runa.post(
            f"{address}/submissions",
            headers=of_page,
            json={"id": str(uuid4()), "events": [{"kind": "headed out", "at": "2026-06-01T08:00:00Z"}]},
        )
        assert sent.status_code == 200
    finally:
        app.state.rules = before
