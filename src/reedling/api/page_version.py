"""Whether the page on a device is of the version that answers it.

A device carries a job on by the rules that came with its page. An order that is written for later rules must not
reach an earlier page: what it does not know it would pass over in silence.
"""

from __future__ import annotations

from pathlib import Path
from typing import Annotated

from fastapi import Depends, Header, Request

from reedling.errors import Conflict


def rules_shipped(web_dir: Path) -> str | None:
    """The address of the rules that go with the built interface, as its pages say it; nothing without a build."""
    found = sorted(folder.name for folder in (web_dir / "rules").glob("*/") if folder.is_dir())
    return f"/rules/{found[0]}/" if len(found) == 1 else None


def need_page_of_this_version(
    request: Request,
    x_reedling_rules: Annotated[str | None, Header(max_length=200)] = None,
) -> None:
    """Refuse a page whose rules are other ones than those shipped here; programs, which have none, are let through.

    Raises
    ------
    Conflict
        ``pocket.outdated``.
    """
    shipped = getattr(request.app.state, "rules", None)
    if shipped is not None and x_reedling_rules not in (None, shipped):
        raise Conflict(
            "pocket.outdated",
            "this page is of another version of Reedling than the server.",
            where="Pocket",
            hint="Close Pocket and open it again. What is recorded stays on the phone and is sent.",
        )


SameVersion = Depends(need_page_of_this_version)
