"""The unrolled ring."""
