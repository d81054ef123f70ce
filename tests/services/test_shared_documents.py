"""Forms and standard steps: written, used, released, and what a change of one touches."""

from __future__ import annotations

import io
from collections.abc import Callable
from dataclasses import replace
from datetime import date, timedelta

import pytest
from PIL import Image

from reedling.core.guidance.catalogue import AssetField, Meter
from reedling.core.guidance.editing import CopySteps, UseDocument
from reedling.core.guidance.plans import Plan, Repeat, Step
from reedling.core.guidance.question_editing import AddQuestion, ReplaceText
from reedling.core.guidance.questions import Computed, MeterReading, Reading
from reedling.core.runsheet.events import Answered, Arrived, Coded, FieldEvent, HeadedOut, LeftSite, StepDone
from reedling.errors import Conflict, InvalidInput, NotFound
from reedling.exchange.content import dump_value
from reedling.services.actions.comments import comment, settle
from reedling.services.actions.documents import add_plan, begin_draft, copy_document, create_document
from reedling.services.actions.drafts import discard_draft, edit_draft, patch_draft
from reedling.services.actions.illustrations import keep_illustration
from reedling.services.actions.orders import log_order, plan_visit
from reedling.services.actions.releases import give_back, release, send_for_review, withdraw
from reedling.services.actions.submissions import submit_events
from reedling.services.context import Context
from reedling.services.shared.matched import OrderToMatch
from reedling.services.views.documents import find_in_document, plan_document
from reedling.services.views.history import acts, comments
from reedling.services.views.orders import order_page
from reedling.services.views.pictures import illustration_data, illustrations
from reedling.services.views.releases import effect_of_release
from reedling.services.views.shelf import incident_type_page, shared_documents
from reedling.services.views.trying import try_order
from reedling.services.views.waiting import count_waiting
from tests.conftest import INES, MAREK, ODA, PIA, RUNA, FakeClock
from tests.lists import LISTS
from tests.services.test_drafts_and_release import incident, released

__all__ = ["incident"]


def write(context: Context, document: str, content: Plan) -> None:
    """Put this content into a draft."""
    patch = [{"op": "replace", "path": f"/{k}", "value": v} for k, v in dump_value(content).items()]
    patch_draft(context, INES, document, patch, plan_document(context, document).etag)


SURVEY = Plan(
    title="Survey",
    steps=(
        Step(
            id="pump",
            phase="Diagnose",
            text="Each pump",
            repeat=Repeat(per="pump", over="asset field", field="asset.pumps"),
            questions=(
                Reading(
                    id="amps",
                    name="amps",
                    label="Current",
                    unit="A",
                    prefill="last",
                    write_back="asset.rated",
                ),
            ),
        ),
        Step(
            id="all",
            phase="Diagnose",
            text="All",
            questions=(
                Computed(id="worst", label="Worst", formula="max(amps)", unit="A"),
                MeterReading(id="hours", label="Hours", meter="hours"),
            ),
        ),
    ),
)


@pytest.fixture
def survey(context: Context) -> str:
    """A form over the pumps of an asset, a draft."""
    lists = replace(
        LISTS,
        fields=(
            AssetField(code="pumps", name="Pumps"),
            AssetField(code="rated", name="Rated current", unit="A", number=True),
        ),
        meters=(Meter(code="hours", name="Hours run"),),
    )
    with context.store.writing() as unit:
        unit.catalogues.replace(lists)
        unit.register.set_fields("AS-1", {"pumps": "North, South", "rated": 30.0})
    made = create_document(context, INES, "form", "Survey")
    write(context, made, SURVEY)
    return made


def attach(context: Context, plan: str, form: str) -> None:
    use = UseDocument(document=form, what="form", text="Fill it in", phase="Diagnose")
    edit_draft(context, INES, plan, use, plan_document(context, plan).etag)


