"""The one place that turns errors into answers: RFC 9457 problem JSON, always of one shape."""

from __future__ import annotations

from http import HTTPStatus
from typing import Any

from fastapi import FastAPI, Request
from fastapi.concurrency import run_in_threadpool
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
    TooMany,
    Unavailable,
)
from reedling.exchange.content import problems_of

MEDIA_TYPE = "application/problem+json"
STATUS: dict[type[ReedlingError], int] = {
    InvalidInput: 422,
    NotFound: 404,
    Conflict: 409,
    NotAllowed: 403,
    NotSignedIn: 401,
    TooMany: 429,
    Unavailable: 503,
}
TOLD_PROBLEMS = 50
"""Problems told in one answer; the rest are counted."""
UNREADABLE = {"json.invalid"}
"""Bodies that cannot even be read, answered with 400."""
STALE = {"drafts.stale", "catalogue.stale", "settings.stale"}
"""Conflicts about an outdated tag, answered with 412 as RFC 9110 has it for If-Match."""


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
        return problem_answer(error)

    @app.exception_handler(RequestValidationError)
    async def malformed(_request: Request, error: RequestValidationError) -> JSONResponse:
        return await run_in_threadpool(_malformed, error)

    @app.exception_handler(HTTPException)
    async def http(_request: Request, error: HTTPException) -> JSONResponse:
        if error.status_code == 413:
            return too_large_answer()
        mapped = ReedlingError(f"http.{error.status_code}", str(error.detail))
        mapped.title = HTTPStatus(error.status_code).phrase
        return _answer(error.status_code, mapped, headers=dict(error.headers or {}))


def _malformed(error: RequestValidationError) -> JSONResponse:
    problems = problems_of(list(error.errors()))
    mapped = InvalidInput(
        "request.malformed",
        problems[0].message,
        where=problems[0].path.lstrip("/").replace("body/", "", 1) or "Request",
        hint=problems[0].hint,
        problems=problems,
    )
    return _answer(422, mapped)


def problem_answer(error: ReedlingError) -> JSONResponse:
    """The answer to one of our own errors."""
    headers = {}
    if isinstance(error, TooMany):
        headers["Retry-After"] = str(error.wait_s)
    elif isinstance(error, Unavailable):
        headers["Retry-After"] = "2"
    return _answer(_status_of(error), error, headers)


def problem_of(error: ReedlingError) -> ProblemAnswer:
    """One of our own errors as it is told inside an answer about several things."""
    return ProblemAnswer.model_validate(_body(_status_of(error), error))


def _status_of(error: ReedlingError) -> int:
    if error.code in STALE:
        return 412
    if error.code in UNREADABLE:
        return 400
    return next(s for kind, s in STATUS.items() if isinstance(error, kind))


def too_large_answer() -> JSONResponse:
    """The answer to a body above its route's bound."""
    mapped = ReedlingError(
        "http.413",
        "The request is larger than this address takes.",
        hint="Send less at once; nothing was changed.",
    )
    mapped.title = HTTPStatus(413).phrase
    return _answer(413, mapped)


def unexpected_answer() -> JSONResponse:
    """The answer to an error that nobody foresaw; what it was stands in the log, not here."""
    mapped = ReedlingError(
        "server.unexpected",
        "Something went wrong on our side.",
        hint="What you saved before is safe. Try again; if it happens again, tell whoever runs this server.",
    )
    return _answer(500, mapped)


def _answer(status: int, error: ReedlingError, headers: dict[str, str] | None = None) -> JSONResponse:
    return JSONResponse(_body(status, error), status_code=status, media_type=MEDIA_TYPE, headers=headers)


def _body(status: int, error: ReedlingError) -> dict[str, Any]:
    told = error.problems[:TOLD_PROBLEMS]
    if len(error.problems) > len(told):
        more = len(error.problems) - len(told)
        told = (*told, Problem(code=told[0].code, path="", message=f"There are {more:,} more problems."))
    return {
        "type": f"/errors/{error.code}",
        "title": error.title,
        "status": status,
        "detail": str(error),
        "code": error.code,
        "where": error.where,
        "hint": error.hint,
        "problems": jsonable_encoder(told),
    }


REFUSALS: dict[int | str, dict[str, Any]] = {
    status: {"description": HTTPStatus(status).phrase, "model": ProblemAnswer}
    for status in (400, 401, 403, 404, 409, 412, 413, 422, 428, 429, 503)
}
"""The refusals every route may answer with, for the OpenAPI document."""


def document_refusals(openapi: dict[str, Any]) -> dict[str, Any]:
    """The OpenAPI document with the refusals that each route can give, under their media type (RFC 9457).

    It says how to come in: by the cookie of a session, or by the token of a program.
    """
    openapi["components"]["securitySchemes"] = {
        "session": {"type": "apiKey", "in": "cookie", "name": "reedling_session"},
        "program": {"type": "http", "scheme": "bearer", "description": "The token of a program."},
    }
    for address, path in openapi["paths"].items():
        for method, operation in path.items():
            _keep_possible(address, method, operation)
            for status, response in operation.get("responses", {}).items():
                content = response.get("content", {})
                if int(status) >= 400 and "application/json" in content:
                    content["application/problem+json"] = content.pop("application/json")
    return openapi


OPEN_ADDRESSES = (
    "/api/v1/live",
    "/api/v1/health",
    "/api/v1/sign-in",
    "/api/v1/session",
    "/api/v1/invitations",
)
"""Addresses that nobody need be signed in for."""


def _keep_possible(address: str, method: str, operation: dict[str, Any]) -> None:
    """Take away the refusals that a route cannot give, and say who may come in."""
    is_open = address.startswith(OPEN_ADDRESSES) and (method != "get" or address != "/api/v1/session")
    headers = {p["name"].lower() for p in operation.get("parameters", ()) if p["in"] == "header"}
    named = "{" in address
    impossible = set()
    if not is_open:
        operation["security"] = [{"session": []}, {"program": []}]
    if method == "get":
        impossible |= {"400", "409", "412", "413", "428"}
        if not operation.get("parameters"):
            impossible |= {"422"}
    if "requestBody" not in operation:
        impossible |= {"400", "413"}
    if "if-match" not in headers:
        impossible |= {"412", "428"}
    if not named and method == "get":
        impossible |= {"404"}
    for status in impossible:
        operation["responses"].pop(status, None)
