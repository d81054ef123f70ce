"""Writing drafts without losing anything, and releasing them by four eyes."""

from __future__ import annotations

from typing import Any

import pytest

from reedling.core.guidance.editing import AddStep, RemoveStep
from reedling.core.guidance.plans import Plan
from reedling.errors import Conflict, InvalidInput, NotAllowed, ReedlingError
from reedling.exchange.content import dump_value
from reedling.services.actions.documents import begin_draft, create_incident_type
from reedling.services.actions.drafts import discard_draft, edit_draft, patch_draft
from reedling.services.actions.releases import give_back, release, send_for_review
from reedling.services.context import Context
from reedling.services.views.comparisons import compare_revisions
from reedling.services.views.documents import plan_document
from reedling.services.views.history import draft_history
from reedling.services.views.shelf import incident_type_page
from tests.conftest import INES, ODA, PIA
from tests.plans import rake_plan


@pytest.fixture
def incident(context: Context) -> str:
    """An incident type whose plan is written and still a draft."""
    return drafted(context)


def drafted(context: Context) -> str:
    """Write it."""
    made = create_incident_type(context, INES, "Rake stalls", "rake")
    etag = plan_document(context, "WP-001").etag
    write = [{"op": "replace", "path": f"/{k}", "value": v} for k, v in dump_value(rake_plan()).items()]
    patch_draft(context, INES, "WP-001", write, etag)
    return made


def plan_of(context: Context) -> Plan:
    return plan_document(context, "WP-001").content


def set_text(value: str, index: int = 0) -> list[dict[str, Any]]:
    return [{"op": "replace", "path": f"/steps/{index}/text", "value": value}]


def released(context: Context, incident: str) -> None:
    send_for_review(context, INES, incident, "First")
    release(context, ODA, incident)


def test_a_new_incident_type_comes_with_an_empty_plan(context: Context) -> None:
    made = create_incident_type(context, INES, " Rake stalls ", "rake")
    page = incident_type_page(context, made)
    assert (made, page.incident_type.content.plans) == ("IT-001", ("WP-001",))
    assert (page.plans[0].content.title, page.plans[0].state, page.plans[0].letter) == (
        "Rake stalls",
        "Draft",
        "A",
    )


@pytest.mark.parametrize(
    ("title", "equipment", "words"), [(" ", None, "needs a title"), ("x", "ship", "no equipment class ship")]
)
def test_an_incident_type_needs_a_title_and_known_equipment(
    context: Context, title: str, equipment: str | None, words: str
) -> None:
    with pytest.raises(InvalidInput, match=words):
        create_incident_type(context, INES, title, equipment)


def test_an_edit_is_kept_and_its_inverse_takes_it_back(context: Context, incident: str) -> None:
    before = plan_of(context)
    view = plan_document(context, "WP-001")
    saved = edit_draft(context, INES, "WP-001", RemoveStep(step="read"), view.etag)
    assert saved.plan is not None
    assert len(saved.plan.content.steps) == 3
    undone = patch_draft(context, INES, "WP-001", saved.inverse, saved.plan.etag)
    assert plan_of(context) == before
    assert undone.plan is not None
    redone = patch_draft(context, INES, "WP-001", undone.inverse, undone.plan.etag)
    assert redone.plan is not None
    assert redone.plan.content == saved.plan.content


def test_a_stale_edit_changes_nothing_and_says_who_was_first(context: Context, incident: str) -> None:
    read_by_both = plan_document(context, "WP-001").etag
    patch_draft(context, PIA, "WP-001", set_text("Lock and tag the drive"), read_by_both)
    with pytest.raises(Conflict) as caught:
        patch_draft(context, INES, "WP-001", set_text("Lock it"), read_by_both)
    assert caught.value.code == "drafts.stale"
    assert str(caught.value) == (
        "WP-001: Pia Sandoval saved meanwhile: changed text of “Lock and tag the drive”. "
        "Your change is not saved yet; look at theirs, then make it again."
    )
    assert plan_of(context).steps[0].text == "Lock and tag the drive"


def test_an_edit_that_changes_nothing_leaves_the_tag_alone(context: Context, incident: str) -> None:
    view = plan_document(context, "WP-001")
    saved = patch_draft(context, INES, "WP-001", set_text(view.content.steps[0].text), view.etag)
    assert saved.inverse == []
    assert plan_document(context, "WP-001").etag == view.etag


@pytest.mark.parametrize(
    ("patch", "code"),
    [
        ([{"op": "replace", "path": "/steps/99/text", "value": "x"}], "drafts.patch"),
        ([{"op": "remove", "path": "/nowhere"}], "drafts.patch"),
        ([{"op": "replace", "path": "steps", "value": "x"}], "drafts.patch"),
        ([{"op": "add", "path": "/steps/0/colour", "value": "red"}], "content.invalid"),
        ([{"op": "replace", "path": "/steps/0/phase", "value": "Lunch"}], "content.invalid"),
        ([{"op": "replace", "path": "", "value": 3}], "content.invalid"),
        ([{"op": "test", "path": "/title", "value": "other"}], "drafts.patch_test"),
        ([{"op": "add", "path": "/summary", "value": "x" * 4_000_001}], "drafts.too_large"),
    ],
)
def test_a_bad_patch_is_refused_and_nothing_is_lost(
    context: Context, incident: str, patch: list[dict[str, Any]], code: str
) -> None:
    before = plan_document(context, "WP-001")
    with pytest.raises(ReedlingError) as caught:
        patch_draft(context, INES, "WP-001", patch, before.etag)
    assert caught.value.code == code
    assert plan_document(context, "WP-001") == before


