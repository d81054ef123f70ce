"""Who changed what: of a list and its entries, of an order, of a person; and taking a change back."""

from __future__ import annotations

from typing import Annotated

from fastapi import Query
from pydantic import BaseModel

from reedling.api.access import Administrator, Ctx, OfficePerson, Writer
from reedling.api.guarded import guarded_router
from reedling.exchange.list_sheets import AnyListName
from reedling.services.actions.undo import undo_change
from reedling.services.shared.lists import ListPage
from reedling.services.views import changes as changes_views
from reedling.services.views.changes import ChangesPage

router = guarded_router("/api/v1/changes", "changes")
Before = Annotated[int | None, Query(ge=1, le=2**53, description="Only what was changed before this one.")]


class Undo(BaseModel):
    """A change to take back, by what joins it to what was changed at the same time."""

    batch: str


@router.get("/lists/{name}")
def of_list(
    name: AnyListName, _person: OfficePerson, context: Ctx, code: str | None = None, before: Before = None
) -> ChangesPage:
    """What was changed in a list, or in one entry of it, newest first."""
    return changes_views.changes_of_list(context, name, code=code, before=before)


@router.post("/lists/{name}/undo")
def undo(name: AnyListName, body: Undo, person: Writer, context: Ctx) -> ListPage:
    """Take back a changed entry or a whole sheet, where nothing of it was changed since."""
    return undo_change(context, person, name, body.batch)


@router.get("/orders/{order_id}")
def of_order(order_id: str, _person: OfficePerson, context: Ctx) -> ChangesPage:
    """What was done to an order from a desk, newest first."""
    return changes_views.changes_of(context, "order", order_id)


@router.get("/people")
def of_people(_person: Administrator, context: Ctx, before: Before = None) -> ChangesPage:
    """What was done about people, newest first."""
    return changes_views.changes_of(context, "person", before=before)


@router.get("/drafts")
def of_drafts(_person: OfficePerson, context: Ctx, before: Before = None) -> ChangesPage:
    """Drafts that were thrown away, newest first."""
    return changes_views.changes_of(context, "draft", before=before)
