"""Sign in, sign out, who is signed in, one's own password; whether the server lives and is ready."""

from __future__ import annotations

from datetime import datetime
from functools import partial

from anyio import CapacityLimiter
from anyio.to_thread import run_sync
from fastapi import Request, Response
from pydantic import BaseModel, Field

from reedling.api.access import COOKIE, Anyone, Ctx
from reedling.api.guarded import guarded_router
from reedling.core.people import Person
from reedling.services.actions import sessions as sessions_actions
from reedling.services.views import people as people_views
from reedling.services.views.waiting import Waiting, count_waiting

router = guarded_router("/api/v1", "session")
HASHES_AT_ONCE = 2
"""One password takes a core for some 50 ms and 64 MB: those who guess wait for each other, nobody else does."""
LONGEST_ASKED = 500


class Credentials(BaseModel):
    """Who wants to sign in."""

    username: str = Field(max_length=100)
    password: str = Field(max_length=LONGEST_ASKED)


class SignedIn(BaseModel):
    """Who signed in, and how often a wrong password was tried for them since they did so last."""

    person: Person
    failed_attempts: int
    last_failed_at: datetime | None


class NewPassword(BaseModel):
    """The password one has, and the one to have."""

    old: str = Field(max_length=LONGEST_ASKED)
    new: str = Field(max_length=LONGEST_ASKED)


class ChosenPassword(BaseModel):
    """An invitation, and the password chosen with it."""

    token: str = Field(max_length=200)
    password: str = Field(max_length=LONGEST_ASKED)


class Invited(BaseModel):
    """Whom an invitation is for."""

    name: str
    username: str


class SignInPage(BaseModel):
    """What the sign-in page offers; empty unless this is a demo."""

    people: list[Person]
    password: str
    stand_ins: bool
    """Whether the stand-in camera, scanner and receiver are there."""


class Health(BaseModel):
    """How the server is."""

    status: str


@router.get("/live")
async def live() -> Health:
    """Answers while the server runs, whatever its database does."""
    return Health(status="alive")


@router.get("/health")
def health(context: Ctx) -> Health:
    """Answers when the server is ready: its database can be read. Otherwise it says what is wrong."""
    context.store.check()
    return Health(status="ready")


@router.get("/sign-in")
def sign_in_page(request: Request, context: Ctx) -> SignInPage:
    """The people a demo offers, with the password they share."""
    demo = request.app.state.demo_password
    people = list(people_views.offered_people(context)) if demo else []
    return SignInPage(people=people, password=demo, stand_ins=bool(demo))


@router.post("/session")
async def open_session(
    credentials: Credentials, request: Request, response: Response, context: Ctx
) -> SignedIn:
    """Sign in; the session is kept in a cookie that scripts cannot read."""
    found = await run_sync(
        partial(
            sessions_actions.sign_in,
            context,
            credentials.username,
            credentials.password,
            limits=request.app.state.sign_in_limits,
            address=_address(request),
            dead=request.app.state.dead_passwords,
        ),
        limiter=_hashing(request),
    )
    response.set_cookie(
        COOKIE,
        found.token,
        max_age=sessions_actions.SESSION_DAYS * 86_400,
        httponly=True,
        samesite="strict",
        secure=request.url.scheme == "https",
    )
    return SignedIn(
        person=found.person, failed_attempts=found.failed.count, last_failed_at=found.failed.last_at
    )


@router.get("/session")
def who_is_signed_in(person: Anyone) -> Person:
    """The person signed in."""
    return person


@router.delete("/session", status_code=204)
def close_session(request: Request, response: Response, context: Ctx) -> None:
    """Sign out; does nothing when nobody is signed in."""
    sessions_actions.sign_out(context, request.cookies.get(COOKIE))
    response.delete_cookie(COOKIE)


@router.post("/session/password", status_code=204)
async def change_password(body: NewPassword, request: Request, person: Anyone, context: Ctx) -> None:
    """Choose another password; every other sign-in of one's own ends."""
    await run_sync(
        partial(
            sessions_actions.change_password,
            context,
            person,
            body.old,
            body.new,
            token=request.cookies.get(COOKIE, ""),
            limits=request.app.state.sign_in_limits,
            address=_address(request),
        ),
        limiter=_hashing(request),
    )


@router.get("/invitations/{token}")
def invitation(token: str, context: Ctx) -> Invited:
    """Whom an invitation is for."""
    person = people_views.invited_person(context, token)
    return Invited(name=person.name, username=person.username)


@router.post("/invitations")
async def accept_invitation(body: ChosenPassword, request: Request, context: Ctx) -> Invited:
    """Choose a password with an invitation, which is used up."""
    accept = partial(sessions_actions.accept_invitation, context, body.token, body.password)
    person = await run_sync(accept, limiter=_hashing(request))
    return Invited(name=person.name, username=person.username)


@router.get("/waiting")
def waiting(_person: Anyone, context: Ctx) -> Waiting:
    """Counts of what waits, beside each verb."""
    return count_waiting(context)


def _address(request: Request) -> str:
    return request.client.host if request.client else ""


def _hashing(request: Request) -> CapacityLimiter:
    """So many threads hash passwords at once; made in the running loop, where it belongs."""
    state = request.app.state
    if not hasattr(state, "hashing"):
        state.hashing = CapacityLimiter(HASHES_AT_ONCE)
    limiter = state.hashing
    assert isinstance(limiter, CapacityLimiter)
    return limiter
