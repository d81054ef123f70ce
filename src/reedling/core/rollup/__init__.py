"""What a plan adds up to: minutes, skills, parts and tools."""

__all__ = [
    "branches",
    "carrying",
    "kits",
    "plan_totals",
    "roster_crew",
]
