"""Who may use a route. Every route says so, by taking one of the people defined here."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated

from fastapi import Depends, Request

from reedling.core.people import ROLES, Person, Role
from reedling.errors import NotAllowed
from reedling.services.actions.programs import admit_program
from reedling.services.context import Context
from reedling.services.views.people import who_is

COOKIE = "reedling_session"


def context_of(request: Request) -> Context:
    """The context the application was built with."""
    context = request.app.state.context
    assert isinstance(context, Context)
    return context


Ctx = Annotated[Context, Depends(context_of)]


@dataclass(frozen=True)
class Allowed:
    """A dependency that lets only these roles in, and gives the person."""

    roles: tuple[Role, ...]
    administrators: bool = False
    """Whether only administrators are let in, whatever their role."""

    def __call__(self, request: Request, context: Ctx) -> Person:
        """The person signed in, if their role may use the route."""
        admitted = getattr(request.state, "person", None)
        return admitted if isinstance(admitted, Person) else self.admit(request, context)

    def admit(self, request: Request, context: Context) -> Person:
        """As calling it, by the token of a program or the cookie of a session."""
        person = _who(request, context)
        if person.role not in self.roles:
            raise NotAllowed(
                "access.role",
                f"this is for {_listed(self.roles)}, and you are signed in as {person.role}.",
                hint="Ask one of them, or sign in as one.",
            )
        if self.administrators and not person.administrator:
            raise NotAllowed(
                "access.role",
                "this is for administrators.",
                hint="Ask one of them.",
            )
        return person


def _who(request: Request, context: Context) -> Person:
    scheme, _, token = request.headers.get("authorization", "").partition(" ")
    if scheme.lower() == "bearer":
        return admit_program(context, token.strip())
    return who_is(context, request.cookies.get(COOKIE))


def _listed(roles: tuple[Role, ...]) -> str:
    names = [f"{r}s" for r in roles]
    return names[0] if len(names) == 1 else ", ".join(names[:-1]) + " and " + names[-1]


Anyone = Annotated[Person, Depends(Allowed(ROLES))]
Writer = Annotated[Person, Depends(Allowed(("engineer", "approver")))]
Approver = Annotated[Person, Depends(Allowed(("approver",)))]
OfficePerson = Annotated[Person, Depends(Allowed(("engineer", "approver", "planner")))]
Planner = Annotated[Person, Depends(Allowed(("planner", "approver")))]
Technician = Annotated[Person, Depends(Allowed(("technician",)))]
Administrator = Annotated[Person, Depends(Allowed(ROLES, administrators=True))]
