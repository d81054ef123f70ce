"""Fault guides: causes with chances, checks that tell them apart, remedies, and the best order of work."""
