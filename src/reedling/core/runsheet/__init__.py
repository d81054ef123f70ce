"""The frozen runsheet of an order, and how a job goes through it. Standard library only."""

__all__ = [
    "arranging",
    "compiling",
    "events",
    "finishing",
    "job",
    "job_checks",
    "job_runs",
    "job_state",
    "lines",
    "part_supplies",
    "progress",
    "repeats",
    "run_view",
    "site_events",
    "site_records",
    "standing",
    "visit_times",
]
