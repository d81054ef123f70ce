"""Orders, and what devices are told of what they sent."""
