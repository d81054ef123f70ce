"""What a job recorded beside its steps: what waits for the office, what the customer said, who signed."""

from __future__ import annotations

from dataclasses import dataclass, field, replace
from datetime import datetime

from reedling.core.guidance.phases import Phase
from reedling.core.runsheet.site_events import (
    LONGEST_WORDS,
    CheckSeen,
    CustomerSaid,
    EquipmentFound,
    FixMarked,
    NoCauseFits,
    PartTyped,
    RecordSettled,
    RemedyTried,
    Settling,
    SignedOff,
    StepAdded,
    WorkAnswered,
    WorkRecommended,
)
from reedling.errors import Conflict, InvalidInput


@dataclass(frozen=True, slots=True, kw_only=True)
class Settled:
    """What the office made of a site record, and when."""

    at: datetime
    decision: Settling
    target: str
    reason: str


@dataclass(frozen=True, slots=True, kw_only=True)
class TypedPart:
    """A part in the technician's words; once it is matched it counts as the part of the catalogue."""

    text: str
    quantity: float
    line: str | None
    at: datetime
    settled: Settled | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class FoundEquipment:
    """Equipment that the register does not have."""

    name: str
    model: str
    serial: str
    picture: str | None
    at: datetime
    settled: Settled | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class AddedStep:
    """Something done that no step asked for; ``minutes`` as the technician gave them.

    ``standard`` and ``asset`` are as in :class:`StepAdded`.
    """

    phase: Phase
    text: str
    minutes: float
    at: datetime
    standard: str = ""
    asset: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class FurtherWork:
    """Work recommended to the customer; ``accepted`` is nothing until they answered."""

    text: str
    price: float | None
    at: datetime
    accepted: bool | None = None
    settled: Settled | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class SignedBy:
    """Somebody who signed for a visit."""

    at: datetime
    picture: str
    name: str
    role: str


@dataclass(frozen=True, slots=True, kw_only=True)
class CustomerWord:
    """What the customer said last."""

    at: datetime
    comment: str
    rating: int | None


@dataclass(frozen=True, slots=True, kw_only=True)
class MarkedFix:
    """A past fix that was tried, and whether it helped."""

    cause: str
    remedy: str
    helped: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class GuidedWork:
    """What was said in the order's fault guide: what was seen at checks, whether remedies helped, by their identities,
    and the technician's words where no cause fits."""

    seen: dict[str, bool] = field(default_factory=dict)
    tried: dict[str, bool] = field(default_factory=dict)
    none_of_these: str | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class SiteRecords:
    """All that was recorded beside the steps, by the identities that the device gave."""

    parts: dict[str, TypedPart] = field(default_factory=dict)
    equipment: dict[str, FoundEquipment] = field(default_factory=dict)
    steps: dict[str, AddedStep] = field(default_factory=dict)
    work: dict[str, FurtherWork] = field(default_factory=dict)
    signed: tuple[SignedBy, ...] = ()
    customer: CustomerWord | None = None
    fixes: tuple[MarkedFix, ...] = ()
    guided: GuidedWork = field(default_factory=GuidedWork)

    @property
    def n_recorded(self) -> int:
        """How many parts were typed, things found, steps added and work recommended."""
        return len(self.parts) + len(self.equipment) + len(self.steps) + len(self.work)


SiteRecordEvent = (
    PartTyped
    | EquipmentFound
    | StepAdded
    | WorkRecommended
    | WorkAnswered
    | SignedOff
    | CustomerSaid
    | FixMarked
    | CheckSeen
    | RemedyTried
    | NoCauseFits
    | RecordSettled
)
"""The events that these records are made of."""


def check_site_record(records: SiteRecords, event: SiteRecordEvent) -> None:
    """Whether the event may be recorded.

    Raises
    ------
    InvalidInput
        ``jobs.site_words`` where words are missing or too long, ``jobs.quantity``, ``jobs.site_minutes``,
        ``jobs.price``, ``jobs.rating`` for numbers that cannot be.
    Conflict
        ``jobs.site_record`` for an identity that is there already, or one that is not there.
    """
    _check_words(event)
    _check_numbers(event)
    if isinstance(event, PartTyped | EquipmentFound | StepAdded | WorkRecommended):
        if event.record in _identities(records):
            raise Conflict("jobs.site_record", "this is recorded already.", where=event.kind.capitalize())
    elif isinstance(event, WorkAnswered):
        held = records.work.get(event.record)
        if held is None or held.settled is not None:
            raise Conflict(
                "jobs.site_record",
                "there is no such work waiting for the customer's answer.",
                where="Further work",
            )
    elif isinstance(event, RecordSettled):
        _check_settling(records, event)