def test_a_patch_that_changes_a_phase_puts_the_step_in_its_place(context: Context, incident: str) -> None:
    move = [{"op": "replace", "path": "/steps/4/phase", "value": "Arrive"}]
    patch_draft(context, INES, "WP-001", move, plan_document(context, "WP-001").etag)
    assert plan_of(context).steps[0].id == "run"


def test_the_history_says_who_did_what(context: Context, incident: str) -> None:
    edit_draft(
        context,
        PIA,
        "WP-001",
        AddStep(text="Look round", after="lock"),
        plan_document(context, "WP-001").etag,
    )
    told = [(name, e.summary) for e, name in draft_history(context, "WP-001", "A")]
    assert told[0] == ("Pia Sandoval", "added “Look round”")
    assert told[-1] == ("Ines Varga", "began A")


def test_release_takes_a_second_person(context: Context, incident: str) -> None:
    assert send_for_review(context, INES, incident, "Ready") == ("WP-001", "IT-001")
    with pytest.raises(NotAllowed, match="released by a second person"):
        release(context, INES, incident)
    assert release(context, ODA, incident) == ("WP-001", "IT-001")
    view = plan_document(context, "WP-001")
    assert (view.state, view.in_force, view.next_letter) == ("Released", "A", "B")


def test_an_approver_who_wrote_in_it_is_not_a_second_person(context: Context, incident: str) -> None:
    patch_draft(context, ODA, "WP-001", set_text("Lock it"), plan_document(context, "WP-001").etag)
    send_for_review(context, INES, incident, "")
    with pytest.raises(NotAllowed, match="you wrote in this one"):
        release(context, ODA, incident)


def test_a_draft_with_errors_is_not_sent_and_all_errors_are_told(context: Context) -> None:
    made = create_incident_type(context, INES, "Empty", None)
    with pytest.raises(InvalidInput, match="The plan has no steps") as caught:
        send_for_review(context, INES, made, "")
    assert [p.path for p in caught.value.problems] == ["WP-001#/steps"]


def test_what_is_in_review_is_not_edited_until_it_is_given_back(context: Context, incident: str) -> None:
    send_for_review(context, INES, incident, "")
    view = plan_document(context, "WP-001")
    with pytest.raises(Conflict, match="revision A is in review, and there is no draft"):
        patch_draft(context, INES, "WP-001", set_text("x"), view.etag)
    with pytest.raises(InvalidInput, match="say what should change"):
        give_back(context, ODA, incident, " ")
    give_back(context, ODA, incident, "Say where the gauge sits.")
    view = plan_document(context, "WP-001")
    assert (view.state, view.note) == ("Draft", "Say where the gauge sits.")


def test_the_next_revision_supersedes_and_the_two_compare(context: Context, incident: str) -> None:
    released(context, incident)
    assert begin_draft(context, PIA, "WP-001") == "B"
    with pytest.raises(Conflict, match="there is already a draft"):
        begin_draft(context, PIA, "WP-001")
    patch_draft(context, PIA, "WP-001", set_text("Lock and tag"), plan_document(context, "WP-001").etag)
    send_for_review(context, PIA, incident, "")
    release(context, ODA, incident)
    history = plan_document(context, "WP-001").history
    assert [(h.letter, h.state) for h in history] == [("A", "Superseded"), ("B", "Released")]
    told = compare_revisions(context, "WP-001", "A", "B").differences
    assert [(d.change, d.aspect, d.before, d.after) for d in told] == [
        ("changed", "text", "Lock the drive", "Lock and tag")
    ]


def test_a_released_revision_is_never_edited(context: Context, incident: str) -> None:
    released(context, incident)
    with pytest.raises(Conflict, match="revision A is released, and there is no draft"):
        patch_draft(context, INES, "WP-001", set_text("x"), plan_document(context, "WP-001").etag)


def test_a_draft_can_be_thrown_away_and_what_was_released_stays(context: Context, incident: str) -> None:
    released(context, incident)
    begin_draft(context, INES, "WP-001")
    discard_draft(context, INES, "WP-001", plan_document(context, "WP-001").etag)
    view = plan_document(context, "WP-001")
    assert (view.letter, view.state) == ("A", "Released")


def test_the_only_revision_of_a_plan_in_use_is_not_thrown_away(context: Context, incident: str) -> None:
    with pytest.raises(Conflict, match="no other revision, and IT-001 uses it"):
        discard_draft(context, INES, "WP-001", plan_document(context, "WP-001").etag)


def test_the_totals_follow_every_edit(context: Context, incident: str) -> None:
    view = plan_document(context, "WP-001")
    saved = patch_draft(
        context,
        INES,
        "WP-001",
        [{"op": "replace", "path": "/steps/0/minutes/likely", "value": 40}],
        view.etag,
    )
    assert saved.plan is not None
    before, after = view.totals, saved.plan.totals
    assert after.minutes_sure == before.minutes_sure + 30
    assert after.minutes_all == before.minutes_all + 30
    assert after.minutes.mean == pytest.approx(before.minutes.mean + 30)
    assert after.minutes.p50 == pytest.approx(before.minutes.p50 + 30, abs=0.01)
