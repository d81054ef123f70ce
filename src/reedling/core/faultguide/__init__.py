"""Fault guides: causes with chances, checks that tell them apart, remedies, and the best order of work."""

__all__ = [
    "drafting",
    "guide_differences",
    "guide_soundness",
    "guides",
    "learning",
    "links",
    "next_doing",
    "order_guides",
    "strategies",
    "turning_points",
    "written_learning",
]
