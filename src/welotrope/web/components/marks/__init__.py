"""Depth marks engraved and true, as a figure."""
