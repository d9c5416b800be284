"""Readings of a ring and what they give."""
