"""Intervals and summaries of plain numbers."""

__all__ = [
    "confidence_sequences",
    "control_charts",
    "copied",
    "discoveries",
    "exact_test",
    "exceedances",
    "intervals",
    "ranges_in_words",
    "resampling",
    "standardised",
    "strata",
    "summaries",
    "survival",
]
