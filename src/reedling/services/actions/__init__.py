"""What changes something: one function for one action, in one transaction."""
