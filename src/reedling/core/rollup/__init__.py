"""What a plan adds up to: minutes, skills and parts."""

__all__ = [
    "branches",
    "carrying",
    "kits",
    "plan_totals",
    "roster_crew",
]
