"""The simulated field through the API comes to the same as through the services."""

from __future__ import annotations

from dataclasses import dataclass, field, replace
from pathlib import Path
from typing import Any

import pytest
from fastapi.testclient import TestClient

from reedling.core.orders.orders import Order
from reedling.core.people import Person
from reedling.core.runsheet.job import replay
from reedling.core.runsheet.job_state import Job
from reedling.exchange.content import dump_value
from reedling.services.context import Context
from reedling.services.shared.matched import OrderToMatch
from reedling.services.shared.needed import need_order
from reedling.standins import field as simulated
from reedling.standins.field import DEMO_PASSWORD, play_demo
from reedling.standins.field_offices import HandedIn, picture_of
from reedling.wiring import open_context
from tests.conftest import app_over
from tests.standins.test_field import EXTENT, NOW, TABLES, rows


@dataclass
class OverHttp:
    """An office that is reached as phones and desks reach it, each person with a session of their own."""

    context: Context
    clients: dict[str, TestClient] = field(default_factory=dict)

    def call(self, who: Person, method: str, path: str, **more: Any) -> Any:
        """Ask for something as somebody; signs in again where the session has ended meanwhile."""
        client = self.clients.get(who.username)
        answer = client.request(method, path, **more) if client else None
        if client is None or answer is None or answer.status_code == 401:
            app = app_over(self.context, Path(str(self.context.store.engine.url.database)).parent)
            client = self.clients[who.username] = TestClient(app)
            account = {"username": who.username, "password": DEMO_PASSWORD}
            assert client.post("/api/v1/session", json=account).status_code == 200
            answer = client.request(method, path, **more)
        assert answer.status_code < 300, (method, path, answer.text)
        return answer.json() if answer.content else None

    def log(self, planner: Person, asked: OrderToMatch, report: str) -> Order:
        """As the office of the simulation."""
        body = {"asset": asked.asset, "symptom": asked.symptom, "report": report}
        made = self.call(planner, "POST", "/api/v1/orders", json=body)
        with self.context.reading() as unit:
            return need_order(unit, made["id"])

    def plan(self, planner: Person, order: str, technician: str, at: Any) -> None:
        """As the office of the simulation."""
        body = {"technician": technician, "planned_for": at.isoformat()}
        self.call(planner, "POST", f"/api/v1/orders/{order}/visit", json=body)

    def call_off(self, planner: Person, order: str, reason: str) -> None:
        """As the office of the simulation."""
        self.call(planner, "POST", f"/api/v1/orders/{order}/cancellation", json={"reason": reason})

    def job_of(self, order: Order) -> Job:
        """As the office of the simulation."""
        with self.context.reading() as unit:
            return replay(order.runsheet, unit.recorded.events(order.id))

    def take_in(self, technician: Person, order: str, handed: HandedIn) -> None:
        """As the office of the simulation."""
        path = f"/api/v1/pocket/orders/{order}"
        for taken in handed.pictures:
            self.call(
                technician,
                "POST",
                f"{path}/pictures/{taken.id}",
                params={"question": taken.question},
                files={"file": ("photo.jpg", picture_of(taken.shown), "image/jpeg")},
            )
        body = {"id": handed.submission, "events": [dump_value(event) for event in handed.events]}
        self.call(technician, "POST", f"{path}/submissions", json=body)

    def read(self, engineer: Person, order: str) -> None:
        """As the office of the simulation."""
        self.call(engineer, "POST", f"/api/v1/completions/{order}/reading", json={"note": ""})

    def settle(self) -> None:
        """As the office of the simulation: everything is kept as it comes."""


@pytest.mark.slow
def test_a_history_played_through_the_api_is_the_one_of_the_services(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    extent = replace(EXTENT, n_calls=5)

    def played(name: str) -> Context:
        context = replace(open_context(tmp_path / name), clock=lambda: NOW)
        play_demo(context, DEMO_PASSWORD, extent=extent)
        return context

    by_services = played("services")
    monkeypatch.setattr(simulated, "OneByOne", OverHttp)
    by_http = played("http")
    for table in TABLES:
        assert rows(by_http, table) == rows(by_services, table), table
    assert len(rows(by_http, "orders")) > 20
