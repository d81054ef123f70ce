"""What is plainly wrong with a draft: found by reading it, without a solver.

Problems are collected and shown all at once, each beside its place. An error keeps the draft
from being sent for review; a warning is worth a look.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator

from reedling.core.guidance.catalogue import Catalogue
from reedling.core.guidance.incident_types import IncidentType
from reedling.core.guidance.plans import Plan, Step, proofs_of
from reedling.core.guidance.proofs import OneOf, Proof, Reading
from reedling.core.logic.conditions import OPERATORS, Comparison, comparisons
from reedling.errors import Problem

MAX_STEP_TEXT = 140
"""A step's text is a line a technician reads at a glance; more belongs in its detail."""


def plan_problems(plan: Plan, catalogue: Catalogue) -> tuple[Problem, ...]:
    """Everything plainly wrong with a plan, in the order of its steps."""
    return (
        *_plan_level(plan),
        *(p for i, step in enumerate(plan.steps) for p in _step_level(plan, i, step, catalogue)),
        *_identities(plan),
        *_applies_when(plan, catalogue),
    )


def incident_type_problems(incident: IncidentType, known_plans: frozenset[str]) -> tuple[Problem, ...]:
    """Everything plainly wrong with an incident type."""
    out: list[Problem] = []
    if not incident.title.strip():
        out.append(_error("incident_types.title", "/title", "The incident type has no title."))
    if not incident.plans:
        out.append(_error("incident_types.no_plan", "/plans", "The incident type uses no work plan."))
    out.extend(
        _error("incident_types.plan", f"/plans/{i}", f"There is no work plan {plan}.")
        for i, plan in enumerate(incident.plans)
        if plan not in known_plans
    )
    return tuple(out)


def has_errors(problems: tuple[Problem, ...]) -> bool:
    """Whether any of the problems keeps a draft from going on."""
    return any(p.severity == "error" for p in problems)


def _error(code: str, path: str, message: str, hint: str = "") -> Problem:
    return Problem(code=code, path=path, message=message, hint=hint)


def _warning(code: str, path: str, message: str, hint: str = "") -> Problem:
    return Problem(code=code, path=path, message=message, hint=hint, severity="warning")


def _plan_level(plan: Plan) -> Iterator[Problem]:
    if not plan.title.strip():
        yield _error("plans.title", "/title", "The plan has no title.")
    if not plan.steps:
        yield _error("plans.empty", "/steps", "The plan has no steps.", "Add the first with n.")
    elif not any(step.phase == "Prove" for step in plan.steps) and any(
        step.phase == "Put right" for step in plan.steps
    ):
        yield _warning("plans.no_prove", "/steps", "The plan puts something right and never proves it.")


def _step_level(plan: Plan, index: int, step: Step, catalogue: Catalogue) -> Iterator[Problem]:
    path = f"/steps/{index}"
    named = f"“{step.text}”" if step.text.strip() else f"Step {index + 1}"
    if not step.text.strip():
        yield _error("steps.text", f"{path}/text", f"{named} has no text.", "Say what to do, verb first.")
    elif len(step.text) > MAX_STEP_TEXT:
        yield _warning(
            "steps.long_text",
            f"{path}/text",
            f"{named} has {len(step.text)} characters, over {MAX_STEP_TEXT}.",
            "Move what explains into the detail.",
        )
    if step.minutes.likely <= 0:
        yield _warning("steps.minutes", f"{path}/minutes", f"{named} has no minutes.")
    if not step.proofs:
        yield _warning("steps.no_proof", f"{path}/proofs", f"{named} asks for no proof, so nobody can tell.")
    if step.under is not None and step.condition is None:
        yield _warning(
            "steps.bare_branch", f"{path}/condition", f"{named} is a branch, and nothing says when it opens."
        )
    for i, proof in enumerate(step.proofs):
        yield from _proof_level(f"{path}/proofs/{i}", named, proof)
    yield from _condition_level(plan, f"{path}/condition", named, step)
    known_skills = {s.code for s in catalogue.skills}
    known_parts = {p.code for p in catalogue.parts}
    for i, skill in enumerate(step.skills):
        if skill.skill not in known_skills:
            yield _error("steps.skill", f"{path}/skills/{i}", f"{named}: there is no skill {skill.skill}.")
    for i, part in enumerate(step.parts):
        if part.part not in known_parts:
            yield _error("steps.part", f"{path}/parts/{i}", f"{named}: there is no part {part.part}.")
        if part.quantity <= 0:
            yield _error(
                "steps.part_quantity",
                f"{path}/parts/{i}",
                f"{named}: the quantity of {part.part} is not above 0.",
            )


