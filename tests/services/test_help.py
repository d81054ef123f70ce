"""Help threads: asked on site, answered in the office, kept with the step or not, and counted as evidence."""

from __future__ import annotations

from collections.abc import Sequence
from uuid import uuid4

import pytest
from hypothesis import given
from hypothesis import strategies as st

from reedling.core.evidence.steps import step_records
from reedling.core.runsheet.events import (
    Arrived,
    Coded,
    FieldEvent,
    HeadedOut,
    HelpAdded,
    HelpAsked,
    HelpEnded,
    LeftSite,
    PictureMark,
)
from reedling.core.runsheet.job import record, replay
from reedling.core.runsheet.job_state import Job
from reedling.errors import Conflict, InvalidInput, NotFound, ReedlingError
from reedling.services.actions.help import reply_to_help
from reedling.services.actions.submissions import submit_events
from reedling.services.actions.summaries import recount
from reedling.services.context import Context
from reedling.services.views.completions import completion
from reedling.services.views.evidence import evidence
from reedling.services.views.help import help_thread, open_help, own_help
from reedling.services.views.waiting import count_waiting
from tests.conftest import INES, RUNA, TEO
from tests.plans import at, rake_plan, sheet_of
from tests.services.test_drafts_and_release import incident
from tests.services.test_orders_and_submissions import arrive, done, order

__all__ = ["incident", "order"]

RING = PictureMark(shape="ring", x0=0.2, y0=0.2, x1=0.4, y1=0.4)


def send(context: Context, order: str, *events: FieldEvent) -> str:
    return submit_events(context, RUNA, order, str(uuid4()), events).loose


def ask(context: Context, thread: str = "t1", line: str = "WP-001:read") -> HelpAsked:
    return HelpAsked(at=context.clock(), thread=thread, text="Which gauge?", line=line, marks=(RING,))


def finish(context: Context, order: str, *between: FieldEvent) -> None:
    send(
        context,
        order,
        *done(context, "lock", locked=True),
        *done(context, "read", bar=100.0),
        *between,
        *done(context, "run", runs=True),
        Coded(at=context.clock(), cause="debris", remedy="cleared"),
        LeftSite(at=context.clock(), outcome="finished"),
    )


def test_a_question_is_answered_and_both_sides_see_words_and_marks(context: Context, order: str) -> None:
    before = count_waiting(context).review
    send(context, order, *arrive(context), ask(context))
    assert count_waiting(context).review == before + 1
    (line,) = open_help(context)
    assert (line.step, line.technician, line.waits_for_office) == ("Read the pressure", "Runa Ashdown", True)
    reply = str(uuid4())
    for _ in range(2):
        reply_to_help(context, INES, "t1", "The left one.", [RING], identity=reply)
    (thread,) = own_help(context, order, RUNA)
    assert [(m.side, m.person, m.text, m.marks) for m in thread.messages] == [
        ("site", "Runa Ashdown", "Which gauge?", (RING,)),
        ("office", "Ines Varga", "The left one.", (RING,)),
    ]
    assert help_thread(context, "t1") == thread
    assert count_waiting(context).review == before
    with pytest.raises(NotFound):
        own_help(context, order, TEO)


@pytest.mark.parametrize(("kept", "n"), [(True, 1), (False, 0)])
def test_what_is_kept_is_evidence_of_its_step_and_what_is_not_is_not(
    context: Context, order: str, kept: bool, n: int
) -> None:
    send(context, order, *arrive(context), ask(context))
    finish(context, order, HelpEnded(at=context.clock(), thread="t1", kept=kept))
    found = evidence(context, "IT-001")
    helped = {row.step: row.evidence.helped.n_hits for row in found.steps if row.evidence}
    assert helped["read"] == n
    assert sum(helped.values()) == n
    assert len(completion(context, order).help) == n
    recount(context)
    assert evidence(context, "IT-001") == found