def test_a_form_begins_with_a_section_and_a_standard_step_with_its_step(context: Context) -> None:
    form = create_document(context, INES, "form", " Survey ")
    step = create_document(context, INES, "standard step", "Lock off the drive")
    assert (form, step) == ("FM-001", "SS-001")
    assert [s.text for s in plan_document(context, form).content.steps] == ["First section"]
    assert [s.text for s in plan_document(context, step).content.steps] == ["Lock off the drive"]
    assert plan_document(context, step).defects == ()
    with pytest.raises(InvalidInput, match="needs a title"):
        create_document(context, INES, "form", " ")


def test_a_form_in_a_plan_goes_for_review_with_it_the_first_time(
    context: Context, incident: str, survey: str
) -> None:
    attach(context, "WP-001", survey)
    view = plan_document(context, "WP-001")
    assert [v.fills_in for v in view.steps if v.fills_in] == ["Survey, FM-001 A"]
    assert set(send_for_review(context, INES, incident, "")) == {survey, "WP-001", incident}
    release(context, ODA, incident)
    sheet = try_order(context, OrderToMatch(asset="AS-1", symptom="stalls")).runsheet
    assert [(s.document, s.revision) for s in sheet.sources] == [("WP-001", "A"), (survey, "A")]


def test_a_form_in_force_is_released_by_itself_and_its_change_touches_every_plan(
    context: Context, incident: str, survey: str
) -> None:
    attach(context, "WP-001", survey)
    released(context, incident)
    held = log_order(context, MAREK, OrderToMatch(asset="AS-1", symptom="stalls"), "")
    begin_draft(context, INES, survey)
    write(context, survey, replace(SURVEY, summary="Second"))
    effect = effect_of_release(context, survey)
    assert [d.document for d in effect.documents] == [survey]
    assert [d.document for d in effect.used_in] == ["WP-001"]
    assert [d.document for d in effect.incident_types] == [incident]
    assert [(o.order, o.revision) for o in effect.open_orders] == [(held.id, f"{survey} A")]
    send_for_review(context, INES, survey, "")
    assert release(context, ODA, survey) == (survey,)
    assert ("FM-001", "B") in [
        (s.document, s.revision)
        for s in try_order(context, OrderToMatch(asset="AS-1", symptom="stalls")).runsheet.sources
    ]
    assert ("FM-001", "A") in [
        (s.document, s.revision) for s in order_page(context, held.id).run.runsheet.sources
    ]


def test_a_form_that_plans_use_is_neither_thrown_away_nor_withdrawn(
    context: Context, incident: str, survey: str
) -> None:
    attach(context, "WP-001", survey)
    with pytest.raises(Conflict, match="WP-001 uses it"):
        discard_draft(context, INES, survey, plan_document(context, survey).etag)
    released(context, incident)
    with pytest.raises(Conflict, match="WP-001 in force refers to it"):
        withdraw(context, ODA, survey, "Too long")


def test_what_is_withdrawn_comes_with_no_more_orders(context: Context, incident: str) -> None:
    released(context, incident)
    with pytest.raises(InvalidInput, match="say why"):
        withdraw(context, ODA, "WP-001", " ")
    with pytest.raises(Conflict, match=f"{incident} in force refers to it"):
        withdraw(context, ODA, "WP-001", "Wrong valve")
    withdraw(context, ODA, incident, "Its plan is wrong")
    withdraw(context, ODA, "WP-001", "Wrong valve")
    assert try_order(context, OrderToMatch(asset="AS-1", symptom="stalls")).runsheet.lines == ()
    with pytest.raises(Conflict, match="nothing of it is in force"):
        withdraw(context, ODA, "WP-001", "Again")
    assert next((a.act, a.by, a.note) for a in acts(context, "WP-001")) == (
        "withdrew",
        "Oda Fennimore",
        "Wrong valve",
    )


