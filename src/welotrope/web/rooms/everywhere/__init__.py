"""Keys, jumping, looks, units, undo: what every page shares."""
