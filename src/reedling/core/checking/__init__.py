"""What is wrong with a draft beyond what reading it shows: found by a solver, with a witness."""

__all__ = [
    "crew",
    "defects",
    "draft",
    "plan_parts",
    "tours",
    "witnesses",
]
