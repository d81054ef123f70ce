"""Add a document to an order by hand, or take one off, with the reason."""

from __future__ import annotations

from dataclasses import replace
from typing import Literal

from reedling.core.evidence.steps import StepRecord, step_records
from reedling.core.guidance.documents import Revision
from reedling.core.guidance.plans import Plan
from reedling.core.guidance.reuse import Shared, SharedPlans
from reedling.core.guidance.revisions import PLAN_KINDS
from reedling.core.matching.applicability import never_together_on
from reedling.core.orders.orders import Order, OrderChange
from reedling.core.orders.states import can_be_reissued
from reedling.core.people import Person
from reedling.core.runsheet.job_state import Job
from reedling.core.runsheet.lines import Runsheet
from reedling.errors import Conflict, InvalidInput, NotFound
from reedling.services.context import Context
from reedling.services.shared.composing import compose, issued_documents
from reedling.services.shared.guidance_in_force import guidance_in_force
from reedling.services.shared.needed import need_order
from reedling.services.shared.uses import shared_in_force
from reedling.store.unit import Unit

HandAct = Literal["added", "removed"]


def change_order(
    context: Context, person: Person, order_id: str, act: HandAct, document: str, reason: str
) -> Order:
    """Put a document on an order that nobody has begun, or take one off; it gets a new runsheet.

    Everything else keeps the revision it was issued with.

    Raises
    ------
    InvalidInput
        ``reviews.reason`` when no reason is given.
    Conflict
        ``orders.begun`` when somebody is on the way or has recorded something, ``orders.has_it`` and
        ``orders.has_not`` when there is nothing to do, ``matching.never_together`` for a pair that must
        not be on one order.
    """
    if not reason.strip():
        raise InvalidInput("reviews.reason", f"say why it is {act}.", where=order_id)

    def prepare(unit: Unit) -> tuple[Order, OrderChange, tuple[StepRecord, ...]]:
        order = need_order(unit, order_id)
        if not can_be_reissued(order.state, has_begun=unit.recorded.has_begun(order_id)):
            raise Conflict(
                "orders.begun",
                f"it is {order.state.lower()}, and a runsheet does not change once work has begun.",
                where=order_id,
                hint="Log a second order for what is missing.",
            )
        issued = issued_documents(order.runsheet)
        if act == "added" and document in issued:
            raise Conflict("orders.has_it", f"{document} is on it already.", where=order_id)
        if act == "removed" and document not in issued:
            raise Conflict("orders.has_not", f"{document} is not on it.", where=order_id)
        revisions = [_issued(unit, order.runsheet, d) for d in issued]
        changed = _to_add(unit, document) if act == "added" else revisions[issued.index(document)]
        if act == "added":
            _check_pairs(unit, order, document)
            taken = [*revisions, changed]
        else:
            taken = [r for r in revisions if r.document != document]
        guidance = guidance_in_force(unit).guidance
        sheet = compose(
            unit,
            taken,
            order.asset,
            order.runsheet.facts,
            after=guidance.after,
            shared=_library(unit, order.runsheet),
        )
        change = OrderChange(
            order=order_id,
            at=context.clock(),
            person=person.id,
            act=act,
            document=document,
            revision=changed.letter,
            title=changed.content.title,
            reason=reason.strip(),
        )
        runsheet = replace(sheet, guide=order.runsheet.guide)
        owed = step_records(order_id, runsheet, Job()) if order.due_on else ()
        return replace(order, runsheet=runsheet), change, owed

    def write(unit: Unit, prepared: tuple[Order, OrderChange, tuple[StepRecord, ...]]) -> Order:
        order, change, owed = prepared
        unit.orders.reissue(order, change)
        unit.recorded.replace_step_records(order_id, owed, incident_type=order.incident_type, closed=False)
        return need_order(unit, order_id)

    def mark(unit: Unit) -> object:
        return (*unit.stamp(), unit.recorded.mark(order_id, ""), len(unit.orders.changes(order_id)))

    return context.change(prepare, write, on=mark)


def _issued(unit: Unit, sheet: Runsheet, document: str) -> Revision:
    letter = next(s.revision for s in sheet.sources if s.document == document)
    found = unit.documents.revision(document, letter)
    assert found is not None
    return found


def _to_add(unit: Unit, document: str) -> Revision:
    found = unit.documents.released(document)
    if found is None or found.kind not in PLAN_KINDS:
        raise NotFound(
            "documents.unknown",
            f"no plan, form or standard step {document} is in force.",
            hint="Choose one from the list.",
        )
    return found


def _check_pairs(unit: Unit, order: Order, document: str) -> None:
    """What is on the order, and inside what is on it, against what is added."""
    reasons = {s.document: ("on it",) for s in order.runsheet.sources} | {document: ("to be added",)}
    refused = list(never_together_on(guidance_in_force(unit).guidance, reasons))
    if refused:
        raise Conflict(
            "matching.never_together",
            " ".join(r.sentence for r in refused),
            where=order.id,
            hint="Take the other one off first.",
        )


def _library(unit: Unit, sheet: Runsheet) -> SharedPlans:
    """Standard steps and forms as they were issued; as in force where the order had none of them."""
    now = shared_in_force(unit)
    standards, forms = dict(now.standards), dict(now.forms)
    for source in sheet.sources:
        found = unit.documents.revision(source.document, source.revision)
        if found is not None and isinstance(found.content, Plan):
            shared = Shared(document=found.document, revision=found.letter, plan=found.content)
            if found.kind == "standard step":
                standards[found.document] = shared
            elif found.kind == "form":
                forms[found.document] = shared
    return SharedPlans(standards=standards, forms=forms)
