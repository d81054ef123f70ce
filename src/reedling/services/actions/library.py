"""Take a library pack in: whole, or not at all."""

from __future__ import annotations

import dataclasses
from collections.abc import Iterator, Mapping
from dataclasses import dataclass, replace
from datetime import date, datetime
from typing import get_args

from reedling.core.checking.draft import draft_defects, errors_of
from reedling.core.faultguide.guide_soundness import KnownToGuides, guide_problems
from reedling.core.faultguide.links import GuideLinks
from reedling.core.guidance.catalogue import Catalogue
from reedling.core.guidance.catalogue_soundness import catalogue_problems
from reedling.core.guidance.decision_tables import DecisionTable
from reedling.core.guidance.documents import UNRELEASED_STATES, Content, Revision
from reedling.core.guidance.incident_type_soundness import incident_type_problems
from reedling.core.guidance.incident_types import IncidentType
from reedling.core.guidance.plans import Plan
from reedling.core.guidance.references import ListName
from reedling.core.guidance.reuse import SharedPlans
from reedling.core.guidance.revisions import DocumentKind
from reedling.core.guidance.written_guides import WrittenGuide
from reedling.core.matching.table_soundness import Known, table_problems
from reedling.errors import InvalidInput, Problem
from reedling.exchange.content import dump_value
from reedling.exchange.library_pack import LibraryPack, PackedRevision
from reedling.services.actions.summaries import note_all_returns
from reedling.services.context import Context
from reedling.services.shared.guides import known_to_guides
from reedling.services.shared.inspecting import describe_illustration
from reedling.services.shared.kept_changes import keep_change
from reedling.services.shared.known_documents import known_to_tables
from reedling.services.shared.lists import keep_list_changes
from reedling.services.shared.uses import shared_in_force
from reedling.services.views.pack_checks import (
    IN_FORCE,
    known_guides_in_pack,
    known_in_pack,
    released_in,
    shared_in_pack,
)
from reedling.store.unit import Unit


@dataclass(frozen=True, slots=True, kw_only=True)
class ImportReport:
    """What an import did, counted in revisions."""

    n_added: int
    n_changed: int
    n_same: int


def import_library(context: Context, pack: LibraryPack) -> ImportReport:
    """Bring a pack in. Entries of the catalogue are added or replaced by code, never removed.

    Raises
    ------
    InvalidInput
        ``library.refused`` with every problem: a released revision that differs from the one
        held here, a released plan that is unsound, a kind that changed. Nothing is imported.
    """
    now = context.clock()
    pictures = [
        (describe_illustration(data, title=picture.title, at=now, person=None), data)
        for picture in pack.illustrations
        if (data := picture.content())
    ]

    def prepare(unit: Unit) -> Catalogue:
        merged = _merge(unit.catalogues.get(), pack.catalogue)
        problems = _problems(unit, pack, merged, now.date())
        if problems:
            raise InvalidInput(
                "library.refused",
                problems[0].message if len(problems) == 1 else f"{len(problems)} things stand in the way.",
                where=problems[0].path,
                hint="Nothing was imported.",
                problems=problems,
            )
        return merged

    def write(unit: Unit, merged: Catalogue) -> ImportReport:
        for made, data in pictures:
            if unit.illustrations.get(made.id) is None:
                unit.illustrations.add(made, data)
        _write_lists(context, unit, merged)
        done = [_bring_in(unit, head, content, now) for head, content in pack.revisions]
        for head, _ in pack.revisions:
            prefix, _, number = head.document.partition("-")
            if number.isdigit():
                unit.reserve_number(prefix, int(number))
        report = ImportReport(
            n_added=done.count("added"), n_changed=done.count("changed"), n_same=done.count("same")
        )
        note = f"imported: {report.n_added} revisions added, {report.n_changed} changed"
        keep_change(context, unit, None, "list", "library/import", "changed", note=note)
        return report

    report = context.change(prepare, write)
    note_all_returns(context)
    return report


def _problems(unit: Unit, pack: LibraryPack, merged: Catalogue, today: date) -> list[Problem]:
    """Everything that stands in the way of a pack whose lists are merged already."""
    shared = shared_in_pack(pack.revisions, IN_FORCE)
    held = shared_in_force(unit)
    shared = SharedPlans(
        standards={**held.standards, **shared.standards}, forms={**held.forms, **shared.forms}
    )
    here, brought = known_to_tables(unit), known_in_pack(pack)
    known = Known(
        documents={**here.documents, **brought.documents},
        incident_types={**here.incident_types, **brought.incident_types},
    )
    in_force = _in_force(unit, pack)
    problems = [
        p
        for head, content in pack.revisions
        for p in _refusals(unit, merged, shared, known, today, head, content, in_force, pack)
    ]
    problems += _left_without(unit, pack, in_force)
    # What the pack's own lists contradict is told too: merging would only hide it.
    lists = dict.fromkeys((*catalogue_problems(merged), *_codes_twice(pack, merged)))
    return problems + [replace(p, path=f"catalogue{p.path}") for p in lists]


