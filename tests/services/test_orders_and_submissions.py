"""Orders with frozen runsheets, submissions applied once, pictures checked."""

from __future__ import annotations

import io
import random
from concurrent.futures import ThreadPoolExecutor
from dataclasses import replace
from datetime import UTC, datetime, timedelta
from uuid import uuid4

import pytest
from PIL import Image
from sqlalchemy import text

from reedling.core.runsheet.events import (
    Answered,
    Arrived,
    Coded,
    FieldEvent,
    HeadedOut,
    LeftSite,
    NoteWritten,
    PartUsed,
    StepDone,
)
from reedling.errors import Conflict, InvalidInput, NotFound, ReedlingError
from reedling.services.actions.documents import begin_draft
from reedling.services.actions.drafts import patch_draft
from reedling.services.actions.orders import cancel_order, log_order, plan_visit
from reedling.services.actions.pictures import keep_picture
from reedling.services.actions.releases import release, send_for_review
from reedling.services.actions.reviews import mark_reviewed
from reedling.services.actions.submissions import submit_events
from reedling.services.context import Context
from reedling.services.shared.matched import OrderToMatch
from reedling.services.views.completions import completion, inbox
from reedling.services.views.documents import plan_document
from reedling.services.views.evidence import evidence, evidence_csv, jobs_behind
from reedling.services.views.orders import order_page
from reedling.services.views.pictures import picture_data
from reedling.services.views.pocket import own_day, own_order
from reedling.services.views.trying import try_order
from tests.conftest import INES, MAREK, ODA, RUNA, TEO, FakeClock
from tests.services.test_drafts_and_release import incident, released, set_text

__all__ = ["incident"]


@pytest.fixture
def order(context: Context, incident: str) -> str:
    """An order for the released plan, planned for Runa."""
    released(context, incident)
    made = log_order(context, MAREK, OrderToMatch(asset="AS-1", symptom="stalls"), "Stops half way.").id
    plan_visit(context, MAREK, made, "runa", context.clock() + timedelta(hours=1))
    return made


def done(context: Context, line: str, **answers: object) -> list[FieldEvent]:
    said: list[FieldEvent] = [
        Answered(at=context.clock(), question=f"WP-001:{q}", value=v)  # type: ignore[arg-type]
        for q, v in answers.items()
    ]
    return [*said, StepDone(at=context.clock(), line=f"WP-001:{line}")]


def arrive(context: Context) -> list[FieldEvent]:
    return [HeadedOut(at=context.clock()), Arrived(at=context.clock())]


def whole_job(context: Context) -> list[FieldEvent]:
    return [
        *arrive(context),
        *done(context, "lock", locked=True),
        *done(context, "read", bar=100.0),
        *done(context, "run", runs=True),
        Coded(at=context.clock(), cause="debris", remedy="cleared"),
        LeftSite(at=context.clock() + timedelta(minutes=5), outcome="finished"),
    ]


def test_trying_an_order_keeps_nothing(context: Context, incident: str) -> None:
    released(context, incident)
    tried = try_order(context, OrderToMatch(asset="AS-1", symptom="stalls"))
    assert (tried.incident_type, [line.step for line in tried.runsheet.lines][:2]) == (
        "IT-001",
        ["lock", "read"],
    )
    with context.store.reading() as unit:
        assert unit.orders.find() == ()


def test_an_order_nothing_applies_to_is_logged_all_the_same(context: Context, incident: str) -> None:
    released(context, incident)
    made = log_order(context, MAREK, OrderToMatch(asset="AS-1", symptom="leaks"), "")
    assert (made.incident_type, made.runsheet.lines) == (None, ())
    assert made.trace[0].sentence == "One cell away: symptom is leaks, the plan wants stalls."


@pytest.mark.parametrize(
    ("asset", "symptom", "words"),
    [("AS-9", "stalls", "no asset AS-9"), ("AS-1", "sings", "no symptom sings")],
)
def test_an_order_names_what_does_not_exist(context: Context, asset: str, symptom: str, words: str) -> None:
    with pytest.raises(ReedlingError, match=words):
        log_order(context, MAREK, OrderToMatch(asset=asset, symptom=symptom), "")


def test_an_open_order_keeps_its_revision_and_the_next_gets_the_new_one(
    context: Context, incident: str, order: str
) -> None:
    begin_draft(context, INES, "WP-001")
    patch_draft(context, INES, "WP-001", set_text("Lock and tag"), plan_document(context, "WP-001").etag)
    send_for_review(context, INES, incident, "")
    release(context, ODA, incident)
    later = log_order(context, MAREK, OrderToMatch(asset="AS-1", symptom="stalls"), "")
    first = order_page(context, order).run.runsheet
    assert (first.sources[0].revision, first.lines[0].text) == ("A", "Lock the drive")
    assert (later.runsheet.sources[0].revision, later.runsheet.lines[0].text) == ("B", "Lock and tag")


