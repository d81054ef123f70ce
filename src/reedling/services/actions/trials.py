"""Try a revision on some of the orders beside the one in force; then release it to all, or withdraw it."""

from __future__ import annotations

from dataclasses import dataclass, replace

from reedling.core.guidance.documents import Revision
from reedling.core.guidance.revisions import move_revision, require_second_person
from reedling.core.people import Person
from reedling.core.refining.trials import Trial, TrialEnd
from reedling.errors import Conflict, InvalidInput
from reedling.services.context import Context
from reedling.services.effective import note_act, put_in_force
from reedling.services.shared.findings import require_sound
from reedling.services.shared.trial_offers import TrialAsked, offered, to_be_tried
from reedling.services.shared.trials import need_trial
from reedling.services.shared.writers import writers_of
from reedling.store.unit import Unit


def begin_trial(context: Context, person: Person, document: str, asked: TrialAsked) -> Trial:
    """Give the revision in review of a plan to some of the orders logged from now on.

    Raises
    ------
    Conflict
        ``trials.none_waiting`` and the like where it cannot be tried as it stands, each with the way out.
    NotAllowed
        ``revisions.four_eyes`` when this person wrote in it or sent it.
    InvalidInput
        ``trials.share``, ``trials.too_few_jobs``, ``trials.worth`` where the trial could find nothing.
    """
    now = context.clock()

    def prepare(unit: Unit) -> tuple[Revision, Trial]:
        revision, before = to_be_tried(unit, document)
        require_second_person(person.id, writers_of(unit, revision), where=document)
        require_sound(unit, revision, now.date(), {document}, "Give it back, or withdraw it.")
        plan = offered(unit, document, before.letter, asked, now)
        trial = Trial(
            id=context.new_id(),
            document=document,
            letter=revision.letter,
            before=before.letter,
            one_in=asked.one_in,
            districts=asked.districts,
            seed=context.new_id(),
            worth_minutes=asked.worth_minutes,
            most_jobs=plan.most_jobs,
            began_at=now,
            began_by=person.id,
        )
        return revision, trial

    def write(unit: Unit, prepared: tuple[Revision, Trial]) -> Trial:
        revision, trial = prepared
        state = move_revision(revision.state, "try", where=document)
        unit.documents.save(replace(revision, state=state, changed_at=now))
        unit.trials.add(trial)
        note_act(unit, revision, person.id, now, "put on trial", _to_whom(trial))
        return trial

    return context.change(prepare, write)


@dataclass(frozen=True, slots=True)
class _Ending:
    trial: Trial
    revision: Revision


def end_trial(context: Context, person: Person, identity: str, end: TrialEnd, reason: str) -> Trial:
    """Release the revision on trial to all orders, or withdraw it; orders that have it keep it.

    Raises
    ------
    Conflict
        ``trials.ended`` when it was ended already.
    InvalidInput
        ``reviews.reason`` when it is withdrawn without a reason.
    NotAllowed
        ``revisions.four_eyes`` when who releases it wrote in it or sent it.
    """
    if end == "withdrawn" and not reason.strip():
        raise InvalidInput("reviews.reason", "say why it is withdrawn.", where="Reason")
    now = context.clock()

    def prepare(unit: Unit) -> _Ending:
        trial = need_trial(unit, identity)
        revision = unit.documents.revision(trial.document, trial.letter)
        if trial.ended_at is not None or revision is None:
            raise Conflict(
                "trials.ended",
                f"the trial of {trial.document} {trial.letter} is over.",
                where=trial.document,
                hint="Reload the page.",
            )
        if end == "released":
            require_second_person(person.id, writers_of(unit, revision), where=trial.document)
            require_sound(unit, revision, now.date(), {trial.document}, "Give it back, or withdraw it.")
        return _Ending(trial, revision)

    def write(unit: Unit, ending: _Ending) -> Trial:
        revision = replace(ending.revision, changed_at=now)
        if end == "released":
            put_in_force(unit, replace(revision, released_by=person.id), now)
            note_act(unit, revision, person.id, now, "released", "after a trial")
        else:
            state = move_revision(revision.state, "withdraw", where=revision.document)
            unit.documents.save(replace(revision, state=state))
            note_act(unit, revision, person.id, now, "withdrew", reason.strip())
        ended = replace(ending.trial, ended_at=now, ended_by=person.id, end=end, reason=reason.strip())
        unit.trials.save(ended)
        return ended

    return context.change(prepare, write, on=_what_ends)


def _what_ends(unit: Unit) -> object:
    return (unit.stamp(), tuple(unit.trials.under_way()))


def _to_whom(trial: Trial) -> str:
    return (
        f"on all orders of {', '.join(trial.districts)}"
        if trial.districts
        else f"on one in {trial.one_in} orders"
    )
