"""Reedling: author, match, run, review and refine the guidance field technicians carry out."""
