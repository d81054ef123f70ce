"""JSON (RFC 8259) from outside: read within bounds, with every text in it clean."""

from __future__ import annotations

import json
from typing import Any, NoReturn

from reedling.errors import InvalidInput
from reedling.exchange.text import MAX_TEXT, clean_data, too_deep


def read_json(text: str | bytes, *, where: str, limit: int = MAX_TEXT) -> Any:
    """The data that a JSON text spells out; ``limit`` is the most characters in one text of it.

    Raises
    ------
    InvalidInput
        ``json.invalid`` for what is not JSON in UTF-8, for NaN and infinities, for a number of
        thousands of digits; what :func:`reedling.exchange.text.clean_data` raises.
    """
    try:
        data = json.loads(text, parse_constant=_refuse_constant)
    except RecursionError:
        raise too_deep(where) from None
    except json.JSONDecodeError as error:
        raise InvalidInput(
            "json.invalid",
            f"this is not JSON: {error.msg} at line {error.lineno}, column {error.colno}.",
            where=where,
            hint="Check the brackets, commas and quotation marks there.",
        ) from None
    except UnicodeDecodeError:
        raise InvalidInput(
            "json.invalid", "this is not JSON in UTF-8.", where=where, hint="Save it as UTF-8."
        ) from None
    except ValueError as error:
        raise InvalidInput(
            "json.invalid", f"this is not JSON that can be read: {str(error)[:120]}.", where=where
        ) from None
    return clean_data(data, where=where, limit=limit)


def _refuse_constant(name: str) -> NoReturn:
    raise ValueError(f"{name} is not a number in JSON")
