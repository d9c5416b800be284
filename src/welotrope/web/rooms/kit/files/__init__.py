"""Kit files out and in."""
