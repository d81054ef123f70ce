"""Where assets stand, and what is known of them."""

__all__ = [
    "assets",
    "distances",
    "plates",
    "soundness",
]
