"""Every class that a component uses stands in a style sheet that is loaded with its page."""

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
