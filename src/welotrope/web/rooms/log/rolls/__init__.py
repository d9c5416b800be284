"""Film rolls."""