def test_a_job_is_carried_out_and_read(context: Context, order: str, clock: FakeClock) -> None:
    receipt = submit_events(context, RUNA, order, str(uuid4()), whole_job(context))
    assert (receipt.state, receipt.n_events) == ("Finished", 10)
    assert [row.line.id for row in inbox(context).rows] == [order]
    page = completion(context, order)
    assert (page.cause, page.remedy, page.minutes_on_site) == ("Debris", "Cleared", 5)
    mark_reviewed(context, INES, order, "")
    assert inbox(context).rows == ()
    clock.forward(days=40)
    found = evidence(context, "IT-001")
    assert (found.n_jobs, found.fixed_first_time.n_hits, found.revisions) == (1, 1, ("A",))
    assert (
        evidence_csv(context, "IT-001")
        .splitlines()[1]
        .startswith("WP-001,lock,Lock the drive,Make safe,10.0,")
    )
    assert evidence(context, "IT-001", revision="B").n_jobs == 0


def test_a_submission_sent_twice_is_applied_once_and_answered_alike(
    context: Context, order: str, clock: FakeClock
) -> None:
    submission = str(uuid4())
    events = [*arrive(context), PartUsed(at=context.clock(), part="RV-SEAT", quantity=1)]
    first = submit_events(context, RUNA, order, submission, events)
    clock.forward(minutes=10)
    assert submit_events(context, RUNA, order, submission, events) == first
    assert len(order_page(context, order).job.parts) == 1


def test_a_submission_that_fails_part_way_leaves_nothing_behind(context: Context, order: str) -> None:
    events = [*arrive(context), *done(context, "valve", seat="scored")]
    receipt = submit_events(context, RUNA, order, str(uuid4()), events)
    assert "not wanted with the answers so far" in receipt.loose
    page = order_page(context, order)
    assert (page.line.state, page.job.visits) == ("Planned", ())
    assert page.loose[0].events == tuple(events), "what could not be taken in is kept beside the order"


def test_an_identity_is_not_used_for_two_orders(context: Context, order: str) -> None:
    submission = str(uuid4())
    submit_events(context, RUNA, order, submission, arrive(context))
    other = log_order(context, MAREK, OrderToMatch(asset="AS-1", symptom="stalls"), "").id
    plan_visit(context, MAREK, other, "runa", context.clock())
    with pytest.raises(Conflict, match="this identity was used before"):
        submit_events(context, RUNA, other, submission, arrive(context))


def test_another_technicians_order_is_not_there(context: Context, order: str) -> None:
    with pytest.raises(NotFound, match=f"there is no order {order} for you"):
        submit_events(context, TEO, order, str(uuid4()), arrive(context))
    with pytest.raises(NotFound):
        own_order(context, order, TEO)
    assert own_day(context, TEO).orders == ()


@pytest.mark.parametrize(
    ("event", "words"),
    [
        ("part", "there is no part GOLD"),
        ("cause", "there is no cause magic"),
        ("remedy", "there is no remedy magic"),
        ("zone", "a time needs its zone"),
    ],
)
def test_an_event_that_names_nothing_known_is_not_taken_in(
    context: Context, order: str, event: str, words: str
) -> None:
    now = context.clock()
    events: dict[str, FieldEvent] = {
        "part": PartUsed(at=now, part="GOLD", quantity=1),
        "cause": Coded(at=now, cause="magic", remedy="cleared"),
        "remedy": Coded(at=now, cause="debris", remedy="magic"),
        "zone": HeadedOut(at=now.replace(tzinfo=None)),
    }
    if event == "zone":
        with pytest.raises(InvalidInput, match=words):
            submit_events(context, RUNA, order, str(uuid4()), [events[event]])
        return
    receipt = submit_events(context, RUNA, order, str(uuid4()), [*arrive(context), events[event]])
    assert words in receipt.loose
    assert order_page(context, order).job.visits == ()


def test_a_finished_job_takes_no_more_events(context: Context, order: str) -> None:
    submit_events(context, RUNA, order, str(uuid4()), whole_job(context))
    assert "it is finished" in submit_events(context, RUNA, order, str(uuid4()), arrive(context)).loose
    with pytest.raises(Conflict, match="it is finished and cannot be planned now"):
        plan_visit(context, MAREK, order, "runa", context.clock())


def test_planning_and_cancelling_hold_to_their_states(context: Context, order: str) -> None:
    with pytest.raises(InvalidInput, match="there is no technician ines"):
        plan_visit(context, MAREK, order, "ines", context.clock())
    with pytest.raises(InvalidInput, match="say why it is cancelled"):
        cancel_order(context, MAREK, order, "")
    assert cancel_order(context, MAREK, order, "Caller rang off").state == "Cancelled"
    with pytest.raises(Conflict, match="it is cancelled and cannot be planned now"):
        plan_visit(context, MAREK, order, "runa", context.clock())


