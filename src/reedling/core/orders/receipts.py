"""What a device is told of what it sent, what the job could not take in, and the pictures taken on site."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Literal

from reedling.core.orders.photo_looks import PhotoDoubt, PhotoLook, photo_doubts
from reedling.core.runsheet.events import FieldEvent
from reedling.core.runsheet.job_state import OrderState

Decision = Literal["taken in", "set aside"]
"""What the office made of a loose record."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Receipt:
    """What a device is told of its submission: the first time, and at every repeat.

    ``loose`` says why the job could not take it in, where it could not: it is then kept beside the order.
    ``n_recorded`` counts all events recorded on the order by then.
    """

    submission: str
    order: str
    n_events: int
    state: OrderState
    received_at: datetime
    loose: str = ""
    n_recorded: int = 0


@dataclass(frozen=True, slots=True, kw_only=True)
class HeldReceipt:
    """A submission that was received: who made it, the digest of its content (none of old ones), its receipt."""

    person: str
    digest: str
    receipt: Receipt


@dataclass(frozen=True, slots=True, kw_only=True)
class LooseRecord:
    """What a device recorded and the job could not take in, kept beside the order until the office decides.

    ``code`` and ``why`` are of the refusal. ``decision`` is empty while nobody has decided; ``reason`` goes
    with setting it aside.
    """

    submission: str
    order: str
    person: str
    received_at: datetime
    events: tuple[FieldEvent, ...]
    code: str
    why: str
    decision: Decision | None = None
    decided_at: datetime | None = None
    decided_by: str | None = None
    reason: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class Picture:
    """A picture taken on site.

    ``look`` is what can be told of a photo, nothing where nobody looked; ``same_as`` an earlier photo of the order that
    is the same picture, empty where there is none.
    """

    id: str
    sha256: str
    media_type: str
    width: int
    height: int
    taken_at: datetime
    person: str
    order: str
    look: PhotoLook | None = None
    same_as: str = ""

    @property
    def doubts(self) -> tuple[PhotoDoubt, ...]:
        """What is to be doubted of it."""
        return () if self.look is None else photo_doubts(self.look, is_same=bool(self.same_as))


@dataclass(frozen=True, slots=True, kw_only=True)
class Upload:
    """A picture that comes in pieces: its identity, its size in bytes and hash, and the bytes that are here.

    ``is_kept`` once all are here, the hash is right and the picture is kept.
    """

    picture: str
    order: str
    person: str
    question: str
    size: int
    sha256: str
    have: int = 0
    is_kept: bool = False

    @property
    def is_here(self) -> bool:
        """Whether every byte is here."""
        return self.have >= self.size


def next_piece(upload: Upload, at: int, piece: Sequence[int]) -> bool:
    """Whether a piece that begins at a byte is the one that comes next, and no more than is still to come."""
    return at == upload.have and at + len(piece) <= upload.size
