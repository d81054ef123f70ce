"""How a route takes a request in: who first, then how much, then what, off the event loop.

A person is let in before a byte of the body is read; the body is bounded by route, read as clean
data and validated in a worker thread. What FastAPI then validates is validated already.
"""

from __future__ import annotations

from collections.abc import Callable, Coroutine
from typing import Any, TypeVar

from fastapi import APIRouter, Request, Response
from fastapi.concurrency import run_in_threadpool
from fastapi.dependencies.models import Dependant
from fastapi.exceptions import RequestValidationError
from fastapi.params import Form
from fastapi.routing import APIRoute

from reedling.api.access import Allowed, context_of
from reedling.api.turns import in_turn
from reedling.exchange.json_text import read_json
from reedling.exchange.text import MAX_TEXT, clean_text

SMALL_BODY = 256_000
"""Bytes of a body, unless its route says otherwise."""
DOCUMENT_BODY = 4_000_000
"""Bytes of a body that may hold a whole document or sheet."""
PICTURE_BODY = 12_100_000
"""Bytes of a body that holds a picture, with what the form around it takes."""
MAX_PARAMETER = 2_000
"""Characters of one part of an address or of a header that a route reads."""


Endpoint = TypeVar("Endpoint", bound=Callable[..., Any])


class GuardedRoute(APIRoute):
    """A route that reads nothing of somebody who may not use it."""

    def get_route_handler(self) -> Callable[[Request], Coroutine[Any, Any, Response]]:
        """FastAPI's handler behind the guard."""
        handle = super().get_route_handler()
        allowed = allowed_of(self.dependant)
        takes_json = self.body_field is not None and not isinstance(self.body_field.field_info, Form)

        async def guarded(request: Request) -> Response:
            if allowed is not None:
                request.state.person = await run_in_threadpool(allowed.admit, request, context_of(request))
            _check_parameters(request)
            if takes_json and _is_json(request):
                body = await request.body()
                if body:
                    request._json = await run_in_threadpool(self._read, body)
            elif self.body_field is not None and not takes_json:
                await request.form()  # A slow line has no turn; what is read is kept for the handler.
            if allowed is None:
                return await handle(request)
            async with in_turn():
                return await handle(request)

        return guarded

    def _read(self, body: bytes) -> Any:
        assert self.body_field is not None
        long_texts = getattr(self.endpoint, "takes_sheets", False)
        data = read_json(body, where="Request", limit=DOCUMENT_BODY if long_texts else MAX_TEXT)
        value, errors = self.body_field.validate(data, {}, loc=("body",))
        if errors:
            raise RequestValidationError(errors)
        return value


def takes_sheets(endpoint: Endpoint) -> Endpoint:
    """Mark a route in whose body one text may be a whole sheet; elsewhere texts are bounded much lower."""
    endpoint.takes_sheets = True  # type: ignore[attr-defined]
    return endpoint


def guarded_router(prefix: str, tag: str) -> APIRouter:
    """A router whose routes are guarded."""
    return APIRouter(prefix=prefix, tags=[tag], route_class=GuardedRoute)


def allowed_of(dependant: Dependant) -> Allowed | None:
    """Who may use a route, as one of its parameters says; nothing where none does."""
    for inner in dependant.dependencies:
        found = inner.call if isinstance(inner.call, Allowed) else allowed_of(inner)
        if found is not None:
            return found
    return None


def _is_json(request: Request) -> bool:
    kind = request.headers.get("content-type", "").split(";")[0].strip().lower()
    return kind == "application/json" or (kind.startswith("application/") and kind.endswith("+json"))


def _check_parameters(request: Request) -> None:
    for name, value in (*request.path_params.items(), *request.query_params.multi_items()):
        clean_text(str(value), where=f"Address, {name[:60]}", limit=MAX_PARAMETER)
    if_match = request.headers.get("if-match")
    if if_match:
        clean_text(if_match, where="If-Match", limit=200)
