"""Keep choices of jobs by name, and let them go."""

from __future__ import annotations

from collections.abc import Mapping

from reedling.core.evidence.cross_filter import Facet
from reedling.core.evidence.kept_views import MOST_VIEWS, KeptView, named_view
from reedling.core.people import Person
from reedling.errors import Conflict, NotAllowed, NotFound
from reedling.services.context import Context
from reedling.services.shared.current import current_revision


def keep_view(
    context: Context, person: Person, incident_type: str, name: str, choices: Mapping[Facet, tuple[str, ...]]
) -> KeptView:
    """Keep a view of an incident type's jobs, in place of one's own of that name.

    Raises
    ------
    InvalidInput
        As :func:`reedling.core.evidence.kept_views.named_view`.
    Conflict
        ``kept_views.taken`` when somebody else keeps a view of that name; ``kept_views.many`` when there are
        :data:`MOST_VIEWS` already.
    """
    view = named_view(incident_type, name, choices, person.id, context.clock())
    with context.writing() as unit:
        current_revision(unit, incident_type, ("incident type",))
        held = unit.kept_views.of(incident_type)
        same = next((one for one in held if one.name == view.name), None)
        if same is not None and same.person != person.id:
            raise Conflict(
                "kept_views.taken",
                f"{unit.people.names().get(same.person, same.person)} keeps a view of that name.",
                where=view.name,
                hint="Give it another name.",
            )
        if same is None and len(held) >= MOST_VIEWS:
            raise Conflict(
                "kept_views.many", f"{MOST_VIEWS} views are kept already.", hint="Let one of them go first."
            )
        unit.kept_views.put(view)
    return view


def let_view_go(context: Context, person: Person, incident_type: str, name: str) -> None:
    """Keep a view no longer: one's own, or as an approver anybody's.

    Raises
    ------
    NotFound
        ``kept_views.unknown``.
    NotAllowed
        ``kept_views.own`` for somebody else's.
    """
    with context.writing() as unit:
        held = next((one for one in unit.kept_views.of(incident_type) if one.name == name), None)
        if held is None:
            raise NotFound("kept_views.unknown", "no view of that name is kept.", where=name)
        if held.person != person.id and person.role != "approver":
            raise NotAllowed(
                "kept_views.own",
                "only who keeps it, or an approver, lets it go.",
                where=name,
                hint=f"Ask {unit.people.names().get(held.person, held.person)}.",
            )
        unit.kept_views.remove(incident_type, name)
