"""The sheets to print."""
