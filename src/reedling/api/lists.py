"""The lists that guidance refers to, sites and assets, and their entries."""

from __future__ import annotations

from typing import Any

from fastapi import Response
from pydantic import BaseModel

from reedling.api.access import Ctx, OfficePerson, Writer
from reedling.api.guarded import DOCUMENT_BODY, guarded_router, takes_sheets
from reedling.api.shapes import TAGGED, IfMatch
from reedling.exchange.list_sheets import AnyListName, write_sheet
from reedling.services.actions import catalogue as catalogue_actions
from reedling.services.actions import register as register_actions
from reedling.services.context import Context
from reedling.services.shared.lists import ListPage, SheetOutcome
from reedling.services.views import lists as lists_views

router = guarded_router("/api/v1/lists", "lists")


class SheetToWrite(BaseModel):
    """A sheet as CSV; with ``only_tell`` it is checked, and what it would change is told."""

    text: str
    only_tell: bool = False


class EntryToWrite(BaseModel):
    """An entry, and the code of the one it replaces; none to add it."""

    replaces: str | None = None
    entry: dict[str, Any]


@router.get("/{name}", responses=TAGGED)
def read_list(name: AnyListName, response: Response, _person: OfficePerson, context: Ctx) -> ListPage:
    """A list, with what refers to each entry."""
    page = _page(context, name)
    response.headers["ETag"] = page.etag
    return page


def _page(context: Context, name: AnyListName) -> ListPage:
    if name == "sites" or name == "assets":
        return lists_views.register_page(context, name)
    return lists_views.list_page(context, name)


@router.get(
    "/{name}/sheet.csv",
    response_class=Response,
    responses={200: {"content": {"text/csv": {"schema": {"type": "string"}}}}},
)
def read_sheet(name: AnyListName, _person: OfficePerson, context: Ctx) -> Response:
    """A list as CSV, to be changed in a spreadsheet and put back."""
    text = write_sheet(name, _page(context, name).entries)
    disposition = f'attachment; filename="{name.replace("_", "-")}.csv"'
    return Response(text, media_type="text/csv", headers={"Content-Disposition": disposition})


@router.post("/{name}/sheet", max_body_size=DOCUMENT_BODY)
@takes_sheets
def put_sheet(
    name: AnyListName, body: SheetToWrite, if_match: IfMatch, person: Writer, context: Ctx
) -> SheetOutcome:
    """Write the entries of a sheet over those with their codes, or add them; nothing is removed."""
    if name == "sites" or name == "assets":
        return register_actions.write_register_sheet(
            context, person, name, body.text, if_match, only_tell=body.only_tell
        )
    return catalogue_actions.put_sheet(context, person, name, body.text, if_match, only_tell=body.only_tell)


@router.put("/{name}")
def put_entry(
    name: AnyListName, body: EntryToWrite, if_match: IfMatch, person: Writer, context: Ctx
) -> ListPage:
    """Write an entry; gives the list after."""
    if name == "sites" or name == "assets":
        return register_actions.write_register_entry(
            context, person, name, body.replaces, body.entry, if_match
        )
    return catalogue_actions.put_entry(context, person, name, body.replaces, body.entry, if_match)


@router.delete("/{name}/{code}")
def remove_entry(name: AnyListName, code: str, if_match: IfMatch, person: Writer, context: Ctx) -> ListPage:
    """Take an entry out; gives the list after."""
    if name == "sites" or name == "assets":
        return register_actions.remove_register_entry(context, person, name, code, if_match)
    return catalogue_actions.remove_entry(context, person, name, code, if_match)
