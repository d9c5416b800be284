"""The focus ring: angle, extension and distance, the sharp window on it, its engraving and its table."""
