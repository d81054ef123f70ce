"""What the evidence suggests changing, each suggestion with its size, its doubt and the jobs behind it."""

__all__ = [
    "changes",
    "decisions",
    "guide_replay",
    "missing_rows",
    "missing_steps",
    "missing_words",
    "part_proposals",
    "past_work",
    "proposals",
    "recurring_notes",
    "replay",
    "replayed",
    "step_proposals",
    "trial_jobs",
    "trials",
]
