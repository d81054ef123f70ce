"""Reedling: author, match, run, review and refine the guidance field technicians carry out."""

__version__ = "0.23.0"
"""The one place where the version stands."""
