"""Frozen values of the core from plain JSON data and back, with the standard library alone.

The data was validated where it was made; this only puts it into the classes again. A key that a class
does not know is passed over, and one that is missing takes its default, so that data of a neighbouring
version can be read.
"""

from __future__ import annotations

import types
import typing
from collections.abc import Callable, Iterable, Mapping
from dataclasses import MISSING, Field, fields, is_dataclass
from datetime import date, datetime
from functools import cache
from typing import Any, Literal, TypeVar, cast

T = TypeVar("T")
_Loader = Callable[[Any], Any]


def load(of: type[T], data: object) -> T:
    """The value of a class, or of any type written with classes, that the data spells out.

    Raises
    ------
    KeyError
        Where a key without a default is missing, or no alternative has the data's ``kind``.
    TypeError
        Where the data is of no shape that the type allows.
    """
    return cast(T, _loader(cast(Any, of))(data))


def dump(value: object) -> Any:
    """Plain data (dicts, lists, strings, numbers) for a value, as it goes into JSON."""
    if is_dataclass(value) and not isinstance(value, type):
        return {f.name: dump(getattr(value, f.name)) for f in fields(value)}
    if isinstance(value, Mapping):
        return {str(key): dump(item) for key, item in value.items()}
    if isinstance(value, str | bool | int | float) or value is None:
        return value
    if isinstance(value, datetime):
        return value.isoformat().replace("+00:00", "Z")
    if isinstance(value, date):
        return value.isoformat()
    if isinstance(value, Iterable):
        return [dump(item) for item in value]
    raise TypeError(f"{type(value).__name__} has no plain form")


@cache
def _loader(of: Any) -> _Loader:
    origin = typing.get_origin(of)
    arguments = typing.get_args(of)
    if is_dataclass(of):
        return _of_class(cast(type, of))
    if origin in (types.UnionType, typing.Union):
        return _of_union(arguments)
    if origin is tuple:
        return _of_tuple(arguments)
    if origin is frozenset:
        item = _loader(arguments[0])
        return lambda data: frozenset(item(each) for each in data)
    if isinstance(origin, type) and issubclass(origin, Mapping):
        of_item = _loader(arguments[1])
        return lambda data: {key: of_item(each) for key, each in data.items()}
    if of is float:
        return float
    if of in (datetime, date):
        return cast(_Loader, of.fromisoformat)
    if of in (str, int, bool, types.NoneType) or origin is Literal:
        return lambda data: data
    raise TypeError(f"{of} has no plain form")


def _of_class(of: type) -> _Loader:
    loaders: dict[str, _Loader] | None = None

    def load_class(data: Mapping[str, Any]) -> Any:
        nonlocal loaders
        if loaders is None:  # When first needed: a class may be made of itself.
            hints = typing.get_type_hints(of)
            loaders = {f.name: _loader(hints[f.name]) for f in fields(of)}
        return of(**{name: loader(data[name]) for name, loader in loaders.items() if name in data})

    return load_class


def _of_tuple(arguments: tuple[Any, ...]) -> _Loader:
    if len(arguments) == 2 and arguments[1] is Ellipsis:
        item = _loader(arguments[0])
        return lambda data: tuple([item(each) for each in data])
    items = [_loader(argument) for argument in arguments]
    return lambda data: tuple([item(each) for item, each in zip(items, data, strict=True)])


def _of_union(arguments: tuple[Any, ...]) -> _Loader:
    """One of several: classes are told apart by their ``kind``, all else by what the data is."""
    classes: list[Any] = [a for a in arguments if is_dataclass(a)]
    by_kind = {kind: _loader(a) for a in classes for kind in _kinds(a)}
    only_class = _loader(classes[0]) if len(classes) == 1 and not by_kind else None
    simple = {a for a in arguments if a in (str, bool, int, float, types.NoneType)}
    literals = [a for a in arguments if typing.get_origin(a) is Literal]
    of_list = next((_loader(a) for a in arguments if typing.get_origin(a) in (tuple, frozenset)), None)
    of_dict = next((_loader(a) for a in arguments if typing.get_origin(a) in (dict, Mapping)), None)
    of_time = next((_loader(a) for a in arguments if a in (datetime, date)), None)

    def load_one(data: Any) -> Any:
        if data is None or isinstance(data, bool):
            return data
        if isinstance(data, dict):
            loader = only_class or (by_kind[data["kind"]] if by_kind else of_dict)
        elif isinstance(data, list):
            loader = of_list
        elif isinstance(data, str):
            return data if of_time is None or str in simple or literals else of_time(data)
        else:
            return float(data) if float in simple else data
        if loader is None:
            raise TypeError(f"no alternative of {arguments} is a {type(data).__name__}")
        return loader(data)

    return load_one


def _kinds(of: type) -> tuple[str, ...]:
    kind: Field[Any] | None = next((f for f in fields(of) if f.name == "kind"), None)
    return () if kind is None or kind.default is MISSING else (kind.default,)
