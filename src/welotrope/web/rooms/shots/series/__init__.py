"""Series of the ring and of stops."""