def test_a_release_for_a_day_to_come_takes_effect_on_that_day(
    context: Context, incident: str, clock: FakeClock
) -> None:
    released(context, incident)
    begin_draft(context, INES, "WP-001")
    etag = plan_document(context, "WP-001").etag
    patch_draft(context, INES, "WP-001", [{"op": "replace", "path": "/summary", "value": "Second"}], etag)
    send_for_review(context, INES, incident, "")
    release(context, ODA, incident, date(2026, 6, 3))
    view = plan_document(context, "WP-001")
    assert (view.state, view.in_force, view.history[-1].effective_on) == ("In review", "A", date(2026, 6, 3))
    assert (
        try_order(context, OrderToMatch(asset="AS-1", symptom="stalls")).runsheet.sources[0].revision == "A"
    )
    clock.forward(days=2)
    assert (
        try_order(context, OrderToMatch(asset="AS-1", symptom="stalls")).runsheet.sources[0].revision == "B"
    )
    view = plan_document(context, "WP-001")
    assert [(h.letter, h.state) for h in view.history] == [("A", "Superseded"), ("B", "Released")]
    assert acts(context, "WP-001")[0].act == "took effect"


@pytest.mark.parametrize(
    "states",
    [
        lambda context, _: [plan_document(context, "WP-001").state],
        lambda context, incident: [p.state for p in incident_type_page(context, incident).plans],
        lambda context, _: [r.link.state for r in shared_documents(context) if r.link.document == "WP-001"],
        lambda context, _: ["In review" if count_waiting(context).author else "Released"],
    ],
    ids=["the plan", "its incident type", "the list of plans", "what waits"],
)
def test_no_screen_shows_in_review_once_the_day_has_come(
    context: Context,
    incident: str,
    clock: FakeClock,
    states: Callable[[Context, str], list[str]],
) -> None:
    send_for_review(context, INES, incident, "")
    release(context, ODA, incident, date(2026, 6, 3))
    assert set(states(context, incident)) == {"In review"}
    clock.forward(days=2)
    assert set(states(context, incident)) == {"Released"}


def test_what_was_approved_for_a_day_can_still_be_given_back(
    context: Context, incident: str, clock: FakeClock
) -> None:
    send_for_review(context, INES, incident, "")
    release(context, ODA, incident, date(2026, 6, 9))
    give_back(context, ODA, incident, "Not yet")
    clock.forward(days=20)
    assert plan_document(context, "WP-001").state == "Draft"


def test_the_history_says_who_did_what_to_the_whole(context: Context, incident: str) -> None:
    send_for_review(context, INES, incident, "Please read")
    give_back(context, ODA, incident, "Say where the gauge sits")
    released(context, incident)
    assert [(a.act, a.by) for a in reversed(acts(context, "WP-001"))] == [
        ("began", "Ines Varga"),
        ("sent", "Ines Varga"),
        ("gave back", "Oda Fennimore"),
        ("sent", "Ines Varga"),
        ("released", "Oda Fennimore"),
    ]


def test_a_copy_starts_from_the_document_as_it_stands(context: Context, incident: str) -> None:
    made = copy_document(context, PIA, "WP-001")
    assert made == "WP-002"
    copied, source = plan_document(context, made), plan_document(context, "WP-001")
    assert copied.content == replace(source.content, title=f"{source.content.title}, copy")
    assert [(a.act, a.by, a.note) for a in acts(context, made)] == [
        ("copied", "Pia Sandoval", "from WP-001 A"),
        ("began", "Pia Sandoval", ""),
    ]


def test_an_incident_type_uses_several_plans_and_a_plan_several_incident_types(
    context: Context, incident: str
) -> None:
    released(context, incident)
    other = add_plan(context, INES, incident, None, "After the storm")
    assert incident_type_page(context, incident).incident_type.content.plans == ("WP-001", other)
    with pytest.raises(Conflict, match="it uses WP-002 already"):
        add_plan(context, INES, incident, other, "")
    with pytest.raises(NotFound):
        add_plan(context, INES, incident, "WP-099", "")
    copy = copy_document(context, INES, incident)
    assert [link.document for link in plan_document(context, "WP-001").used_in] == [incident, copy]


