"""The docstrings of the core: what can be raised is said."""

from __future__ import annotations

import ast
from pathlib import Path

CORE = Path(__file__).parents[2] / "src" / "reedling" / "core"


def raises(function: ast.FunctionDef) -> bool:
    """Whether it raises by itself something that is not an assertion."""
    return any(isinstance(node, ast.Raise) and node.exc is not None for node in ast.walk(function))


def calls(function: ast.FunctionDef) -> set[str]:
    """The names of functions that it calls, apart from those under a ``try``."""
    caught = {
        id(inner)
        for node in ast.walk(function)
        if isinstance(node, ast.Try)
        for part in node.body
        for inner in ast.walk(part)
    }
    return {
        node.func.id
        for node in ast.walk(function)
        if isinstance(node, ast.Call) and isinstance(node.func, ast.Name) and id(node) not in caught
    }


def silent(source: str) -> list[str]:
    """The public functions of a module that raise, themselves or by its private ones, and do not say so."""
    functions = {f.name: f for f in ast.parse(source).body if isinstance(f, ast.FunctionDef)}
    raising = {name for name, function in functions.items() if raises(function)}
    while True:
        private = {name for name in raising if name.startswith("_")}
        more = {name for name, function in functions.items() if calls(function) & private} - raising
        if not more:
            break
        raising |= more
    return sorted(
        name
        for name in raising
        if not name.startswith("_") and "aise" not in (ast.get_docstring(functions[name]) or "")
    )


def test_a_function_that_raises_is_found_through_the_private_ones_it_calls() -> None:
    source = '''
def plain(): return 1
def told():
    """Raises ValueError."""
    raise ValueError
def itself(): raise ValueError
def by_another(): return _inner()
def _inner(): return _innermost()
def _innermost(): raise ValueError
def caught():
    try:
        return _inner()
    except ValueError:
        return None
'''
    assert silent(source) == ["by_another", "itself"]


def test_public_functions_of_the_core_say_what_they_raise() -> None:
    found = {
        path.relative_to(CORE).as_posix(): names
        for path in sorted(CORE.rglob("*.py"))
        if (names := silent(path.read_text("utf-8")))
    }
    assert found == {}
