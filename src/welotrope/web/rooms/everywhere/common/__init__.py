"""The way in, looks, units, the set-up in hand, undo, jumping, help."""