def test_steps_are_copied_from_plan_to_plan_under_new_identities(context: Context, incident: str) -> None:
    other = create_document(context, INES, "plan", "Other")
    copy = CopySteps(source="WP-001", steps=("read", "fit"))
    edit_draft(context, INES, other, copy, plan_document(context, other).etag)
    made = plan_document(context, other).content.steps
    assert [s.text for s in made] == ["Read the pressure", "Check the valve", "Fit a seat"]
    assert {s.id for s in made}.isdisjoint({"read", "valve", "fit"})
    assert made[1].under == made[0].id
    hung = made[1].condition
    assert hung is not None
    assert hung.kind == "comparison"
    assert hung.question == made[0].questions[0].id


def test_words_are_found_and_replaced_wherever_they_stand(context: Context, incident: str) -> None:
    found = find_in_document(context, "WP-001", "SEAT", False)
    assert [(p.step, p.what) for p in found] == [("valve", "question"), ("fit", "text")]
    assert find_in_document(context, "WP-001", "SEAT", True) == ()
    replace_all = ReplaceText(find="seat", by="insert")
    saved = edit_draft(context, INES, "WP-001", replace_all, plan_document(context, "WP-001").etag)
    texts = [s.text for s in plan_document(context, "WP-001").content.steps]
    assert "Fit a insert" in texts
    assert len(saved.inverse) == 2


def test_a_question_is_added_where_it_was_asked_for(context: Context, survey: str) -> None:
    edit = AddQuestion(step="pump", question_kind="yes_no", label="Dry", after="amps")
    edit_draft(context, INES, survey, edit, plan_document(context, survey).etag)
    assert [q.label for q in plan_document(context, survey).content.steps[0].questions] == ["Current", "Dry"]


def test_the_shelf_says_how_often_each_is_used(context: Context, incident: str, survey: str) -> None:
    attach(context, "WP-001", survey)
    assert [(r.link.document, r.link.kind, r.n_used, r.in_force) for r in shared_documents(context)] == [
        ("WP-001", "plan", 1, False),
        ("FM-001", "form", 1, False),
    ]


def survey_job(context: Context, hours: float) -> list[FieldEvent]:
    at = context.clock()
    form = "WP-001:s-0010"
    with context.store.reading() as unit:
        content = unit.documents.content_of("WP-001")
        assert isinstance(content, Plan)
        form = "WP-001:" + next(s.id for s in content.steps if s.form)
    events: list[FieldEvent] = [HeadedOut(at=at), Arrived(at=at)]

    def answer(question: str, value: object) -> None:
        events.append(Answered(at=at, question=question, value=value))  # type: ignore[arg-type]

    def done(line: str) -> None:
        events.append(StepDone(at=at, line=line))

    answer("WP-001:locked", True)
    done("WP-001:lock")
    answer("WP-001:bar", 100.0)
    done("WP-001:read")
    done(form)
    for name, amps in (("North", 28.0), ("South", 33.0)):
        answer(f"{form}/amps@{name}", amps)
        done(f"{form}/pump@{name}")
    answer(f"{form}/hours", hours)
    done(f"{form}/all")
    answer("WP-001:runs", True)
    done("WP-001:run")
    events.append(Coded(at=at, cause="debris", remedy="cleared"))
    events.append(LeftSite(at=at + timedelta(minutes=5), outcome="finished"))
    return events