def _codes_twice(pack: LibraryPack, merged: Catalogue) -> list[Problem]:
    """Codes that a list of the pack has twice; what refers to nothing is looked at once all is merged."""
    known = set(catalogue_problems(merged))
    return [p for p in catalogue_problems(pack.catalogue) if p not in known and p.code == "catalogue.code"]


def _write_lists(context: Context, unit: Unit, merged: Catalogue) -> None:
    """Write the lists, and keep what changed in each."""
    before, after = dump_value(unit.catalogues.get()), dump_value(merged)
    unit.catalogues.replace(merged)
    for name in get_args(ListName):
        keep_list_changes(context, unit, None, name, before[name], after[name], note="import")


def _merge(held: Catalogue, brought: Catalogue) -> Catalogue:
    lists = {}
    for field in dataclasses.fields(Catalogue):
        entries = {e.code: e for e in getattr(held, field.name)}
        entries.update({e.code: e for e in getattr(brought, field.name)})
        lists[field.name] = tuple(entries.values())
    return Catalogue(**lists)


def _refusals(
    unit: Unit,
    catalogue: Catalogue,
    shared: SharedPlans,
    known: Known,
    today: date,
    head: PackedRevision,
    content: Content,
    in_force: Mapping[DocumentKind, frozenset[str]],
    pack: LibraryPack,
) -> list[Problem]:
    path = f"documents/{head.document}/{head.letter}.json"
    kind = unit.documents.kind(head.document)
    if kind is not None and kind != head.kind:
        return [Problem(code="library.kind", path=path, message=f"{head.document} is a {kind} here.")]
    held = unit.documents.revision(head.document, head.letter)
    if head.document in unit.trials.under_way():
        if _is_here(held, head, content):
            return []
        return [
            Problem(
                code="library.on_trial",
                path=path,
                message=f"a revision of {head.document} is on trial here, and orders are held against each other by it.",
                hint="End the trial first.",
            )
        ]
    final = held is not None and held.state not in UNRELEASED_STATES
    if held is not None and final and held.content != content:
        return [
            Problem(
                code="library.released",
                path=path,
                message=f"{head.document} {head.letter} was released here with other content, "
                "and a released revision never changes.",
                hint="Give the change the next letter.",
            )
        ]
    if held is not None and final and head.note != held.note:
        return [
            Problem(
                code="library.released",
                path=path,
                message=f"{head.document} {head.letter} was released here with another note, "
                "and a released revision never changes.",
            )
        ]
    if held is not None and held.state in ("Superseded", "Withdrawn") and head.state == "Released":
        return [
            Problem(
                code="library.released",
                path=path,
                message=f"{head.document} {head.letter} is {held.state.lower()} here, and does not come back "
                "into force.",
                hint="Release it under the next letter.",
            )
        ]
    if held is not None and final and head.state in UNRELEASED_STATES:
        return [Problem(code="library.released", path=path, message="it is already released here.")]
    open_here = unit.documents.open_revision(head.document)
    if held is None and open_here is not None and head.state in UNRELEASED_STATES:
        return [
            Problem(
                code="library.open",
                path=path,
                message=f"{head.document} already has {open_here.letter} open.",
                hint="Release or discard it first.",
            )
        ]
    if head.state == "Released" and isinstance(content, Plan):
        errors = errors_of(draft_defects(content, catalogue, kind=head.kind, shared=shared, today=today))
        return [replace(d.problem, path=f"{path}#/content{d.problem.path}") for d in errors]
    if head.state == "Released" and isinstance(content, DecisionTable):
        found = table_problems(content, catalogue, known)
        return [replace(p, path=f"{path}#/content{p.path}") for p in found if p.severity == "error"]
    if head.state == "Released" and isinstance(content, WrittenGuide):
        guide_known = _known_to_guide(unit, pack, catalogue, content, head.document)
        wrong = guide_problems(content, guide_known)
        return [replace(p, path=f"{path}#/content{p.path}") for p in wrong if p.severity == "error"]
    if head.state == "Released" and isinstance(content, IncidentType):
        named = incident_type_problems(content, in_force["plan"], in_force["form"], catalogue)
        return [replace(p, path=f"{path}#/content{p.path}") for p in named if p.severity == "error"]
    return []


