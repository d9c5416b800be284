"""Drills away from the screen, one trial at a time."""
