"""The lists that guidance refers to, sites and assets, and their entries."""

from __future__ import annotations

from typing import Annotated, Any

from fastapi import APIRouter, Header, Response
from pydantic import BaseModel

from reedling.api.access import Ctx, OfficePerson, Writer
from reedling.core.guidance.references import ListName
from reedling.services import edit_catalogue, edit_register
from reedling.services.list_pages import ListPage, RegisterName

router = APIRouter(prefix="/api/lists", tags=["lists"])

IfMatch = Annotated[str, Header(description="The etag of the list as it was read.")]


class EntryToWrite(BaseModel):
    """An entry, and the code of the one it replaces; none to add it."""

    replaces: str | None = None
    entry: dict[str, Any]


@router.get("/{name}")
def read_list(
    name: ListName | RegisterName, response: Response, _person: OfficePerson, context: Ctx
) -> ListPage:
    """A list, with what refers to each entry."""
    page = (
        edit_register.register_page(context, name)
        if name == "sites" or name == "assets"
        else edit_catalogue.list_page(context, name)
    )
    response.headers["ETag"] = page.etag
    return page


@router.put("/{name}")
def put_entry(
    name: ListName | RegisterName, body: EntryToWrite, if_match: IfMatch, _person: Writer, context: Ctx
) -> ListPage:
    """Write an entry; gives the list after."""
    if name == "sites" or name == "assets":
        return edit_register.put_place(context, name, body.replaces, body.entry, if_match)
    return edit_catalogue.put_entry(context, name, body.replaces, body.entry, if_match)


@router.delete("/{name}/{code}")
def remove_entry(
    name: ListName | RegisterName, code: str, if_match: IfMatch, _person: Writer, context: Ctx
) -> ListPage:
    """Take an entry out; gives the list after."""
    if name == "sites" or name == "assets":
        return edit_register.remove_place(context, name, code, if_match)
    return edit_catalogue.remove_entry(context, name, code, if_match)
