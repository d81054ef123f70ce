"""Help threads: which are open, and what the office said on them."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime

from sqlalchemy import Select, func, select
from sqlalchemy.orm import Session, aliased

from reedling.core.orders.help import HelpReply, HelpStanding
from reedling.core.runsheet.job_state import Job
from reedling.exchange.content import MARKS, dump_value
from reedling.store.row_mapping import row_mapping
from reedling.store.tables import EventRow, HelpReplyRow, HelpThreadRow

THREADS = row_mapping(HelpStanding, HelpThreadRow, elsewhere=("last_reply_at",), thread="id")
REPLIES = row_mapping(HelpReply, HelpReplyRow, elsewhere=("marks",))


@dataclass(frozen=True, slots=True)
class HelpThreads:
    """Repository of help threads. What was said from site stands in the events of the order."""

    session: Session

    def keep(self, order: str, person: str, job: Job) -> None:
        """Keep how the threads of a job stand; ``person`` asked those that are new."""
        for thread in job.help.values():
            row = self.session.get(HelpThreadRow, thread.id)
            if row is None:
                row = HelpThreadRow(
                    id=thread.id,
                    order_id=order,
                    person_id=person,
                    line=thread.line or "",
                    asked_at=thread.said[0].at,
                )
                self.session.add(row)
            row.last_said_at = thread.said[-1].at
            row.ended_at, row.kept = thread.ended_at, thread.kept
        if job.help:
            self.session.flush()

    def get(self, thread: str) -> HelpStanding | None:
        """One thread, if there is one."""
        return next(iter(self._standing(select(HelpThreadRow).where(HelpThreadRow.id == thread))), None)

    def find(self, *, order: str | None = None, open_only: bool = False) -> tuple[HelpStanding, ...]:
        """Threads, the longest asked first: of an order, those nobody has ended."""
        query = select(HelpThreadRow).order_by(HelpThreadRow.asked_at, HelpThreadRow.id)
        if order is not None:
            query = query.where(HelpThreadRow.order_id == order)
        if open_only:
            query = query.where(HelpThreadRow.ended_at.is_(None))
        return self._standing(query)

    def asked_at(self, document: str) -> Mapping[str, list[str]]:
        """What was asked on kept threads at the steps of a document, by step, the latest first."""
        asked = aliased(EventRow)
        query = (
            select(HelpThreadRow.line, asked.payload)
            .join(asked, asked.order_id == HelpThreadRow.order_id)
            .where(
                HelpThreadRow.line.startswith(f"{document}:", autoescape=True),
                HelpThreadRow.kept.is_(True),
                asked.kind == "help asked",
                asked.payload["thread"].as_string() == HelpThreadRow.id,
            )
            .order_by(HelpThreadRow.asked_at.desc())
        )
        out: dict[str, list[str]] = {}
        for line, payload in self.session.execute(query):
            step = line.removeprefix(f"{document}:").split("@", 1)[0]
            if payload["text"]:
                out.setdefault(step, []).append(payload["text"])
        return out

    def _standing(self, query: Select[HelpThreadRow]) -> tuple[HelpStanding, ...]:
        rows = self.session.scalars(query).all()
        last = self._last_replies([row.id for row in rows])
        return tuple(THREADS.read(row, last_reply_at=last.get(row.id)) for row in rows)

    def _last_replies(self, threads: list[str]) -> dict[str, datetime]:
        query = select(HelpReplyRow.thread_id, func.max(HelpReplyRow.at)).where(
            HelpReplyRow.thread_id.in_(threads)
        )
        return dict(self.session.execute(query.group_by(HelpReplyRow.thread_id)).all())

    def n_waiting(self) -> int:
        """How many open threads wait for the office: what was said last on them was said from site."""
        return sum(standing.waits_for_office for standing in self.find(open_only=True))

    def add_reply(self, reply: HelpReply) -> None:
        """Keep what the office said; the same reply once."""
        if self.session.get(HelpReplyRow, reply.id) is None:
            self.session.add(REPLIES.new_row(reply, marks=[dump_value(mark) for mark in reply.marks]))
            self.session.flush()

    def replies(self, order: str) -> tuple[HelpReply, ...]:
        """What the office said on the threads of an order, in time."""
        query = (
            select(HelpReplyRow)
            .join(HelpThreadRow, HelpThreadRow.id == HelpReplyRow.thread_id)
            .where(HelpThreadRow.order_id == order)
            .order_by(HelpReplyRow.at, HelpReplyRow.id)
        )
        return tuple(
            REPLIES.read(row, marks=MARKS.validate_python(row.marks)) for row in self.session.scalars(query)
        )