def test_an_ended_thread_takes_no_further_words_from_either_side(context: Context, order: str) -> None:
    send(context, order, *arrive(context), ask(context))
    send(context, order, HelpEnded(at=context.clock(), thread="t1", kept=True))
    with pytest.raises(Conflict) as refusal:
        reply_to_help(context, INES, "t1", "Too late.", [], identity=str(uuid4()))
    assert refusal.value.code == "help.ended"
    assert "no such question open" in send(
        context, order, HelpAdded(at=context.clock(), thread="t1", text="More")
    )
    assert open_help(context) == ()


@pytest.mark.parametrize(
    ("thread", "text", "marks", "code"),
    [
        ("t1", " ", [], "help.empty"),
        ("other", "Yes", [], "help.unknown"),
        ("t1", "", [PictureMark(shape="box", x0=0, y0=0, x1=2, y1=1)], "jobs.marks"),
    ],
)
def test_a_bad_reply_is_refused_and_nothing_is_kept(
    context: Context, order: str, thread: str, text: str, marks: list[PictureMark], code: str
) -> None:
    send(context, order, *arrive(context), ask(context))
    with pytest.raises(ReedlingError) as refusal:
        reply_to_help(context, INES, thread, text, marks, identity=str(uuid4()))
    assert refusal.value.code == code
    assert len(help_thread(context, "t1").messages) == 1


HELP = st.one_of(
    st.builds(
        lambda t, line: HelpAsked(at=at(9), thread=t, text="?", line=line),
        st.sampled_from("ab"),
        st.sampled_from(["W:read", "W:lock", None]),
    ),
    st.builds(
        lambda t, w: HelpAdded(at=at(9), thread=t, text=w), st.sampled_from("ab"), st.sampled_from(["", "x"])
    ),
    st.builds(lambda t, k: HelpEnded(at=at(9), thread=t, kept=k), st.sampled_from("ab"), st.booleans()),
)


@given(st.lists(HELP, max_size=12))
def test_threads_are_what_the_events_that_fit_add_up_to(events: Sequence[FieldEvent]) -> None:
    """A slow twin reads the list anew for each thread: asked once, then words, until it is ended."""
    sheet = sheet_of(rake_plan())
    taken: list[FieldEvent] = [HeadedOut(at=at(0)), Arrived(at=at(5))]
    job = replay(sheet, taken)
    for event in events:
        try:
            job = record(sheet, job, event)
        except (Conflict, InvalidInput):
            continue
        taken.append(event)
    assert replay(sheet, taken) == job
    for thread in "ab":
        mine = [e for e in events if getattr(e, "thread", "") == thread]
        asked = next((i for i, e in enumerate(mine) if isinstance(e, HelpAsked)), None)
        if asked is None:
            assert thread not in job.help
            continue
        rest = mine[asked + 1 :]
        end = next((i for i, e in enumerate(rest) if isinstance(e, HelpEnded)), len(rest))
        words = sum(isinstance(e, HelpAdded) and e.text != "" for e in rest[:end])
        held = job.help[thread]
        assert len(held.said) == 1 + words
        assert (held.ended_at is not None) is (end < len(rest))
        if end < len(rest):
            ended = rest[end]
            assert isinstance(ended, HelpEnded)
            assert held.kept is ended.kept
    helped = {r.step for r in step_records("o", sheet, job) if r.helped}
    assert helped == {
        (t.line or "").removeprefix("W:") for t in job.help.values() if t.kept and t.line is not None
    }


def test_a_question_needs_words_or_a_picture() -> None:
    sheet = sheet_of(rake_plan())
    job = replay(sheet, [HeadedOut(at=at(0)), Arrived(at=at(5))])
    with pytest.raises(InvalidInput):
        record(sheet, job, HelpAsked(at=at(6), thread="t", text=" "))
    assert record(sheet, job, HelpAsked(at=at(6), thread="t", text="", picture=str(uuid4()))).help
    with pytest.raises(Conflict):
        record(sheet, Job(), HelpAsked(at=at(6), thread="t", text="Hello"))
