"""What each package of the core shows to the rest of the program is what its ``__all__`` states."""

from __future__ import annotations

import ast
from collections import defaultdict
from pathlib import Path

import pytest

SOURCE = Path(__file__).parents[2] / "src/reedling"
PACKAGES = sorted(path.parent.name for path in (SOURCE / "core").glob("*/__init__.py"))


def stated(package: str) -> list[str]:
    """The modules that a package's ``__all__`` names."""
    tree = ast.parse((SOURCE / "core" / package / "__init__.py").read_text("utf-8"))
    (names,) = (
        n.value for n in tree.body if isinstance(n, ast.Assign) and ast.unparse(n.targets[0]) == "__all__"
    )
    return list(ast.literal_eval(names))


def imported() -> dict[str, dict[str, Path]]:
    """The modules of each package that something outside it imports, and one file that does."""
    found: dict[str, dict[str, Path]] = defaultdict(dict)
    for file in SOURCE.rglob("*.py"):
        for node in ast.walk(ast.parse(file.read_text("utf-8"))):
            if not isinstance(node, ast.ImportFrom) or not (node.module or "").startswith("reedling.core."):
                continue
            _, _, package, *rest = str(node.module).split(".")
            if not file.is_relative_to(SOURCE / "core" / package):
                for module in rest[:1] or [alias.name for alias in node.names]:
                    found[package][module] = file
    return found


@pytest.mark.parametrize("package", PACKAGES)
def test_only_modules_that_a_package_states_are_imported_from_outside(package: str) -> None:
    names, used = stated(package), imported()[package]
    modules = {file.stem for file in (SOURCE / "core" / package).glob("*.py")}
    assert names == sorted(names)
    assert set(names) <= modules
    assert {name: str(used[name]) for name in used.keys() & modules - set(names)} == {}
    assert set(names) - used.keys() == set(), "stated, and nothing outside uses it"
