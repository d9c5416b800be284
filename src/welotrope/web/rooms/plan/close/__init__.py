"""Coming closer."""
