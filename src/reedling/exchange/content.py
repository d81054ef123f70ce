"""Authored values as JSON: validation on the way in, plain data on the way out.

The dataclasses of ``reedling.core.guidance`` are the one definition; Pydantic reads them here,
at the edge. Unknown keys are refused, and every problem is reported with its JSON pointer.
"""

from __future__ import annotations

import dataclasses
import difflib
import typing
from collections.abc import Iterator, Mapping
from functools import cache
from typing import Any, TypeVar

from pydantic import ConfigDict, TypeAdapter, ValidationError
from pydantic_core import ErrorDetails

from reedling.core.guidance.catalogue import Catalogue
from reedling.core.guidance.decision_tables import DecisionTable
from reedling.core.guidance.documents import Content
from reedling.core.guidance.editing import PlanEdit
from reedling.core.guidance.incident_types import IncidentType, OrderTerms
from reedling.core.guidance.plans import Plan
from reedling.core.guidance.revisions import PLAN_KINDS, DocumentKind
from reedling.core.guidance.written_guides import WrittenGuide
from reedling.core.matching.order_facts import OrderFacts
from reedling.core.matching.table_editing import TableEdit
from reedling.core.register.assets import Asset, Site
from reedling.core.runsheet.events import FieldEvent, PictureMark
from reedling.core.runsheet.job_state import Job
from reedling.core.runsheet.lines import Runsheet
from reedling.errors import InvalidInput, Problem

T = TypeVar("T")


def _forbid_unknown_keys(annotation: Any, seen: set[type]) -> None:
    """Tell Pydantic to refuse unknown keys in this dataclass and all it is made of.

    Pydantic reads the setting from the class; it is put there from here so that the core need
    not know of Pydantic.
    """
    for argument in typing.get_args(annotation):
        _forbid_unknown_keys(argument, seen)
    if isinstance(annotation, type) and dataclasses.is_dataclass(annotation) and annotation not in seen:
        seen.add(annotation)
        config = ConfigDict(extra="forbid", json_schema_serialization_defaults_required=True)
        setattr(annotation, "__pydantic_config__", config)  # noqa: B010
        for hint in typing.get_type_hints(annotation).values():
            _forbid_unknown_keys(hint, seen)


_strict: set[type] = set()
for _root in (
    IncidentType,
    Plan,
    DecisionTable,
    WrittenGuide,
    Catalogue,
    Runsheet,
    PlanEdit,
    TableEdit,
    FieldEvent,
    PictureMark,
    Job,
    OrderFacts,
    OrderTerms,
    Site,
    Asset,
):
    _forbid_unknown_keys(_root, _strict)

PLANS: TypeAdapter[Plan] = TypeAdapter(Plan)
INCIDENT_TYPES: TypeAdapter[IncidentType] = TypeAdapter(IncidentType)
FAULT_GUIDES: TypeAdapter[WrittenGuide] = TypeAdapter(WrittenGuide)
DECISION_TABLES: TypeAdapter[DecisionTable] = TypeAdapter(DecisionTable)
ORDER_FACTS: TypeAdapter[OrderFacts] = TypeAdapter(OrderFacts)
ORDER_TERMS: TypeAdapter[OrderTerms] = TypeAdapter(OrderTerms)
CATALOGUES: TypeAdapter[Catalogue] = TypeAdapter(Catalogue)
SITES: TypeAdapter[Site] = TypeAdapter(Site)
ASSETS: TypeAdapter[Asset] = TypeAdapter(Asset)
RUNSHEETS: TypeAdapter[Runsheet] = TypeAdapter(Runsheet)
EVENTS: TypeAdapter[FieldEvent] = TypeAdapter(FieldEvent)
MARKS: TypeAdapter[tuple[PictureMark, ...]] = TypeAdapter(tuple[PictureMark, ...])

MAX_ERRORS = 2_000
"""Errors of one piece of data that are turned into problems; whoever has more mends these first."""

_adapters: dict[type[Any], TypeAdapter[Any]] = {}
"""One adapter per class; building one takes milliseconds."""

_CONTENT: Mapping[DocumentKind, TypeAdapter[Any]] = {
    "incident type": INCIDENT_TYPES,
    "decision table": DECISION_TABLES,
    "fault guide": FAULT_GUIDES,
    **dict.fromkeys(PLAN_KINDS, PLANS),
}


def load_content(kind: DocumentKind, data: object, *, where: str) -> Content:
    """The authored value that the data spells out.

    Raises
    ------
    InvalidInput
        ``content.invalid`` with one problem per fault, each beside its JSON pointer.
    """
    value = load_value(_CONTENT[kind], data, where=where)
    assert isinstance(value, IncidentType | Plan | DecisionTable | WrittenGuide)
    return value


