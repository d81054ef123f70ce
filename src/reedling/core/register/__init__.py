"""Where assets stand, and what is known of them."""