def _proof_level(path: str, named: str, proof: Proof) -> Iterator[Problem]:
    if not proof.label.strip():
        yield _error("proofs.label", f"{path}/label", f"{named} has a question without words.")
    if isinstance(proof, Reading):
        if not proof.unit.strip():
            yield _warning("proofs.unit", f"{path}/unit", f"{named}: “{proof.label}” has no unit.")
        lim = proof.limits
        rising = [x for x in (lim.low_low, lim.low, lim.high, lim.high_high) if x is not None]
        if rising != sorted(rising):
            yield _error(
                "proofs.limits",
                f"{path}/limits",
                f"{named}: the limits of “{proof.label}” do not rise from low to high.",
            )
    if isinstance(proof, OneOf) and len(proof.options) < 2:
        yield _error(
            "proofs.options", f"{path}/options", f"{named}: “{proof.label}” has fewer than two answers."
        )


def _condition_level(plan: Plan, path: str, named: str, step: Step) -> Iterator[Problem]:
    earlier: dict[str, Proof] = {}
    later: set[str] = set()
    seen_self = False
    for owner, proof in proofs_of(plan):
        seen_self = seen_self or owner.id == step.id
        if seen_self:
            later.add(proof.id)
        else:
            earlier[proof.id] = proof
    order = [s.id for s in plan.steps]
    if not step.proofs:  # the loop above never saw the step itself
        later = {p.id for s, p in proofs_of(plan) if order.index(s.id) > order.index(step.id)}
        earlier = {p.id: p for s, p in proofs_of(plan) if order.index(s.id) < order.index(step.id)}
    for c in comparisons(step.condition):
        if c.question in later:
            yield _error(
                "conditions.later",
                path,
                f"{named} depends on a question that is asked with it or after it.",
                "Move the step below the question.",
            )
        elif c.question not in earlier:
            yield _error(
                "conditions.question",
                path,
                f"{named} depends on a question that is not in this plan.",
                "Choose another question or take the condition off.",
            )
        else:
            yield from _comparison_level(path, named, c, earlier[c.question])


def _comparison_level(path: str, named: str, c: Comparison, proof: Proof) -> Iterator[Problem]:
    if c.operator != "answered" and c.value is None:
        yield _error("conditions.value", path, f"{named}: its condition on “{proof.label}” has no value yet.")
    elif OPERATORS[c.operator].numeric and not isinstance(proof, Reading):
        yield _error(
            "conditions.kind",
            path,
            f"{named}: “{proof.label}” is not a reading, so it is never {c.operator}.",
        )
    elif isinstance(proof, OneOf) and c.operator in ("is", "is not"):
        if c.value not in {o.id for o in proof.options}:
            yield _error("conditions.option", path, f"{named}: “{proof.label}” no longer has that answer.")


def _identities(plan: Plan) -> Iterator[Problem]:
    for step_id, count in Counter(s.id for s in plan.steps).items():
        if count > 1:
            yield _error("plans.step_identity", "/steps", f"The identity {step_id} is used by {count} steps.")
    for proof_id, count in Counter(p.id for _, p in proofs_of(plan)).items():
        if count > 1:
            yield _error(
                "plans.proof_identity", "/steps", f"The identity {proof_id} is used by {count} questions."
            )


def _applies_when(plan: Plan, catalogue: Catalogue) -> Iterator[Problem]:
    cells = plan.applies_when
    if cells.equipment and cells.equipment not in {c.code for c in catalogue.equipment}:
        yield _error(
            "plans.equipment", "/applies_when/equipment", f"There is no equipment class {cells.equipment}."
        )
    yield from (
        _error("plans.model", "/applies_when/models", f"There is no model {model}.")
        for model in cells.models
        if model not in {m.code for m in catalogue.models}
    )
    yield from (
        _error("plans.symptom", "/applies_when/symptoms", f"There is no symptom {symptom}.")
        for symptom in cells.symptoms
        if symptom not in {s.code for s in catalogue.symptoms}
    )
