"""Stars."""
