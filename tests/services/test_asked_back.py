"""The office asks who carried a job out; only they answer, and once."""

from __future__ import annotations

from collections.abc import Callable
from datetime import timedelta

import pytest

from reedling.core.orders.asked_back import MOST_WAITING
from reedling.errors import Conflict, InvalidInput, NotFound
from reedling.services.actions.asking_back import answer_office, ask_technician
from reedling.services.context import Context
from reedling.services.views.asked_back import own_questions
from reedling.services.views.completions import completion
from reedling.services.views.desk import desk
from tests.conftest import INES, ODA, RUNA, TEO, FakeClock

Played = tuple[Context, FakeClock]


def a_job_of(context: Context, technician: str) -> str:
    with context.reading() as unit:
        return next(
            o.id
            for o in unit.orders.headings(states=("Finished", "Reviewed"))
            if o.technician == technician and o.finished_at is not None
        )


def test_a_question_reaches_who_carried_the_job_out_and_its_answer_whoever_asked(played: Played) -> None:
    context, clock = played
    order = a_job_of(context, "runa")
    line = completion(context, order).page.run.runsheet.lines[0]
    asked = ask_technician(context, INES, order, line.id, " Which seal was it? ")
    (waiting,) = own_questions(context, RUNA)
    assert (waiting.text, waiting.step, waiting.asked_by_name) == (
        "Which seal was it?",
        line.text,
        "Ines Varga",
    )
    assert own_questions(context, TEO) == ()
    with pytest.raises(NotFound):
        answer_office(context, TEO, asked.id, "Mine")
    clock.now += timedelta(hours=3)
    answered = answer_office(context, RUNA, asked.id, "The upper one.")
    assert answer_office(context, RUNA, asked.id, "The upper one. ") == answered, "sent twice is one answer"
    with pytest.raises(Conflict, match="The upper one"):
        answer_office(context, RUNA, asked.id, "The lower one.")
    assert own_questions(context, RUNA) == ()
    (shown,) = completion(context, order).asked
    assert (shown.answer, shown.answered_at) == ("The upper one.", clock.now)
    told = [line.what for line in desk(context, INES).lines]
    assert "Runa Ashdown answers: The upper one." in told
    assert all("The upper one" not in line.what for line in desk(context, ODA).lines), "nobody else asked"
    clock.now += timedelta(days=8)
    assert all("The upper one" not in line.what for line in desk(context, INES).lines)


def test_what_cannot_be_asked_is_refused(played: Played) -> None:
    context, _ = played
    order = a_job_of(context, "runa")
    with context.reading() as unit:
        logged = next((o.id for o in unit.orders.headings(states=("Logged",)) if not o.technician), None)
    cases: list[tuple[type[Exception], str, Callable[[], object]]] = [
        (InvalidInput, "no words", lambda: ask_technician(context, INES, order, "", "  ")),
        (NotFound, "no step nowhere", lambda: ask_technician(context, INES, order, "nowhere", "Why?")),
        (NotFound, "no order", lambda: ask_technician(context, INES, "WO-9999", "", "Why?")),
        (NotFound, "nobody asked you", lambda: answer_office(context, RUNA, "nothing", "Because.")),
    ]
    if logged is not None:
        cases.append((Conflict, "nobody to ask", lambda: ask_technician(context, INES, logged, "", "Why?")))
    for error, words, act in cases:
        with pytest.raises(error, match=words):
            act()
    asked = [ask_technician(context, INES, order, "", f"Why, {n}?") for n in range(MOST_WAITING)]
    with pytest.raises(Conflict, match="wait for an answer"):
        ask_technician(context, INES, order, "", "And why?")
    with pytest.raises(InvalidInput, match="no words"):
        answer_office(context, RUNA, asked[0].id, " ")
    answer_office(context, RUNA, asked[0].id, "Because.")
    ask_technician(context, INES, order, "", "And why?")
