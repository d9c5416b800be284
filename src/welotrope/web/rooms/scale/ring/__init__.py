"""The unrolled ring and the ground strip."""
