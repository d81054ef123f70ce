"""A difference and its range, in words."""

from __future__ import annotations


def less_or_more(value: float, low: float, high: float, unit: str, per: str = "") -> str:
    """A difference whose range leaves out none; ``unit`` stands behind the figure, ``per`` says of what it is.

    >>> less_or_more(-12, -19, -5, "min")
    '12 min less (5–19)'
    >>> less_or_more(4, 1, 7, "min", per="a job")
    '4 min more a job (1–7)'
    """
    near, far = sorted((abs(low), abs(high)))
    words = f"{abs(value):.0f} {unit} {'less' if value < 0 else 'more'} {per}".strip()
    return f"{words} ({near:.0f}–{far:.0f})"


def signed_range(low: float, high: float) -> str:
    """The range of a difference that may be none: "−10 to 16"; what rounds to none has no sign.

    >>> signed_range(-0.4, 16)
    '0 to 16'
    """
    return " to ".join(f"{round(end)}".replace("-", "−") for end in (low, high))
