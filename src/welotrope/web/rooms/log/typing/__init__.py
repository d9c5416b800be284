"""Handwritten notes, typed in line by line."""
