"""The hand: how far off one photographer leaves the plane, why focus misses, and from how many trials that is known."""
