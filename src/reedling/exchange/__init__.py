"""Open formats: text to core values and back, one module each."""
