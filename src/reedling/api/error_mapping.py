"""The one place that turns errors into answers: RFC 9457 problem JSON, always of one shape."""

from __future__ import annotations

import logging
from http import HTTPStatus
from typing import Any

from fastapi import FastAPI, Request
from fastapi.encoders import jsonable_encoder
from fastapi.exceptions import RequestValidationError
from fastapi.responses import JSONResponse
from pydantic import BaseModel
from starlette.exceptions import HTTPException

from reedling.errors import (
    Conflict,
    InvalidInput,
    NotAllowed,
    NotFound,
    NotSignedIn,
    Problem,
    ReedlingError,
)
from reedling.exchange.content import problems_of

MEDIA_TYPE = "application/problem+json"
STATUS: dict[type[ReedlingError], int] = {
    InvalidInput: 422,
    NotFound: 404,
    Conflict: 409,
    NotAllowed: 403,
    NotSignedIn: 401,
}
STALE = {"drafts.stale", "catalogue.stale"}
"""Conflicts about an outdated tag, answered with 412 as RFC 9110 has it for If-Match."""

_log = logging.getLogger("reedling")


class ProblemAnswer(BaseModel):
    """What every refused request is answered with."""

    type: str
    title: str
    status: int
    detail: str
    code: str
    where: str
    hint: str
    problems: list[Problem]


def add_error_mapping(app: FastAPI) -> None:
    """Answer every error of the application in the one shape."""

    @app.exception_handler(ReedlingError)
    async def ours(_request: Request, error: ReedlingError) -> JSONResponse:
        status = (
            412 if error.code in STALE else next(s for kind, s in STATUS.items() if isinstance(error, kind))
        )
        return _answer(status, error)

    @app.exception_handler(RequestValidationError)
    async def malformed(_request: Request, error: RequestValidationError) -> JSONResponse:
        problems = problems_of(list(error.errors()))
        undecodable = any(e["type"] == "json_invalid" for e in error.errors())
        mapped = InvalidInput(
            "request.malformed",
            problems[0].message,
            where=problems[0].path.lstrip("/").replace("body/", "", 1) or "Request",
            hint=problems[0].hint,
            problems=problems,
        )
        return _answer(400 if undecodable else 422, mapped)

    @app.exception_handler(HTTPException)
    async def http(_request: Request, error: HTTPException) -> JSONResponse:
        mapped = ReedlingError(f"http.{error.status_code}", str(error.detail))
        mapped.title = HTTPStatus(error.status_code).phrase
        return _answer(error.status_code, mapped, headers=dict(error.headers or {}))

    @app.exception_handler(Exception)
    async def unexpected(request: Request, error: Exception) -> JSONResponse:
        _log.exception("unexpected error at %s %s", request.method, request.url.path, exc_info=error)
        mapped = ReedlingError(
            "server.unexpected",
            "Something went wrong on our side.",
            hint="What you saved before is safe. Try again; if it happens again, tell whoever runs this server.",
        )
        return _answer(500, mapped)


def _answer(status: int, error: ReedlingError, headers: dict[str, str] | None = None) -> JSONResponse:
    body: dict[str, Any] = {
        "type": "about:blank",
        "title": error.title,
        "status": status,
        "detail": str(error),
        "code": error.code,
        "where": error.where,
        "hint": error.hint,
        "problems": jsonable_encoder(error.problems),
    }
    return JSONResponse(body, status_code=status, media_type=MEDIA_TYPE, headers=headers)


REFUSALS: dict[int | str, dict[str, Any]] = {
    status: {"description": HTTPStatus(status).phrase, "model": ProblemAnswer}
    for status in (400, 401, 403, 404, 409, 412, 422, 428)
}
"""The refusals every route may answer with, for the OpenAPI document."""


def document_refusals(openapi: dict[str, Any]) -> dict[str, Any]:
    """The OpenAPI document with refusals under the media type they are answered with (RFC 9457)."""
    for path in openapi["paths"].values():
        for operation in path.values():
            for status, response in operation.get("responses", {}).items():
                content = response.get("content", {})
                if int(status) >= 400 and "application/json" in content:
                    content["application/problem+json"] = content.pop("application/json")
    return openapi
