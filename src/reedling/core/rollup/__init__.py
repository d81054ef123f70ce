"""What a plan adds up to: minutes, skills and parts."""
