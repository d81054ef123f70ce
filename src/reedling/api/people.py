"""People, for administrators: invite, change, reset, end sign-ins, remove."""

from __future__ import annotations

from pydantic import BaseModel, Field

from reedling.api.access import Administrator, Ctx
from reedling.api.guarded import guarded_router
from reedling.core.people import Person, Role
from reedling.services.actions import people as people_actions
from reedling.services.actions.people import Invitation, PersonFacts
from reedling.services.views import people as people_views
from reedling.services.views.people import PersonLine

router = guarded_router("/api/v1/people", "people")


class PersonToWrite(BaseModel):
    """What is said of a person."""

    name: str = Field(max_length=120)
    role: Role
    district: str = Field(default="", max_length=120)
    administrator: bool = False

    def facts(self) -> PersonFacts:
        """The same as the services take it."""
        return PersonFacts(
            name=self.name, role=self.role, district=self.district, administrator=self.administrator
        )


class PersonToInvite(PersonToWrite):
    """Somebody new."""

    username: str = Field(max_length=40)


class Ended(BaseModel):
    """How many sign-ins ended."""

    n_sessions: int


@router.get("")
def people(_person: Administrator, context: Ctx) -> list[PersonLine]:
    """Everybody by name, those removed last."""
    return list(people_views.people_page(context))


@router.post("", status_code=201)
def invite(body: PersonToInvite, person: Administrator, context: Ctx) -> Invitation:
    """Add somebody; they choose a password with the invitation."""
    return people_actions.invite(context, person, body.username, body.facts())


@router.put("/{person_id}")
def change(person_id: str, body: PersonToWrite, person: Administrator, context: Ctx) -> Person:
    """Change what somebody is called, their role or district; it holds from their next request on."""
    return people_actions.change_person(context, person, person_id, body.facts())


@router.post("/{person_id}/reset")
def reset(person_id: str, person: Administrator, context: Ctx) -> Invitation:
    """Take a password away and end the sign-ins; gives an invitation to choose another."""
    return people_actions.reset_password(context, person, person_id)


@router.post("/{person_id}/end-sessions")
def end_sessions(person_id: str, person: Administrator, context: Ctx) -> Ended:
    """End somebody's sign-ins on every device."""
    return Ended(n_sessions=people_actions.end_sessions(context, person, person_id))


@router.delete("/{person_id}")
def remove(person_id: str, person: Administrator, context: Ctx) -> Person:
    """Let somebody in no longer; records keep the name."""
    return people_actions.remove_person(context, person, person_id)


@router.post("/{person_id}/let-in")
def let_in(person_id: str, person: Administrator, context: Ctx) -> Invitation:
    """Let somebody in again who was removed."""
    return people_actions.let_in_again(context, person, person_id)
