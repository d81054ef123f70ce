"""The library pack: a folder of JSON files that exports, imports and diffs well in git.

Format ``reedling-library``, version 3, UTF-8::

    library.json                       the format and its version
    catalogue/<list>.json              one list of the catalogue each
    documents/<document>/<letter>.json one revision each, with its state and content
    illustrations/<hash>.json          one picture each, its bytes in base64 (RFC 4648)

Version 1 called the questions of a step ``proofs``, and before version 3 there were no tools; both are read as well.

Losses: who wrote, sent and released a revision is not carried, nor the edits that led to it.
"""

from __future__ import annotations

import base64
import dataclasses
import hashlib
import json
import re
from collections import Counter
from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from pydantic import ConfigDict, TypeAdapter, with_config

from reedling.core.guidance.catalogue import Catalogue
from reedling.core.guidance.decision_tables import DecisionTable
from reedling.core.guidance.documents import Content
from reedling.core.guidance.incident_types import IncidentType
from reedling.core.guidance.plans import Plan
from reedling.core.guidance.revisions import PLAN_KINDS, DocumentKind, RevisionState, letter_rank
from reedling.core.guidance.written_guides import WrittenGuide
from reedling.errors import InvalidInput, Problem
from reedling.exchange.content import CATALOGUES, dump_value, load_content, load_value
from reedling.exchange.json_text import read_json

FORMAT = "reedling-library"
VERSION = 3
FIRST_VERSION = 1
"""The oldest version that is still read."""
MAX_FILE_TEXT = 20_000_000
"""Characters of one text in a file: a picture stands in one."""


_KNOWN_KEYS = ConfigDict(extra="forbid")


@with_config(_KNOWN_KEYS)
@dataclass(frozen=True, slots=True, kw_only=True)
class PackHead:
    """What ``library.json`` says."""

    format: str
    version: int


@with_config(_KNOWN_KEYS)
@dataclass(frozen=True, slots=True, kw_only=True)
class PackedRevision:
    """One revision as a file of the pack holds it."""

    document: str
    kind: DocumentKind
    letter: str
    state: RevisionState
    note: str = ""
    released_at: datetime | None = None
    content: Any = None


@with_config(_KNOWN_KEYS)
@dataclass(frozen=True, slots=True, kw_only=True)
class PackedIllustration:
    """A picture that instructions show; ``id`` is the SHA-256 of its bytes, in hexadecimal."""

    id: str
    title: str
    data: str

    def content(self) -> bytes:
        """The bytes of the picture."""
        return base64.b64decode(self.data, validate=True)


@dataclass(frozen=True, slots=True, kw_only=True)
class LibraryPack:
    """A whole library: the catalogue and every revision."""

    catalogue: Catalogue
    revisions: tuple[tuple[PackedRevision, Content], ...]
    illustrations: tuple[PackedIllustration, ...] = ()


_DOCUMENT = re.compile(r"[A-Za-z0-9][A-Za-z0-9._-]{0,63}")
_LETTER = re.compile(r"[A-Z]{1,3}")
_HEADS = TypeAdapter(PackHead)
_REVISIONS = TypeAdapter(PackedRevision)
_ILLUSTRATIONS = TypeAdapter(PackedIllustration)


def generate_pack(pack: LibraryPack) -> dict[str, str]:
    """The files of a pack: their text by their path, with forward slashes."""
    files = {"library.json": _text({"format": FORMAT, "version": VERSION})}
    for name, entries in dump_value(pack.catalogue).items():
        files[f"catalogue/{name}.json"] = _text(entries)
    for head, content in pack.revisions:
        data = _REVISIONS.dump_python(dataclasses.replace(head, content=None), mode="json")
        files[_path(head)] = _text({**data, "content": dump_value(content)})
    for picture in pack.illustrations:
        files[f"illustrations/{picture.id}.json"] = _text(_ILLUSTRATIONS.dump_python(picture, mode="json"))
    return files


def parse_pack(files: Mapping[str, str | bytes]) -> LibraryPack:
    """The library that a pack's files spell out.

    Raises
    ------
    InvalidInput
        ``library.broken`` with every problem, each beside its file and JSON pointer.
    """
    problems: list[Problem] = []
    data = _parse_all(files, problems)
    if _check_head(data.pop("library.json", None), problems) == FIRST_VERSION:
        for path in data:
            if path.startswith("documents/"):
                _name_questions(data[path])
    lists = {
        path.removeprefix("catalogue/").removesuffix(".json"): data.pop(path)
        for path in sorted(data)
        if path.startswith("catalogue/")
    }
    catalogue = Catalogue()
    try:
        catalogue = load_value(CATALOGUES, lists, where="catalogue")
    except InvalidInput as error:
        problems.extend(_placed(p, f"catalogue/{p.path.split('/')[1]}.json", drop=1) for p in error.problems)
    pictures = [
        picture
        for path in sorted(data)
        if path.startswith("illustrations/")
        and (picture := _parse_illustration(path, data.pop(path), problems))
    ]
    revisions = [r for path in sorted(data) if (r := _parse_revision(path, data[path], problems))]
    problems.extend(_contradictions(revisions))
    if problems:
        raise InvalidInput(
            "library.broken",
            problems[0].message if len(problems) == 1 else f"{len(problems)} things are wrong.",
            where=problems[0].path,
            hint="Nothing was imported. Mend the files and import again.",
            problems=problems,
        )
    return LibraryPack(catalogue=catalogue, revisions=tuple(revisions), illustrations=tuple(pictures))


