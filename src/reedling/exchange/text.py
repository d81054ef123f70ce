"""The one kind of text that comes in: what may stand in it, how it is normalised, how long it may be.

Everything that arrives from outside passes here once: bodies and addresses of the API, files of a
library, sheets, answers to the command line. What is stored can then be read by everybody.
"""

from __future__ import annotations

import re
import unicodedata
from typing import Any

from reedling.errors import InvalidInput

MAX_TEXT = 100_000
"""Characters in one text; a work instruction has a few hundred."""
MAX_DEPTH = 60
"""Lists and objects inside each other; a condition ten groups deep on a question takes 29."""
MAX_VALUES = 400_000
"""Values in one piece of data; a decision table of 5,000 rows and 11 columns has 300,000."""
MAX_NUMBER = 10**15
"""Beyond it a number loses digits on its way through a browser."""

_LONE = re.compile("[\ud800-\udfff]")
_CONTROL = re.compile("[\x00-\x08\x0b\x0c\x0e-\x1f\x7f-\x9f]")
_UNFIT = re.compile("[\ud800-\udfff\x00-\x08\x0b\x0c\x0e-\x1f\x7f-\x9f]")


def clean_text(text: str, *, where: str = "Text", limit: int = MAX_TEXT) -> str:
    """The text in normal form C (Unicode Standard Annex #15) with line feeds for line ends.

    Parameters
    ----------
    text : what came in
    where : how its place is called in a refusal
    limit : most characters

    Raises
    ------
    InvalidInput
        ``text.unfit`` for half a character (a surrogate without its partner), NUL or another
        control character than tab and line end; ``text.long`` above the limit.

    >>> clean_text("Pru\\u0308fe das Öl\\r\\n")
    'Prüfe das Öl\\n'
    """
    if len(text) > limit:
        raise InvalidInput(
            "text.long",
            f"a text may have {limit:,} characters, this has {len(text):,}.",
            where=where,
            hint="Shorten it.",
        )
    if not text.isascii() or not text.isprintable():
        text = text.replace("\r\n", "\n").replace("\r", "\n")
        found = _UNFIT.search(text)
        if found:
            raise InvalidInput(
                "text.unfit",
                f"character {found.start() + 1} is {_told(found.group())}.",
                where=where,
                hint="Take it out, or type the text again.",
            )
        text = unicodedata.normalize("NFC", text)
    return text


def mended_text(text: str) -> str:
    """A stored text as :func:`clean_text` would have it; what may not stand in it becomes U+FFFD.

    >>> mended_text("pump \\ud83d on") == "pump \\ufffd on"
    True
    """
    text = text.replace("\r\n", "\n").replace("\r", "\n")
    return unicodedata.normalize("NFC", _CONTROL.sub("\ufffd", _LONE.sub("\ufffd", text)))


def clean_data(data: Any, *, where: str = "Request", limit: int = MAX_TEXT) -> Any:
    """Plain data (dicts, lists, texts, numbers) with every text in it clean.

    Raises
    ------
    InvalidInput
        As :func:`clean_text`, naming the place as a JSON pointer; ``data.deep``, ``data.large`` and
        ``data.number`` beyond :data:`MAX_DEPTH`, :data:`MAX_VALUES`, :data:`MAX_NUMBER`.
    """
    return _Cleaner(where, limit).clean(data, ())


class _Cleaner:
    def __init__(self, where: str, limit: int) -> None:
        self.where = where
        self.limit = limit
        self.n_values = 0

    def clean(self, value: Any, path: tuple[str | int, ...]) -> Any:
        self.n_values += 1
        if self.n_values > MAX_VALUES:
            raise InvalidInput(
                "data.large",
                f"there are more than {MAX_VALUES:,} values in it.",
                where=self.where,
                hint="Send it in parts.",
            )
        if len(path) > MAX_DEPTH:
            raise too_deep(self.where)
        if isinstance(value, str):
            return clean_text(value, where=self.place(path), limit=self.limit)
        if isinstance(value, dict):
            return {
                clean_text(key, where=self.place(path), limit=self.limit): self.clean(inner, (*path, key))
                for key, inner in value.items()
            }
        if isinstance(value, list):
            return [self.clean(inner, (*path, i)) for i, inner in enumerate(value)]
        if isinstance(value, int | float) and not -MAX_NUMBER <= value <= MAX_NUMBER:
            raise InvalidInput(
                "data.number",
                "a number must lie within a thousand million million either way.",
                where=self.place(path),
                hint="Check the number and its unit.",
            )
        return value

    def place(self, path: tuple[str | int, ...]) -> str:
        pointer = "".join(f"/{part}" for part in path)
        if len(pointer) > 200 or not pointer.isprintable():
            pointer = ascii(pointer)[1:200]
        return f"{self.where} {pointer}" if pointer else self.where


def too_deep(where: str) -> InvalidInput:
    """The refusal of data whose lists and objects lie too deep inside each other."""
    return InvalidInput(
        "data.deep",
        f"lists and objects lie more than {MAX_DEPTH} deep inside each other.",
        where=where,
        hint="Make it flatter; a condition of several groups can be split over two steps.",
    )


def _told(character: str) -> str:
    if character == "\x00":
        return "NUL, which no text may hold"
    if _LONE.match(character):
        return "half a character (a surrogate without its partner)"
    return f"a control character (U+{ord(character):04X})"
