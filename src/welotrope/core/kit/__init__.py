"""Bodies, lenses and set-ups as the photographer knows them."""
