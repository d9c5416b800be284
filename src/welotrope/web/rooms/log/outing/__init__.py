"""Outings with their frames, and the file of them."""
