"""A difference and its range, in words."""

from __future__ import annotations


def less_or_more(value: float, low: float, high: float, unit: str) -> str:
    """A difference whose range leaves out none: "12 min less (5–19)"; ``unit`` stands behind the figure.

    >>> less_or_more(-12, -19, -5, "min")
    '12 min less (5–19)'
    """
    near, far = sorted((abs(low), abs(high)))
    return f"{abs(value):.0f} {unit} {'less' if value < 0 else 'more'} ({near:.0f}–{far:.0f})"


def signed_range(low: float, high: float) -> str:
    """The range of a difference that may be none: "−10 to 16"; what rounds to none has no sign.

    >>> signed_range(-0.4, 16)
    '0 to 16'
    """
    return " to ".join(f"{round(end)}".replace("-", "−") for end in (low, high))
