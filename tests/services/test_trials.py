"""A revision tried on some of the orders: who gets it, what may be done with it meanwhile, and what it shows."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from datetime import timedelta

import numpy as np
import pytest
from sqlalchemy import text
from sqlalchemy.exc import DBAPIError

from reedling.core.guidance.plans import AppliesWhen, Plan
from reedling.core.people import Person
from reedling.errors import InvalidInput, ReedlingError
from reedling.services.actions.documents import begin_draft
from reedling.services.actions.drafts import discard_draft, patch_draft
from reedling.services.actions.library import import_library
from reedling.services.actions.orders import log_order
from reedling.services.actions.releases import give_back, release, send_for_review
from reedling.services.actions.trials import begin_trial, end_trial
from reedling.services.context import Context
from reedling.services.shared.matched import OrderToMatch
from reedling.services.shared.trial_offers import TrialAsked
from reedling.services.views.desk import desk
from reedling.services.views.documents import plan_document
from reedling.services.views.library import export_library
from reedling.services.views.trials import trial as trial_view
from reedling.services.views.trials import trial_offer, trials
from reedling.standins.weeks import play_weeks
from tests.conftest import INES, MAREK, ODA, FakeClock

PLAN = "WP-001"
HALF = TrialAsked(one_in=2, worth_minutes=30)
Played = tuple[Context, FakeClock]


def drafted(context: Context, change: Callable[[Plan], Plan] = lambda plan: plan) -> str:
    """A draft of the plan by Ines, changed in what is given, sent for review; its letter."""
    letter = begin_draft(context, INES, PLAN)
    with context.writing() as unit:
        draft = unit.documents.open_revision(PLAN)
        assert draft is not None
        assert isinstance(draft.content, Plan)
        content = change(replace(draft.content, summary="Said in fewer words."))
        unit.documents.save(replace(draft, content=content, version=draft.version + 1))
    send_for_review(context, INES, PLAN, "Fewer words")
    return letter


def logged(context: Context, n: int) -> list[str]:
    """So many orders for rakes, a minute apart; their numbers."""
    with context.reading() as unit:
        rakes = [p.asset.code for p in unit.register.assets() if p.asset.equipment == "screen-rake"]
    start = context.clock()
    return [
        log_order(
            context,
            MAREK,
            OrderToMatch(asset=rakes[i % len(rakes)], symptom="stalls"),
            "Stuck",
            at=start + timedelta(minutes=i),
        ).id
        for i in range(n)
    ]


def letters(context: Context, orders: list[str]) -> dict[str, str]:
    """The revision of the plan on each order's runsheet."""
    with context.reading() as unit:
        held = [unit.orders.get(order) for order in orders]
    return {o.id: next(s.revision for s in o.runsheet.sources if s.document == PLAN) for o in held if o}


def test_the_orders_that_are_drawn_get_it_and_the_others_keep_the_one_in_force(played: Played) -> None:
    context, _ = played
    before = logged(context, 1)
    letter = drafted(context)
    trial = begin_trial(context, ODA, PLAN, TrialAsked(one_in=3, worth_minutes=30))
    orders = logged(context, 60)
    got = letters(context, orders)
    with context.reading() as unit:
        taken = unit.trials.orders(trial.id)
        facts = {o.id: o for o in unit.orders.facts()}
    assert taken == {order: found == letter for order, found in got.items()}
    assert dict.fromkeys(before, trial.before) == letters(context, before)
    for order, tried in taken.items():
        held = facts[order]
        name = f"{held.asset} {held.symptom} {held.logged_at.isoformat()}"
        assert trial.takes(name, "anywhere") is tried, "the draw can be done again from what is kept"
    assert 8 <= sum(taken.values()) <= 34
    view = trial_view(context, trial.id)
    assert (view.tried.n_orders, view.others.n_orders) == (sum(taken.values()), 60 - sum(taken.values()))
    assert view.reading.answer == "too few to say"
    assert view.incident_type == "IT-001", "tables and guides name the plan too"
    assert "0 jobs against 0" in view.reading.sentence


