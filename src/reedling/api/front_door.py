"""What is turned away before any route is looked for: unfit addresses, and changes asked for by other sites."""

from __future__ import annotations

from urllib.parse import urlsplit

from starlette.requests import Request
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from reedling.api.error_mapping import problem_answer, too_large_answer
from reedling.errors import InvalidInput, NotAllowed, NotFound, ReedlingError

MAX_PATH = 2_000
MAX_QUERY = 8_000
_SAFE = ("GET", "HEAD", "OPTIONS")
_NO_STORE = (b"cache-control", b"no-store")


class FrontDoor:
    """ASGI middleware. ``address`` is where people reach the server, when a proxy hides it; may be empty."""

    def __init__(self, app: ASGIApp, address: str = "") -> None:
        self.app = app
        self.host = urlsplit(address).netloc if address else ""

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Let a request in, or turn it away; answers about people and work are not stored by browsers."""
        if scope["type"] != "http":
            await self.app(scope, receive, send)
            return
        refusal = self._refusal(Request(scope))

        told_otherwise = False

        async def answered(message: Message) -> None:
            nonlocal told_otherwise
            if told_otherwise:
                return
            if message["type"] == "http.response.start":
                if _is_bare_refusal(message):
                    # The framework refuses a body that is too large in words of its own.
                    told_otherwise = True
                    await too_large_answer()(scope, receive, _unstored(scope, send))
                    return
            await _unstored(scope, send)(message)

        if refusal is not None:
            await problem_answer(refusal)(scope, receive, answered)
        else:
            await self.app(scope, receive, answered)

    def _refusal(self, request: Request) -> ReedlingError | None:
        path = request.scope["path"]
        if len(path) > MAX_PATH or not all(c.isprintable() for c in path):
            return NotFound("http.404", "There is nothing at this address.")
        if len(request.scope["query_string"]) > MAX_QUERY:
            return InvalidInput(
                "http.query", f"an address may have {MAX_QUERY:,} characters after its question mark."
            )
        if request.method not in _SAFE and not self._same_site(request):
            return NotAllowed(
                "access.origin",
                "this was asked for by a page of another site.",
                hint="Open Reedling itself and do it there.",
            )
        return None

    def _same_site(self, request: Request) -> bool:
        """Whether the page that asks is ours; programs that are no browsers name no page."""
        if request.headers.get("sec-fetch-site", "same-origin") not in ("same-origin", "none"):
            return False
        origin = request.headers.get("origin")
        if origin is None:
            return True
        return urlsplit(origin).netloc in (request.headers.get("host", ""), self.host or None)


def _is_bare_refusal(message: Message) -> bool:
    kinds = [value for name, value in message["headers"] if name.lower() == b"content-type"]
    return bool(message["status"] == 413 and kinds and kinds[0].startswith(b"text/plain"))


def _unstored(scope: Scope, send: Send) -> Send:
    """Send with the word that browsers do not store answers about people and work."""

    async def unstored(message: Message) -> None:
        if message["type"] == "http.response.start" and scope["path"].startswith(("/api", "/standins")):
            if not any(name.lower() == b"cache-control" for name, _ in message["headers"]):
                message["headers"] = [*message["headers"], _NO_STORE]
        await send(message)

    return unstored
