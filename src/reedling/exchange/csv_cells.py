"""Cells of CSV that a spreadsheet would run as a formula are written so that it shows them as text.

A cell that begins with ``=``, ``+``, ``-``, ``@``, a tab or a carriage return, and is no number, gets an
apostrophe before it (OWASP, "CSV Injection", https://owasp.org/www-community/attacks/CSV_Injection); one
that begins with apostrophes and then such a character gets one more, so that every text reads back equal.
"""

from __future__ import annotations

import re

_RUNS = re.compile("'*[=+\\-@\t\r]")
_MARKED = re.compile("'+[=+\\-@\t\r]")
_NUMBER = re.compile(r"[+-]?(\d+(\.\d*)?|\.\d+)([eE][+-]?\d+)?")


def cell_of(text: str) -> str:
    """The cell that shows this text and runs nothing.

    >>> cell_of("=1+1"), cell_of("-0.25"), cell_of("pump")
    ("'=1+1", '-0.25', 'pump')
    """
    if _RUNS.match(text) and not _NUMBER.fullmatch(text):
        return "'" + text
    return text


def text_of(cell: str) -> str:
    """The text that a cell shows; the inverse of :func:`cell_of`.

    >>> text_of("'=1+1"), text_of("'tis")
    ('=1+1', "'tis")
    """
    return cell[1:] if _MARKED.match(cell) else cell
