"""What the evidence suggests changing, each suggestion with its size, its doubt and the jobs behind it."""
