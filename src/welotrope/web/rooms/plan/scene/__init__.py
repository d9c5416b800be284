"""Planning for the subjects of a scene."""
