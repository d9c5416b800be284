"""Strips, collars, cards and tables to print."""
