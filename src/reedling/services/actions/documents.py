"""Begin documents and drafts: new, copied, or as the next revision."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace

from reedling.core.guidance.decision_tables import Column, DecisionTable
from reedling.core.guidance.documents import OPEN_REVISION_STATES, Content, Revision, RevisionAct
from reedling.core.guidance.incident_types import IncidentType
from reedling.core.guidance.plans import Minutes, Plan, Step
from reedling.core.guidance.questions import Tick
from reedling.core.guidance.revisions import PLAN_KINDS, DocumentKind
from reedling.core.people import Person
from reedling.errors import Conflict, InvalidInput, NotFound
from reedling.services.actions.drafts import begin_next, log_edit, note_act_on, work_out, write_edit
from reedling.services.context import Context
from reedling.services.shared.current import current_revision, document_at_hand
from reedling.services.shared.writers import writers_of
from reedling.store.unit import Unit


def create_incident_type(context: Context, person: Person, title: str, equipment: str | None) -> str:
    """A new incident type with an empty work plan of the same title, both drafts; its identity."""
    if not title.strip():
        raise InvalidInput(
            "incident_types.title", "the incident type needs a title.", where="New incident type"
        )
    with context.writing() as unit:
        if equipment is not None and equipment not in {c.code for c in unit.catalogues.get().equipment}:
            raise InvalidInput("incident_types.equipment", f"there is no equipment class {equipment}.")
        plan_id = f"WP-{unit.next_number('WP'):03d}"
        incident_id = f"IT-{unit.next_number('IT'):03d}"
        add_draft(unit, context, person, plan_id, Plan(title=title.strip()), "plan")
        incident = IncidentType(title=title.strip(), equipment=equipment, plans=(plan_id,))
        add_draft(unit, context, person, incident_id, incident, "incident type")
    return incident_id


PREFIXES: Mapping[DocumentKind, str] = {
    "plan": "WP",
    "form": "FM",
    "standard step": "SS",
    "incident type": "IT",
    "decision table": "DT",
    "fault guide": "FG",
}
"""What the identities of documents of a kind begin with."""

FIRST_COLUMNS = (Column(kind="equipment"), Column(kind="model"), Column(kind="symptom"))
"""What a new table asks about."""


def create_document(context: Context, person: Person, kind: DocumentKind, title: str) -> str:
    """A new form, standard step, plan or decision table, as a draft; its identity.

    A form begins with one section, a standard step with the one step it is, a table with columns for
    equipment, model and symptom.
    """
    if not title.strip():
        raise InvalidInput("plans.title", f"the {kind} needs a title.", where=f"New {kind}")
    if kind == "decision table":
        table = DecisionTable(title=title.strip(), columns=FIRST_COLUMNS)
        with context.writing() as unit:
            document = f"DT-{unit.next_number('DT'):03d}"
            add_draft(unit, context, person, document, table, kind)
        return document
    if kind not in PLAN_KINDS:
        raise InvalidInput("drafts.kind", f"an {kind} is begun from its incident type.", where=f"New {kind}")
    first = Step(
        id=f"s-{context.new_id()}",
        phase="Diagnose",
        text=title.strip() if kind == "standard step" else "First section",
        minutes=Minutes(likely=5),
        questions=(Tick(id=f"q-{context.new_id()}"),) if kind == "standard step" else (),
    )
    steps = () if kind == "plan" else (first,)
    with context.writing() as unit:
        document = f"{PREFIXES[kind]}-{unit.next_number(PREFIXES[kind]):03d}"
        add_draft(unit, context, person, document, Plan(title=title.strip(), steps=steps), kind)
    return document


def copy_document(context: Context, person: Person, document: str) -> str:
    """A new document that starts from this one as it stands; the copy's identity.

    A copy of an incident type uses the same plans.
    """
    now = context.clock()
    with context.reading() as unit:
        source = current_revision(unit, document)
        rests_on = writers_of(unit, source)
    with context.writing() as unit:
        prefix = PREFIXES[source.kind]
        copy = f"{prefix}-{unit.next_number(prefix):03d}"
        title = f"{source.content.title}, copy"
        add_draft(unit, context, person, copy, replace(source.content, title=title), source.kind)
        unit.documents.let_rest_on(copy, "A", rests_on)
        act = RevisionAct(
            letter="A", at=now, person=person.id, act="copied", note=f"from {document} {source.letter}"
        )
        unit.documents.add_act(copy, act)
    return copy


def add_plan(context: Context, person: Person, incident_type: str, plan: str | None, title: str) -> str:
    """Let an incident type use one more plan: one that is there, or a new one; the plan's identity.

    The incident type gets a draft if it has none.
    """
    with context.writing() as unit:
        current = current_revision(unit, incident_type, ("incident type",))
        assert isinstance(current.content, IncidentType)
        if current.state == "In review":
            raise Conflict("drafts.none", "it is in review.", where=incident_type, hint="Give it back first.")
        if plan is not None and unit.documents.kind(plan) != "plan":
            raise NotFound("documents.unknown", f"there is no plan {plan}.")
        if plan is not None and plan in current.content.plans:
            raise Conflict("incident_types.plan", f"it uses {plan} already.", where=incident_type)
        if plan is None:
            if not title.strip():
                raise InvalidInput("plans.title", "the plan needs a title.", where="New plan")
            plan = f"WP-{unit.next_number('WP'):03d}"
            add_draft(unit, context, person, plan, Plan(title=title.strip()), "plan")
        draft = current if current.state == "Draft" else begin_next(unit, context, person, incident_type)
        content = replace(current.content, plans=(*current.content.plans, plan))
        write_edit(unit, person, work_out(unit, context, draft, content))
        return plan


def begin_draft(context: Context, person: Person, document: str, *, or_open: bool = False) -> str:
    """Open the next revision of a document, starting from the one in force; its letter.

    Raises
    ------
    Conflict
        ``drafts.open`` when it has a draft or is in review; with ``or_open`` that one's letter is given.
    """
    with context.writing() as unit:
        at_hand = document_at_hand(unit, document).revision
        if at_hand.state in OPEN_REVISION_STATES:
            if or_open:
                return at_hand.letter
            raise Conflict(
                "drafts.open", "there is already a draft.", where=document, hint="Work on that one."
            )
        return begin_next(unit, context, person, document).letter


def add_draft(
    unit: Unit, context: Context, person: Person, document: str, content: Content, kind: DocumentKind
) -> None:
    """A new document with its first revision, as a draft."""
    now = context.clock()
    unit.documents.add(document, kind, now)
    revision = Revision(
        document=document,
        kind=kind,
        letter="A",
        state="Draft",
        version=1,
        content=content,
        created_at=now,
        changed_at=now,
    )
    unit.documents.add_revision(revision)
    log_edit(unit, revision, person, "began A", [], [])
    note_act_on(unit, revision, person, now, "began", "")
