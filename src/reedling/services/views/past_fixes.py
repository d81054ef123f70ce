"""Past fixes of an order: what solved jobs like it, as both the office and the technician read it."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime

from reedling.core.guidance.catalogue import Catalogue
from reedling.core.orders.orders import Order
from reedling.core.orders.states import takes_records
from reedling.core.pastfixes.ranking import FixRanker, PastFix
from reedling.core.pastfixes.solved import FaultCall
from reedling.services.context import Context
from reedling.services.shared.needed import need_order
from reedling.store.unit import Unit


@dataclass(frozen=True, slots=True, kw_only=True)
class AlikeJob:
    """A solved job with the same fix, most like the call."""

    order: str
    report: str
    asset: str
    finished_at: datetime


@dataclass(frozen=True, slots=True, kw_only=True)
class PastFixView:
    """A past fix in words. Of ``n_tried`` calls that were given this chance, ``share`` turned out so; nothing where
    too few were tried. ``why`` are the signs that speak for it, ``n_jobs`` were solved by it."""

    cause: str
    remedy: str
    cause_label: str
    remedy_label: str
    share: float | None
    n_tried: int
    why: tuple[str, ...]
    n_jobs: int
    jobs: tuple[AlikeJob, ...]


def past_fixes(context: Context, order_id: str) -> tuple[PastFixView, ...]:
    """The fixes that an order is likeliest to need, the likeliest first; none once it is closed."""
    with context.reading() as unit:
        return past_fixes_of(unit, need_order(unit, order_id))


def past_fixes_of(unit: Unit, order: Order) -> tuple[PastFixView, ...]:
    """As :func:`past_fixes`, within a transaction."""
    if not takes_records(order.state):
        return ()
    ranker = unit.kept_of_jobs("past fixes", _learn, apart=True)
    call = FaultCall(
        report=order.report,
        symptom=order.symptom,
        model=order.asset.model,
        equipment=order.asset.equipment,
        asset=order.asset.code,
    )
    lists = unit.catalogues.get()
    return tuple(_view(found, lists) for found in ranker.rank(call))


def _learn(unit: Unit) -> FixRanker:
    return FixRanker.of(unit.job_evidence.solved_jobs())


def _view(found: PastFix, lists: Catalogue) -> PastFixView:
    causes = {c.code: c.label for c in lists.causes}
    remedies = {r.code: r.label for r in lists.remedies}
    return PastFixView(
        cause=found.fix.cause,
        remedy=found.fix.remedy,
        cause_label=causes.get(found.fix.cause, found.fix.cause),
        remedy_label=remedies.get(found.fix.remedy, found.fix.remedy),
        share=found.confidence.share if found.confidence else None,
        n_tried=found.confidence.n_tried if found.confidence else 0,
        why=tuple(_sign_words(sign, lists) for sign in found.signs),
        n_jobs=found.n_jobs,
        jobs=tuple(
            AlikeJob(
                order=job.order, report=job.call.report, asset=job.call.asset, finished_at=job.finished_at
            )
            for job in found.jobs
        ),
    )


def _sign_words(sign: str, lists: Catalogue) -> str:
    kind, _, code = sign.partition(" ")
    match kind:
        case "word":
            return f"“{code}”"
        case "symptom":
            return next((s.label for s in lists.symptoms if s.code == code), code)
        case "model":
            return next((m.name for m in lists.models if m.code == code), code)
    return next((e.name for e in lists.equipment if e.code == code), code)
