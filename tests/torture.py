"""Try to make the server lose, double or hang on something. Run by `make torture`; loopback only, bounded.

Kills it in the middle of submissions, asks for everything from many clients at once, as every identity,
and sends what no client would. Prints counts; ends with 1 when anything was lost, doubled or answered 5xx.
"""

from __future__ import annotations

import argparse
import random
import shutil
import statistics
import sys
import tempfile
import threading
import time
from collections import Counter, defaultdict
from collections.abc import Callable
from datetime import UTC, datetime
from pathlib import Path
from typing import Any
from uuid import uuid4

import httpx2 as httpx

from reedling.services.actions.backups import diagnose
from reedling.standins.field import DEMO_PASSWORD, play_demo
from reedling.store.folder import DataFolder
from reedling.wiring import open_context
from tests.conftest import FakeClock, fresh_context
from tests.served import Server
from tests.services.test_drafts_and_release import drafted, released
from tests.services.test_loose_records import run_field_and_office
from tests.torture_phone import phone
from tests.torture_visits import visits

WHO = ("", "ines", "oda", "marek", "runa")


def now() -> str:
    """The time as a device writes it."""
    return datetime.now(UTC).isoformat()


def kills(server: Server, n_rounds: int, seed: int) -> list[str]:
    """Kill the server while notes come in, start it again, and hold what is there against what was promised."""
    rng = random.Random(seed)
    promised: dict[str, str] = {}
    sent: dict[str, str] = {}
    faults: list[str] = []
    times = [server.start_child()]
    client = server.client("runa")
    order = client.get("/api/v1/pocket/orders").json()["orders"][0]["line"]["id"]
    path = f"/api/v1/pocket/orders/{order}/submissions"
    for kind in ("headed out", "arrived"):
        client.post(path, json={"id": str(uuid4()), "events": [{"kind": kind, "at": now()}]})
    unsure: dict[str, dict[str, Any]] = {}
    for n in range(n_rounds):
        killer = threading.Timer(rng.uniform(0, 0.08), server.kill_child)
        killer.start()
        while server.child:
            identity, text = str(uuid4()), f"note {n} {rng.randrange(10**9)}"
            body = {"id": identity, "events": [{"kind": "note written", "at": now(), "text": text}]}
            sent[identity] = text
            try:
                if client.post(path, json=body).status_code == 200:
                    promised[identity] = text
                    continue
            except httpx.HTTPError:
                pass
            unsure[identity] = body
            break
        killer.join()
        times.append(server.start_child())
        for identity, body in list(unsure.items()):
            answer = client.post(path, json=body)
            if answer.status_code != 200:
                faults.append(f"round {n}: sending again was answered {answer.status_code}")
            promised[identity] = sent[identity]
            del unsure[identity]
    notes = Counter(x["text"] for x in client.get(f"/api/v1/pocket/orders/{order}").json()["job"]["notes"])
    lost = [t for t in promised.values() if notes[t] == 0]
    doubled = [t for t in promised.values() if notes[t] > 1]
    strange = [t for t in notes if t not in set(sent.values())]
    print(
        f"kill -9: {n_rounds} rounds, {len(promised)} notes promised, {len(lost)} lost, {len(doubled)} doubled, "
        f"{len(strange)} strange; a child serves again after {statistics.median(times):.2f} s, at most {max(times):.2f} s"
    )
    faults += [f"lost: {t}" for t in lost] + [f"doubled: {t}" for t in doubled]
    server.end_parent()
    found = diagnose(DataFolder(server.folder))
    print(f"doctor after it: {'nothing is wrong' if found.is_well else found}")
    return faults + ([] if found.is_well else [str(found)])


