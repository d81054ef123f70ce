"""The application: the API, the stand-in devices and the built interface, put together."""

from __future__ import annotations

from typing import Any

from fastapi import APIRouter, FastAPI
from fastapi.responses import FileResponse
from fastapi.routing import APIRoute
from starlette.exceptions import HTTPException
from starlette.middleware.gzip import GZipMiddleware
from starlette.staticfiles import StaticFiles

from reedling import __version__
from reedling.api import author, library, lists, match, pocket, review, revisions, run, session
from reedling.api.error_mapping import REFUSALS, add_error_mapping, document_refusals
from reedling.services.context import Context
from reedling.standins import routes as standins
from reedling.wiring import Settings

DEMO_PASSWORD = "reed-bed"
"""The password the people of the demo share; shown on the sign-in page of a demo only."""


def create_app(context: Context, settings: Settings) -> FastAPI:
    """The application over this context."""
    app = FastAPI(
        title="Reedling",
        version=__version__,
        responses=REFUSALS,
        generate_unique_id_function=_operation_name,
    )
    app.state.context = context
    app.state.demo_password = DEMO_PASSWORD if settings.demo else ""
    app.add_middleware(GZipMiddleware, minimum_size=2000)
    add_error_mapping(app)
    for module in (session, author, library, lists, revisions, match, run, pocket, review):
        app.include_router(module.router)
    if settings.demo:
        app.include_router(standins.router)
    app.include_router(_unknown_api())
    if (settings.web_dir / "index.html").is_file():
        _serve_interface(app, settings)
    _document_refusals(app)
    return app


def _document_refusals(app: FastAPI) -> None:
    written = app.openapi

    def openapi() -> dict[str, Any]:
        return app.openapi_schema or document_refusals(written())

    app.openapi = openapi  # type: ignore[method-assign]


def _operation_name(route: APIRoute) -> str:
    return f"{route.tags[0]}_{route.name}" if route.tags else route.name


def _unknown_api() -> APIRouter:
    """An address under /api that does not exist is a problem document, not the interface."""
    router = APIRouter()

    @router.get("/api/{path:path}", include_in_schema=False)
    def unknown(path: str) -> None:
        raise HTTPException(404, f"There is nothing at /api/{path}.")

    return router


def _serve_interface(app: FastAPI, settings: Settings) -> None:
    """Files of the build as they are; every other address is the one page, which routes itself."""
    app.mount("/assets", StaticFiles(directory=settings.web_dir / "assets"), name="assets")
    root = settings.web_dir.resolve()

    @app.get("/{path:path}", include_in_schema=False)
    def interface(path: str) -> FileResponse:
        asked = (root / path).resolve()
        found = asked if path and asked.is_file() and asked.is_relative_to(root) else root / "index.html"
        return FileResponse(found, headers={"Cache-Control": "no-cache"})
