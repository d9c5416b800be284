"""Reaction: how long from seeing to pressing."""
