"""What actions and views both need."""
