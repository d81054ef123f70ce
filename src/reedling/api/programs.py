"""Programs that come in by a token, for administrators: let one in, see them, let one in no longer."""

from __future__ import annotations

from pydantic import BaseModel, Field

from reedling.api.access import Administrator, Ctx
from reedling.api.guarded import guarded_router
from reedling.core.people import PROGRAM_ROLES, ProgramToken, Role
from reedling.services.actions.programs import NewProgram, add_program, revoke_program
from reedling.services.views import people as people_views

router = guarded_router("/api/v1/programs", "programs")


class ProgramToAdd(BaseModel):
    """A program to let in."""

    name: str = Field(max_length=120)
    role: Role


class Programs(BaseModel):
    """Every program that is let in, and the roles one may be given."""

    roles: list[Role]
    programs: list[ProgramToken]


@router.get("")
def programs(_by: Administrator, context: Ctx) -> Programs:
    """Every program that is let in; their tokens are not told again."""
    return Programs(roles=list(PROGRAM_ROLES), programs=list(people_views.programs(context)))


@router.post("", status_code=201)
def add(new: ProgramToAdd, by: Administrator, context: Ctx) -> NewProgram:
    """Let a program in. Its token is in this answer and nowhere else."""
    return add_program(context, by, new.name, new.role)


@router.delete("/{program_id}", status_code=204)
def revoke(program_id: str, by: Administrator, context: Ctx) -> None:
    """Let a program in no longer."""
    revoke_program(context, by, program_id)
