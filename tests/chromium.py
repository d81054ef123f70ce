"""Debian's Chromium as the tests start it."""

from __future__ import annotations

import shutil
from typing import Any


def launched(*more: str) -> dict[str, Any]:
    """What Playwright is to launch, with these further arguments.

    The shell without windows does what the whole browser does for a page, at less than two thirds of the
    processor's time; the whole browser serves where there is no shell.
    """
    found = shutil.which("chromium-headless-shell") or shutil.which("chromium")
    assert found, "There is no Chromium here: run make chromium."
    # Neither a graphics card nor calls home.
    args = ["--no-sandbox", "--disable-gpu", "--disable-background-networking", *more]
    return {"executable_path": found, "args": args}
