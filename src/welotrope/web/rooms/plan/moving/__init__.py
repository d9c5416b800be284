"""A subject that moves."""