def load_value(adapter: TypeAdapter[T], data: object, *, where: str) -> T:
    """Any value from its data; as :func:`load_content`."""
    try:
        return adapter.validate_python(data, strict=False)
    except ValidationError as error:
        problems = problems_of(error.errors(include_url=False))
        raise InvalidInput(
            "content.invalid",
            problems[0].message if len(problems) == 1 else f"{len(problems)} things do not fit.",
            where=f"{where}, {problems[0].path}" if problems[0].path else where,
            hint=problems[0].hint,
            problems=problems,
        ) from None


def dump_value(value: Any) -> Any:
    """Plain data (dicts, lists, strings, numbers) for an authored value, ready for JSON."""
    return _adapter_of(value).dump_python(value, mode="json")


def dump_json(value: Any) -> str:
    """An authored value as JSON."""
    return _adapter_of(value).dump_json(value).decode()


def _adapter_of(value: Any) -> TypeAdapter[Any]:
    kind = type(value)
    adapter = _adapters.get(kind)
    if adapter is None:
        adapter = _adapters[kind] = TypeAdapter(kind)
    return adapter


def problems_of(errors: list[ErrorDetails]) -> tuple[Problem, ...]:
    """Pydantic's errors as problems, without the noise of alternatives that were not meant.

    Where a value may be one of several kinds, only the kind it names counts; a value that names
    none of them is one problem, about its kind. The first :data:`MAX_ERRORS` errors are read.
    """
    errors = errors[:MAX_ERRORS]
    wrong_kind = {e["loc"][:-1]: e for e in errors if e["loc"] and e["loc"][-1] == "kind"}
    alternatives: dict[tuple[int | str, ...], set[tuple[int | str, ...]]] = {
        place[:-1]: set() for place in wrong_kind
    }
    for error in errors:
        for union in _prefixes(error["loc"]):
            if union in alternatives:
                alternatives[union].add(error["loc"][: len(union) + 1])
    seen: dict[str, Problem] = {}
    for union, found in alternatives.items():
        if found <= wrong_kind.keys():
            problem = _unknown_kind(union, [wrong_kind[a] for a in sorted(found, key=str)])
            seen.setdefault(problem.path, problem)
    for error in errors:
        if any(place in wrong_kind for place in _prefixes(error["loc"])):
            continue
        problem = _problem(error)
        seen.setdefault(problem.path, problem)
    return tuple(seen.values())


def _prefixes(loc: tuple[int | str, ...]) -> Iterator[tuple[int | str, ...]]:
    return (loc[:n] for n in range(len(loc) + 1))


def _unknown_kind(union: tuple[int | str, ...], errors: list[ErrorDetails]) -> Problem:
    known = ", ".join(sorted(str(e.get("ctx", {}).get("expected", "")).strip("'") for e in errors))
    return Problem(
        code="content.invalid",
        path=_pointer((*union, "kind")),
        message=f"the kind must be one of {known}, got {_short(errors[0].get('input'))}.",
    )


def _pointer(loc: tuple[int | str, ...]) -> str:
    """The JSON pointer of a place, without the names of types that Pydantic puts into it."""
    return "".join(f"/{part}" for part in loc if not (isinstance(part, str) and _names_alternative(part)))


def _problem(error: ErrorDetails) -> Problem:
    loc = error["loc"]
    path = _pointer(loc)
    got = error.get("input")
    text = error["msg"].rstrip(".")
    hint = ""
    if error["type"] == "unexpected_keyword_argument":
        text = f"there is no “{loc[-1]}” here" if loc else text
        close = difflib.get_close_matches(str(loc[-1]) if loc else "", _field_names(), n=1)
        hint = f"Did you mean “{close[0]}”?" if close else "Remove it."
    elif error["type"] == "missing":
        text = "this is missing"
    elif isinstance(got, str | int | float | bool) or got is None:
        text = f"{text[:1].lower()}{text[1:]}, got {_short(got)}"
    return Problem(code="content.invalid", path=path, message=f"{text}.", hint=hint)


def _names_alternative(part: str) -> bool:
    """Whether a piece of an error's place names a Python type rather than a key of the data."""
    return part[:1].isupper() or part in ("bool", "float", "str", "int") or "[" in part


def _short(value: object) -> str:
    """A value as a refusal repeats it."""
    told = repr(value)
    return told if len(told) <= 80 else f"{told[:60]}… ({len(told):,} characters)"


@cache
def _field_names() -> list[str]:
    return sorted({f.name for cls in _strict for f in dataclasses.fields(cls)})
