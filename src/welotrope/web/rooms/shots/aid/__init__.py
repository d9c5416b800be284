"""A series with one aid."""
