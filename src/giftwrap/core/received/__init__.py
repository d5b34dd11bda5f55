"""Models that other people send: reading them, mending them, and what is kept of them."""
