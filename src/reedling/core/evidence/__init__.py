"""What completions say about an incident type, a plan and its steps."""
