"""What each code of a refusal means, on a page of its own: where the ``type`` of a problem leads."""

from __future__ import annotations

import html
import re
from collections.abc import Mapping
from functools import cache
from importlib.resources import files

from fastapi import APIRouter
from fastapi.responses import HTMLResponse

from reedling.errors import NotFound

router = APIRouter()


@cache
def meanings() -> Mapping[str, str]:
    """Every code with what it means."""
    text = files("reedling.api").joinpath("errors.md").read_text("utf-8")
    return dict(re.findall(r"^\| `([a-z_.]+)` \| (.+?) \|$", text, re.M))


@router.get("/errors/{code}", include_in_schema=False)
def error_page(code: str) -> HTMLResponse:
    """What a code means."""
    meaning = meanings().get(code)
    if meaning is None:
        if not re.fullmatch(r"http\.\d{3}", code):
            raise NotFound("errors.unknown", f"there is no code {code[:80]}.")
        meaning = "a refusal of HTTP itself (RFC 9110)"
    told = html.escape(meaning.replace("`", ""))
    return HTMLResponse(
        f"<!doctype html><html lang='en'><title>{html.escape(code)}</title>"
        f"<h1>{html.escape(code)}</h1><p>{told[:1].upper()}{told[1:]}.</p></html>"
    )
