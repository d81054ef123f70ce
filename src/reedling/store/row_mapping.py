"""Values of the core and rows of tables under the same names, held against each other when the store is loaded."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, fields
from operator import attrgetter
from typing import Any, Generic, TypeVar

from sqlalchemy import Row
from sqlalchemy.orm import DeclarativeBase

V = TypeVar("V")
R = TypeVar("R", bound=DeclarativeBase)


@dataclass(frozen=True, slots=True)
class RowMapping(Generic[V, R]):
    """How a frozen dataclass is written to a table and read back.

    ``columns`` are the columns by the names of the fields that stand in them, ``tuples`` the fields that are tuples:
    lists in their column. Mappings are dicts there. Made by :func:`row_mapping`.
    """

    value: type[V]
    row: type[R]
    columns: Mapping[str, str]
    tuples: frozenset[str]
    values_of: Callable[[Any], Any]

    def read(self, row: R | Row[Any], **elsewhere: Any) -> V:
        """The value of a row of the table, or of a query for :attr:`selected`; ``elsewhere`` are the fields that do not
        stand in columns of their own."""
        held = dict(zip(self.columns, self.values_of(row), strict=True))
        for name in self.tuples:
            held[name] = tuple(held[name])
        return self.value(**held, **elsewhere)

    @property
    def selected(self) -> tuple[Any, ...]:
        """The columns, to be asked for by a query that wants no more of the table."""
        return tuple(getattr(self.row, column) for column in self.columns.values())

    def written(self, value: V) -> dict[str, Any]:
        """What a value has in each column."""
        return {column: _to_column(getattr(value, name)) for name, column in self.columns.items()}

    def new_row(self, value: V, **more: Any) -> R:
        """A row with a value in it; ``more`` is what stands in further columns."""
        return self.row(**self.written(value), **more)

    def write(self, value: V, row: R) -> None:
        """Put a value in place of what a row has."""
        for column, held in self.written(value).items():
            setattr(row, column, held)


def row_mapping(
    value: type[V], row: type[R], *, elsewhere: tuple[str, ...] = (), **renamed: str
) -> RowMapping[V, R]:
    """A mapping of the fields of ``value`` to columns of ``row``.

    A field stands in the column that ``renamed`` says, else in the one of its name, else in the one of its name with
    ``_id`` behind it, where another row is referred to. Fields ``elsewhere`` stand in no column as they are.

    Raises
    ------
    TypeError
        Where a field has no column, or a name is given that is no field.
    """
    columns = set(row.__mapper__.columns.keys())
    names = {field.name for field in fields(value)}  # type: ignore[arg-type]
    if unknown := (renamed.keys() | set(elsewhere)) - names:
        raise TypeError(f"{value.__name__} has no {sorted(unknown)}")
    found: dict[str, str] = {}
    for name in sorted(names - set(elsewhere)):
        column = next((c for c in (renamed.get(name, name), f"{name}_id") if c in columns), None)
        if column is None:
            raise TypeError(f"{row.__name__} has no column for {value.__name__}.{name}")
        found[name] = column
    types = {field.name: str(field.type) for field in fields(value)}  # type: ignore[arg-type]
    # With one name alone there would be no tuple of values.
    several = attrgetter(*found.values(), "__class__")
    return RowMapping(
        value=value,
        row=row,
        columns=found,
        tuples=frozenset(name for name in found if types[name].startswith("tuple[")),
        values_of=lambda held: several(held)[:-1],
    )


def _to_column(held: Any) -> Any:
    if isinstance(held, tuple):
        return list(held)
    return dict(held) if isinstance(held, Mapping) else held