def pack_schema() -> dict[str, Any]:
    """The JSON Schema (2020-12) of the files: one definition for each kind of file."""
    return {
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        "title": f"{FORMAT} {VERSION}",
        "files": {
            "library.json": _HEADS.json_schema(),
            "catalogue/<list>.json": {
                "description": "The list named by the file: one property of this schema.",
                **CATALOGUES.json_schema(),
            },
            "illustrations/<hash>.json": _ILLUSTRATIONS.json_schema(),
            "documents/<document>/<letter>.json": {
                "description": "The revision; its content follows the schema of its kind.",
                **_REVISIONS.json_schema(),
            },
        },
        "content": {
            **{kind: TypeAdapter(Plan).json_schema() for kind in PLAN_KINDS},
            "incident type": TypeAdapter(IncidentType).json_schema(),
            "decision table": TypeAdapter(DecisionTable).json_schema(),
            "fault guide": TypeAdapter(WrittenGuide).json_schema(),
        },
    }


def _path(head: PackedRevision) -> str:
    return f"documents/{head.document}/{head.letter}.json"


def _text(data: object) -> str:
    return json.dumps(data, ensure_ascii=False, indent=2) + "\n"


def _parse_all(files: Mapping[str, str | bytes], problems: list[Problem]) -> dict[str, Any]:
    data: dict[str, Any] = {}
    for path, text in files.items():
        try:
            data[path] = read_json(text, where=path, limit=MAX_FILE_TEXT)
        except InvalidInput as error:
            code = "library.json" if error.code == "json.invalid" else error.code
            place = path if error.where == path else error.where.replace(" ", "#", 1)
            problems.append(Problem(code=code, path=place, message=error.message, hint=error.hint))
    return data


def _name_questions(data: object) -> None:
    """Write the questions of each step of a version 1 revision under the name they have now."""
    content = data.get("content") if isinstance(data, dict) else None
    steps = content.get("steps") if isinstance(content, dict) else None
    for step in steps if isinstance(steps, list) else ():
        if isinstance(step, dict) and "proofs" in step and "questions" not in step:
            step["questions"] = step.pop("proofs")


def _check_head(data: object, problems: list[Problem]) -> int:
    """The version of the pack; the present one where it cannot be told."""
    if data is None:
        if not any(p.path.startswith("library.json") for p in problems):
            problems.append(
                Problem(code="library.head", path="library.json", message="this file is missing.")
            )
        return VERSION
    try:
        head = load_value(_HEADS, data, where="library.json")
    except InvalidInput as error:
        problems.extend(_placed(p, "library.json") for p in error.problems)
        return VERSION
    if head.format != FORMAT or not FIRST_VERSION <= head.version <= VERSION:
        problems.append(
            Problem(
                code="library.version",
                path="library.json",
                message=f"this reads {FORMAT} {VERSION}, got {head.format} {head.version}.",
                hint="Export it anew from the version of Reedling that wrote it, or from a later one.",
            )
        )
    return head.version


def _parse_illustration(path: str, data: object, problems: list[Problem]) -> PackedIllustration | None:
    try:
        picture = load_value(_ILLUSTRATIONS, data, where=path)
        if hashlib.sha256(picture.content()).hexdigest() == picture.id:
            return picture
        said = "its bytes are not those its name says."
    except InvalidInput as error:
        problems.extend(_placed(p, path) for p in error.problems)
        return None
    except ValueError:
        said = "its data is not base64."
    problems.append(Problem(code="library.picture", path=path, message=said))
    return None


def _parse_revision(
    path: str, data: object, problems: list[Problem]
) -> tuple[PackedRevision, Content] | None:
    try:
        head = load_value(_REVISIONS, data, where=path)
    except InvalidInput as error:
        problems.extend(_placed(p, path) for p in error.problems)
        return None
    if not _DOCUMENT.fullmatch(head.document) or not _LETTER.fullmatch(head.letter):
        problems.append(
            Problem(
                code="library.name",
                path=path,
                message=f"{head.document} {head.letter} is no document and letter, such as WP-001 and A.",
            )
        )
        return None
    if path != _path(head):
        problems.append(
            Problem(code="library.path", path=path, message=f"by what it says it belongs at {_path(head)}.")
        )
        return None
    try:
        content = load_content(head.kind, head.content, where=path)
        return dataclasses.replace(head, content=None), content
    except InvalidInput as error:
        problems.extend(_placed(p, path, prefix="/content") for p in error.problems)
        return None


def _placed(problem: Problem, path: str, *, drop: int = 0, prefix: str = "") -> Problem:
    pointer = "/".join(["", *problem.path.split("/")[1 + drop :]]) if problem.path else ""
    full = f"{prefix}{pointer}"
    return dataclasses.replace(problem, code="library.content", path=f"{path}#{full}" if full else path)


def _contradictions(revisions: Iterable[tuple[PackedRevision, Content]]) -> list[Problem]:
    heads = [head for head, _ in revisions]
    out = []
    for states, words in (({"Released"}, "released revision"), ({"Draft", "In review"}, "open revision")):
        counts = Counter(h.document for h in heads if h.state in states)
        out += [
            Problem(
                code="library.states",
                path=f"documents/{document}",
                message=f"a document has at most one {words}, this has {count}.",
            )
            for document, count in counts.items()
            if count > 1
        ]
    kinds: dict[str, set[str]] = {}
    for head in heads:
        kinds.setdefault(head.document, set()).add(head.kind)
    out += [
        Problem(code="library.kind", path=f"documents/{document}", message="its revisions are of two kinds.")
        for document, found in kinds.items()
        if len(found) > 1
    ]
    return out


def sort_revisions(
    revisions: Iterable[tuple[PackedRevision, Content]],
) -> tuple[tuple[PackedRevision, Content], ...]:
    """Revisions by document, oldest first."""
    return tuple(sorted(revisions, key=lambda pair: (pair[0].document, letter_rank(pair[0].letter))))
