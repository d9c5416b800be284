"""Set-ups: what goes together, and what counts as sharp."""
