"""Past fixes: what solved jobs like this one, ranked, with a confidence that was tried on the jobs before."""

__all__ = [
    "ranking",
    "solved",
]