def test_by_district_the_site_decides(played: Played) -> None:
    context, _ = played
    with context.reading() as unit:
        district_of = {p.asset.code: p.site.district for p in unit.register.assets()}
    letter = drafted(context)
    some = sorted({d for asset, d in district_of.items() if asset.startswith("AS-1")})[:1]
    trial = begin_trial(context, ODA, PLAN, TrialAsked(districts=tuple(some), worth_minutes=60))
    orders = logged(context, 20)
    got = letters(context, orders)
    with context.reading() as unit:
        inside = {o.id: district_of[o.asset] in some for o in unit.orders.facts() if o.id in got}
    assert {order: found == letter for order, found in got.items()} == inside
    assert 0 < sum(inside.values()) < 20
    assert trial.districts == tuple(some)


def refused(act: Callable[[], object]) -> str:
    with pytest.raises(ReedlingError) as refusal:
        act()
    assert refusal.value.hint or not refusal.value.code.startswith("trials.")
    return refusal.value.code


def test_what_cannot_be_tried_is_refused_with_the_way_out(played: Played) -> None:
    context, _ = played

    def begin(asked: TrialAsked = HALF, person: Person = ODA, document: str = PLAN) -> Callable[[], object]:
        return lambda: begin_trial(context, person, document, asked)

    assert refused(begin()) == "trials.none_waiting"
    assert refused(begin(document="WP-999")) == "documents.unknown"
    drafted(context)
    assert refused(begin(person=INES)) == "revisions.four_eyes"
    assert refused(begin(TrialAsked(one_in=1))) == "trials.share"
    assert refused(begin(TrialAsked(one_in=11))) == "trials.share"
    assert refused(begin(TrialAsked(districts=("Nowhere",)))) == "trials.share"
    every = trial_offer(context, PLAN, HALF).districts
    assert refused(begin(TrialAsked(districts=every))) == "trials.share"
    assert refused(begin(TrialAsked(worth_minutes=0.1))) == "trials.worth"
    release(context, ODA, PLAN, context.clock().date() + timedelta(days=3))
    assert refused(begin()) == "trials.approved"
    give_back(context, ODA, PLAN, "Not yet")
    send_for_review(context, INES, PLAN, "")
    begin()()
    assert refused(begin()) == "trials.none_waiting"
    with context.reading() as unit:
        assert len(unit.trials.all()) == 1


def test_a_change_of_the_orders_it_goes_on_cannot_be_tried(played: Played) -> None:
    context, _ = played
    drafted(context, lambda plan: replace(plan, applies_when=AppliesWhen(models=("WR3",))))
    assert refused(lambda: begin_trial(context, ODA, PLAN, HALF)) == "trials.applies_when"


def test_what_orders_have_is_changed_by_nobody(played: Played) -> None:
    context, _ = played
    letter = drafted(context)
    begin_trial(context, ODA, PLAN, HALF)
    assert refused(lambda: begin_draft(context, INES, PLAN)) == "drafts.open"
    assert refused(lambda: release(context, ODA, PLAN)) == "reviews.none"
    assert refused(lambda: give_back(context, ODA, PLAN, "No")) == "reviews.none"
    tag = plan_document(context, PLAN).etag
    patch = [{"op": "replace", "path": "/summary", "value": "Other words"}]
    assert refused(lambda: patch_draft(context, INES, PLAN, patch, tag)) == "drafts.none"
    assert refused(lambda: discard_draft(context, INES, PLAN, tag)) == "drafts.none"
    for change in ("content = '{}'", "state = 'Draft'", "letter = 'Q'", "state = 'In review'"):
        with pytest.raises(DBAPIError, match="never changes"), context.store.engine.begin() as connection:
            connection.execute(text(f"UPDATE revisions SET {change} WHERE state = 'On trial'"))
    with pytest.raises(DBAPIError, match="never deleted"), context.store.engine.begin() as connection:
        connection.execute(text("DELETE FROM revisions WHERE state = 'On trial'"))
    assert plan_document(context, PLAN).letter == letter
    assert plan_document(context, PLAN).state == "On trial"


def test_a_pack_brings_nothing_of_a_document_on_trial_but_what_is_here(played: Played) -> None:
    context, _ = played
    before = export_library(context)
    letter = drafted(context)
    trial = begin_trial(context, ODA, PLAN, HALF)
    pack = export_library(context)
    assert {h.letter: h.state for h, _ in pack.revisions if h.document == PLAN}[letter] == "In review"
    import_library(context, pack)
    import_library(context, before)
    assert plan_document(context, PLAN).state == "On trial", "what is here already changes nothing"
    released = tuple(
        (replace(h, state="Released" if (h.document, h.letter) == (PLAN, letter) else h.state), content)
        for h, content in pack.revisions
    )
    with pytest.raises(InvalidInput) as refusal:
        import_library(context, replace(pack, revisions=released))
    assert "library.on_trial" in {problem.code for problem in refusal.value.problems}
    with context.reading() as unit:
        assert unit.trials.under_way()[PLAN] == trial


