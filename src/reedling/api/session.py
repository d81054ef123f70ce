"""Sign in, sign out, who is signed in."""

from __future__ import annotations

from fastapi import APIRouter, Request, Response
from pydantic import BaseModel

from reedling.api.access import COOKIE, Anyone, Ctx
from reedling.services import sign_in as service
from reedling.services.count_waiting import Waiting, count_waiting
from reedling.store.records import Person

router = APIRouter(prefix="/api", tags=["session"])


class Credentials(BaseModel):
    """Who wants to sign in."""

    username: str
    password: str


class SignInPage(BaseModel):
    """What the sign-in page offers; empty unless this is a demo."""

    people: list[Person]
    password: str


class Health(BaseModel):
    """Ready to serve."""

    status: str


@router.get("/health")
def health() -> Health:
    """Answers when the server is ready."""
    return Health(status="ready")


@router.get("/sign-in")
def sign_in_page(request: Request, context: Ctx) -> SignInPage:
    """The people a demo offers, with the password they share."""
    demo = request.app.state.demo_password
    return SignInPage(people=list(service.offered_people(context)) if demo else [], password=demo)


@router.post("/session")
def open_session(credentials: Credentials, request: Request, response: Response, context: Ctx) -> Person:
    """Sign in; the session is kept in a cookie that scripts cannot read."""
    person, token = service.sign_in(context, credentials.username, credentials.password)
    response.set_cookie(
        COOKIE,
        token,
        max_age=service.SESSION_DAYS * 86_400,
        httponly=True,
        samesite="strict",
        secure=request.url.scheme == "https",
    )
    return person


@router.get("/session")
def who_is_signed_in(person: Anyone) -> Person:
    """The person signed in."""
    return person


@router.delete("/session", status_code=204)
def close_session(request: Request, response: Response, context: Ctx) -> None:
    """Sign out; does nothing when nobody is signed in."""
    service.sign_out(context, request.cookies.get(COOKIE))
    response.delete_cookie(COOKIE)


@router.get("/waiting")
def waiting(_person: Anyone, context: Ctx) -> Waiting:
    """Counts of what waits, beside each verb."""
    return count_waiting(context)