def test_a_job_still_open_is_not_marked_as_read(context: Context, order: str) -> None:
    with pytest.raises(Conflict, match="it is planned, not finished"):
        mark_reviewed(context, INES, order, "")
    with pytest.raises(NotFound, match="nobody has worked on"):
        completion(context, order)


def png(side: int = 8) -> bytes:
    out = io.BytesIO()
    Image.new("RGB", (side, side), "teal").save(out, "PNG")
    return out.getvalue()


def test_a_picture_is_kept_once_and_read_back(context: Context, order: str) -> None:
    name = str(uuid4())
    kept = keep_picture(context, RUNA, order, name, png())
    assert keep_picture(context, RUNA, order, name, png()) == kept
    assert picture_data(context, INES, name)[1] == png()
    with pytest.raises(Conflict, match="used for another picture"):
        keep_picture(context, RUNA, order, name, png(9))
    with pytest.raises(NotFound):
        picture_data(context, TEO, name)


@pytest.mark.parametrize(
    ("data", "words"),
    [
        (b"not a picture", "not a PNG, JPEG or WebP picture"),
        (png()[:40], "not a PNG, JPEG or WebP picture"),
        (b"<svg xmlns='http://www.w3.org/2000/svg'/>", "not a PNG, JPEG or WebP picture"),
        (b"\0" * 20_000_000, "may have 12 MB, this has 20.0 MB"),
    ],
)
def test_what_is_not_a_picture_is_refused(context: Context, order: str, data: bytes, words: str) -> None:
    with pytest.raises(InvalidInput, match=words):
        keep_picture(context, RUNA, order, str(uuid4()), data)


def taken_at_a_place(form: str) -> bytes:
    """A picture whose camera wrote down its maker and where it stood (Exif 2.32, GPS IFD)."""
    exif = Image.Exif()
    exif[0x010F] = "Invented Cameras"
    exif.get_ifd(0x8825)[1] = "N"
    exif.get_ifd(0x8825)[2] = (53.0, 10.0, 20.0)
    out = io.BytesIO()
    Image.new("RGB", (64, 48), (200, 90, 30)).save(out, form, exif=exif)
    return out.getvalue()


@pytest.mark.parametrize("form", ["JPEG", "WEBP", "PNG"])
def test_the_place_is_taken_out_of_a_picture_and_the_rest_stays(
    context: Context, order: str, form: str
) -> None:
    data = taken_at_a_place(form)
    with Image.open(io.BytesIO(data)) as before:
        assert 0x8825 in before.getexif()
    kept = keep_picture(context, RUNA, order, str(uuid4()), data)
    with context.store.reading() as unit:
        found = unit.pictures.data(kept)
    with Image.open(io.BytesIO(found)) as after:
        assert 0x8825 not in after.getexif()
        assert after.getexif()[0x010F] == "Invented Cameras"
        assert after.size == (64, 48)
    again = keep_picture(context, RUNA, order, kept.id, data)
    assert again == kept, "the same picture sent twice is one"


def test_a_picture_without_a_place_is_kept_as_it_came(context: Context, order: str) -> None:
    out = io.BytesIO()
    Image.new("RGB", (64, 48), (20, 90, 30)).save(out, "JPEG")
    kept = keep_picture(context, RUNA, order, str(uuid4()), out.getvalue())
    with context.store.reading() as unit:
        assert unit.pictures.data(kept) == out.getvalue()


def test_an_identity_used_again_with_other_content_is_refused_and_nothing_of_it_kept(
    context: Context, order: str
) -> None:
    identity = str(uuid4())
    first = submit_events(context, RUNA, order, identity, arrive(context))
    assert submit_events(context, RUNA, order, identity, arrive(context)) == first
    other = [NoteWritten(at=context.clock(), text="Something else")]
    with pytest.raises(Conflict, match="this identity was used before, for something else"):
        submit_events(context, RUNA, order, identity, other)
    with context.store.reading() as unit:
        assert len(unit.recorded.events(order)) == 2
    submit_events(context, RUNA, order, str(uuid4()), other)


def test_what_somebody_else_recorded_is_not_taken_as_ones_own(context: Context, order: str) -> None:
    with pytest.raises(Conflict, match="somebody else recorded this"):
        submit_events(context, RUNA, order, str(uuid4()), arrive(context), recorded_by="teo")


