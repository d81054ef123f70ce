"""Match: decision tables, what orders get and why, how well they are served, and who can go."""

from __future__ import annotations

from datetime import date
from typing import Annotated

from fastapi import Query, Response
from pydantic import BaseModel

from reedling.api.access import Ctx, OfficePerson, Writer
from reedling.api.guarded import DOCUMENT_BODY, guarded_router, takes_sheets
from reedling.api.shapes import TAGGED, Begin, IfMatch
from reedling.core.matching.coverage import Across
from reedling.core.matching.table_editing import TableEdit
from reedling.core.register.assets import PlacedAsset
from reedling.services.actions import drafts as drafts_actions
from reedling.services.actions.drafts import SavedEdit
from reedling.services.shared.matched import Matched, OrderToMatch
from reedling.services.views import coverage as coverage_views
from reedling.services.views import orders as orders_views
from reedling.services.views import tables as tables_views
from reedling.services.views import trying
from reedling.services.views.coverage import Coverage, MapCellPage, Noticed
from reedling.services.views.crew import CrewPage, crew_page
from reedling.services.views.kits import KitPage, kit_page
from reedling.services.views.tables import TableFindings, TableLine, TableView

router = guarded_router("/api/v1", "match")

Draft = Annotated[str | None, Query(description="A table to take as it is being written.")]


class TriedOrder(BaseModel):
    """An order to try: an asset and a symptom, or an order that came in; with a table's draft or not."""

    asset: str = ""
    symptom: str = ""
    order: str | None = None
    incident_type: str = ""
    priority: str = ""
    day: date | None = None
    draft: str | None = None


class TableEditRequest(BaseModel):
    """An edit of a decision table."""

    edit: TableEdit


@router.get("/assets")
def assets(_person: OfficePerson, context: Ctx) -> list[PlacedAsset]:
    """All assets with their sites, by site and name."""
    return list(orders_views.assets(context))


@router.post("/tried-orders")
def try_order(tried: TriedOrder, _person: OfficePerson, context: Ctx) -> Matched:
    """What this order would get today; nothing is kept."""
    if tried.order is not None:
        return trying.try_again(context, tried.order, draft=tried.draft)
    asked = OrderToMatch(
        asset=tried.asset,
        symptom=tried.symptom,
        incident_type=tried.incident_type,
        priority=tried.priority,
        day=tried.day,
    )
    return trying.try_order(context, asked, draft=tried.draft)


@router.get("/tables")
def tables(_person: OfficePerson, context: Ctx) -> list[TableLine]:
    """Every decision table."""
    return list(tables_views.tables(context))


@router.get("/documents/{document}/table", responses=TAGGED)
def table(document: str, response: Response, _person: OfficePerson, context: Ctx) -> TableView:
    """A decision table at the revision to work on, with its etag."""
    view = tables_views.table_document(context, document)
    response.headers["ETag"] = view.etag
    return view


@router.get(
    "/documents/{document}/table.csv",
    response_class=Response,
    responses={200: {"content": {"text/csv": {"schema": {"type": "string"}}}}},
)
def table_csv(document: str, _person: OfficePerson, context: Ctx) -> Response:
    """The rows of a decision table, at the revision to work on, as a sheet."""
    letter, text = tables_views.table_csv(context, document)
    disposition = f'attachment; filename="{document}-{letter}.csv"'
    return Response(text, media_type="text/csv", headers={"Content-Disposition": disposition})


@router.get("/documents/{document}/table/findings")
def table_findings(document: str, _person: OfficePerson, context: Ctx) -> TableFindings:
    """What follows from a table as it stands: its problems, and how many past orders met each row."""
    return tables_views.table_findings(context, document)


@router.post("/documents/{document}/table-edits", max_body_size=DOCUMENT_BODY)
@takes_sheets
def edit_table(
    document: str,
    body: TableEditRequest,
    if_match: IfMatch,
    person: Writer,
    context: Ctx,
    begin: Begin = False,
) -> SavedEdit:
    """Make an edit, as on a sheet, to the table's draft read under this etag."""
    return drafts_actions.edit_table_draft(context, person, document, body.edit, if_match, begin=begin)


@router.get("/documents/{document}/affected-orders")
def noticed(document: str, _person: OfficePerson, context: Ctx) -> Noticed:
    """Past and open orders that would get something different were the draft in force."""
    return coverage_views.who_would_notice(context, document)


@router.get("/coverage")
def coverage(
    _person: OfficePerson, context: Ctx, across: Across = "symptom", draft: Draft = None
) -> Coverage:
    """How orders are served: the map, findings about rows, gaps, and changes by hand."""
    return coverage_views.coverage(context, across, draft=draft)


@router.get("/coverage/cell")
def coverage_cell(
    equipment: str,
    code: str,
    _person: OfficePerson,
    context: Ctx,
    across: Across = "symptom",
    draft: Draft = None,
) -> MapCellPage:
    """The orders and rows of one cell of the map."""
    return coverage_views.map_cell(context, equipment, across, code, draft=draft)


@router.get("/documents/{document}/crew")
def crew(
    document: str,
    _person: OfficePerson,
    context: Ctx,
    on: date | None = None,
    with_branches: bool = False,
) -> CrewPage:
    """Who can carry out a document, today and on a day to come, by district."""
    return crew_page(context, document, on=on, with_branches=with_branches)


@router.get("/incident-types/{document}/kit")
def kit(
    document: str,
    _person: OfficePerson,
    context: Ctx,
    goal: Annotated[float, Query(gt=0, le=1)] = 0.8,
) -> KitPage:
    """The kit that finishes this share of an incident type's jobs the first time."""
    return kit_page(context, document, goal)
