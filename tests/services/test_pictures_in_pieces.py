"""A picture comes in pieces over a bad line: whole at the end, once, and never something else."""

from __future__ import annotations

import errno
import hashlib
import io
import os
import random
from pathlib import Path
from uuid import uuid4

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from PIL import Image

from reedling.core.orders.receipts import Upload
from reedling.errors import Conflict, InvalidInput, NotFound, Unavailable
from reedling.services.actions.pictures import add_piece, begin_picture
from reedling.services.context import Context
from reedling.services.views.orders import order_page
from reedling.services.views.pictures import picture_data
from tests.conftest import INES, RUNA, TEO
from tests.services.test_drafts_and_release import incident
from tests.services.test_orders_and_submissions import order

__all__ = ["incident", "order"]


def a_photo(seed: int = 1, side: int = 120) -> bytes:
    """A picture that does not compress, as photos do not."""
    noise = Image.frombytes("RGB", (side, side), random.Random(seed).randbytes(side * side * 3))
    out = io.BytesIO()
    noise.save(out, "PNG")
    return out.getvalue()


def hash_of(data: bytes) -> str:
    return hashlib.sha256(data).hexdigest()


def begin(context: Context, order: str, name: str, data: bytes) -> Upload:
    return begin_picture(context, RUNA, order, name, size=len(data), sha256=hash_of(data))


def piece(context: Context, name: str, data: bytes, at: int, size: int = 10_000) -> Upload:
    part = data[at : at + size]
    return add_piece(context, RUNA, name, at=at, piece=part, sha256=hash_of(part))


@pytest.mark.parametrize("seed", range(6))
def test_pieces_lost_doubled_and_out_of_order_make_the_picture(
    context: Context, order: str, seed: int
) -> None:
    """The line fails every third time, before or after the server has the piece; pieces are sent again at will."""
    rng = random.Random(seed)
    data, name = a_photo(seed), str(uuid4())
    told = begin(context, order, name, data)
    while not told.is_kept:
        coming = order_page(context, order).coming
        assert [(u.picture, u.have) for u in coming] == [(name, told.have)]
        at = rng.choice((told.have, told.have, 0, max(0, told.have - 3), told.have + 5))
        fails = rng.random() < 0.33
        if fails and rng.random() < 0.5:
            continue
        found = piece(context, name, data, at, size=rng.choice((1_000, 9_000)))
        told = begin(context, order, name, data) if fails else found
        assert told.have <= len(data)
    assert picture_data(context, INES, name)[1] == data
    assert begin(context, order, name, data).is_kept, "told again, the device may forget it"
    assert piece(context, name, data, 0).is_kept
    assert order_page(context, order).coming == ()


def test_a_damaged_piece_changes_nothing(context: Context, order: str) -> None:
    data, name = a_photo(), str(uuid4())
    begin(context, order, name, data)
    with pytest.raises(Conflict, match="a piece of the picture came in damaged"):
        add_piece(context, RUNA, name, at=0, piece=data[:999] + b"!", sha256=hash_of(data[:1000]))
    assert begin(context, order, name, data).have == 0


def test_a_whole_that_is_not_what_its_hash_says_has_to_come_again(context: Context, order: str) -> None:
    data, other, name = a_photo(1), a_photo(2), str(uuid4())
    other = other[: len(data)].ljust(len(data), b"\0")
    begin(context, order, name, data)
    with pytest.raises(Conflict, match="the picture came in damaged"):
        piece(context, name, other, 0, size=len(data))
    assert begin(context, order, name, data).have == 0
    assert piece(context, name, data, 0, size=len(data)).is_kept


def test_what_is_no_picture_is_refused_once_it_is_here(context: Context, order: str) -> None:
    data, name = b"not a picture" * 10, str(uuid4())
    begin(context, order, name, data)
    with pytest.raises(InvalidInput, match="not a PNG, JPEG or WebP picture"):
        piece(context, name, data, 0)
    assert order_page(context, order).coming == ()


def test_a_server_that_stopped_after_the_last_piece_keeps_the_picture_when_asked_again(
    context: Context, order: str
) -> None:
    data, name = a_photo(), str(uuid4())
    upload = begin(context, order, name, data)
    with context.writing() as unit:
        unit.uploads.add_piece(upload, data)
    told = begin(context, order, name, data)
    assert (told.have, told.is_kept) == (len(data), False)
    assert add_piece(context, RUNA, name, at=len(data), piece=b"", sha256=hash_of(b"")).is_kept


def test_nobody_adds_to_somebody_elses_picture(context: Context, order: str) -> None:
    data, name = a_photo(), str(uuid4())
    begin(context, order, name, data)
    with pytest.raises(Conflict, match="was not announced"):
        add_piece(context, TEO, name, at=0, piece=data[:10], sha256=hash_of(data[:10]))
    with pytest.raises(NotFound, match=f"no order {order} for you"):
        begin_picture(context, TEO, order, str(uuid4()), size=10, sha256="0" * 64)
    with pytest.raises(Conflict, match="used for another picture"):
        begin(context, order, name, data + b"x")
    with pytest.raises(InvalidInput, match=r"may have 12 MB, this has 13\.0 MB"):
        begin_picture(context, RUNA, order, str(uuid4()), size=13_000_000, sha256="0" * 64)


def test_the_bytes_on_the_way_leave_the_folder_with_the_last(context: Context, order: str) -> None:
    data, name = a_photo(), str(uuid4())
    begin(context, order, name, data)
    piece(context, name, data, 0)
    folder = Path(context.store.pictures_dir)
    assert [f.name for f in folder.glob("*.coming")] == [f"{name}.coming"]
    piece(context, name, data, 10_000, size=len(data))
    assert list(folder.glob("*.coming")) == []


@given(at=st.integers(0, 12), n=st.integers(0, 12), have=st.integers(0, 10))
def test_only_the_next_piece_is_written(at: int, n: int, have: int) -> None:
    from reedling.core.orders.receipts import next_piece

    upload = Upload(picture="p", order="o", person="r", question="", size=10, sha256="", have=have)
    assert next_piece(upload, at, bytes(n)) == (set(range(at, at + n)) <= set(range(have, 10)) and at == have)


@settings(suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(full=st.lists(st.booleans(), max_size=24))
def test_a_disk_that_is_full_now_and_then_loses_no_picture_and_makes_none_twice(
    context: Context, order: str, full: list[bool]
) -> None:
    """The disk refuses some of the writes; the device goes on from what the server says it has, as it always does."""
    data, name = a_photo(len(full), side=70), str(uuid4())
    answers = iter(full)

    def fsync(number: int) -> None:
        if next(answers, False):
            raise OSError(errno.ENOSPC, "No space left on device")

    refusals = []
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(os, "fsync", fsync)
        told = begin(context, order, name, data)
        while not told.is_kept:
            try:
                told = piece(context, name, data, told.have, size=4_000)
            except Unavailable as refusal:
                refusals.append(refusal.code)
                told = begin(context, order, name, data)
    assert set(refusals) <= {"store.picture"}
    assert len(refusals) <= sum(full)
    assert picture_data(context, INES, name)[1] == data
    assert order_page(context, order).coming == ()
    assert begin(context, order, name, data).is_kept, "announced again it is there"
