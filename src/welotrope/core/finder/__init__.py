"""A simulated finder: scenes with depth, seen through a lens and an aid."""
