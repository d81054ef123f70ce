"""Conditions in three-valued logic, and the sentences they print as. Standard library only."""

__all__ = [
    "conditions",
    "formulas",
    "kleene",
    "units",
]
