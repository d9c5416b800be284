"""Settings kept as presets of the lens."""