def mixed(server: Server, n_clients: int, seconds: float, seed: int) -> list[str]:
    """Clients that read, write, log, record and save at once; every answer of 5xx is a fault."""
    server.start()
    answers: Counter[int] = Counter()
    taken: list[float] = []
    taken_by: defaultdict[str, list[float]] = defaultdict(list)
    faults: list[str] = []
    until = time.perf_counter() + seconds

    def go(n: int) -> None:
        rng = random.Random(seed + n)
        clients = {who: server.client(who) for who in WHO if who}
        acts = _acts(clients, rng)
        while time.perf_counter() < until:
            name, act = rng.choice(acts)
            began = time.perf_counter()
            try:
                answer = act()
            except httpx.HTTPError as error:
                faults.append(f"{name}: {error!r}")
                continue
            taken.append(time.perf_counter() - began)
            taken_by[name].append(taken[-1])
            answers[answer.status_code] += 1
            if answer.status_code >= 500:
                faults.append(f"{name}: {answer.status_code} {answer.text[:200]}")

    threads = [threading.Thread(target=go, args=(n,)) for n in range(n_clients)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    p99 = statistics.quantiles(taken, n=100)[98] if len(taken) > 1 else 0
    print(
        f"mixed: {n_clients} clients, {seconds:.0f} s, {len(taken)} answers {dict(sorted(answers.items()))}, "
        f"median {statistics.median(taken) * 1000:.0f} ms, 99th percentile {p99 * 1000:.0f} ms, "
        f"slowest {max(taken) * 1000:.0f} ms, {len(faults)} faults, peak {server.peak_mb():.0f} MB"
    )
    for name, of_act in sorted(taken_by.items(), key=lambda one: -max(one[1])):
        print(
            f"  {name}: {len(of_act)}, median {statistics.median(of_act) * 1000:.0f} ms, slowest {max(of_act):.1f} s"
        )
    server.stop()
    return faults


def _acts(
    clients: dict[str, httpx.Client], rng: random.Random
) -> list[tuple[str, Callable[[], httpx.Response]]]:
    ines, oda, marek, runa = (clients[w] for w in ("ines", "oda", "marek", "runa"))

    def log() -> httpx.Response:
        return marek.post("/api/v1/orders", json={"asset": "AS-101", "symptom": "stalls", "report": "Stuck"})

    def plan() -> httpx.Response:
        rows = marek.get("/api/v1/orders?state=Logged&limit=5").json()["rows"]
        if not rows:
            return log()
        body = {"technician": "runa", "planned_for": now()}
        return marek.post(f"/api/v1/orders/{rng.choice(rows)['id']}/visit", json=body)

    def note() -> httpx.Response:
        order = rng.choice(runa.get("/api/v1/pocket/orders").json()["orders"])["line"]
        kind = {"Planned": "headed out", "Return needed": "headed out", "Heading out": "arrived"}.get(
            order["state"], "note written"
        )
        event = {"kind": kind, "at": now()} | ({"text": "All well."} if kind == "note written" else {})
        path = f"/api/v1/pocket/orders/{order['id']}/submissions"
        return runa.post(path, json={"id": str(uuid4()), "events": [event]})

    def save() -> httpx.Response:
        ines.post("/api/v1/documents/WP-001/draft")
        tag = ines.get("/api/v1/documents/WP-001/plan").headers["etag"]
        patch = [{"op": "replace", "path": "/summary", "value": f"V {rng.random()}"}]
        return ines.patch("/api/v1/documents/WP-001/draft", json=patch, headers={"if-match": tag})

    def listed() -> httpx.Response:
        page = oda.get("/api/v1/lists/parts").json()
        entry = {**page["entries"][0], "name": f"Valve {rng.randrange(9)}"}
        body: dict[str, Any] = {"replaces": entry["code"], "entry": entry}
        return oda.put("/api/v1/lists/parts", json=body, headers={"if-match": page["etag"]})

    reads = [
        (ines, "/api/v1/incident-types"),
        (ines, "/api/v1/completions"),
        (ines, "/api/v1/incident-types/IT-001/evidence"),
        (ines, "/api/v1/coverage?across=symptom"),
        (marek, "/api/v1/orders"),
        (oda, "/api/v1/lists/symptoms"),
        (runa, "/api/v1/pocket/orders"),
    ]
    acts = [("log", log), ("plan", plan), ("note", note), ("save", save), ("list", listed)]
    return acts + [(path, lambda c=c, p=path: c.get(p)) for c, path in reads]


def identities(server: Server) -> list[str]:
    """Every route as nobody and as each role, with nothing and with nonsense."""
    server.start()
    openapi = server.client("ines").get("/api/v1/openapi.json").json()
    counts: Counter[tuple[str, int]] = Counter()
    faults = []
    bodies: tuple[Any, ...] = (None, {}, [], {"entry": {}, "edit": {}, "events": [{}]})
    for who in WHO:
        client = server.client(who)
        for path, operations in openapi["paths"].items():
            for method in operations:
                if method not in ("get", "post", "put", "patch", "delete") or path == "/api/v1/session":
                    continue
                address = path.replace("{", "x").replace("}", "")
                for body in bodies:
                    answer = client.request(method.upper(), address, json=body, headers={"if-match": '"x"'})
                    counts[who or "nobody", answer.status_code] += 1
                    if answer.status_code >= 500:
                        faults.append(f"{who} {method} {path}: {answer.status_code}")
    for who in WHO:
        told = {status: n for (w, status), n in sorted(counts.items()) if w == (who or "nobody")}
        print(f"identity {who or 'nobody'}: {told}")
    server.stop()
    return faults


def fuzz(server: Server, seconds: float, seed: int) -> list[str]:
    """What no client would send, from the description of the API, as each role in turn."""
    server.start()
    rng = random.Random(seed)
    openapi = server.client("ines").get("/api/v1/openapi.json").json()
    operations = [
        (m, p, op)
        for p, ops in openapi["paths"].items()
        for m, op in ops.items()
        if m in ("get", "post", "put", "patch", "delete") and p != "/api/v1/session"
    ]
    clients = [server.client(who) for who in WHO]
    schemas = openapi["components"]["schemas"]
    counts: Counter[int] = Counter()
    faults = []
    until = time.perf_counter() + seconds
    slowest = (0.0, "")
    while time.perf_counter() < until:
        method, path, operation = rng.choice(operations)
        address = path
        while "{" in address:
            head, _, rest = address.partition("{")
            address = head + rng.choice(NAMES) + rest.partition("}")[2]
        schema = operation.get("requestBody", {}).get("content", {}).get("application/json", {}).get("schema")
        body = _nonsense(schema, schemas, rng, 0) if schema else None
        began = time.perf_counter()
        try:
            answer = rng.choice(clients).request(
                method.upper(), address, json=body, headers={"if-match": rng.choice(NAMES)}
            )
        except (httpx.HTTPError, UnicodeError, ValueError):
            continue
        took = time.perf_counter() - began
        slowest = max(slowest, (took, f"{method} {path}"))
        counts[answer.status_code] += 1
        if answer.status_code >= 500:
            faults.append(f"{method} {address}: {answer.status_code} {str(body)[:300]}")
    print(
        f"fuzz: {seconds:.0f} s, {sum(counts.values())} calls {dict(sorted(counts.items()))}, "
        f"{len(faults)} faults, slowest {slowest[0]:.2f} s ({slowest[1]})"
    )
    server.stop()
    found = diagnose(DataFolder(server.folder))
    print(f"doctor after it: {'nothing is wrong' if found.is_well else found}")
    return faults + ([] if found.is_well else [str(found)])


NAMES = (
    "WP-001", "IT-001", "DT-001", "FM-001", "SS-001", "A", "B", "parts", "symptoms", "sites", "assets",
    "WO-0001", "WO-0099", "x", "%00", "ines", "runa", "9" * 300, "..%2f..", "é", "%F0%9F%8C%BE", '"x"',
)  # fmt: skip
TEXTS = ("", "x", "\u0000", "\ud83d", "🌾", "a" * 3000, "../../etc", "=1+1", "<script>", "1e999", "WP-001")


def _nonsense(schema: dict[str, Any], schemas: dict[str, Any], rng: random.Random, depth: int) -> Any:
    """A value that nearly fits a schema, and now and then does not fit at all."""
    if rng.random() < 0.06 or depth > 6:
        return rng.choice((None, 0, -1, 1e15, "x", [], {}, True, [[]] * 40))
    if "$ref" in schema:
        return _nonsense(schemas[schema["$ref"].rsplit("/", 1)[1]], schemas, rng, depth + 1)
    for key in ("anyOf", "oneOf", "allOf"):
        if key in schema:
            return _nonsense(rng.choice(schema[key]), schemas, rng, depth + 1)
    if "const" in schema or "enum" in schema:
        return rng.choice(schema.get("enum") or [schema["const"]])
    match schema.get("type"):
        case "object":
            out = {
                name: _nonsense(inner, schemas, rng, depth + 1)
                for name, inner in schema.get("properties", {}).items()
                if name in schema.get("required", ()) or rng.random() < 0.6
            }
            return out if rng.random() > 0.03 else {**out, rng.choice(TEXTS): 1}
        case "array":
            n = rng.choice((0, 1, 1, 2, 3))
            return [_nonsense(schema.get("items", {}), schemas, rng, depth + 1) for _ in range(n)]
        case "string":
            formats = {"date": "2026-01-01", "date-time": now(), "uuid": str(uuid4())}
            return formats.get(schema.get("format", ""), rng.choice(TEXTS))
        case "number" | "integer":
            return rng.choice((0, 1, -1, 2**31, 1e14, 0.5))
        case "boolean":
            return rng.random() < 0.5
    return rng.choice(TEXTS)


def walks(folder: Path, n_rounds: int) -> list[str]:
    """A field and an office that contradict each other; every submission is in exactly one place after each step."""
    context = fresh_context(folder, FakeClock())
    released(context, drafted(context))
    began = time.perf_counter()
    try:
        run_field_and_office(context, n_rounds)
    except AssertionError as error:
        return [f"field and office: {error}"]
    with context.reading() as unit:
        count = unit.session.connection().exec_driver_sql
        n_sent, n_loose, n_orders = (
            count(f"SELECT count(*) FROM {table}").scalar_one()
            for table in ("submissions", "loose_records", "orders")
        )
    print(
        f"field and office: {n_rounds} rounds asked, {n_orders} orders, {n_sent} submissions, {n_loose} of them "
        f"loose, none lost or doubled, {time.perf_counter() - began:.0f} s"
    )
    return []


def main() -> int:
    """Run what was asked for."""
    asked = argparse.ArgumentParser(description=__doc__)
    asked.add_argument("--kills", type=int, default=60)
    asked.add_argument("--clients", type=int, default=32)
    asked.add_argument("--mixed", type=float, default=60, help="seconds")
    asked.add_argument("--fuzz", type=float, default=60, help="seconds")
    asked.add_argument("--walks", type=int, default=1000, help="rounds of field against office")
    asked.add_argument("--notes", type=int, default=500, help="sent by a phone over a line that fails")
    asked.add_argument("--photos", type=int, default=40, help="of 4 MB, with them")
    asked.add_argument("--closings", type=int, default=30, help="of the phone's page while it writes")
    asked.add_argument("--visits", type=int, default=30, help="of a phone that everything happens to")
    asked.add_argument("--seed", type=int, default=8)
    options = asked.parse_args()
    scratch = Path(tempfile.mkdtemp())
    play_demo(open_context(scratch / "demo", demo=True), DEMO_PASSWORD)
    faults: list[str] = []
    asked_for = (
        ("kills", options.kills, lambda s: kills(s, options.kills, options.seed)),
        ("mixed", options.mixed, lambda s: mixed(s, options.clients, options.mixed, options.seed)),
        ("identities", 1, identities),
        ("fuzz", options.fuzz, lambda s: fuzz(s, options.fuzz, options.seed)),
        (
            "phone",
            options.notes,
            lambda s: phone(s, options.notes, options.photos, options.closings, options.seed),
        ),
        ("visits", options.visits, lambda s: visits(s, options.visits, options.seed)),
    )
    if options.walks:
        faults += walks(scratch / "walks", options.walks)
    for name, act in ((name, act) for name, how_long, act in asked_for if how_long):
        shutil.copytree(scratch / "demo", scratch / name)
        faults += act(Server(scratch / name))
    for fault in faults[:40]:
        print(f"FAULT {fault}")
    print(f"{len(faults)} faults")
    if not faults:
        shutil.rmtree(scratch)
    return 1 if faults else 0


if __name__ == "__main__":
    sys.exit(main())
