"""Refine: what the evidence suggests, and what is decided on it."""

from __future__ import annotations

from typing import Annotated

from fastapi import Query, Response
from pydantic import BaseModel, Field

from reedling.api.access import Approver, Ctx, OfficePerson, Writer
from reedling.api.guarded import guarded_router
from reedling.api.shapes import TAGGED, Identity
from reedling.core.guidance.revisions import DocumentKind
from reedling.core.refining.trials import TrialEnd
from reedling.services.actions import guides as guides_actions
from reedling.services.actions import proposals as proposals_actions
from reedling.services.actions import trials as trials_actions
from reedling.services.actions.drafts import draft_return
from reedling.services.actions.guides import PutInOrder
from reedling.services.actions.proposals import PutIn
from reedling.services.shared.trial_offers import TrialAsked
from reedling.services.views import fault_guides, gains, guides, replays
from reedling.services.views import proposals as proposals_views
from reedling.services.views import trials as trials_views
from reedling.services.views.fault_guides import FaultGuideView
from reedling.services.views.gains import ChangesDone
from reedling.services.views.guides import GuideFigures, GuideView, TurnLine
from reedling.services.views.proposals import ProposalsPage
from reedling.services.views.replays import ReplayView
from reedling.services.views.trials import TrialOffer, TrialView

router = guarded_router("/api/v1", "refine")


Said = Annotated[tuple[str, ...], Query(max_length=50)]
"""Checks that were answered."""


class NewGuide(BaseModel):
    """Whether a fault guide begins with what the closed jobs show."""

    from_jobs: bool = False


class ProposalReason(BaseModel):
    """Why a proposal is declined."""

    reason: str = Field(max_length=2000)


class PutOff(BaseModel):
    """For how many days a proposal is put off."""

    days: int = 30


class NewTrial(BaseModel):
    """Which orders get a revision: one in so many, or all of some districts; and what difference is worth finding."""

    one_in: int = 2
    districts: tuple[Annotated[str, Field(max_length=200)], ...] = Field((), max_length=100)
    worth_minutes: float = Field(10.0, gt=0, le=1000)


class TrialEnding(BaseModel):
    """How a trial ends; a reason is wanted where the revision is withdrawn."""

    end: TrialEnd
    reason: str = Field("", max_length=2000)


class DraftedIn(BaseModel):
    """The draft that a proposal's change is in."""

    document: str
    letter: str
    kind: DocumentKind


@router.get("/proposals")
def proposals(_person: OfficePerson, context: Ctx, incident_type: str = "") -> ProposalsPage:
    """What the evidence suggests, the weightiest first, and what became of what was taken."""
    return proposals_views.proposals_page(context, incident_type)


@router.get("/incident-types/{document}/fault-guide")
def fault_guide(
    document: str,
    _person: OfficePerson,
    context: Ctx,
    yes: Said = (),
    no: Said = (),
) -> FaultGuideView | None:
    """A fault guide drafted from closed jobs; ``yes`` and ``no`` name checks that were answered."""
    said = dict.fromkeys(yes, True) | dict.fromkeys(no, False)
    return fault_guides.fault_guide(context, document, said)


@router.get("/changes-done")
def done(_person: OfficePerson, context: Ctx) -> ChangesDone:
    """What every released change did, the latest first, and what all of them saved over a year."""
    return gains.changes_done(context)


@router.post("/documents/{document}/revisions/{letter}/return", status_code=201)
def go_back(document: str, letter: str, person: Writer, context: Ctx) -> DraftedIn:
    """Draft what an earlier revision said as the next one."""
    draft = draft_return(context, person, document, letter)
    return DraftedIn(document=draft.document, letter=draft.letter, kind=draft.kind)


@router.get("/incident-types/{document}/guide")
def guide_of(document: str, _person: OfficePerson, context: Ctx) -> Identity:
    """The fault guide of an incident type, in force or else being written; empty where there is none."""
    return Identity(id=guides.guide_of(context, document))


@router.post("/incident-types/{document}/guide", status_code=201)
def begin_guide(document: str, body: NewGuide, person: Writer, context: Ctx) -> Identity:
    """Begin the fault guide of an incident type, empty or as its closed jobs have it; gives its identity."""
    made = guides_actions.create_guide(context, person, document, from_jobs=body.from_jobs)
    return Identity(id=made)


