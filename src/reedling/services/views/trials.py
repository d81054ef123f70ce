"""Trials of revisions: what they would take, and what they have shown so far."""

from __future__ import annotations

from dataclasses import dataclass
from functools import partial

from reedling.core.refining.trial_jobs import TrialJobs, read_jobs
from reedling.core.refining.trials import Trial, TrialPlan, TrialReading
from reedling.core.statistics.intervals import Share
from reedling.services.context import Context
from reedling.services.shared.trial_offers import TrialAsked, offered, to_be_tried
from reedling.services.shared.trials import columns_of_plan, need_trial
from reedling.store.unit import Unit


@dataclass(frozen=True, slots=True, kw_only=True)
class TrialOffer:
    """What a trial would take; ``districts`` are those that it may be given to."""

    document: str
    letter: str
    before: str
    plan: TrialPlan
    districts: tuple[str, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class TrialSide:
    """The orders on one side of a trial: how many were logged, and the share of those finished with several visits."""

    letter: str
    n_orders: int
    repeat_visits: Share


@dataclass(frozen=True, slots=True, kw_only=True)
class TrialView:
    """A trial with what it has shown; names of who began and ended it, and the plan's title."""

    trial: Trial
    title: str
    incident_type: str
    began_by_name: str
    ended_by_name: str
    reading: TrialReading
    has_answer: bool
    tried: TrialSide
    others: TrialSide


def trial_offer(context: Context, document: str, asked: TrialAsked) -> TrialOffer:
    """What it would take to try the revision in review of a plan on some of the orders.

    Raises
    ------
    Conflict, InvalidInput
        As :func:`reedling.services.actions.trials.begin_trial`.
    """
    with context.reading() as unit:
        revision, before = to_be_tried(unit, document)
        return TrialOffer(
            document=document,
            letter=revision.letter,
            before=before.letter,
            plan=offered(unit, document, before.letter, asked, context.clock()),
            districts=tuple(sorted({s.district for s in unit.register.sites()} - {""})),
        )


def trials(context: Context, document: str = "") -> tuple[TrialView, ...]:
    """Every trial, or those of one document; the latest begun first."""
    with context.reading() as unit:
        found = unit.trials.of_document(document) if document else unit.trials.all()
        return tuple(_view(unit, trial) for trial in found)


def trial(context: Context, identity: str) -> TrialView:
    """One trial.

    Raises
    ------
    NotFound
        ``trials.unknown`` when there is none of this identity.
    """
    with context.reading() as unit:
        return _view(unit, need_trial(unit, identity))


def _view(unit: Unit, of: Trial) -> TrialView:
    names = unit.people.names()
    orders = unit.trials.orders(of.id)
    jobs = unit.kept_of_jobs(("trial", of.id), partial(_read, of=of), apart=True)
    content = unit.documents.content_of(of.document)
    n_tried = sum(orders.values())
    return TrialView(
        trial=of,
        title=content.title if content else of.document,
        incident_type=next(
            (d for d in unit.documents.where_used(of.document) if unit.documents.kind(d) == "incident type"),
            "",
        ),
        began_by_name=names.get(of.began_by, of.began_by),
        ended_by_name=names.get(of.ended_by, of.ended_by) if of.ended_by else "",
        reading=jobs.reading,
        has_answer=jobs.reading.has_answer,
        tried=TrialSide(letter=of.letter, n_orders=n_tried, repeat_visits=jobs.repeat_tried),
        others=TrialSide(letter=of.before, n_orders=len(orders) - n_tried, repeat_visits=jobs.repeat_others),
    )


def _read(unit: Unit, *, of: Trial) -> TrialJobs:
    return read_jobs(columns_of_plan(unit, of.document), of, unit.trials.orders(of.id))
