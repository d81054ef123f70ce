"""Orders, and what devices are told of what they sent."""

__all__ = [
    "asked_back",
    "help",
    "lookalikes",
    "order_card",
    "order_costs",
    "orders",
    "part_asks",
    "photo_looks",
    "receipts",
    "site_records",
    "states",
    "taking_along",
    "time_sheets",
]
