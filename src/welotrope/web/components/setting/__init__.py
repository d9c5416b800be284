"""A setting of the ring in words."""
