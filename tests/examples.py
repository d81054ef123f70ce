"""How many examples a property is tried on."""

from __future__ import annotations

import os

IS_DEEP = os.environ.get("HYPOTHESIS_PROFILE") == "deep"
DEEPER = 10
"""``HYPOTHESIS_PROFILE=deep`` looks at so many times as many."""


def examples(n: int) -> int:
    """``n`` examples; of the costly properties fewer than of the others, of all of them more in a deep run."""
    return n * DEEPER if IS_DEEP else n
