"""The application: the API, the stand-in devices and the built interface, put together."""

from __future__ import annotations

import mimetypes
from functools import lru_cache
from pathlib import Path
from typing import Any

from fastapi import APIRouter, Depends, FastAPI, Request
from fastapi.responses import FileResponse, HTMLResponse, JSONResponse, Response
from fastapi.routing import APIRoute
from secure import Secure
from secure.headers import (
    ContentSecurityPolicy,
    CrossOriginOpenerPolicy,
    CrossOriginResourcePolicy,
    PermissionsPolicy,
    ReferrerPolicy,
    XContentTypeOptions,
    XFrameOptions,
)
from secure.middleware import SecureASGIMiddleware
from starlette.datastructures import Headers
from starlette.exceptions import HTTPException
from starlette.middleware.body_limit import RequestBodyLimitMiddleware
from starlette.middleware.gzip import GZipMiddleware
from starlette.middleware.trustedhost import TrustedHostMiddleware
from starlette.routing import Match
from starlette.staticfiles import StaticFiles
from starlette.types import Scope

from reedling import __version__
from reedling.api import (
    author,
    changes,
    choices,
    error_pages,
    library,
    lists,
    match,
    people,
    pocket,
    programs,
    refine,
    review,
    revisions,
    run,
    session,
)
from reedling.api.access import Allowed, Anyone
from reedling.api.error_mapping import REFUSALS, add_error_mapping, document_refusals
from reedling.api.examples import add_examples
from reedling.api.front_door import FrontDoor
from reedling.api.guarded import SMALL_BODY, GuardedRoute, guarded_router
from reedling.api.observing import Metrics, ObservedRequests
from reedling.api.page_version import rules_shipped
from reedling.errors import NotAllowed
from reedling.services.actions.sessions import SignInLimits
from reedling.services.context import Context
from reedling.standins import routes as standins
from reedling.standins.field import DEMO_PASSWORD
from reedling.standins.weeks import PassingWeeks
from reedling.standins.weeks_routes import add_weeks
from reedling.wiring import Settings

ROUTERS = (
    session,
    choices,
    author,
    library,
    lists,
    revisions,
    match,
    run,
    pocket,
    refine,
    review,
    people,
    programs,
    changes,
)


def create_app(context: Context, settings: Settings) -> FastAPI:
    """The application over this context."""
    app = FastAPI(
        title="Reedling",
        version=__version__,
        responses=REFUSALS,
        generate_unique_id_function=_operation_name,
        docs_url=None,
        redoc_url=None,
        openapi_url=None,
    )
    metrics = Metrics()
    put_over(app, context)
    app.state.demo_password = DEMO_PASSWORD if settings.demo else ""
    app.state.dead_passwords = frozenset() if settings.demo else frozenset({DEMO_PASSWORD})
    add_error_mapping(app)
    has_interface = (settings.web_dir / "index.html").is_file()
    if has_interface:
        _serve_scripts(app, settings)
    for module in ROUTERS:
        app.include_router(module.router)
    if settings.demo:
        app.include_router(standins.router)
        weeks = guarded_router("/standins", "stand-ins")
        weeks.dependencies.append(Depends(Allowed(("engineer", "approver"))))
        add_weeks(weeks)
        app.include_router(weeks)
    app.include_router(_for_whoever_runs_it(metrics, settings))
    app.include_router(error_pages.router)
    app.include_router(_unknown_addresses())
    if has_interface:
        _serve_interface(app, settings)
        app.state.rules = rules_shipped(settings.web_dir)
    _document_refusals(app)
    app.add_middleware(GZipMiddleware, minimum_size=2000)
    app.add_middleware(RequestBodyLimitMiddleware, max_body_size=SMALL_BODY)
    app.add_middleware(FrontDoor, address=settings.address)
    app.add_middleware(SecureASGIMiddleware, secure=security_headers())
    if settings.hosts:
        app.add_middleware(TrustedHostMiddleware, allowed_hosts=list(settings.hosts))
    app.add_middleware(ObservedRequests, metrics=metrics)
    return app


def put_over(app: FastAPI, context: Context) -> None:
    """Put an application over a context, in place of the one it was over before."""
    app.state.context = context
    app.state.sign_in_limits = SignInLimits()
    app.state.passing_weeks = PassingWeeks()


def make_ready(app: FastAPI) -> None:
    """Have every route built now: the framework builds it when a request first comes by, which takes seconds."""
    scope = {"type": "http", "method": "GET", "path": "/api/", "root_path": "", "headers": [], "app": app}
    for route in app.router.routes:
        route.matches(scope)