def with_site_record(records: SiteRecords, event: SiteRecordEvent) -> SiteRecords:
    """The records after the event, which was checked when it came."""
    match event:
        case PartTyped():
            typed = TypedPart(text=event.text.strip(), quantity=event.quantity, line=event.line, at=event.at)
            return replace(records, parts={**records.parts, event.record: typed})
        case EquipmentFound():
            found = FoundEquipment(
                name=event.name.strip(),
                model=event.model.strip(),
                serial=event.serial.strip(),
                picture=event.picture,
                at=event.at,
            )
            return replace(records, equipment={**records.equipment, event.record: found})
        case StepAdded():
            added = AddedStep(
                phase=event.phase,
                text=event.text.strip(),
                minutes=event.minutes,
                at=event.at,
                standard=event.standard,
                asset=event.asset,
            )
            return replace(records, steps={**records.steps, event.record: added})
        case WorkRecommended():
            work = FurtherWork(text=event.text.strip(), price=event.price, at=event.at)
            return replace(records, work={**records.work, event.record: work})
        case WorkAnswered():
            answered = replace(records.work[event.record], accepted=event.accepted)
            return replace(records, work={**records.work, event.record: answered})
        case SignedOff():
            signed = SignedBy(
                at=event.at, picture=event.picture, name=event.name.strip(), role=event.role.strip()
            )
            return replace(records, signed=(*records.signed, signed))
        case CustomerSaid():
            word = CustomerWord(at=event.at, comment=event.comment.strip(), rating=event.rating)
            return replace(records, customer=word)
        case FixMarked():
            mark = MarkedFix(cause=event.cause, remedy=event.remedy, helped=event.helped)
            others = (m for m in records.fixes if (m.cause, m.remedy) != (mark.cause, mark.remedy))
            return replace(records, fixes=(*others, mark))
        case CheckSeen() | RemedyTried() | NoCauseFits():
            return replace(records, guided=_guided(records.guided, event))
        case RecordSettled():
            return _settle(records, event)


def _guided(work: GuidedWork, event: CheckSeen | RemedyTried | NoCauseFits) -> GuidedWork:
    match event:
        case CheckSeen():
            others = {check: seen for check, seen in work.seen.items() if check != event.check}
            return replace(work, seen=others if event.seen is None else {**others, event.check: event.seen})
        case RemedyTried():
            return replace(work, tried={**work.tried, event.remedy: event.helped})
        case NoCauseFits():
            return replace(work, none_of_these=event.text.strip() or None)


def _settle(records: SiteRecords, event: RecordSettled) -> SiteRecords:
    made = Settled(at=event.at, decision=event.decision, target=event.target, reason=event.reason.strip())
    key = event.record
    if key in records.parts:
        return replace(records, parts={**records.parts, key: replace(records.parts[key], settled=made)})
    if key in records.equipment:
        held = replace(records.equipment[key], settled=made)
        return replace(records, equipment={**records.equipment, key: held})
    return replace(records, work={**records.work, key: replace(records.work[key], settled=made)})


def _identities(records: SiteRecords) -> set[str]:
    return {*records.parts, *records.equipment, *records.steps, *records.work}


def _check_settling(records: SiteRecords, event: RecordSettled) -> None:
    held: TypedPart | FoundEquipment | FurtherWork | None
    held = (
        records.parts.get(event.record)
        or records.equipment.get(event.record)
        or records.work.get(event.record)
    )
    if held is None or held.settled is not None:
        raise Conflict("jobs.site_record", "there is nothing of that name to settle.", where="Site record")
    fits = {TypedPart: "matched", FoundEquipment: "entered", FurtherWork: "ordered"}[type(held)]
    if event.decision not in (fits, "set aside"):
        raise Conflict("jobs.site_record", f"this cannot be {event.decision}.", where="Site record")
    if event.decision == "set aside" and not event.reason.strip():
        raise InvalidInput("jobs.reason", "say why it is set aside.", where="Site record")


def _check_words(event: SiteRecordEvent) -> None:
    wanted: tuple[tuple[str, str], ...] = ()
    optional: tuple[str, ...] = ()
    match event:
        case PartTyped() | StepAdded() | WorkRecommended():
            wanted = (("what it is", event.text),)
        case EquipmentFound():
            wanted, optional = (("what it is", event.name),), (event.model, event.serial)
        case SignedOff():
            wanted = (("the name", event.name), ("what they are", event.role))
        case NoCauseFits():
            optional = (event.text,)
        case CustomerSaid():
            optional = (event.comment,)
            if not event.comment.strip() and event.rating is None:
                raise InvalidInput(
                    "jobs.site_words", "there is no comment and no rating in it.", where="Customer"
                )
    for what, words in wanted:
        if not words.strip():
            raise InvalidInput("jobs.site_words", f"say {what}.", where=event.kind.capitalize())
    if any(len(words) > LONGEST_WORDS for words in (*optional, *(words for _, words in wanted))):
        raise InvalidInput(
            "jobs.site_words", f"it has more than {LONGEST_WORDS} characters.", where=event.kind.capitalize()
        )


def _check_numbers(event: SiteRecordEvent) -> None:
    if isinstance(event, PartTyped) and not 0 < event.quantity < float("inf"):
        raise InvalidInput("jobs.quantity", "the quantity must be above 0.", where=f"Part “{event.text}”")
    if isinstance(event, StepAdded) and not 0 <= event.minutes <= 24 * 60:
        raise InvalidInput("jobs.site_minutes", "the minutes must lie between 0 and a day.", where=event.text)
    if isinstance(event, WorkRecommended) and event.price is not None and not 0 <= event.price < 1e9:
        raise InvalidInput("jobs.price", "the price must be 0 or more.", where=event.text)
    if isinstance(event, CustomerSaid) and event.rating is not None and not 1 <= event.rating <= 5:
        raise InvalidInput("jobs.rating", "a rating goes from 1 to 5.", where="Customer")
