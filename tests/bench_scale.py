"""How long each page takes as the orders grow, with one client and with eight. Part of `make bench`."""

from __future__ import annotations

import itertools
import shutil
import statistics
import tempfile
import threading
import time
from collections.abc import Callable, Sequence
from datetime import UTC, datetime
from pathlib import Path
from uuid import uuid4

import httpx2 as httpx

from reedling.standins.field import DEMO_PASSWORD, play_demo
from reedling.wiring import open_context
from tests.scale import grow
from tests.served import Server, serving

SIZES = (200, 2_000, 20_000)
N_CLIENTS = 8
TIMES = 12
PACES = (("a page each second", 1.0, 60.0), ("without a pause", 0.0, 20.0))
"""How the clients ask: in words, the least seconds from one page to the next, for how many seconds."""

Ask = Callable[[httpx.Client], httpx.Response]


def get(path: str) -> Ask:
    """Read a page."""
    return lambda client: client.get(path)


def save_an_edit() -> Ask:
    """Change the summary of a draft, as leaving a field does."""
    numbers = itertools.count()

    def ask(client: httpx.Client) -> httpx.Response:
        tag = client.get("/api/v1/documents/WP-001/plan").headers["etag"]
        patch = [{"op": "replace", "path": "/summary", "value": f"Version {next(numbers)} {uuid4()}"}]
        began = time.perf_counter()
        answer = client.patch("/api/v1/documents/WP-001/draft", json=patch, headers={"if-match": tag})
        answer.elapsed_s = time.perf_counter() - began  # type: ignore[attr-defined]
        return answer

    return ask


def log_an_order(client: httpx.Client) -> httpx.Response:
    """Log an order: match it and compile its runsheet."""
    return client.post("/api/v1/orders", json={"asset": "AS-101", "symptom": "stalls", "report": "Stuck"})


def record(client: httpx.Client) -> httpx.Response:
    """A note from the field."""
    order = client.get("/api/v1/pocket/orders").json()["orders"][0]["line"]
    events = [{"kind": "headed out", "at": datetime.now(UTC).isoformat()}]
    if order["state"] in ("Heading out", "On site"):
        events = [{"kind": "arrived", "at": datetime.now(UTC).isoformat()}]
    if order["state"] == "On site":
        events = [{"kind": "note written", "at": datetime.now(UTC).isoformat(), "text": "All well."}]
    path = f"/api/v1/pocket/orders/{order['id']}/submissions"
    began = time.perf_counter()
    answer = client.post(path, json={"id": str(uuid4()), "events": events})
    answer.elapsed_s = time.perf_counter() - began  # type: ignore[attr-defined]
    return answer


def pages(server: Server) -> list[tuple[str, str, Ask]]:
    """What is measured: who asks, what it is called, how it is asked for."""
    ines, marek, runa = (server.client(who) for who in ("ines", "marek", "runa"))
    order = marek.get("/api/v1/orders?state=Reviewed").json()["rows"][0]["id"]
    planned = marek.get("/api/v1/orders?state=Planned").json()["rows"][0]["id"]
    own = runa.get("/api/v1/pocket/orders").json()["orders"][0]["line"]["id"]
    ines.post("/api/v1/documents/WP-001/draft")
    ines.post("/api/v1/documents/DT-001/draft")
    return [
        ("ines", "shelf of incident types", get("/api/v1/incident-types")),
        ("ines", "an incident type with its plans", get("/api/v1/incident-types/IT-001")),
        ("ines", "a plan", get("/api/v1/documents/WP-001/plan")),
        ("ines", "saving one edit of a plan", save_an_edit()),
        ("ines", "forms and standard steps", get("/api/v1/documents")),
        ("ines", "evidence of an incident type", get("/api/v1/incident-types/IT-001/evidence")),
        ("ines", "evidence of one revision", get("/api/v1/incident-types/IT-001/evidence?revision=B")),
        ("ines", "the jobs behind it", get("/api/v1/incident-types/IT-001/jobs")),
        (
            "ines",
            "the jobs behind a step",
            get("/api/v1/incident-types/IT-001/jobs?plan=WP-001&step=valve"),
        ),
        (
            "ines",
            "two revisions by outcome",
            get("/api/v1/incident-types/IT-001/outcomes?plan=WP-001&older=A&newer=B"),
        ),
        ("ines", "all jobs together", get("/api/v1/incident-types/IT-001/jobs-together")),
        ("ines", "all jobs together, filtered", get("/api/v1/incident-types/IT-001/jobs-together?model=WR3")),
        ("ines", "the desk", get("/api/v1/desk")),
        ("ines", "proposals", get("/api/v1/proposals")),
        ("ines", "a fault guide", get("/api/v1/incident-types/IT-001/fault-guide")),
        ("ines", "replay of a draft", get("/api/v1/documents/WP-001/replay")),
        ("ines", "past fixes of an order", get(f"/api/v1/orders/{planned}/past-fixes")),
        ("marek", "site records to settle", get("/api/v1/site-records")),
        ("ines", "completions to read", get("/api/v1/completions")),
        ("ines", "a completion", get(f"/api/v1/completions/{order}")),
        ("ines", "coverage map", get("/api/v1/coverage?across=symptom")),
        (
            "ines",
            "a cell of the map",
            get("/api/v1/coverage/cell?equipment=screen-rake&across=symptom&code=stalls"),
        ),
        ("ines", "a decision table", get("/api/v1/documents/DT-001/table")),
        ("ines", "who would notice", get("/api/v1/documents/DT-001/affected-orders")),
        ("ines", "who can do it", get("/api/v1/documents/WP-001/crew")),
        ("ines", "the kit to carry", get("/api/v1/incident-types/IT-001/kit?goal=0.9")),
        ("ines", "a list with its uses", get("/api/v1/lists/symptoms")),
        ("ines", "assets", get("/api/v1/lists/assets")),
        ("ines", "finding anything", get("/api/v1/search?q=rake")),
        ("ines", "what waits", get("/api/v1/waiting")),
        ("marek", "orders", get("/api/v1/orders")),
        ("marek", "orders with a word", get("/api/v1/orders?words=lode")),
        ("marek", "an order", get(f"/api/v1/orders/{order}")),
        ("marek", "logging an order", log_an_order),
        ("runa", "a technician's orders", get("/api/v1/pocket/orders")),
        ("runa", "a technician's order", get(f"/api/v1/pocket/orders/{own}")),
        ("runa", "recording a note", record),
    ]


