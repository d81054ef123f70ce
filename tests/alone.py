"""Coroutines run where no other loop runs."""

from __future__ import annotations

import asyncio
from collections.abc import Coroutine
from concurrent.futures import ThreadPoolExecutor
from typing import Any, TypeVar

T = TypeVar("T")


def run_alone(work: Coroutine[Any, Any, T]) -> T:
    """What a coroutine gives, in a thread of its own: in this one the loop of a browser test may be running."""
    with ThreadPoolExecutor(1) as thread:
        return thread.submit(asyncio.run, work).result()
