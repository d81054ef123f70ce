"""The lists that guidance refers to, and their entries."""

from __future__ import annotations

from typing import Annotated, Any

from fastapi import APIRouter, Header, Response
from pydantic import BaseModel

from reedling.api.access import Ctx, OfficePerson, Writer
from reedling.services import edit_catalogue
from reedling.services.edit_catalogue import ListName, ListPage

router = APIRouter(prefix="/api/lists", tags=["lists"])

IfMatch = Annotated[str, Header(description="The etag of the list as it was read.")]


class EntryToWrite(BaseModel):
    """An entry, and the code of the one it replaces; none to add it."""

    replaces: str | None = None
    entry: dict[str, Any]


@router.get("/{name}")
def read_list(name: ListName, response: Response, _person: OfficePerson, context: Ctx) -> ListPage:
    """A list, with how often each entry is used."""
    page = edit_catalogue.list_page(context, name)
    response.headers["ETag"] = page.etag
    return page


@router.put("/{name}")
def put_entry(
    name: ListName, body: EntryToWrite, if_match: IfMatch, _person: Writer, context: Ctx
) -> ListPage:
    """Write an entry; gives the list after."""
    return edit_catalogue.put_entry(context, name, body.replaces, body.entry, if_match)


@router.delete("/{name}/{code}")
def remove_entry(name: ListName, code: str, if_match: IfMatch, _person: Writer, context: Ctx) -> ListPage:
    """Take an entry out; gives the list after."""
    return edit_catalogue.remove_entry(context, name, code, if_match)
