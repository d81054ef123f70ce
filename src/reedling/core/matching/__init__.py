"""Which guidance an order gets, and for everything else, why not."""
