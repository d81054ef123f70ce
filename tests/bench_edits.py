"""What saving an edit of a draft costs: statements, validations, encodings and time. Part of `make bench`."""

from __future__ import annotations

import random
import statistics
import tempfile
import time
from collections import Counter
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import replace
from pathlib import Path
from typing import Any

from sqlalchemy import event

from reedling.core.checking import encoding
from reedling.core.guidance.catalogue import Catalogue
from reedling.core.guidance.plans import Minutes, Plan, Step
from reedling.core.guidance.questions import Limits, Question, Reading, YesNo
from reedling.core.logic.conditions import Comparison
from reedling.core.matching.table_editing import SetTexts
from reedling.core.people import Person
from reedling.exchange.content import dump_value
from reedling.services.actions.documents import create_document
from reedling.services.actions.drafts import edit_table_draft, patch_draft
from reedling.services.context import Context
from reedling.services.views.documents import plan_document
from reedling.services.views.tables import table_document, table_findings
from reedling.wiring import open_context
from tests import bench_matching

STEPS = (10, 100, 300)
ROWS = (500, 5_000)
TIMES = 7
LINE = "{:44} {:>9} {:>9} {:>9} {:>11}"
WRITER = Person(id="ines", name="Ines Varga", role="engineer", username="ines")


def plan_of(n_steps: int, seed: int = 3) -> Plan:
    """A plan with a question on each step, every third under a condition on one of the twenty before."""
    rng = random.Random(seed)
    steps = []
    for i in range(n_steps):
        asked: Question = (
            YesNo(id=f"q{i}", label=f"Is part {i} sound")
            if i % 2
            else Reading(id=f"q{i}", label=f"Gap {i}", unit="mm", limits=Limits(high=25.0))
        )
        condition = None
        if i > 5 and i % 3 == 0:
            j = rng.randrange(max(0, i - 20), i)
            condition = (
                Comparison(question=f"q{j}", operator="is", value=False)
                if j % 2
                else Comparison(question=f"q{j}", operator="above", value=25.0)
            )
        steps.append(
            Step(
                id=f"s{i}",
                phase="Diagnose",
                text=f"Look at part {i}",
                minutes=Minutes(likely=5),
                questions=(asked,),
                condition=condition,
            )
        )
    return Plan(title="Long", steps=tuple(steps))


@contextmanager
def counting(context: Context) -> Iterator[Counter[str]]:
    """Statements and encodings while it lasts."""
    found: Counter[str] = Counter()

    def statement(_connection: Any, _cursor: Any, text: str, *_: Any) -> None:
        if not text.startswith(("BEGIN", "PRAGMA")):
            found["statements"] += 1

    encode = encoding.encode

    def counted(*given: Any) -> Any:
        found["encodings"] += 1
        return encode(*given)

    event.listen(context.store.engine, "before_cursor_execute", statement)
    setattr(encoding, "encode", counted)  # noqa: B010
    try:
        yield found
    finally:
        setattr(encoding, "encode", encode)  # noqa: B010
        event.remove(context.store.engine, "before_cursor_execute", statement)


def told(what: str, context: Context, act: Callable[[int], object], ready: Callable[[], None]) -> None:
    """One line: how long an edit took, the middle one of several, and what it cost."""
    taken = []
    for n in range(TIMES):
        ready()
        with counting(context) as found:
            began = time.perf_counter()
            act(n)
            taken.append(time.perf_counter() - began)
    print(
        LINE.format(
            what,
            f"{statistics.median(taken) * 1000:.0f}",
            f"{max(taken) * 1000:.0f}",
            found["statements"],
            found["encodings"],
        )
    )


def main() -> None:
    """Print a table."""
    print()
    print(LINE.format("one edit of a draft, milliseconds", "median", "slowest", "statements", "encodings"))
    with tempfile.TemporaryDirectory() as folder:
        context = open_context(Path(folder))
        lists: Catalogue = bench_matching.lists()
        with context.writing() as unit:
            unit.people.add(WRITER, "")
            unit.catalogues.replace(lists)
        for n_steps in STEPS:
            _plan_edits(context, n_steps)
        for n_rows in ROWS:
            _table_edits(context, n_rows)


def _plan_edits(context: Context, n_steps: int) -> None:
    document = create_document(context, WRITER, "plan", f"Plan of {n_steps}")
    steps = dump_value(plan_of(n_steps))["steps"]
    tag = plan_document(context, document).etag
    patch_draft(context, WRITER, document, [{"op": "replace", "path": "/steps", "value": steps}], tag)

    def ready() -> None:
        nonlocal tag
        tag = plan_document(context, document).etag

    def put(path: str, value: Callable[[int], object]) -> Callable[[int], object]:
        return lambda n: patch_draft(
            context, WRITER, document, [{"op": "replace", "path": path, "value": value(n)}], tag
        )

    told(f"plan of {n_steps} steps, a text", context, put("/steps/3/text", lambda n: f"Text {n}"), ready)
    told(f"plan of {n_steps} steps, minutes", context, put("/steps/3/minutes/likely", lambda n: 7 + n), ready)
    condition = {"kind": "comparison", "question": "q1", "operator": "is"}
    told(
        f"plan of {n_steps} steps, a condition",
        context,
        put("/steps/4/condition", lambda n: {**condition, "value": bool(n % 2)}),
        ready,
    )


def _table_edits(context: Context, n_rows: int) -> None:
    document = create_document(context, WRITER, "decision table", f"Table of {n_rows}")
    table = bench_matching.table(n_rows)
    rows = dump_value(replace(table, rows=tuple(replace(r, documents=("WP-001",)) for r in table.rows)))
    tag = table_document(context, document).etag
    patch = [{"op": "replace", "path": f"/{key}", "value": rows[key]} for key in ("columns", "rows")]
    patch_draft(context, WRITER, document, patch, tag)

    def ready() -> None:
        nonlocal tag
        tag = table_document(context, document).etag

    def write(n: int) -> object:
        text = ("Today", "At once")[n % 2]
        edit = SetTexts(row=table.rows[n_rows // 2].id, column=3, texts=((text,),))
        return edit_table_draft(context, WRITER, document, edit, tag)

    told(f"table of {n_rows:,} rows, a cell", context, write, ready)
    told(
        f"table of {n_rows:,} rows, its findings after",
        context,
        lambda _: table_findings(context, document),
        ready,
    )


if __name__ == "__main__":
    main()