def test_released_to_all_every_further_order_gets_it(played: Played) -> None:
    context, clock = played
    letter = drafted(context)
    trial = begin_trial(context, ODA, PLAN, HALF)
    first = letters(context, logged(context, 12))
    clock.now += timedelta(hours=1)
    assert refused(lambda: end_trial(context, INES, trial.id, "released", "")) == "revisions.four_eyes"
    ended = end_trial(context, ODA, trial.id, "released", "")
    assert (ended.end, ended.ended_by) == ("released", "oda")
    assert set(letters(context, logged(context, 6)).values()) == {letter}
    assert letters(context, list(first)) == first, "what was issued stays"
    with context.reading() as unit:
        in_force = unit.documents.released(PLAN)
        older = unit.documents.revision(PLAN, trial.before)
    assert in_force is not None
    assert (in_force.letter, in_force.released_by) == (letter, "oda")
    assert older is not None
    assert older.state == "Superseded"
    assert refused(lambda: end_trial(context, ODA, trial.id, "withdrawn", "Late")) == "trials.ended"


def test_withdrawn_all_get_the_one_in_force_again(played: Played) -> None:
    context, clock = played
    letter = drafted(context)
    trial = begin_trial(context, ODA, PLAN, HALF)
    first = letters(context, logged(context, 12))
    clock.now += timedelta(hours=1)
    assert refused(lambda: end_trial(context, ODA, trial.id, "withdrawn", " ")) == "reviews.reason"
    end_trial(context, ODA, trial.id, "withdrawn", "It slows them down.")
    assert set(letters(context, logged(context, 6)).values()) == {trial.before}
    assert letters(context, list(first)) == first
    with context.reading() as unit:
        held = unit.documents.revision(PLAN, letter)
    assert held is not None
    assert (held.state, held.released_at) == ("Withdrawn", None)
    assert begin_draft(context, INES, PLAN) > letter
    (view,) = trials(context, PLAN)
    assert (view.trial.reason, view.ended_by_name) == ("It slows them down.", "Oda Fennimore")
    assert refused(lambda: trial_view(context, "nothing")) == "trials.unknown"


@pytest.mark.slow
def test_what_it_shows_is_what_its_jobs_took_and_a_second_look_gives_the_same(played: Played) -> None:
    context, clock = played
    drafted(context)
    trial = begin_trial(context, ODA, PLAN, HALF)
    began, clock.now = clock.now, clock.now + timedelta(weeks=12)
    play_weeks(context, began, clock.now)
    view = trial_view(context, trial.id)
    with context.reading() as unit:
        taken = unit.trials.orders(trial.id)
        columns = unit.job_evidence.columns("IT-001", (PLAN,))
    finished = {
        order: (at, minutes)
        for order, at, minutes in zip(columns.orders, columns.finished, columns.minutes, strict=True)
        if order in taken
    }
    assert len(finished) >= 12
    for side, tried in ((view.tried, True), (view.others, False)):
        own = [order for order in finished if taken[order] is tried]
        again = {order for order, many in zip(columns.orders, columns.repeat, strict=True) if many}
        assert (side.repeat_visits.n_hits, side.repeat_visits.n_total) == (
            sum(order in again for order in own),
            len(own),
        )
    in_order = sorted(finished, key=lambda order: finished[order][0])
    timed = [order for order in in_order if not np.isnan(finished[order][1])]
    assert (view.reading.n_tried, view.reading.n_others) == (
        sum(taken[order] for order in timed),
        sum(not taken[order] for order in timed),
    )
    assert view.reading.answer not in ("helped", "made it worse"), "other words change no minutes"
    assert view.reading.course == () or view.reading.course[-1].n_jobs == len(timed)
    assert trial_view(context, trial.id) == view
    assert any(f"Trial of “{view.title}”" in line.what for line in desk(context, ODA).lines)
