"""The report of an outing, and its files."""