def test_a_repeat_is_answered_also_after_the_order_went_to_somebody_else(
    context: Context, order: str
) -> None:
    """The answer was lost, and the office gave the order away meanwhile: the device still gets its receipt."""
    identity = str(uuid4())
    first = submit_events(context, RUNA, order, identity, [*arrive(context), *leave(context)])
    plan_visit(context, MAREK, order, "teo", context.clock())
    again = [*arrive(context), *leave(context)]
    assert submit_events(context, RUNA, order, identity, again) == first


def leave(context: Context) -> list[FieldEvent]:
    return [LeftSite(at=context.clock(), outcome="return needed", reason="no access")]


@pytest.mark.parametrize("ahead", [timedelta(minutes=15), timedelta(days=1), timedelta(days=-400)])
def test_a_wrong_clock_is_no_refusal_and_its_error_is_kept(
    context: Context, order: str, ahead: timedelta
) -> None:
    device = context.clock() + ahead
    events: list[FieldEvent] = [HeadedOut(at=device), Arrived(at=device)]
    submit_events(context, RUNA, order, str(uuid4()), events, sent_at=device)
    with context.store.reading() as unit:
        kept = unit.session.execute(text("SELECT ahead_s FROM submissions")).scalars().all()
        told = unit.session.execute(text("SELECT at FROM events")).scalars().all()
        assert [e.at for e in unit.recorded.events(order)] == [context.clock()] * 2, "put right when read"
    assert kept == [ahead.total_seconds()]
    assert all(datetime.fromisoformat(at).replace(tzinfo=UTC) == device for at in told), "kept as it was told"
    assert order_page(context, order).clock_errors == (ahead.total_seconds(),)


@pytest.mark.slow
def test_of_submissions_at_once_each_is_applied_once_and_none_is_lost(context: Context, order: str) -> None:
    """Twelve threads send the same forty notes, each several times and in any order."""
    submit_events(context, RUNA, order, str(uuid4()), arrive(context))
    parcels = {str(uuid4()): f"note {n}" for n in range(40)}

    def send(seed: int) -> None:
        mine = list(parcels.items())
        random.Random(seed).shuffle(mine)
        for identity, words in mine:
            submit_events(context, RUNA, order, identity, [NoteWritten(at=context.clock(), text=words)])

    with ThreadPoolExecutor(12) as pool:
        list(pool.map(send, range(12)))
    with context.store.reading() as unit:
        notes = [e.text for e in unit.recorded.events(order) if isinstance(e, NoteWritten)]
    assert sorted(notes) == sorted(parcels.values())


def test_a_finish_long_before_the_order_was_logged_is_kept_told_and_no_figure(
    context: Context, order: str, clock: FakeClock
) -> None:
    long_ago = [replace(e, at=e.at - timedelta(days=400)) for e in whole_job(context)]
    assert submit_events(context, RUNA, order, str(uuid4()), long_ago).state == "Finished"
    page = completion(context, order)
    assert page.page.job.finished_at == long_ago[-1].at
    assert page.minutes_on_site is None
    told = [d.sentence for d in page.departures if d.kind == "doubtful time"]
    assert told == [
        "Visit 1 lies 400 days before the order was logged; it is left out of times on site.",
    ]
    assert [d.sentence for d in page.page.doubts] == told
    (row,) = inbox(context).rows
    assert (row.minutes_on_site, row.n_departures) == (None, len(page.departures))
    clock.forward(days=40)
    found = evidence(context, "IT-001")
    assert (found.n_jobs, found.n_doubtful, found.fixed_first_time.n_total) == (1, 1, 0)
    assert found.minutes_on_site is None
    (dot,) = jobs_behind(context, "IT-001").jobs
    assert (dot.doubtful, dot.fixed_first_time) == (True, None)


def test_what_a_later_answer_closed_is_read_and_counted(context: Context, order: str) -> None:
    low = [*done(context, "read", bar=84.0), *done(context, "valve", seat="scored")]
    job = [
        *arrive(context),
        *done(context, "lock", locked=True),
        *low,
        Answered(at=context.clock(), question="WP-001:bar", value=100.0),
        *done(context, "run", runs=True),
        Coded(at=context.clock(), cause="debris", remedy="cleared"),
        LeftSite(at=context.clock() + timedelta(minutes=5), outcome="finished"),
    ]
    submit_events(context, RUNA, order, str(uuid4()), job)
    page = completion(context, order)
    assert page.page.answers_in_words["WP-001:seat"] == "Scored"
    states = {p.line: p.state for p in page.page.run.progress.lines}
    assert states["WP-001:valve"] == "no longer asked"
    assert "“Check the valve” was done; a later answer closed it." in [d.sentence for d in page.departures]
    valve = next(row.evidence for row in evidence(context, "IT-001").steps if row.step == "valve")
    assert valve is not None
    assert (valve.wanted.n_hits, valve.done.n_hits) == (1, 1)