def took(client: httpx.Client, ask: Ask) -> float:
    """Seconds to an answer; one that refuses ends the benchmark."""
    began = time.perf_counter()
    answer = ask(client)
    seconds = time.perf_counter() - began
    if answer.status_code not in (200, 201, 412):
        raise RuntimeError(f"{answer.url}: {answer.status_code} {answer.text[:300]}")
    return float(getattr(answer, "elapsed_s", seconds))


def alone(server: Server, all_pages: Sequence[tuple[str, str, Ask]]) -> dict[str, float]:
    """Median seconds of each page with one client."""
    clients = {who: server.client(who) for who in {who for who, _, _ in all_pages}}
    out = {}
    for who, name, ask in all_pages:
        took(clients[who], ask)
        out[name] = statistics.median(took(clients[who], ask) for _ in range(TIMES))
    return out


def together(
    server: Server, all_pages: Sequence[tuple[str, str, Ask]], seconds: float, every: float
) -> list[tuple[float, str]]:
    """Seconds of each answer, with its page, while eight clients ask for one page after another.

    ``every`` is the least time from one to the next, in seconds: 0 for clients that never pause. They take a part of
    the processors that the server is on.
    """
    found: list[tuple[float, str]] = []
    everybody = {who for who, _, _ in all_pages}
    # Signing in takes long on purpose, so that it is done before.
    signed_in = [{who: server.client(who) for who in everybody} for _ in range(N_CLIENTS)]
    until = time.perf_counter() + seconds

    def go(n: int) -> None:
        for who, name, ask in itertools.islice(itertools.cycle(all_pages), n * 3, None):
            if time.perf_counter() > until:
                return
            seconds = took(signed_in[n][who], ask)
            found.append((seconds, name))
            time.sleep(max(0.0, every - seconds))

    threads = [threading.Thread(target=go, args=(n,)) for n in range(N_CLIENTS)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    return found


def main(sizes: Sequence[int] = SIZES) -> None:
    """Print a table."""
    folder = Path(tempfile.mkdtemp())
    play_demo(open_context(folder / "demo", demo=True), DEMO_PASSWORD)
    columns: list[dict[str, float]] = []
    shared: list[str] = []
    for n in sizes:
        data = folder / f"data-{n}"
        shutil.copytree(folder / "demo", data)
        began = time.perf_counter()
        n_orders = grow(data, n)
        print(f"{n_orders:,} orders made in {time.perf_counter() - began:.1f} s")
        with serving(data) as server:
            all_pages = pages(server)
            columns.append(alone(server, all_pages))
            for how, every, seconds in PACES:
                answers = together(server, all_pages, seconds, every)
                times = [took for took, _ in answers]
                p99 = statistics.quantiles(times, n=100)[98]
                slowest = ", ".join(f"{name} {s:.1f} s" for s, name in sorted(answers, reverse=True)[:6])
                shared.append(
                    f"{N_CLIENTS} clients, {how}, {n_orders:,} orders: {len(times):,} answers, "
                    f"median {statistics.median(times) * 1000:.0f} ms, 99th percentile {p99 * 1000:.0f} ms, "
                    f"peak {server.peak_mb():.0f} MB; slowest: {slowest}"
                )
            server.stop()
            restart = server.start()
            print(f"restart with {n_orders:,} orders: {restart:.2f} s")
    line = "{:48}" + "{:>10}" * len(sizes) + "   {:>10}"
    print(line.format("milliseconds, median, one client", *(f"{n:,}" for n in sizes), "growth"))
    for name in columns[0]:
        own = [c[name] * 1000 for c in columns]
        print(line.format(name, *(f"{x:.0f}" for x in own), f"{own[-1] / own[0]:.1f}x"))
    print("\n".join(shared))
    shutil.rmtree(folder)


if __name__ == "__main__":
    main()
