"""What every service is handed: the store, the clock and the source of identities."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from datetime import datetime

from reedling.store.unit import Store


@dataclass(frozen=True, slots=True)
class Context:
    """``clock`` gives the aware UTC instant; ``new_id`` a short identity never given before."""

    store: Store
    clock: Callable[[], datetime]
    new_id: Callable[[], str]
