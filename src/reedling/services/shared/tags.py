"""Tags that guard what is changed as a whole, so that nobody writes over what somebody else wrote meanwhile."""

from __future__ import annotations

import hashlib
import json
from typing import Any


def tag_of(name: str, value: Any) -> str:
    """The tag of a thing by its name and its plain value; it changes with anything in the value."""
    digest = hashlib.sha256(json.dumps(value, sort_keys=True).encode()).hexdigest()[:16]
    return f'"{name}-{digest}"'