def security_headers() -> Secure:
    """The headers every answer carries. Styles may stand inline: the component library writes them so.

    WebAssembly may be compiled: the rules of a job run in the browser. No script may be made from text.
    """
    policy = (
        ContentSecurityPolicy()
        .default_src("'self'")
        .script_src("'self'", "'wasm-unsafe-eval'")
        .worker_src("'self'")
        .style_src("'self'", "'unsafe-inline'")
        .img_src("'self'", "data:", "blob:")
        .font_src("'self'", "data:")
        .connect_src("'self'")
        .object_src("'none'")
        .base_uri("'none'")
        .form_action("'self'")
        .frame_ancestors("'none'")
    )
    return Secure(
        csp=policy,
        coop=CrossOriginOpenerPolicy().same_origin(),
        corp=CrossOriginResourcePolicy().same_origin(),
        permissions=PermissionsPolicy().camera("'self'").geolocation("'self'").microphone(),
        referrer=ReferrerPolicy().same_origin(),
        xcto=XContentTypeOptions().nosniff(),
        xfo=XFrameOptions().deny(),
    )


def _document_refusals(app: FastAPI) -> None:
    written = app.openapi

    def openapi() -> dict[str, Any]:
        return app.openapi_schema or add_examples(document_refusals(written()))

    app.openapi = openapi  # type: ignore[method-assign]


def _operation_name(route: APIRoute) -> str:
    return f"{route.tags[0]}_{route.name}" if route.tags else route.name


def _for_whoever_runs_it(metrics: Metrics, settings: Settings) -> APIRouter:
    """The API's own description, for those signed in, and the metrics, for the addresses allowed.

    The application is taken from the request: the framework keeps endpoints for good, and with them what they hold.
    """
    router = APIRouter(route_class=GuardedRoute)

    @router.get("/api/v1/openapi.json", include_in_schema=False)
    def description(request: Request, _person: Anyone) -> JSONResponse:
        return JSONResponse(request.app.openapi())

    page = settings.web_dir / "docs.html"
    if page.is_file():

        @router.get("/docs", include_in_schema=False)
        def reading_page(_person: Anyone) -> HTMLResponse:
            return HTMLResponse(page.read_text("utf-8"))

    @router.get("/metrics", include_in_schema=False)
    def tell_metrics(request: Request) -> Response:
        asking = request.client.host if request.client else ""
        if asking not in settings.metrics_from:
            raise NotAllowed("access.metrics", "metrics are told to the addresses of REEDLING_METRICS_FROM.")
        return Response(metrics.text(), media_type="text/plain; version=0.0.4; charset=utf-8")

    return router


def _unknown_addresses() -> APIRouter:
    """An address under /api or /standins that does not exist is a problem document, not the interface."""
    router = APIRouter()
    methods = ["GET", "POST", "PUT", "PATCH", "DELETE"]

    @router.api_route("/api/{path:path}", methods=methods, include_in_schema=False)
    @router.api_route("/standins/{path:path}", methods=methods, include_in_schema=False)
    def unknown(request: Request) -> None:
        for route in request.app.router.routes:
            if route.matches(request.scope)[0] is Match.PARTIAL:
                raise HTTPException(405, f"{request.method} is not for {request.url.path[:200]}.")
        raise HTTPException(404, f"There is nothing at {request.url.path[:200]}.")

    return router


KEPT_FILE = 1_000_000
"""Bytes up to which a file of the build stays in memory once it was asked for."""


class FilesOfBuild(StaticFiles):
    """Files that never change under their address, sent as the build compressed them."""

    async def get_response(self, path: str, scope: Scope) -> Response:
        """The file, by its compressed twin where there is one and the browser takes it."""
        takes_gzip = "gzip" in Headers(scope=scope).get("accept-encoding", "")
        full, found = self.lookup_path(f"{path}.gz") if takes_gzip else ("", None)
        if found is None:
            response = await super().get_response(path, scope)
            if path.endswith(".gz"):
                # Named for what it is, so that it is not compressed again.
                response.headers["Content-Type"] = "application/gzip"
        else:
            kind = "text/javascript" if path.endswith(".mjs") else mimetypes.guess_type(path)[0]
            headers = {"Content-Encoding": "gzip", "Vary": "Accept-Encoding"}
            if found.st_size <= KEPT_FILE:
                response = Response(_bytes_of(full), media_type=kind, headers=headers)
            else:
                response = FileResponse(full, media_type=kind, headers=headers)
        response.headers["Cache-Control"] = "public, max-age=31536000, immutable"
        return response


@lru_cache(maxsize=400)
def _bytes_of(path: str) -> bytes:
    return Path(path).read_bytes()


def _serve_scripts(app: FastAPI, settings: Settings) -> None:
    """What the build gave names of their own by their content; a page asks for dozens, so that they come first."""
    for name in ("assets", "python", "rules"):
        files = FilesOfBuild(directory=settings.web_dir / name, check_dir=False)
        app.mount(f"/{name}", files, name=name)


def _serve_interface(app: FastAPI, settings: Settings) -> None:
    """Every address that is nothing else is the one page, which routes itself."""
    root = settings.web_dir.resolve()
    files = {p.name: p for p in root.iterdir() if p.is_file() and p.suffix != ".html"}

    @app.get("/{path:path}", include_in_schema=False)
    def interface(path: str) -> FileResponse:
        return FileResponse(files.get(path, root / "index.html"), headers={"Cache-Control": "no-cache"})
