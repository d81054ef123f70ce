"""Which guidance an order gets, and for everything else, why not."""

__all__ = [
    "applicability",
    "cell_reading",
    "cells",
    "coverage",
    "domain",
    "impact",
    "lookup",
    "order_facts",
    "table_checks",
    "table_differences",
    "table_editing",
    "table_soundness",
]