@router.get("/documents/{document}/guide", responses=TAGGED)
def guide(document: str, response: Response, _person: OfficePerson, context: Ctx) -> GuideView:
    """A fault guide at the revision to work on, with its etag."""
    view = guides.guide_document(context, document)
    response.headers["ETag"] = view.etag
    return view


@router.get("/documents/{document}/guide/figures")
def guide_figures(
    document: str, _person: OfficePerson, context: Ctx, yes: Said = (), no: Said = ()
) -> GuideFigures | None:
    """What follows from a fault guide and the closed jobs; ``yes`` and ``no`` name checks that were answered."""
    return guides.guide_figures(context, document, dict.fromkeys(yes, True) | dict.fromkeys(no, False))


@router.get("/documents/{document}/guide/turning-points")
def guide_turns(document: str, _person: OfficePerson, context: Ctx) -> list[TurnLine]:
    """Minutes of checks and remedies at which the order of work would begin otherwise, the nearest first."""
    return list(guides.guide_turns(context, document))


@router.post("/documents/{document}/guide/order-in-draft")
def put_order_in_draft(document: str, person: Writer, context: Ctx) -> PutInOrder:
    """Put the best order of checks in the draft of their plan."""
    return guides_actions.put_order_in_draft(context, person, document)


@router.get("/trials")
def trials(_person: OfficePerson, context: Ctx, document: str = "") -> list[TrialView]:
    """Every trial of a revision, or those of one document, with what each has shown; the latest begun first."""
    return list(trials_views.trials(context, document))


@router.get("/trials/{trial}")
def trial(trial: str, _person: OfficePerson, context: Ctx) -> TrialView:
    """One trial, with what it has shown after each finished job."""
    return trials_views.trial(context, trial)


@router.get("/documents/{document}/trial-offer")
def trial_offer(
    document: str,
    _person: OfficePerson,
    context: Ctx,
    one_in: int = 2,
    worth_minutes: Annotated[float, Query(gt=0, le=1000)] = 10.0,
    district: Annotated[tuple[str, ...], Query(max_length=100)] = (),
) -> TrialOffer:
    """How many jobs it would take to try the revision in review of a plan on some of the orders, and how long."""
    asked = TrialAsked(one_in=one_in, districts=district, worth_minutes=worth_minutes)
    return trials_views.trial_offer(context, document, asked)


@router.post("/documents/{document}/trial", status_code=201)
def begin_trial(document: str, body: NewTrial, person: Approver, context: Ctx) -> Identity:
    """Give the revision in review to some of the orders logged from now on; gives the identity of the trial."""
    asked = TrialAsked(one_in=body.one_in, districts=body.districts, worth_minutes=body.worth_minutes)
    return Identity(id=trials_actions.begin_trial(context, person, document, asked).id)


@router.post("/trials/{trial}/end", status_code=204)
def end_trial(trial: str, body: TrialEnding, person: Approver, context: Ctx) -> None:
    """Release the revision on trial to all orders, or withdraw it with a reason."""
    trials_actions.end_trial(context, person, trial, body.end, body.reason)


@router.get("/documents/{document}/replay")
def replay(document: str, _person: OfficePerson, context: Ctx) -> ReplayView:
    """What a draft would have changed over closed jobs, in minutes, parts and visits."""
    return replays.replay_draft(context, document)


@router.post("/proposals/{key}/draft")
def draft(key: str, person: Writer, context: Ctx) -> PutIn:
    """Put the change of a proposal into the draft of its document, or into its list."""
    return proposals_actions.draft_proposal(context, person, key)


@router.put("/proposals/{key}/refusal", status_code=204)
def decline(key: str, body: ProposalReason, person: Writer, context: Ctx) -> None:
    """Decline a proposal; it returns once its jobs have grown by half again."""
    proposals_actions.decline_proposal(context, person, key, body.reason)


@router.put("/proposals/{key}/delay", status_code=204)
def put_off(key: str, body: PutOff, person: Writer, context: Ctx) -> None:
    """Put a proposal off."""
    proposals_actions.put_off_proposal(context, person, key, body.days)


@router.delete("/proposals/{key}/decision", status_code=204)
def reopen(key: str, _person: Writer, context: Ctx) -> None:
    """Take back what was decided on a proposal."""
    proposals_actions.reopen_proposal(context, key)
