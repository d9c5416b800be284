"""The set-up in hand, and the bodies, lenses and set-ups behind it."""
