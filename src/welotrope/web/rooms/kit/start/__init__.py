"""The way in for an empty kit."""
