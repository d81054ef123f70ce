"""What is sent to each route that takes JSON, by example, for those who write programs against the API."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

_AT = "2026-06-01T08:15:00Z"
_REASON = {"reason": "The customer had it mended by somebody else."}
_NOTE = {"note": "The pressure at stall is asked for before anything is opened."}

EXAMPLES: Mapping[str, Any] = {
    "POST /api/v1/session": {"username": "ines", "password": "quiet water under reeds"},
    "POST /api/v1/session/password": {"old": "quiet water under reeds", "new": "slow barges past the lock"},
    "POST /api/v1/invitations": {"token": "8Zk1Qm4tXw", "password": "slow barges past the lock"},
    "POST /api/v1/people": {
        "name": "Hanne Ostler",
        "role": "technician",
        "username": "hanne",
        "district": "North Carrs",
    },
    "PUT /api/v1/people/{person_id}": {"name": "Hanne Ostler", "role": "planner", "district": "North Carrs"},
    "POST /api/v1/programs": {"name": "Stock list", "role": "planner"},
    "POST /api/v1/incident-types": {"title": "Rake hums and does not move", "equipment": "screen-rake"},
    "POST /api/v1/incident-types/{document}/plans": {"title": "Free the drive chain"},
    "POST /api/v1/incident-types/{document}/guide": {"from_jobs": True},
    "POST /api/v1/incident-types/{document}/kept-views": {"name": "Old rakes in the north"},
    "POST /api/v1/documents": {"kind": "standard step", "title": "Lock off the drive"},
    "PATCH /api/v1/documents/{document}/draft": [
        {"op": "replace", "path": "/summary", "value": "For rakes that stop under load."}
    ],
    "POST /api/v1/documents/{document}/edits": {
        "edit": {"kind": "add step", "phase": "Diagnose", "text": "Feel the gearbox for heat"}
    },
    "POST /api/v1/documents/{document}/table-edits": {"edit": {"kind": "add row"}},
    "POST /api/v1/documents/{document}/comments": {
        "place": "pressure",
        "text": "Which gauge is meant: the one at the pump?",
    },
    "POST /api/v1/comments/{comment_id}/settle": {"settled": True},
    "POST /api/v1/documents/{document}/send": _NOTE,
    "POST /api/v1/documents/{document}/give-back": {"note": "The limit lacks its unit."},
    "POST /api/v1/documents/{document}/release": {"effective_on": "2026-07-01"},
    "POST /api/v1/documents/{document}/withdraw": {"note": "It is begun anew."},
    "POST /api/v1/documents/{document}/trial": {"districts": [], "one_in": 2, "worth_minutes": 5},
    "POST /api/v1/trials/{trial}/end": {"end": "withdrawn", "reason": "It slows crews down."},
    "PUT /api/v1/lists/{name}": {
        "entry": {"code": "hums", "label": "Hums and does not move", "synonyms": ["buzzes"]}
    },
    "POST /api/v1/lists/{name}/sheet": {
        "text": "code,label\nhums,Hums and does not move\n",
        "only_tell": True,
    },
    "POST /api/v1/changes/lists/{name}/undo": {"batch": "0f6f5a1e"},
    "POST /api/v1/orders": {"asset": "AS-101", "symptom": "stalls", "report": "Stops after a minute, hums."},
    "POST /api/v1/tried-orders": {"asset": "AS-101", "symptom": "stalls"},
    "POST /api/v1/orders/{order_id}/visit": {"technician": "runa", "planned_for": "2026-06-02T07:00:00Z"},
    "POST /api/v1/orders/{order_id}/cancellation": _REASON,
    "POST /api/v1/orders/{order_id}/documents": {
        "act": "added",
        "document": "WP-002",
        "reason": "The motor was hot last time.",
    },
    "POST /api/v1/orders/{order_id}/site-records/{record}/settling": {
        "decision": "matched",
        "target": "P-1001",
        "remember": True,
    },
    "POST /api/v1/orders/{order_id}/part-supplies": {
        "part": "RV-SEAT",
        "quantity": 1,
        "text": "With the keeper, in the blue box.",
    },
    "POST /api/v1/orders/{order_id}/time-corrections": {
        "visit": 1,
        "time": "left",
        "to": "2026-11-26T15:20:00Z",
        "reason": "Left at twenty past; the phone was shut off before.",
    },
    "POST /api/v1/loose-records/decisions": {
        "submissions": ["6d1f3b52-0c1e-4a5e-9b0e-2f1f6a1d7c11"],
        "decision": "set aside",
        "reason": "Recorded on the wrong order; the right one has it.",
    },
    "POST /api/v1/pocket/orders/{order_id}/submissions": {
        "id": "6d1f3b52-0c1e-4a5e-9b0e-2f1f6a1d7c11",
        "sent_at": _AT,
        "events": [{"kind": "headed out", "at": _AT}],
    },
    "POST /api/v1/pocket/submissions": {
        "sent_at": _AT,
        "submissions": [
            {
                "order": "WO-0042",
                "id": "6d1f3b52-0c1e-4a5e-9b0e-2f1f6a1d7c11",
                "events": [{"kind": "note written", "at": _AT, "text": "Weed cleared from the sump."}],
            }
        ],
    },
    "PUT /api/v1/pocket/pictures/{picture_id}": {
        "order": "WO-0042",
        "size": 2_400_000,
        "sha256": "9f86d081884c7d659a2feaa0c55ad015a3bf4f1b2b0b822cd15d6c15b0f00a08",
    },
    "PUT /api/v1/pocket/part-asks/{order_id}/{record}": {
        "granted": True,
        "text": "At the depot until four.",
    },
    "PUT /api/v1/pocket/questions/{question}/answer": {"text": "With the gate shut, as the plan says."},
    "POST /api/v1/help-threads/{thread}/replies": {
        "id": "6d1f3b52-0c1e-4a5e-9b0e-2f1f6a1d7c11",
        "text": "It is the port beside the red cap.",
        "marks": [{"shape": "ring", "x0": 0.4, "y0": 0.3, "x1": 0.5, "y1": 0.4}],
    },
    "POST /api/v1/completions/readings": {"orders": ["WO-0001", "WO-0002"]},
    "POST /api/v1/completions/{order_id}/reading": {"note": "The plan is to ask for the pressure first."},
    "POST /api/v1/completions/{order_id}/questions": {
        "text": "Was the gate shut when you read the pressure?"
    },
    "PUT /api/v1/proposals/{key}/refusal": {"reason": "The new gauge comes next month."},
    "PUT /api/v1/proposals/{key}/delay": {"days": 30},
    "POST /api/v1/previews": {"documents": ["WP-001"], "answers": {"WP-001:bar": 84}},
    "POST /api/v1/previews/tours": {"documents": ["WP-001"]},
    "POST /api/v1/previews/witness-answers": {"document": "WP-001", "witness": {"bar": 84}},
    "PUT /api/v1/settings/order-card": {
        "first": [{"fact": "site.name"}, {"fact": "order.report", "label": "Said"}],
        "further": [],
    },
    "POST /api/v1/settings/order-card/previews": {
        "order": "WO-0001",
        "card": {"first": [{"fact": "site.name"}], "further": []},
    },
    "PUT /api/v1/settings/taking-along": {"days_back": 1, "days_ahead": 7, "pictures": True},
    "POST /standins/weeks": {"weeks": 2},
}
"""By method and address, a body that the route takes. Identities in it stand for ones that are there."""


def add_examples(openapi: dict[str, Any]) -> dict[str, Any]:
    """The OpenAPI document with an example at each body of JSON."""
    for address, path in openapi["paths"].items():
        for method, operation in path.items():
            body = operation.get("requestBody", {}).get("content", {}).get("application/json")
            example = EXAMPLES.get(f"{method.upper()} {address}")
            if body is not None and example is not None:
                body["example"] = example
    return openapi
