"""Reading and turning the ring."""
