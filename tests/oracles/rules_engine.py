"""Decision tables as a general-purpose rules engine evaluates them (zen-engine, MIT).

The engine has its own table format. Cells become its unary tests; the class tree becomes a list of
the classes at or below the one that is wanted, since the engine knows no tree.
"""

from __future__ import annotations

import json
from collections.abc import Mapping, Sequence
from typing import Any

import zen

from reedling.core.guidance.catalogue import EquipmentTree
from reedling.core.guidance.decision_tables import PRIORITIES, Cell, Column, DecisionTable
from reedling.core.matching.order_facts import OrderFacts, fact_of

FIELDS: Mapping[str, str] = {"incident type": "incident_type", "site tag": "site_tag"}


def engine_of(table: DecisionTable, tree: EquipmentTree) -> Any:
    """The table as a decision of the engine, with hit policy collect."""
    content = {
        "hitPolicy": "collect",
        "inputs": [{"id": c.key, "name": c.key, "field": field_of(c)} for c in table.columns],
        "outputs": [{"id": "row", "name": "row", "field": "row"}],
        "rules": [
            {
                "_id": row.id,
                **{c.key: unary(row.cells.get(c.key), c, tree) for c in table.columns},
                "row": json.dumps(row.id),
            }
            for row in table.rows
        ],
    }
    place = {"position": {"x": 0, "y": 0}}
    graph = {
        "nodes": [
            {"id": "in", "name": "in", "type": "inputNode", **place},
            {"id": "table", "name": "table", "type": "decisionTableNode", "content": content, **place},
            {"id": "out", "name": "out", "type": "outputNode", **place},
        ],
        "edges": [
            {"id": "a", "sourceId": "in", "targetId": "table"},
            {"id": "b", "sourceId": "table", "targetId": "out"},
        ],
    }
    return zen.ZenEngine().create_decision(json.dumps(graph))


def rows_of(engine: Any, facts: Mapping[str, Any]) -> list[str]:
    """The rows the engine finds, by their identity."""
    found = engine.evaluate(dict(facts))["result"]
    return [hit["row"] for hit in found]


def field_of(column: Column) -> str:
    """What the engine calls a column's input."""
    return f"meter_{column.meter}" if column.kind == "meter" else FIELDS.get(column.kind, column.kind)


def inputs_of(facts: OrderFacts, columns: Sequence[Column]) -> dict[str, Any]:
    """An order as the engine's input: days and priorities as numbers, what is not known as null."""
    out: dict[str, Any] = {}
    for column in columns:
        value: Any = fact_of(facts, column)
        if column.kind == "priority" and value is not None:
            value = PRIORITIES.index(value)
        out[field_of(column)] = value
    return out


def unary(cell: Cell | None, column: Column, tree: EquipmentTree) -> str:
    """A cell as one of the engine's unary tests."""
    if cell is None:
        return ""
    values: list[Any] = list(cell.values)
    if column.kind == "equipment":
        known = dict.fromkeys((*tree.classes, *map(str, cell.values)))
        values = [c for c in known if any(tree.is_a(c, str(v)) for v in cell.values)]
    if column.kind == "priority":
        values = [PRIORITIES.index(str(v)) for v in cell.values]
    listed = ", ".join(json.dumps(v) for v in values)
    match cell.operator:
        case "is":
            return listed
        case "not":
            return f"$ != null and $ not in [{listed}]"
        case "above":
            return f"$ != null and $ > {listed}"
        case "below":
            return f"$ != null and $ < {listed}"
        case "between":
            return f"[{values[0]}..{values[1]}]"
