"""One module per user action: each owns its transaction and takes what it needs as arguments."""
