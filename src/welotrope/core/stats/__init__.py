"""Statistics the rules lean on."""
