"""Intervals and summaries of plain numbers. Standard library only."""
