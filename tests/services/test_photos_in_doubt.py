"""What is to be doubted of photos: told when they are kept, counted over all jobs together."""

from __future__ import annotations

import io
import random
from dataclasses import replace
from pathlib import Path
from uuid import uuid4

import pytest
from PIL import Image, ImageFilter
from PIL.Image import Resampling

from reedling.core.people import Person
from reedling.core.runsheet.events import Answered, Arrived, FieldEvent, HeadedOut
from reedling.core.runsheet.lines import RunsheetLine
from reedling.services.actions.pictures import keep_picture
from reedling.services.actions.submissions import submit_events
from reedling.services.context import Context
from reedling.services.views.exploring import jobs_together
from reedling.services.views.orders import order_page
from reedling.wiring import open_context


@pytest.fixture
def demo(demo_dir: Path) -> Context:
    return open_context(demo_dir)


@pytest.fixture
def planned(demo: Context) -> tuple[str, Person]:
    """An order that nobody has begun, with whose it is."""
    with demo.reading() as unit:
        for held in unit.orders.facts():
            order = unit.orders.get(held.id)
            assert order is not None
            asks = {question.kind for line in order.runsheet.lines for question in line.questions}
            if held.state == "Planned" and {"photo", "signature"} <= asks:
                person = unit.people.get(order.technician or "")
                assert person is not None
                return held.id, person
    raise AssertionError("no such order")


def drawn(seed: int, *, size: int = 320, light: float = 1.0, blur: float = 0.0) -> bytes:
    """A picture with detail, as a phone sends it."""
    noise = Image.frombytes("L", (40, 30), random.Random(seed).randbytes(1200)).resize(
        (size, size * 3 // 4), Resampling.NEAREST
    )
    out = io.BytesIO()
    noise.filter(ImageFilter.GaussianBlur(blur)).point(lambda tone: tone * light).save(out, "JPEG")
    return out.getvalue()


def question(lines: tuple[RunsheetLine, ...], kind: str) -> str:
    return next(proof.id for line in lines for proof in line.questions if proof.kind == kind)


def test_a_photo_is_looked_at_when_it_is_kept(demo: Context, planned: tuple[str, Person]) -> None:
    order, person = planned
    lines = order_page(demo, order).run.runsheet.lines

    def keep(data: bytes, kind: str = "") -> str:
        asked = question(lines, kind) if kind else ""
        return keep_picture(demo, person, order, str(uuid4()), data, question=asked).id

    first = keep(drawn(1), "photo")
    dark, again = keep(drawn(2, light=0.1)), keep(drawn(1, size=400))
    other, signed = keep(drawn(3)), keep(drawn(1), "signature")
    blurred = keep(drawn(4, size=640, blur=20))
    with demo.reading() as unit:
        held = {picture.id: picture for picture in unit.pictures.of_order(order)}
    told = {name: held[name].doubts for name in (first, dark, again, other, signed, blurred)}
    assert told == {
        first: (),
        dark: ("dark",),
        again: ("the same again",),
        other: (),
        signed: (),
        blurred: ("blurred",),
    }
    assert (held[again].same_as, held[signed].look) == (first, None)
    assert order_page(demo, order).photo_doubts == {
        dark: "It is dark.",
        again: "It is the same picture as another of this order.",
        blurred: "It is blurred.",
    }


def test_a_photo_that_was_taken_again_is_no_second_one(demo: Context, planned: tuple[str, Person]) -> None:
    order, person = planned
    asked = question(order_page(demo, order).run.runsheet.lines, "photo")
    now = demo.clock()
    first = keep_picture(demo, person, order, str(uuid4()), drawn(1), question=asked)
    events: list[FieldEvent] = [
        HeadedOut(at=now),
        Arrived(at=now),
        Answered(at=now, question=asked, value=first.id),
    ]
    submit_events(demo, person, order, str(uuid4()), events)
    kept = keep_picture(demo, person, order, str(uuid4()), drawn(1, size=360), question=asked)
    assert (kept.doubts, kept.same_as) == ((), "")


def test_over_all_jobs_photos_are_counted_as_one_by_one(demo: Context) -> None:
    found = jobs_together(demo, "IT-001", {}).found
    with demo.reading() as unit:
        columns = unit.job_evidence.columns("IT-001", ("WP-001",))
        pictures = [picture for order in columns.orders for picture in unit.pictures.of_order(order)]
    looked_at = [picture for picture in pictures if picture.look is not None]
    counts = {
        doubt: sum(doubt in picture.doubts for picture in looked_at)
        for doubt in ("blurred", "dark", "the same again")
    }
    assert found.photos.n == len(looked_at) > 30
    assert (found.photos.blurred, found.photos.dark, found.photos.same_again) == tuple(counts.values())
    assert found.photos.doubtful == sum(bool(picture.doubts) for picture in looked_at) > 0
    assert replace(found.doubtful_photos, low=0, high=0).n_hits == found.photos.doubtful
