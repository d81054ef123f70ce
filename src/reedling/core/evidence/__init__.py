"""What completions say about an incident type, a plan and its steps."""

__all__ = [
    "compared_jobs",
    "cross_filter",
    "customers_said",
    "departures",
    "doubtful_times",
    "expected_minutes",
    "getting_there",
    "haste",
    "job_summary",
    "jobs",
    "kept_views",
    "order_kept",
    "outcomes",
    "readings",
    "revision_gains",
    "revision_outcomes",
    "routine_work",
    "steps",
    "trust",
    "unusual",
]
