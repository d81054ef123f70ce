"""What is told of every request: one line in the log, the metrics, an identity in the answer.

An error that nobody foresaw is logged here, once, with its trace; SQL parameters, bodies, cookies
and passwords are never part of it.
"""

from __future__ import annotations

import re
import secrets
import sys
import time
from typing import Any, Literal

import structlog
from prometheus_client import CollectorRegistry, Counter, Histogram, generate_latest
from starlette.requests import ClientDisconnect, Request
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from reedling.api.error_mapping import unexpected_answer

REQUEST_ID = "X-Request-ID"
METHODS = frozenset({"GET", "HEAD", "OPTIONS", "POST", "PUT", "PATCH", "DELETE"})
"""Methods that are counted each; whatever else is sent counts together."""
_GIVEN_ID = re.compile(r"[A-Za-z0-9-]{8,64}")
_log = structlog.get_logger("reedling")


def configure_logs(form: Literal["json", "text"]) -> None:
    """Write the log to standard error: a JSON object on each line, or text to be read while developing."""
    last: Any = (
        structlog.dev.ConsoleRenderer(colors=False)
        if form == "text"
        else structlog.processors.JSONRenderer(ensure_ascii=False)
    )
    structlog.configure(
        processors=[
            structlog.contextvars.merge_contextvars,
            structlog.processors.add_log_level,
            structlog.processors.TimeStamper(fmt="iso", utc=True),
            structlog.processors.format_exc_info,
            last,
        ],
        logger_factory=structlog.PrintLoggerFactory(sys.stderr),
        cache_logger_on_first_use=False,
    )


class Metrics:
    """Counts and times of requests by route, in the Prometheus text format."""

    def __init__(self) -> None:
        self.registry = CollectorRegistry()
        labels = ("method", "route", "status")
        self.requests = Counter("reedling_requests", "Requests answered.", labels, registry=self.registry)
        self.seconds = Histogram(
            "reedling_request_seconds", "Time to answer.", labels[:2], registry=self.registry
        )
        self.errors = Counter("reedling_errors", "Errors nobody foresaw.", registry=self.registry)

    def text(self) -> bytes:
        """The metrics as they stand."""
        return generate_latest(self.registry)


class ObservedRequests:
    """ASGI middleware: gives each request an identity, logs it, counts it, and answers for it if it breaks."""

    def __init__(self, app: ASGIApp, metrics: Metrics) -> None:
        self.app = app
        self.metrics = metrics

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Serve one request."""
        if scope["type"] != "http":
            await self.app(scope, receive, send)
            return
        request = Request(scope)
        given = request.headers.get(REQUEST_ID, "")
        identity = given if _GIVEN_ID.fullmatch(given) else secrets.token_hex(8)
        started = time.perf_counter()
        status = 0

        async def told(message: Message) -> None:
            nonlocal status
            if message["type"] == "http.response.start":
                status = message["status"]
                message["headers"] = [*message["headers"], (REQUEST_ID.lower().encode(), identity.encode())]
            await send(message)

        with structlog.contextvars.bound_contextvars(request=identity):
            try:
                await self.app(scope, receive, told)
            except ClientDisconnect:
                pass  # Who asked has gone: nobody to answer, and nothing went wrong here. It is told with status 0.
            except Exception as error:
                self.metrics.errors.inc()
                _log.error("unexpected error", route=_route(scope), exc_info=error)
                if status:
                    raise
                await unexpected_answer()(scope, receive, told)
            finally:
                self._tell(request, status, time.perf_counter() - started)

    def _tell(self, request: Request, status: int, seconds: float) -> None:
        route = _route(request.scope)
        method = request.method if request.method in METHODS else "other"
        self.metrics.requests.labels(method, route, str(status)).inc()
        self.metrics.seconds.labels(method, route).observe(seconds)
        person = getattr(request.state, "person", None)
        _log.info(
            "request",
            method=method,
            route=route,
            status=status,
            milliseconds=round(seconds * 1000, 1),
            person=person.id if person else None,
        )


def _route(scope: Scope) -> str:
    """The route by its pattern, so that neither identities nor typed addresses get into log and labels."""
    route = scope.get("route")
    path = getattr(route, "path", None)
    return path if isinstance(path, str) else "none"