def test_a_job_with_a_form_writes_back_and_the_next_visit_is_offered_the_last(
    context: Context, incident: str, survey: str
) -> None:
    attach(context, "WP-001", survey)
    released(context, incident)
    order = log_order(context, MAREK, OrderToMatch(asset="AS-1", symptom="stalls"), "")
    plan_visit(context, MAREK, order.id, "runa", context.clock())
    submit_events(context, RUNA, order.id, "one", survey_job(context, 412.0))
    page = order_page(context, order.id)
    assert page.line.state == "Finished"
    assert [(b.field, b.before, b.after) for b in page.written_back] == [
        ("the asset's rated current", "30 A", "28 A"),
        ("the asset's rated current", "30 A", "33 A"),
        ("last hours run", "nothing", "412 h"),
    ]
    assert page.answers_in_words[next(q for q in page.answers_in_words if q.endswith("worst"))] == "33 A"
    again = log_order(context, MAREK, OrderToMatch(asset="AS-1", symptom="stalls"), "")
    assert again.asset.fields["rated"] == 33.0
    assert again.runsheet.facts["meter.hours"] == 412.0
    assert {q.rsplit("/", 1)[1]: a for q, a in again.runsheet.last.items()} == {
        "amps@North": 28.0,
        "amps@South": 33.0,
    }


def test_comments_stand_beside_their_place_and_are_settled(context: Context, incident: str) -> None:
    first = comment(context, INES, "WP-001", "read", "Where is the gauge?")
    comment(context, ODA, "WP-001", "", "Good")
    with pytest.raises(InvalidInput, match="no words"):
        comment(context, ODA, "WP-001", "", " ")
    with pytest.raises(NotFound, match="there is no nowhere in WP-001"):
        comment(context, ODA, "WP-001", "nowhere", "x")
    settle(context, ODA, first, settled=True)
    told = comments(context, "WP-001")
    assert [(c.about, c.by, c.settled_by) for c in told] == [
        ("“Read the pressure”", "Ines Varga", "Oda Fennimore"),
        ("", "Oda Fennimore", ""),
    ]
    settle(context, ODA, first, settled=False)
    assert comments(context, "WP-001")[0].settled_at is None
    with pytest.raises(NotFound):
        settle(context, ODA, "none", settled=True)


def picture(n_frames: int = 1, kind: str = "GIF") -> bytes:
    frames = [Image.new("RGB", (40, 30), (n * 7 % 256, 90, 60)) for n in range(n_frames)]
    out = io.BytesIO()
    frames[0].save(out, kind, **({"save_all": True, "append_images": frames[1:]} if n_frames > 1 else {}))
    return out.getvalue()


def test_pictures_still_and_moving_are_kept_once(context: Context) -> None:
    moving = keep_illustration(context, INES, "How to jog", picture(6))
    assert (moving.media_type, moving.n_frames, moving.width) == ("image/gif", 6, 40)
    assert keep_illustration(context, PIA, "Again", picture(6)) == moving
    still = keep_illustration(context, INES, "", picture(kind="PNG"))
    assert (still.title, still.n_frames) == ("Picture", 1)
    assert {i.id for i in illustrations(context)} == {moving.id, still.id}
    assert illustration_data(context, moving.id)[1] == picture(6)


@pytest.mark.parametrize(
    ("data", "says"),
    [
        (b"GIF89a but no picture", "not a PNG, JPEG, WEBP or GIF picture"),
        (b"<svg xmlns='http://www.w3.org/2000/svg'/>", "not a PNG, JPEG, WEBP or GIF picture"),
        (b"\0" * 20_000_000, "this has 20.0 MB"),
    ],
)
def test_what_is_no_picture_or_too_large_is_refused(context: Context, data: bytes, says: str) -> None:
    with pytest.raises(InvalidInput, match=says.replace("WEBP", "WebP")):
        keep_illustration(context, INES, "x", data)
    assert illustrations(context) == ()


def test_a_picture_that_moves_for_too_long_is_refused(context: Context) -> None:
    with pytest.raises(InvalidInput, match="may have 600 frames, this has 601"):
        keep_illustration(context, INES, "x", picture(601))
