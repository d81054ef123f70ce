"""A class stands in one style sheet, which is loaded with every page that uses it, and is used."""

from __future__ import annotations

import re
from pathlib import Path

import pytest

WEB = (Path(__file__).parents[2] / "web" / "src").resolve()
LOADED = re.compile(r"import\(\"(\.[^\"]+)\"\)")
PAGES = sorted(
    {
        (path.parent / f"{name}.tsx").resolve().relative_to(WEB).as_posix()
        for path in WEB.rglob("*.tsx")
        for name in LOADED.findall(path.read_text("utf-8"))
    }
    # Drawn inside Pocket, with its styles.
    - {"pocket/More.tsx", "pocket/CloseOut.tsx"}
)
CLASS_NAME = re.compile(r"className=(\{(?:[^{}]|\{[^{}]*\})*\}|\"[^\"]*\")")


def loaded_with(path: Path, seen: set[Path]) -> set[Path]:
    """A module with all that it imports outright; what it loads later comes with its own."""
    if path not in seen:
        seen.add(path)
        if path.suffix != ".css":
            for name in re.findall(r"(?:from|import) \"(\.[^\"]+)\"", path.read_text("utf-8")):
                for ending in ("", ".tsx", ".ts"):
                    found = (path.parent / f"{name}{ending}").resolve()
                    if found.is_file():
                        loaded_with(found, seen)
                        break
    return seen


def classes_in(sheet: Path) -> set[str]:
    """The classes that a style sheet has rules for."""
    selectors = re.sub(r"\{[^}]*\}", "{}", sheet.read_text("utf-8"))
    return set(re.findall(r"\.([a-zA-Z][\w-]*)", selectors))


def classes_of(component: Path) -> set[str]:
    """The classes that a component gives to what it draws."""
    given = [
        one or other
        for expression in CLASS_NAME.findall(component.read_text("utf-8"))
        for one, other in re.findall(r"\"([^\"]*)\"|`([^`]*)`", expression)
    ]
    return set(re.findall(r"[a-zA-Z][\w-]*", " ".join(given)))


@pytest.mark.parametrize("opened", PAGES)
def test_a_page_is_loaded_with_the_styles_of_all_it_draws(opened: str) -> None:
    assert len(PAGES) > 10
    known = {name: sheet for sheet in WEB.rglob("*.css") for name in classes_in(sheet)}
    around = loaded_with(WEB / "app" / "main.tsx", set())
    around |= loaded_with(WEB / "app" / "DeskPages.tsx", set())
    parts = loaded_with(WEB / opened, set())
    styled = {name for sheet in {*parts, *around} if sheet.suffix == ".css" for name in classes_in(sheet)}
    plain = {
        name: part.relative_to(WEB).as_posix()
        for part in parts
        if part.suffix == ".tsx"
        for name in classes_of(part)
        if name in known and name not in styled
    }
    assert plain == {}


def rooted(sheet: Path) -> set[str]:
    """The classes that the selectors of a style sheet begin with."""
    text = re.sub(r"/\*.*?\*/", "", sheet.read_text("utf-8"), flags=re.DOTALL)
    selectors = [one.strip() for many in re.findall(r"([^{};]+)\{", text) for one in many.split(",")]
    return {found[1] for one in selectors if (found := re.match(r"\.([a-zA-Z][\w-]*)", one))}


def test_a_class_is_styled_in_one_sheet() -> None:
    sheets: dict[str, list[str]] = {}
    for sheet in sorted(WEB.rglob("*.css")):
        for name in rooted(sheet):
            sheets.setdefault(name, []).append(sheet.relative_to(WEB).as_posix())
    assert len(sheets) > 200
    assert {name: found for name, found in sheets.items() if len(found) > 1} == {}


def test_no_sheet_styles_what_nothing_draws() -> None:
    drawn: set[str] = set()
    for path in WEB.rglob("*.tsx"):
        # A class may also be a value by itself, such as a kind of change.
        drawn |= classes_of(path) | set(re.findall(r"\"([a-zA-Z][\w-]*)\"", path.read_text("utf-8")))
    styled = {
        name for sheet in WEB.rglob("*.css") for name in classes_in(sheet) if not name.startswith("mantine-")
    }
    assert styled - drawn == set()