def _known_to_guide(
    unit: Unit, pack: LibraryPack, catalogue: Catalogue, guide: WrittenGuide, document: str
) -> KnownToGuides:
    """What a fault guide may name once the pack is in."""
    here = known_to_guides(unit, guide, document)
    brought = known_guides_in_pack(pack, guide, IN_FORCE)
    return KnownToGuides(
        causes={c.code: c.label for c in catalogue.causes},
        remedies={r.code: r.label for r in catalogue.remedies},
        incident_types=frozenset((*here.incident_types, *brought.incident_types)),
        links=GuideLinks(
            looks={**here.links.looks, **brought.links.looks},
            steps={**here.links.steps, **brought.links.steps},
        ),
        taken=here.taken,
    )


def _in_force(unit: Unit, pack: LibraryPack) -> Mapping[DocumentKind, frozenset[str]]:
    """The plans and forms that are in force once the pack is in; it may take some out of force."""
    kinds: tuple[DocumentKind, ...] = ("plan", "form")
    ended = {(h.document, h.letter) for h, _ in pack.revisions if h.state in ("Superseded", "Withdrawn")}
    return {
        kind: frozenset(released_in(pack, kind))
        | frozenset(
            r.document for r in unit.documents.all_released(kind) if (r.document, r.letter) not in ended
        )
        for kind in kinds
    }


def _left_without(
    unit: Unit, pack: LibraryPack, in_force: Mapping[DocumentKind, frozenset[str]]
) -> Iterator[Problem]:
    """Incident types in force here that would name what the pack takes out of force."""
    # An incident type that the pack brings, or takes out of force itself, is none of these.
    brought = {h.document for h, _ in pack.revisions if h.state == "Released"}
    ended = {(h.document, h.letter) for h, _ in pack.revisions if h.state in ("Superseded", "Withdrawn")}
    here = {r.document for kind in in_force for r in unit.documents.all_released(kind)}
    for held in unit.documents.all_released("incident type"):
        if held.document in brought or (held.document, held.letter) in ended:
            continue
        if not isinstance(held.content, IncidentType):
            continue
        gone = [d for d in held.content.plans if d in here and d not in in_force["plan"]]
        gone += [d for d in held.content.forms if d in here and d not in in_force["form"]]
        for document in gone:
            yield Problem(
                code="library.in_use",
                path=f"documents/{document}",
                message=f"{held.document} is in force here and names {document}, which would not be.",
                hint=f"Bring a revision of {held.document} without it.",
            )


def _is_here(held: Revision | None, head: PackedRevision, content: Content) -> bool:
    """Whether a revision is here as the pack has it; one on trial here is in review in a pack."""
    if held is None:
        return False
    state = "In review" if held.state == "On trial" else held.state
    return (held.content, state, held.note) == (content, head.state, head.note)


def _bring_in(unit: Unit, head: PackedRevision, content: Content, now: datetime) -> str:
    if unit.documents.kind(head.document) is None:
        unit.documents.add(head.document, head.kind, now)
    held = unit.documents.revision(head.document, head.letter)
    if held is None:
        if head.state == "Released":
            _supersede(unit, head.document)
        unit.documents.add_revision(
            Revision(
                document=head.document,
                kind=head.kind,
                letter=head.letter,
                state=head.state,
                version=1,
                content=content,
                created_at=now,
                changed_at=now,
                released_at=_released_at(head, now),
                note=head.note,
            )
        )
        return "added"
    if _is_here(held, head, content):
        return "same"
    if head.state == "Released" and held.state != "Released":
        _supersede(unit, head.document)
    changed = replace(
        held,
        content=content,
        state=head.state,
        note=head.note,
        version=held.version + (held.state in UNRELEASED_STATES),
        released_at=held.released_at or _released_at(head, now),
        changed_at=now,
    )
    unit.documents.save(changed)
    return "changed"


def _released_at(head: PackedRevision, now: datetime) -> datetime | None:
    """When it was released: as the pack says, else now for one that arrives in force."""
    return head.released_at or (now if head.state == "Released" else None)


def _supersede(unit: Unit, document: str) -> None:
    older = unit.documents.released(document)
    if older is not None:
        unit.documents.save(replace(older, state="Superseded"))
