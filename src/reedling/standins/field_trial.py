"""The trial of the demo: a shorter way through a plan, tried on half of the orders beside the one in force."""

from __future__ import annotations

import random
from dataclasses import replace
from uuid import UUID

from reedling.services.actions.drafts import patch_draft
from reedling.services.actions.releases import send_for_review
from reedling.services.actions.trials import begin_trial
from reedling.services.shared.trial_offers import TrialAsked
from reedling.services.views.documents import plan_document
from reedling.standins.simulation import Field

PLAN = "WP-003"
LEFT_OUT = "gauge"
"""The staff gauge is read again at the end, against the display."""
NOTE = "The staff gauge once, at the end: the loop current tells sensor and wiring apart without it."
WORTH_MINUTES = 8.0


def begin_field_trial(field: Field, seed: int) -> None:
    """Put the next revision of a plan on trial now; an engineer wrote it, an approver begins it.

    With the same seed the same orders are drawn.
    """
    dice = random.Random(f"{seed} trial")
    context = replace(field.context, new_id=lambda: str(UUID(int=dice.getrandbits(128), version=4)))
    engineer, approver = field.by_role("engineer")[0], field.by_role("approver")[0]
    view = plan_document(context, PLAN)
    at = next(n for n, step in enumerate(view.content.steps) if step.id == LEFT_OUT)
    taken_out = [{"op": "remove", "path": f"/steps/{at}"}]
    patch_draft(context, engineer, PLAN, taken_out, view.etag, begin=True)
    send_for_review(context, engineer, PLAN, NOTE)
    begin_trial(context, approver, PLAN, TrialAsked(one_in=2, worth_minutes=WORTH_MINUTES))
