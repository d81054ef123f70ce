"""Intervals and summaries of plain numbers."""
