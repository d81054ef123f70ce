"""The documents say what the code says: glossary, settings, errors, changelog, layers."""

from __future__ import annotations

import ast
import re
from collections import Counter
from pathlib import Path

from reedling import __version__
from reedling.wiring import SETTINGS

ROOT = Path(__file__).parents[2]
SOURCE = ROOT / "src/reedling"
CODE = re.compile(r"[a-z_]+\.[a-z_]+")


def text(path: str) -> str:
    return (ROOT / path).read_text("utf-8")


TWO_WORDS = {"Plan"}
"""A form is written as a plan (docs/decisions/008)."""


def public_values() -> set[str]:
    """Public classes of the core, and its unions and choices."""
    found: set[str] = set()
    for path in (SOURCE / "core").rglob("*.py"):
        for node in ast.parse(path.read_text("utf-8")).body:
            if isinstance(node, ast.ClassDef):
                found.add(node.name)
            if isinstance(node, ast.Assign) and isinstance(node.targets[0], ast.Name):
                name = node.targets[0].id
                if name[0].isupper() and not name.isupper():
                    found.add(name)
    return {name for name in found if not name.startswith("_")}


def test_the_glossary_names_every_public_value_of_the_core_and_no_other() -> None:
    named = set(re.findall(r"`([A-Z]\w+)(?:\.\w+)?`", text("docs/glossary.md")))
    assert public_values() - named == set()
    assert named - public_values() == set()


def test_a_word_stands_for_one_thing_in_the_glossary_and_a_name_for_one_in_the_core() -> None:
    words = re.findall(r"^\| ([^|`]+?) \| [`D]", text("docs/glossary.md"), re.M)
    assert len(words) > 90
    assert [w for w, n in Counter(words).items() if n > 1] == []
    named = Counter(re.findall(r"`([A-Z]\w+)`", text("docs/glossary.md")))
    assert [name for name, n in named.items() if n > 1 and name not in TWO_WORDS] == []
    homes: dict[str, list[str]] = {}
    for path in (SOURCE / "core").rglob("*.py"):
        for node in ast.parse(path.read_text("utf-8")).body:
            for name in names_made(node):
                homes.setdefault(name, []).append(path.relative_to(SOURCE).as_posix())
    assert {name: at for name, at in homes.items() if len(at) > 1} == {}


def names_made(node: ast.stmt) -> list[str]:
    """Public names that a statement of a module makes."""
    match node:
        case ast.ClassDef(name=name) | ast.FunctionDef(name=name):
            made = [name]
        case ast.Assign(targets=[ast.Name(id=name)]) | ast.AnnAssign(target=ast.Name(id=name)):
            made = [name] if name[0].isupper() else []
        case _:
            made = []
    return [name for name in made if not name.startswith("_")]


def test_the_settings_are_documented_as_they_are() -> None:
    rows = re.findall(r"\| `(\w+)` \| `([^`]*)` \| ([^|]+) \|", text("docs/settings.md"))
    assert rows == [(s.name, s.default, s.sentence) for s in SETTINGS]


def test_every_error_code_is_documented_and_no_other() -> None:
    used: set[str] = set()
    calls = {
        "Problem",
        "_error",
        "_warning",
        "_warn",
        "_refuse",
        "defect",
        "InvalidInput",
        "NotFound",
        "Conflict",
        "NotAllowed",
        "NotSignedIn",
        "ReedlingError",
        "TooMany",
        "Unavailable",
    }
    for path in SOURCE.rglob("*.py"):
        for node in ast.walk(ast.parse(path.read_text("utf-8"))):
            if isinstance(node, ast.Call) and isinstance(node.func, ast.Name) and node.func.id in calls:
                given = [*node.args[:1], *(k.value for k in node.keywords if k.arg == "code")]
                words = [a.value for a in given if isinstance(a, ast.Constant) and isinstance(a.value, str)]
                used |= {word for word in words if CODE.fullmatch(word)}
    documented = set(re.findall(r"^\| `([a-z_.]+)`", text("docs/errors.md"), re.M))
    assert used - documented == set()
    # Given by name, and not where the error is made.
    replaced = {"library.content", "library.json", "store.corrupt", "store.disk", "store.full"}
    assert documented - used - replaced == set()


def test_the_newest_changelog_entry_is_the_version() -> None:
    newest = re.search(r"^## (\S+)", text("CHANGELOG.md"), re.M)
    assert newest
    assert newest[1] == __version__


def test_every_public_function_and_class_says_what_it_is() -> None:
    silent = [
        f"{path.relative_to(SOURCE)}:{node.name}"
        for path in SOURCE.rglob("*.py")
        if "migrations/versions" not in path.as_posix()
        for node in ast.parse(path.read_text("utf-8")).body
        if isinstance(node, ast.FunctionDef | ast.ClassDef | ast.AsyncFunctionDef)
        and not node.name.startswith("_")
        and ast.get_docstring(node) is None
    ]
    assert silent == []


def test_every_method_is_listed_with_its_source_and_the_module_names_it() -> None:
    rows = re.findall(r"^\| [^|]+ \| `(core/\S+)` \| ([^|]+) \|$", text("docs/methods.md"), re.M)
    assert len(rows) > 10
    for module, source in rows:
        written = (SOURCE / module).read_text("utf-8")
        names = re.findall(r"[A-Z][\w\u2019']+", source)
        assert any(name in written for name in names), (module, source)
    listed = {module for module, _ in rows}
    with_references = {
        path.relative_to(SOURCE).as_posix()
        for path in (SOURCE / "core").rglob("*.py")
        if ".. [1]" in path.read_text("utf-8")
    }
    assert with_references - listed == set()
